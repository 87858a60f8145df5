"""What may stay down is derived where nothing that sounds is altered, says so, and never twice."""

import pytest

from catalogue import shipped
from core.charts.entry import HELD, Confidence
from core.charts.held import with_held
from core.charts.uses import avoided_uses, good_uses
from core.instruments.keywork import mechanism, unholdable
from studio.shipped import INSTRUMENTS


def derived(model):
    return [entry for entry in shipped.catalogue(model).entries if entry.source == HELD]


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_a_derived_row_sounds_as_its_plain_one_and_says_what_it_is(model):
    chart = shipped.catalogue(model)
    for row in derived(model):
        name, *rests = row.id.split("+")
        parent = chart.by_id[name]
        assert row.fingering.touches == parent.fingering.touches | set(rests)
        assert row.note == parent.note
        assert not unholdable(chart.instrument, row.fingering)
        before, after = (mechanism(chart.instrument, one.fingering) for one in (parent, row))
        if before == after:
            assert (row.tendency, row.tone, row.speaks) == (parent.tendency, parent.tone, parent.speaks)
            assert row.confidence is parent.confidence
        else:
            assert before.plain == after.plain
            assert (row.tendency, row.tone, row.speaks) == (None, None, None)
            assert row.confidence is Confidence.MEDIUM
        assert not row.is_truth
        assert (good_uses(row.good_for), avoided_uses(row.avoid_when)) == (
            good_uses(parent.good_for),
            avoided_uses(parent.avoid_when),
        )
        assert row.good_for == parent.good_for or "stays down" in row.good_for


def test_what_the_chart_has_already_is_not_derived_again():
    for model in ("alto-saxophone", "oboe", "b-flat-clarinet"):
        chart = shipped.catalogue(model)
        assert derived(model)
        assert len({(entry.note.midi, entry.fingering) for entry in chart.entries}) == len(chart.entries)
        assert with_held(chart).entries == chart.entries


def test_what_alters_the_note_or_cannot_be_held_is_not_derived():
    alto, oboe = (shipped.catalogue(model).by_id for model in ("alto-saxophone", "oboe"))
    assert "A4-plain+bis" in alto
    assert "B4-plain+bis" not in alto  # which is B-flat
    assert "Cs5-open+bis" not in alto
    assert "B3-low+C" in oboe
    assert "D4-plain+C" not in oboe  # which is C
    assert "Cs4-low+C" not in oboe  # one little finger
