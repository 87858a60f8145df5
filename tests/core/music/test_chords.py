"""Chord symbols: what they sound, how they move, and how the formats carry them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import NotationError
from core.music.chords import KINDS, MUSICXML_KINDS, chord_moved, chord_text, parse_chord
from core.music.events import Manner, sounding_events
from core.music.intonation import HARMONY
from core.music.notation.abc import read_abc
from core.music.notation.musicxml import read_musicxml
from core.music.pitch import Interval
from core_shapes import bar, note, score

symbols = st.builds(
    lambda step, sign, kind, bass: f"{step}{sign}{kind}{bass}",
    st.sampled_from("CDEFGAB"),
    st.sampled_from(["", "#", "b"]),
    st.sampled_from(sorted(KINDS)),
    st.sampled_from(["", "/C", "/Bb"]),
)


@pytest.mark.parametrize(
    ("symbol", "tones"),
    [
        ("C", "C E G"),
        ("Bbm7/F", "B♭ D♭ F A♭"),
        ("F#dim", "F♯ A C"),
        ("Dm7b5", "D F A♭ C"),
        ("Gø", "G B♭ D♭ F"),
        ("Bdim7", "B D F A♭"),
        ("E+", "E G♯ B♯"),
        ("A7sus4", "A D E G"),
        ("C6/9", "C E G A"),
        ("Bb7b5", "B♭ D F♭ A♭"),
        ("F7(#9)", "F A C E♭"),
        ("D5", "D A"),
        ("C/D", "C E G D"),
        ("Ebmaj9", "E♭ G B♭ D"),
    ],
)
def test_the_tones_of_a_chord_are_spelled(symbol, tones):
    assert [str(tone)[:-1] for tone in parse_chord(symbol).tones] == tones.split()


@given(symbols, st.integers(-11, 11))
def test_a_chord_moves_with_its_music_and_back(symbol, semitones):
    interval = Interval(round(semitones * 7 / 12), semitones)
    moved = parse_chord(chord_moved(symbol, interval))
    assert [(tone.midi - semitones) % 12 for tone in moved.tones] == [
        tone.midi % 12 for tone in parse_chord(symbol).tones
    ]
    assert chord_text(str(moved)) == str(moved)


@pytest.mark.parametrize("text", ["", "hello", "Cxyz", "H7", "C" * 30, "c", "/F", "C//F"])
def test_what_is_no_chord_is_refused(text):
    with pytest.raises(NotationError, match="like Dm7"):
        parse_chord(text)


def harmony(kind, text="", root="D", more=""):
    words = f' text="{text}"' if text else ""
    return f"<harmony><root><root-step>{root}</root-step></root><kind{words}>{kind}</kind>{more}</harmony>"


DEGREE = "<degree><degree-value>5</degree-value><degree-alter>-1</degree-alter></degree>"
BASS = "<bass><bass-step>A</bass-step><bass-alter>-1</bass-alter></bass>"


@pytest.mark.parametrize(
    ("element", "chord"),
    [
        (harmony("minor-seventh"), "Dm7"),
        (harmony("minor-seventh", "-7"), "D-7"),
        (harmony("dominant", more=DEGREE), "D7b5"),
        (harmony("major", "Wunder"), "D"),
        (harmony("none"), "N.C."),
        (harmony("half-diminished", more=BASS), "Dm7b5/Ab"),
    ],
)
def test_chords_of_other_programs_are_read(element, chord):
    reading = read_musicxml(score(bar(element, note())))
    assert [n.chord for n in reading.passage] == [chord]
    assert not reading.notices


def test_a_chord_that_cannot_be_read_is_told_and_left_out():
    reading = read_musicxml(score(bar(harmony("major", root="Q"), note())))
    assert next(iter(reading.passage)).chord == ""
    assert "chord symbol" in reading.notices[0]
    reading = read_abc('K:C\n"what"C "^Slow"D "Am"E|')
    assert [n.chord for n in reading.passage] == ["", "", "Am"]
    assert "chord symbol" in reading.notices[0]


def test_kinds_have_names_in_musicxml_or_none():
    assert set(MUSICXML_KINDS) < set(KINDS)
    assert len(set(MUSICXML_KINDS.values())) == len(MUSICXML_KINDS)


def test_held_notes_are_tuned_to_the_chord_in_force():
    passage = read_abc('Q:1/4=60\nL:1/2\nK:C\nE "C"E | "A7"E "N.C."E |').passage
    aims = [event.tuned_cents for event in sounding_events(passage, manner=Manner(HARMONY))]
    assert aims == [0.0, -13.7, 2.0, 0.0]
