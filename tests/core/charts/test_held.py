"""What may stay down is derived where nothing that sounds is altered, says so, and never twice."""

import pytest

from catalogue import shipped
from catalogue.in_hand import moves_of
from core.charts.entry import HELD, ONE_FINGER, Confidence, Speaks
from core.charts.held import with_held
from core.charts.uses import avoided_uses, good_uses
from core.instruments.fingering import ON_PURPOSE, parse_fingering
from core.instruments.keywork import mechanism, unholdable
from core.music.pitch import parse_pitch
from core.routes.faults import qualities
from core.routes.trills import pairs
from core_shapes import in_hand_of
from studio.shipped import INSTRUMENTS


def derived(model):
    return [entry for entry in shipped.catalogue(model).entries if entry.source == HELD]


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_a_derived_row_sounds_as_its_plain_one_and_says_what_it_is(model):
    chart = shipped.catalogue(model)
    for row in derived(model):
        name, *rests = row.id.split("+")
        parent, instead = chart.by_id[name], {"W"} if rests in (["lock"], ["no-W"]) else set()
        assert row.fingering.touches == (parent.fingering.touches - instead) | set(rests) - {"no-W"}
        assert row.note == parent.note
        assert not unholdable(chart.instrument, row.fingering)
        before, after = (mechanism(chart.instrument, one.fingering) for one in (parent, row))
        if before == after:
            assert (row.tendency, row.tone, row.speaks) == (parent.tendency, parent.tone, parent.speaks)
            assert row.confidence is parent.confidence
        elif rests == ["no-W"]:
            assert set(after.open_vents) - set(before.open_vents) == {"crook vent"}
            assert (row.tendency, row.tone, row.speaks) == (None, None, Speaks.NEEDS_CARE)
            assert "soft attacks" in row.avoid_when
            continue
        else:
            assert before.plain == after.plain
            assert (row.tendency, row.tone, row.speaks) == (None, None, None)
            assert row.confidence is Confidence.MEDIUM
        assert not row.is_truth
        assert (good_uses(row.good_for), avoided_uses(row.avoid_when)) == (
            good_uses(parent.good_for),
            avoided_uses(parent.avoid_when),
        )
        said = "while the whisper lock is on" if rests == ["lock"] else "stays down"
        assert row.good_for == parent.good_for or said in row.good_for


def test_a_lock_takes_the_place_of_the_thumb_wherever_the_whisper_is_closed():
    chart = shipped.catalogue("bassoon")
    locked = {row.note.ascii for row in derived("bassoon") if "lock" in row.fingering.touches}
    closed = {row.note.ascii for row in chart.entries if row.fingering.touches & {"W", "E"}}
    on_purpose = {row.note.ascii for row in chart.entries if row.kind in ON_PURPOSE}
    assert locked == closed - (on_purpose - locked)
    assert not any({"W", "lock"} <= row.fingering.touches for row in chart.entries)
    assert all("lock" in row.requires for row in derived("bassoon") if "lock" in row.fingering.touches)


# A form of which one finger moves, the note it comes from and the one to which it goes; and what has none.
ONE_FINGER_FORMS = [
    ("oboe", "C#5", "L1/2 L2 L3 | R1 R2 R3 C#", "Eb5", "L1/2 L2 L3 leftEb | R1 R2 R3 C#"),
    ("oboe", "D5", "L1/2 L2 L3 | R1 R2 R3", "E5", "L1/2 L2 L3 | R1 R2"),
    ("oboe", "Eb5", "L1/2 L2 L3 | R1 R2 R3 Eb", "F5", "L1/2 L2 L3 | R1 R3 Eb"),
    ("oboe", "F4", "L1 L2 L3 | R1 R2 F", "G4", "L1 L2 L3 | R2 F"),
    ("bassoon", "G3", "W L1/2 L2 L3 | R1 R2 R3", "A3", "W L1/2 L2 L3 | R1 R2"),
]


@pytest.mark.parametrize(("model", "low", "held", "high", "form"), ONE_FINGER_FORMS)
def test_a_form_to_which_one_finger_leads_is_derived_and_preferred_in_a_trill(model, low, held, high, form):
    chart = shipped.catalogue(model)
    below = chart.find(parse_pitch(low), parse_fingering(held, chart.instrument))
    above = chart.find(parse_pitch(high), parse_fingering(form, chart.instrument))
    assert above.source == ONE_FINGER
    assert (above.tendency, above.tone, above.speaks) == (None, None, None)
    assert not above.is_truth
    (moved,) = below.fingering.touches ^ above.fingering.touches
    assert moved
    in_hand = in_hand_of(model)
    others = [row for row in in_hand.at_hand(above.note.midi) if not row.is_lead]
    known = qualities(chart.entries, in_hand.evidence(list(chart.entries)))
    ranked = pairs(below, others, moves_of(chart), known)
    quickest = max(ranked, key=lambda pair: pair.per_s)
    assert quickest.fingers == 1
    mine = next(pair for pair in ranked if pair.other == above)
    assert mine.per_s > 1.1 * max(pair.per_s for pair in ranked if pair.fingers > 1)


def test_no_form_by_one_finger_leaves_its_register_or_is_used_alone():
    for model in INSTRUMENTS:
        chart = shipped.catalogue(model)
        for row in (row for row in chart.entries if row.source == ONE_FINGER):
            parent = chart.by_id[row.id.rpartition("-from-")[2]]
            assert 1 <= row.note.midi - parent.note.midi <= 2
            assert row.partial == parent.partial
            assert row.only_from == row.fingering.touches & parent.fingering.touches
            assert len(row.fingering.touches ^ parent.fingering.touches) == 1


def test_what_the_chart_has_already_is_not_derived_again():
    for model in ("alto-saxophone", "oboe", "b-flat-clarinet"):
        chart = shipped.catalogue(model)
        assert derived(model)
        told = {(entry.note.midi, entry.fingering, entry.requires) for entry in chart.entries}
        assert len(told) == len(chart.entries)
        assert with_held(chart).entries == chart.entries


def test_what_alters_the_note_or_cannot_be_held_is_not_derived():
    alto, oboe = (shipped.catalogue(model).by_id for model in ("alto-saxophone", "oboe"))
    assert "A4-plain+bis" in alto
    assert "B4-plain+bis" not in alto  # which is B-flat
    assert "Cs5-open+bis" not in alto
    assert "B3-low+C" in oboe
    assert "D4-plain+C" not in oboe  # which is C
    assert "Cs4-low+C" not in oboe  # one little finger
