"""8va over notes with too many leger lines: read back as the same notes, and drawn an octave lower."""

import pytest

from core.music.notation.abc import read_abc
from core.music.notation.musicxml import read_musicxml
from core.music.notation.musicxml_writer import write_musicxml
from core.music.notation.ottava import ottavas
from core.music.pitch import Interval
from drawing.engraving import engrave


def passage_of(abc):
    return read_abc(f"L:1/4\nM:4/4\nK:C\n{abc}").passage


@pytest.mark.parametrize(
    ("abc", "clef", "begins", "ends"),
    [
        ("c' g' a' b'|", "treble", "", ""),  # five leger lines are read
        ("c' e' d'' g'|c'' c e'' c|", "treble", "e'6 e''7", "c''7 e''7"),
        ("d'' z a'|", "treble", "d''7", "a'6"),  # on over a rest
        ("c d f A|", "treble", "", ""),
        ("A,,,, B,,,, C,,,|", "bass", "", ""),  # far below is not above
    ],
)
def test_where_it_begins_and_ends(abc, clef, begins, ends):
    passage = passage_of(abc)
    names = {note.id: f"{note.written_pitch}" for note in passage if note.written_pitch}
    found = ottavas(passage, [clef] * len(passage.bars))
    expected = [[word.split("'")[0].upper() + word[-1] for word in words.split()] for words in (begins, ends)]
    assert [[names[name] for name in names if name in part] for part in found] == expected


def test_the_same_notes_are_read_again():
    passage = passage_of("c' e' d'' g'|c'' c e'' c|")
    written = write_musicxml(passage, Interval(0, 0), "x")
    assert written.count("octave-shift") == 4
    again = read_musicxml(written.encode()).passage
    assert [note.written_pitch for note in again] == [note.written_pitch for note in passage]


def test_it_is_drawn_over_its_notes_and_no_farther():
    drawn = engrave(passage_of("c' a' d'' c|"), 900, ("treble",), 60).systems[0]
    assert "octave" in drawn.svg
    hook = float(drawn.svg.split("<polyline", 1)[1].split('points="')[1].split(",")[0])
    pixels = hook / (drawn.units_width / drawn.width)
    names = list(drawn.notes)
    assert drawn.notes[names[2]] < pixels < (drawn.notes[names[2]] + drawn.notes[names[3]]) / 2
