"""How context changes the expected faults of one note."""

import numpy as np
import pytest

from core.music.notation.formats import read_score
from core.music.passage import sounding_events
from core.routes.faults import link_faults, note_faults

PITCH, TONE, SPEAKS = range(3)


def faults(chart, library, abc, entry_id, place=0, tempo_bpm=96):
    events = sounding_events(read_score(abc.encode()).passage, tempo_bpm)
    rows = np.full((len(events), 1), chart.index[entry_id])
    return note_faults(library, events, rows)[place, 0]


@pytest.mark.parametrize(
    ("strand", "worse", "better"),
    [
        pytest.param(PITCH, "L:1/1\nK:C\nd|", "L:1/16\nK:C\nd|", id="a held note shows its pitch"),
        pytest.param(TONE, "L:1/1\nK:C\nd|", "L:1/16\nK:C\nd|", id="a held note shows its tone"),
        pytest.param(TONE, "K:C\n!ff!d|", "K:C\n!pp!d|", id="a loud note shows its tone"),
        pytest.param(SPEAKS, "K:C\n!pp!d|", "K:C\n!f!d|", id="a soft entry speaks less surely"),
    ],
)
def test_context(chart, library, strand, worse, better):
    entry = "D5-palm" if strand == TONE else "D5-plain"
    assert faults(chart, library, worse, entry)[strand] > 1.05 * faults(chart, library, better, entry)[strand]


def test_rest_then_tongue_then_slur(chart, library):
    rest, tongued, slurred = (
        faults(chart, library, abc, "Bb3-low", place)[SPEAKS]
        for abc, place in (("K:C\ndzd|", 1), ("K:C\ndd|", 1), ("K:C\n(dd)|", 1))
    )
    assert rest > tongued > slurred


def test_unknown_pitch_is_a_risk_and_a_known_good_one_is_not(chart, library):
    unknown = faults(chart, library, "L:1/1\nK:C\ne'|", "E6-front")[PITCH]
    known = faults(chart, library, "L:1/1\nK:C\nA|", "A4-plain")[PITCH]
    assert unknown > 10 * known


def test_every_fault_is_a_chance(chart, library):
    events = sounding_events(read_score(b"L:1/1\nQ:1/4=20\nK:C\n!ffff!d8|").passage)
    rows = np.arange(len(chart.entries))[None, :]
    found = note_faults(library, events, rows)
    assert np.all((found >= 0) & (found <= 0.95))


def test_a_slur_across_partials_speaks_less_surely(chart, library):
    rows = np.array([[chart.index["C5-plain"]], [chart.index["D5-plain"]]])
    slurred, tongued = (
        link_faults(library, sounding_events(read_score(abc).passage), rows)[0, 0, 0]
        for abc in (b"L:1/16\nK:C\n(cd)|", b"L:1/16\nK:C\ncd|")
    )
    assert slurred[0] > tongued[0] == 0
    assert slurred[1] > tongued[1] > 0  # the tongue leaves the fingers a little longer


def link(model, abc, first, then):
    """Speaks and hands between two fingerings of a slow pair of notes."""
    from catalogue import shipped

    index = shipped.catalogue(model).index
    rows = np.array([[index[first]], [index[then]]])
    events = sounding_events(read_score(abc.encode()).passage)
    return link_faults(shipped.library(model), events, rows)[0, 0, 0]


def test_a_finger_that_jumps_breaks_a_slow_slur_and_one_that_rolls_does_not():
    slow = "L:1/2\nQ:1/4=60\nK:C\n"
    jump = link("oboe", slow + "(_EF)|", "Eb4-right", "F4-right")
    fork = link("oboe", slow + "(_EF)|", "Eb4-right", "F4-forked")
    roll = link("alto-saxophone", slow + "(B_B)|", "B4-plain", "Bb4-bis")
    assert jump[1] > 0.15 > 10 * max(fork[1], roll[1])
    assert link("oboe", slow + "_EF|", "Eb4-right", "F4-right")[1] < 0.01  # the tongue covers it


def test_a_fingering_that_must_be_prepared_is_not_counted_on_elsewhere(chart, library):
    prepared = link("alto-saxophone", "L:1/4\nK:C\nf'g'|", "F6-front", "G6-front")[0]
    unprepared = link("alto-saxophone", "L:1/4\nK:C\nf'g'|", "F6-palm", "G6-front")[0]
    assert unprepared > prepared + 0.4
    first = faults(chart, library, "K:C\ng'|", "G6-front")[SPEAKS]
    assert first > faults(chart, library, "K:C\ng'|", "G6-split")[SPEAKS] + 0.3
