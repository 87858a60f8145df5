"""How context changes the expected faults of one note."""

from dataclasses import replace

import numpy as np
import pytest

from catalogue import shipped
from catalogue.in_hand import moves_of
from core.evidence.weigh import evidence
from core.music.events import PLAIN, Manner, sounding_events
from core.music.notation.formats import read_score
from core.routes.demands import Moves
from core.routes.faults import (
    AFTER_REST,
    SLURRED,
    UNPREPARED,
    move_faults,
    note_faults,
    qualities,
)
from core.routes.solve import solve
from core.routes.timing import timing
from core_shapes import in_hand_of


def qualities_of(model):
    chart = shipped.catalogue(model)
    return qualities(chart.entries, [evidence(entry) for entry in chart.entries])


def faults(abc, entry_id, note=0, tempo_bpm=96, model="alto-saxophone"):
    """Faults of a note by itself."""
    notes = timing(sounding_events(read_score(abc.encode()).passage, tempo_bpm))
    row = np.array([shipped.catalogue(model).index[entry_id]])
    return note_faults(qualities_of(model), notes, np.array([note]), row)[0]


def move(model, abc, first, then, factors=(1.0, 1.0)):
    """Faults of the move between a pair of notes; `factors` are those of the judged hands."""
    chart, known = shipped.catalogue(model), qualities_of(model)
    for name, factor in zip((first, then), factors, strict=True):
        known.hands_factor[chart.index[name]] = factor
    rows = tuple(np.array([chart.index[name]]) for name in (first, then))
    notes = timing(sounding_events(read_score(abc.encode()).passage))
    midis = tuple(chart.by_id[name].note.midi for name in (first, then))
    asked, _ = Moves(chart).between([midis])
    places = [
        chart.by_midi[midi].index(chart.by_id[name]) for midi, name in zip(midis, (first, then), strict=True)
    ]
    cell = places[0] * len(chart.by_midi[midis[1]]) + places[1]
    return move_faults(known, notes, np.array([1]), rows, asked[np.array([cell])])[0]


@pytest.mark.parametrize(
    ("strand", "worse", "better"),
    [
        pytest.param("pitch", "L:1/1\nK:C\nd|", "L:1/16\nK:C\nd|", id="a held note shows its pitch"),
        pytest.param("tone", "L:1/1\nK:C\nd|", "L:1/16\nK:C\nd|", id="a held note shows its tone"),
        pytest.param("tone", "K:C\n!ff!d|", "K:C\n!pp!d|", id="a loud note shows its tone"),
        pytest.param("speaks", "K:C\n!pp!d|", "K:C\n!f!d|", id="a soft entry speaks less surely"),
    ],
)
def test_context(strand, worse, better):
    entry = "D5-palm" if strand == "tone" else "D5-plain"
    assert getattr(faults(worse, entry), strand) > 1.05 * getattr(faults(better, entry), strand)


def test_a_held_third_is_tuned_pure_and_a_short_one_is_not():
    """Against the key a held B is wanted 14 cents low in G: a flat fingering gains there."""
    for abc, moved in (("L:1/1\nQ:1/4=60\nK:G\nB|", True), ("L:1/16\nQ:1/4=60\nK:G\nB|", False)):
        passage = read_score(abc.encode()).passage
        manners = (PLAIN, Manner("key"), Manner("key", unison=True))
        equal, just, together = (timing(sounding_events(passage, 60.0, to)).wanted_cents[0] for to in manners)
        assert equal == 0
        assert (just == pytest.approx(-13.7)) == moved
        assert together == pytest.approx(-13.7)


def test_in_unison_a_short_note_out_of_tune_is_heard_like_a_held_one():
    def pitch(abc, *, unison):
        events = sounding_events(read_score(abc.encode()).passage, 60.0, Manner(unison=unison))
        row = np.array([shipped.catalogue("alto-saxophone").index["Cs5-open"]])
        return note_faults(qualities_of("alto-saxophone"), timing(events), np.array([0]), row)[0].pitch

    short, held = "L:1/16\nK:C\n^cz|", "L:1/1\nK:C\n^cz|"
    assert pitch(short, unison=False) < pitch(short, unison=True)
    assert pitch(held, unison=True) == pitch(held, unison=False)


def test_rest_then_tongue_then_slur():
    rest, tongued, slurred = (
        faults(abc, "Bb3-low", note).speaks
        for abc, note in (("K:C\ndzd|", 1), ("K:C\ndd|", 1), ("K:C\n(dd)|", 1))
    )
    assert rest == pytest.approx(AFTER_REST * tongued)
    assert slurred == pytest.approx(SLURRED * tongued)


def test_unknown_pitch_is_a_risk_and_a_known_good_one_is_not():
    unknown, known = faults("L:1/1\nK:C\ne'|", "E6-front"), faults("L:1/1\nK:C\nA|", "A4-plain")
    assert unknown.pitch > 10 * known.pitch


def test_every_fault_is_a_chance():
    notes = timing(sounding_events(read_score(b"L:1/1\nQ:1/4=20\nK:C\n!ffff!d8|").passage))
    known = qualities_of("alto-saxophone")
    rows = np.arange(len(known.pitch))
    found = note_faults(known, notes, np.zeros_like(rows), rows)
    assert all(np.all((part >= 0) & (part <= 0.95)) for part in (found.pitch, found.tone, found.speaks))


def test_a_slur_across_partials_speaks_less_surely():
    slurred, tongued = (
        move("alto-saxophone", abc, "C5-plain", "D5-plain")
        for abc in ("L:1/16\nK:C\n(cd)|", "L:1/16\nK:C\ncd|")
    )
    assert slurred.speaks > tongued.speaks == 0
    assert slurred.hands > tongued.hands > 0  # the tongue leaves the fingers a little longer


# F by the ring finger is to be avoided beside D, E-flat and C, by its row, and not beside E and F-sharp.
BESIDE_F = [("D", "D4-plain"), ("C", "C4-low"), ("E", "E4-plain"), ("^F", "Fs4-plain")]


def test_a_finger_that_jumps_breaks_a_slow_slur_and_one_that_rolls_does_not():
    slow = "L:1/2\nQ:1/4=60\nK:C\n"
    jump = move("oboe", slow + "(_EF)|", "Eb4-right", "F4-right")
    fork = move("oboe", slow + "(_EF)|", "Eb4-right", "F4-forked")
    roll = move("alto-saxophone", slow + "(B_B)|", "B4-plain", "Bb4-bis")
    assert jump.hands > 0.15 > 10 * max(fork.hands, roll.hands)
    tongued = move("oboe", slow + "_EF|", "Eb4-right", "F4-right")
    assert tongued.hands < 0.01  # the tongue covers the jump


def test_a_row_is_avoided_beside_the_notes_that_it_names_and_no_others():
    slow, in_hand = "L:1/2\nQ:1/4=60\nK:C\n", in_hand_of("oboe")
    pins = {"n2": "F4-right"}

    def form(line, pins):
        events = sounding_events(read_score((slow + line).encode()).passage)
        table = solve(events, in_hand, moves_of(in_hand.catalogue), pins)
        return -table.problem.preferred(table.slots), table.move_faults.hands.sum()

    at = [form(f"{other}=F|", {"n1": first, **pins}) for other, first in BESIDE_F]
    assert [round(cost, 2) for cost, _ in at] == [0.04, 0.04, 0.0, 0.0]
    assert all(hands < 0.02 for _, hands in at)  # form is no stumble
    assert round(form("FD|", {"n1": "F4-right", "n2": "D4-plain"})[0], 2) == 0.04


def test_a_fingering_that_must_be_prepared_is_not_counted_on_elsewhere(monkeypatch):
    plain, row = shipped.catalogue("alto-saxophone"), "G6-frontF-sideBb-R1"
    entries = [replace(e, only_from=frozenset({"frontF"})) if e.id == row else e for e in plain.entries]
    chart = replace(plain, entries=tuple(entries))
    alone = faults("K:C\ng'|", row).speaks
    monkeypatch.setattr(shipped, "catalogue", lambda _: chart)
    prepared, unprepared = (
        move("alto-saxophone", "L:1/4\nK:C\nf'g'|", first, row).speaks for first in ("F6-front", "F6-palm")
    )
    assert unprepared - prepared == pytest.approx(UNPREPARED)
    after_a_rest = move("alto-saxophone", "L:1/4\nK:C\nf'zg'|", "F6-palm", row).speaks
    assert after_a_rest == prepared == 0  # the note itself has it then, and not twice
    assert faults("K:C\ng'|", row).speaks > alone + 0.3


def test_the_judged_hands_of_both_fingerings_share_the_time_of_a_move():
    ask = "alto-saxophone", "L:1/16\nQ:1/4=150\nK:C\nB_B|", "B4-plain", "Bb4-bis"
    plain = move(*ask).hands
    before, after, both = (move(*ask, factors).hands for factors in ((1.35, 1), (1, 1.35), (1.35, 1.35)))
    assert before == pytest.approx(after)
    assert plain < before < both
    quicker = move(ask[0], ask[1].replace("150", "202.5"), *ask[2:])  # as if there were that much less time
    assert both == pytest.approx(quicker.hands, rel=1e-9)
