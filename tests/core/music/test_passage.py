from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PassageError
from core.music.events import Manner, moved_events, sounding_events
from core.music.intonation import EQUAL, HARMONY, KEY
from core.music.notation.formats import read_score
from core.music.passage import NOMINAL, NOTES_LIMIT, Bar, Note, Passage, split_length
from core.music.pitch import Interval, Pitch
from core.routes.elsewhere import interval_for
from core_shapes import passages

SECONDS_TOLERANCE = 1e-9


def read(abc):
    return read_score(abc.encode()).passage


@given(passages())
def test_events_fill_the_time_between_rests(passage):
    events = sounding_events(passage, 100)
    ids = [place.note.id for event in events for place in event.notes if not event.grace]
    assert ids == [note.id for note in passage if not note.is_rest]
    assert all(event.seconds > 0 and event.available_s > 0 for event in events)


def test_timing_follows_tempo_and_keeps_its_changes_in_proportion():
    passage = read("L:1/4\nQ:1/4=60\nK:C\nC D [Q:1/4=120] E z F|")
    assert [e.seconds for e in sounding_events(passage)] == [1, 1, 0.5, 0.5]
    faster = sounding_events(passage, 120)
    assert [e.seconds for e in faster] == [0.5, 0.5, 0.25, 0.25]
    # from the start of the note before: its length and the rest
    assert [e.available_s for e in faster] == [float("inf"), 0.5, 0.5, 0.5]


def test_how_a_note_begins():
    events = sounding_events(read("L:1/4\nK:C\nC (D E F) G z (A B)|"))
    assert [e.slurred for e in events] == [False, False, True, True, False, False, True]
    assert [e.after_rest for e in events] == [True, False, False, False, False, True, False]


def test_grace_notes_come_before_their_note_and_take_time_from_what_is_before():
    events = sounding_events(read("L:1/4\nQ:1/4=60\nK:C\nC {DE}F {G}A|"))
    assert [str(e.written_pitch) for e in events] == ["C4", "D4", "E4", "F4", "G4", "A4"]
    assert [e.grace for e in events] == [False, True, True, False, True, False]
    assert events[1].available_s + events[2].available_s + events[3].available_s == pytest.approx(1.0)
    assert [e.slurred for e in events] == [False, False, True, True, False, True]
    crowded = sounding_events(read("L:1/32\nQ:1/4=200\nK:C\nC {DEFGA}B|"))
    assert all(event.available_s > 0 for event in crowded)


def test_what_frees_the_hands_and_what_dies_away():
    events = sounding_events(read("L:1/4\nK:C\n.C D !tenuto!E F !breath!G A (B c)|"))
    freed = [event.freed for event in events]
    assert freed == [1.25, 1.5, 1.25, 1.1, 1.25, 2.0, 1.25, 1.0]
    last = sounding_events(read("L:1/4\nK:C\n!p!C !>(!D E!>)! z !>(!F G!>)!|"))
    assert [event.dies for event in last] == [False, False, True, False, True]
    loud, soft = sounding_events(read("L:1/4\nK:C\n!fp!C !p!D|"))
    assert loud.attack > soft.attack
    assert loud.loudness == soft.loudness


def test_loudness_runs_on_from_the_last_mark():
    events = sounding_events(read("K:C\nC !pp!D E !ff!F|"))
    loudness = [e.loudness for e in events]
    assert loudness[1] == loudness[2] < loudness[0] < loudness[3]


@pytest.mark.parametrize(
    ("abc", "sizes"),
    [("K:C\nC-C C|", [2, 1]), ("K:C\nC-D|", [1, 1]), ("K:C\nC-z C|", [1, 1]), ("K:C\nC-|C-|C|", [3])],
)
def test_ties_join_the_same_pitch_only(abc, sizes):
    assert [len(event.notes) for event in sounding_events(read(abc))] == sizes


def test_places_count_from_one_and_an_upbeat_is_bar_nought():
    whole = read("M:6/8\nL:1/8\nK:C\nC3 D3 | E6|")
    assert [(p.bar, p.beat) for p in whole.placed] == [(1, 1), (1, 4), (2, 1)]
    upbeat = read("M:4/4\nL:1/4\nK:C\nC | D4|")
    assert [p.bar for p in upbeat.placed] == [0, 1]


@given(st.fractions(Fraction(1, 64), 16).map(lambda f: Fraction(round(f * 64), 64)).filter(bool))
def test_lengths_split_into_notes_that_can_be_printed(length):
    parts = split_length(length)
    assert sum(parts) == length
    assert set(parts) <= set(NOMINAL)


def test_a_length_that_no_notes_make():
    with pytest.raises(PassageError, match="256th"):
        split_length(Fraction(1, 3))


@given(passages())
def test_transposing_there_and_back_keeps_the_sound(passage):
    up = Interval(5, 9)
    there = passage.transposed(up)
    back = there.transposed(up.inverse)
    for note, moved, again in zip(passage, there, back, strict=True):
        if note.written_pitch:
            assert moved.written_pitch.midi - note.written_pitch.midi == 9
            assert again.written_pitch.midi == note.written_pitch.midi
    assert all(-7 <= bar.key_fifths <= 7 for bar in there.bars if bar.key_fifths is not None)


def test_a_key_beyond_seven_sharps_is_respelled():
    passage = read("K:B\nB|").transposed(Interval(5, 9))  # concert B, written G-sharp
    assert passage.bars[0].key_fifths == -4
    assert passage.bars[0].notes[0].written_pitch == Pitch("A", -1, 5)


@pytest.mark.parametrize("tempo", [0, -10, 19.9, 400.1, 10_000, float("nan"), float("inf")])
def test_tempo_out_of_range(tempo):
    with pytest.raises(PassageError, match="from 20 to 400"):
        sounding_events(read("K:C\nC|"), tempo)


def test_a_passage_has_a_limit():
    note = Note("n1", Pitch("C", 0, 5), Fraction(1))
    with pytest.raises(PassageError, match="at most 3,000 notes"):
        Passage((Bar((note,) * (NOTES_LIMIT + 1)),))


def test_a_note_has_a_length():
    with pytest.raises(PassageError, match="above 0"):
        Note("n1", None, Fraction(0))


@pytest.mark.parametrize(
    ("key", "interval", "expected"),
    [
        (4, Interval(4, 7), 5),
        (0, Interval(0, 1), 7),
        (7, Interval(0, 1), 2),
        (-7, Interval(0, -1), -2),
        (-7, Interval(-1, -2), 3),
    ],
    ids=["a fifth up", "seven sharps stay", "fourteen become two", "fourteen flats too", "nine flats"],
)
def test_keys_of_more_than_seven_signs_are_respelled(key, interval, expected):
    passage = Passage((Bar((Note("n1", Pitch("C", 0, 5), Fraction(1)),), key),))
    moved = passage.transposed(interval)
    assert moved.bars[0].key_fifths == expected
    assert moved.bars[0].notes[0].written_pitch.midi == 72 + interval.semitones


@given(passages(), st.integers(-14, 14), st.sampled_from([EQUAL, KEY, HARMONY]), st.integers(40, 200))
def test_events_are_moved_as_those_of_the_moved_passage_are_made(passage, semitones, tuned_to, tempo):
    manner = Manner(tuned_to, unison=True, trills_per_s=8.0)
    interval = interval_for(passage, semitones)
    moved = moved_events(passage, sounding_events(passage, tempo, manner), interval)
    assert moved == sounding_events(passage.transposed(interval), tempo, manner)
