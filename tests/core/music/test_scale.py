"""Scales to walk, clefs through a passage, notes foreign to the key."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PitchError
from core.music.notation.clefs import clefs_through, leger_lines
from core.music.notation.formats import read_score
from core.music.notation.musicxml import read_musicxml
from core.music.notation.musicxml_writer import write_musicxml
from core.music.pitch import Interval, key_alter, parse_pitch
from core.music.scale import MODES, TONICS, scale, tonic_fifths

LOW = "C,,D,,C,,D,,C,,D,,C,,D,,"
C4, C6 = parse_pitch("C4"), parse_pitch("C6")


@pytest.mark.parametrize(
    ("tonic", "mode", "down", "notes"),
    [
        ("G", "major", False, "C4 D4 E4 F#4 G4 A4 B4 C5"),
        ("Db", "major", False, "C4 Db4 Eb4 F4 Gb4 Ab4 Bb4 C5"),
        ("C#", "major", False, "C#4 D#4 E#4 F#4 G#4 A#4 B#4"),
        ("A", "harmonic minor", False, "C4 D4 E4 F4 G#4 A4 B4 C5"),
        ("A", "melodic minor", False, "D4 E4 F#4 G#4 A4 B4 C5"),
        ("A", "melodic minor", True, "C5 B4 A4 G4 F4 E4 D4 C4"),
        ("F#", "natural minor", True, "B4 A4 G#4 F#4 E4 D4 C#4"),
    ],
)
def test_scales_are_spelled_by_their_key(tonic, mode, down, notes):
    found = [p.ascii for p in scale(tonic, mode, C4, parse_pitch("C5"), down=down)]
    wanted = notes.split()
    assert [note for note in found if note in wanted] == wanted
    assert set(found) - set(wanted) <= {"C4", "B#3", "C5"}


@given(st.sampled_from(TONICS), st.sampled_from(list(MODES)), st.booleans())
def test_every_scale_has_its_degrees_in_order_and_range(tonic, mode, down):
    found = scale(tonic, mode, C4, C6, down=down)
    midis = [pitch.midi for pitch in found]
    assert midis == sorted(set(midis), reverse=down)
    assert set(midis) <= set(range(C4.midi, C6.midi + 1))
    root = tonic_fifths(tonic) * 7 % 12
    kind = "natural minor" if mode == "melodic minor" and down else mode
    assert {(midi - root) % 12 for midi in midis} == set(MODES[kind])
    if mode == "major" and -7 <= tonic_fifths(tonic) <= 7:
        assert all(pitch.alter == key_alter(pitch.step, tonic_fifths(tonic)) for pitch in found)


@pytest.mark.parametrize(("tonic", "mode"), [("H", "major"), ("C", "blues"), ("", "major")])
def test_a_scale_that_is_not_known_is_refused(tonic, mode):
    with pytest.raises(PitchError):
        scale(tonic, mode, C4, C6)


def test_a_range_without_a_note_of_the_scale_is_refused():
    with pytest.raises(PitchError, match="no note of this scale"):
        scale("C", "major", parse_pitch("C#4"), parse_pitch("C#4"))


@pytest.mark.parametrize(
    ("abc", "clefs", "chosen"),
    [
        ("C,,4|C,4|C4|", ("bass", "tenor"), ["bass"] * 3),
        (
            f"L:1/8\nK:C\n{LOW}|cBcBcBcB|cBcBcBcB|{LOW}|",
            ("bass", "tenor"),
            ["bass", "tenor", "tenor", "bass"],
        ),
        (f"L:1/8\nK:C\n{LOW}|E8|{LOW}|", ("bass", "tenor"), ["bass"] * 3),
        ("C,,4|", ("treble",), ["treble"]),
    ],
)
def test_clefs_follow_the_notes_without_restless_changes(abc, clefs, chosen):
    text = abc if "K:" in abc else "L:1/4\nK:C\n" + abc
    assert clefs_through(read_score(text.encode()).passage, clefs) == chosen


def test_clefs_are_written_where_they_change_and_read_back_without_harm():
    passage = read_score(f"L:1/8\nK:F\n{LOW}|cBcBcBcB|{LOW}|".encode()).passage
    text = write_musicxml(passage, Interval(0, 0), "Bassoon", ("bass", "tenor"))
    assert text.count("<clef>") == 3
    assert read_musicxml(text.encode()).passage == passage
    assert leger_lines(parse_pitch("C5"), "tenor") == 2


def test_notes_outside_the_key_are_foreign():
    passage = read_score(b"L:1/4\nK:G\nF =F ^C z|[K:Eb] _B =B F _A|").passage
    pitches = {note.id: note.written_pitch for note in passage if note.written_pitch}
    assert [str(pitches[name]) for name in pitches if name in passage.foreign] == ["F4", "C♯4", "B4"]
