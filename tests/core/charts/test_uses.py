"""What charts say of uses, and what it bears on a route."""

from dataclasses import replace

import numpy as np
import pytest

from core.charts.uses import TOGETHER, Use, avoided_uses, good_uses
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.faults import AVOIDED, OUT_OF_PLACE, note_faults, qualities
from core.routes.timing import timing
from core_shapes import in_hand_of


@pytest.mark.parametrize(
    ("text", "good"),
    [
        ("attacks, and slurs from below", [{Use.ATTACK}, {Use.FROM_BELOW}]),
        ("long and loud notes", [{Use.LONG, Use.LOUD}]),
        ("slurs from above and fast notes", [{Use.FROM_ABOVE}, {Use.FAST}]),
        ("fast notes: few fingers; after front E", [{Use.FAST}]),
        ("attacks, slurs, and leaving the thumb in place", []),
        ("moves to or from G-sharp: the little finger stays", []),
        ("", []),
    ],
)
def test_what_a_row_is_good_for(text, good):
    assert list(map(set, good_uses(text))) == good


def test_all_that_is_avoided_counts_even_beside_other_words():
    assert list(map(set, avoided_uses("moves of the thumb; first notes of a phrase"))) == [{Use.FIRST}]


def test_every_pair_of_uses_that_the_charts_name_has_a_column():
    from catalogue import shipped
    from studio.shipped import INSTRUMENTS

    for name in INSTRUMENTS:
        for entry in shipped.catalogue(name).entries:
            for together in (*good_uses(entry.good_for), *avoided_uses(entry.avoid_when)):
                assert together in TOGETHER, entry


@pytest.mark.parametrize(("tempo", "strand", "extra"), [(60, "tone", 0.0), (160, "tone", OUT_OF_PLACE)])
def test_a_fingering_for_long_notes_is_out_of_place_on_short_ones(tempo, strand, extra):
    chart = in_hand_of("alto-saxophone").catalogue
    entry = chart.by_id["Cs5-covered"]
    assert good_uses(entry.good_for) == (frozenset({Use.LONG}),)
    assert faults_of(entry, "K:D\n c2 c2", tempo, strand) == pytest.approx(extra)


def test_what_is_avoided_costs_where_it_is_met():
    chart = in_hand_of("alto-saxophone").catalogue
    entry = next(e for e in chart.entries if avoided_uses(e.avoid_when) == (frozenset({Use.LONG}),))
    assert faults_of(entry, "K:C\n c8 c8", 60, "tone") == pytest.approx(AVOIDED)
    assert faults_of(entry, "K:C\n c c", 160, "tone") == pytest.approx(0.0)


def faults_of(entry, abc, tempo, strand):
    """What its uses add to the second note; the pitch of the note itself plays no part."""
    alto = in_hand_of("alto-saxophone")
    notes = timing(sounding_events(read_abc(abc).passage, tempo))
    plain = replace(entry, good_for="", avoid_when="")
    known = qualities([entry, plain], alto.evidence([entry, plain]))
    found = note_faults(known, notes, np.array([1, 1]), np.array([0, 1]))
    return getattr(found, strand)[0] - getattr(found, strand)[1]
