from dataclasses import replace

import pytest
from hypothesis import example, given

from core.music.events import LOUDNESS, sounding_events
from core.music.notation.abc_writer import write_abc
from core.music.notation.formats import read_score
from core.music.notation.score import Choices, Chord
from core_shapes import passages


def notes(abc):
    return list(read_score(abc.encode()).passage)


def lengths(abc):
    return [str(n.quarters) for n in notes(abc)]


def pitches(abc):
    return [n.written_pitch.ascii if n.written_pitch else "z" for n in notes(abc)]


@pytest.mark.parametrize(
    ("abc", "expected"),
    [
        pytest.param("K:C\nC, C c c' c''|", "C3 C4 C5 C6 C7", id="octaves"),
        pytest.param("K:D\nF C =F F|F|", "F#4 C#4 F4 F4 F#4", id="key, and a sign that lasts the bar"),
        pytest.param("K:C\n^F f F|", "F#4 F5 F#4", id="a sign holds in its octave only"),
        pytest.param("K:C\n__B ^^F _e|", "Bbb4 F##4 Eb5", id="double signs"),
        pytest.param("K:Bb\nB e|", "Bb4 Eb5", id="flat key"),
        pytest.param("K:Dm\nB|", "Bb4", id="minor"),
        pytest.param("K:A mixolydian\nG|", "G4", id="mode"),
        pytest.param("K:C\n^F-|F F|", "F#4 F#4 F4", id="a tie carries its sign over the bar"),
        pytest.param("K:C\nF [K:G] F|", "F4 F#4", id="key change in the line"),
        pytest.param("K:C clef=treble\nF|", "F4", id="clef in the key field"),
        pytest.param("K:none\nF|", "F4", id="no key"),
        pytest.param(
            'K:C\n"Am"C {d}E !trill!F ~G y2 a % words\n|', "C4 E4 F4 G4 A5", id="extras passed over"
        ),
        pytest.param("K:C\nC z x2 D|", "C4 z z D4", id="rests"),
        pytest.param("K:C\nC|Z2|D|", "C4 z z D4", id="whole bars of rest"),
    ],
)
def test_pitches(abc, expected):
    assert " ".join(pitches(abc)) == expected


@pytest.mark.parametrize(
    ("abc", "expected"),
    [
        pytest.param("K:C\nC C2 C/ C// C3/2|", "1/2 1 1/4 1/8 3/4", id="lengths"),
        pytest.param("M:2/4\nK:C\nC|", "1/4", id="unit length by the metre"),
        pytest.param("L:1/4\nK:C\nC|", "1", id="unit length as said"),
        pytest.param("K:C\nC>D E<F|", "3/4 1/4 1/4 3/4", id="broken rhythm"),
        pytest.param("K:C\n(3CDE F|", "1/3 1/3 1/3 1/2", id="triplet"),
        pytest.param("K:C\n(3:2:2C2D E|", "2/3 1/3 1/2", id="triplet of two notes"),
        pytest.param("M:6/8\nL:1/8\nK:C\n(2CD|", "3/4 3/4", id="duplet"),
        pytest.param("K:C\nC5|", "2 1/2", id="five eighths become tied notes"),
    ],
)
def test_lengths(abc, expected):
    assert " ".join(lengths(abc)) == expected


def test_header():
    reading = read_score(b'X:1\nT:Sluice\nT:second title\nM:C|\nQ:"Lively" 1/2=60\nK:Em\nE4|')
    first = next(iter(reading.passage))
    assert (reading.passage.title, first.tempo_bpm) == ("Sluice", 120)
    assert (reading.passage.bars[0].time, reading.passage.bars[0].key_fifths) == ((2, 2), 1)


def test_slurs_and_articulation():
    first, second, third, _ = notes("K:C\n(.C !>!D) !tenuto!E F|")
    assert (first.slur_start, second.slur_stop, third.slur_start) == (True, True, False)
    assert [*first.articulations, *second.articulations, *third.articulations] == [
        "staccato",
        "accent",
        "tenuto",
    ]


def test_a_time_change_inside_a_line_starts_a_bar():
    bars = read_score(b"M:4/4\nK:C\nC4 [M:3/4] D6|").passage.bars
    assert [bar.time for bar in bars] == [(4, 4), (3, 4)]


def test_repeats_are_read_once_or_played_out():
    text = b"M:2/4\nL:1/4\nK:C\n|:C E|1 F G:|2 A2|]"
    reading = read_score(text)
    assert reading.offered.repeats
    assert reading.notices == ("Repeats and endings are read once, in the order of the page: bars 2 to 3.",)
    played = read_score(text, Choices(play_out=True))
    assert "".join(n.written_pitch.step for n in played.passage) == "CEFGCEA"
    assert played.notices == ()


def test_a_tune_is_chosen():
    text = b"X:1\nT:Weir\nK:C\nCDE|\nX:2\nT:Sluice\nK:C\nFGA|"
    offered = read_score(text).offered
    assert (offered.pieces, offered.piece) == ((("1", "1. Weir"), ("2", "2. Sluice")), "1")
    assert read_score(text, Choices(piece="2")).passage.title == "Sluice"
    assert read_score(text, Choices(piece="99")).passage.title == "Weir"


@example(read_score(b"K:C\nC-|[K:Gb]=C|").passage)
@example(read_score(b"K:C\n^C-|=C|").passage)
@example(read_score(b"K:C\n^C-|{=C}=C|").passage)
@example(read_score(b"K:C\n^C-|{=C}^C|").passage)
@given(passages())
def test_written_as_abc_and_read_again_it_is_unchanged(passage):
    """But for what ABC has no place for: fingerings to be read, tempi finer than a thousandth."""
    before = None
    bars = []
    for bar in passage.bars:
        notes = []
        for note in bar.notes:
            tempo = note.tempo_bpm and round(note.tempo_bpm, 3)
            under = "" if before and before.tied else note.lyric
            notes.append(replace(note, fingering="", tempo_bpm=tempo, lyric=under))
            before = note
        bars.append(replace(bar, notes=tuple(notes)))
    plain = replace(passage, bars=tuple(bars))
    again = read_score(write_abc(plain).encode())
    assert again.passage == plain
    assert not [notice for notice in again.notices if not notice.startswith("Bars longer")]


def test_slurs_and_fingerings_are_written():
    passage = read_score(b"T:Weir\nK:G\n(fed) c|").passage
    text = write_abc(passage, {"n1": "L1 bis"})
    assert '("_L1 bis"f/2 e/2 d/2) c/2 |]' in text
    assert read_score(text.encode()).passage == passage


VOICES = b"""X:1
V:top name="First alto" clef=treble
V:low name="Second alto"
M:4/4
L:1/4
K:G
V:top
c d e f | [V:low] A B c d |
[V:top] g4 |
V:low
E4 |
"""


def test_a_voice_is_chosen():
    reading = read_score(VOICES)
    assert reading.offered.parts == (("top", "First alto"), ("low", "Second alto"))
    assert [n.written_pitch.ascii for n in reading.passage] == ["C5", "D5", "E5", "F#5", "G5"]
    low = read_score(VOICES, Choices(part="low"))
    assert [n.written_pitch.ascii for n in low.passage] == ["A4", "B4", "C5", "D5", "E4"]
    assert low.passage.bars[0].key_fifths == 1


@pytest.mark.parametrize(("chord", "note"), [("highest", "G4"), ("second", "E4"), ("lowest", "C4")])
def test_a_note_of_chords_is_chosen(chord, note):
    reading = read_score(b"L:1/8\nK:C\n[CEG]4 c4|", Choices(chord=Chord(chord)))
    assert [n.written_pitch.ascii for n in reading.passage] == [note, "C5"]
    assert [n.quarters for n in reading.passage] == [2, 2]
    assert reading.offered.chord_notes == 3


def test_words_stand_under_their_notes():
    reading = read_score(b"L:1/4\nK:C\nC D E F|G2 z2|\nw:Wa-ter * runs~on | down\nA B|\nw:a-way")
    assert [n.lyric for n in reading.passage] == ["Wa-", "ter", "", "runs on", "down", "", "a-", "way"]


def test_grace_notes_ornaments_and_hairpins_are_kept():
    reading = read_score(b"K:C\n!p!{Bd}Tc !<(!d e !<)!f !f!Hg !/!a|")
    first, second, _, fourth, fifth, last = reading.passage
    assert [pitch.ascii for pitch in first.grace] == ["B4", "D5"]
    assert (first.ornaments, last.ornaments) == ({"trill-mark"}, {"tremolo"})
    assert (second.hairpin, fourth.hairpin_stop, fifth.fermata) == ("crescendo", True, True)
    loud = [event.loudness for event in sounding_events(reading.passage) if not event.grace]
    assert loud[0] == loud[1] < loud[2] < loud[3] < loud[4] == loud[5] == LOUDNESS["f"]


@pytest.mark.parametrize(
    ("key", "steps"),
    [
        ("D exp ^f", {"F": 1}),
        ("HP", {}),
        ("Hp", {"F": 1, "C": 1}),
        ("C _b^f", {"B": -1, "F": 1}),
        ("Gdor", {"B": -1}),
    ],
)
def test_signs_of_unusual_keys(key, steps):
    reading = read_score(f"K:{key}\nCDEFGAB|".encode())
    assert {
        n.written_pitch.step: n.written_pitch.alter for n in reading.passage if n.written_pitch.alter
    } == steps
