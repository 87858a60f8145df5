"""Scores in the manner of the programs that write them: read, every loss listed, written again the same."""

import contextlib
import importlib.util
from pathlib import Path

import pytest
import xmlschema
from hypothesis import given, settings
from hypothesis import strategies as st

from core.errors import CoreError
from core.music.events import sounding_events
from core.music.notation.formats import read_score
from core.music.notation.musicxml_writer import write_musicxml
from core.music.notation.score import Choices, Chord
from core.music.passage import Passage
from core.music.pitch import Interval

SCORES = sorted((Path(__file__).parents[3] / "scores").iterdir())
ALTO = Interval(-5, -9)
# What is left out of each, where anything is.
LOSSES = {
    "cue-notes.musicxml": ("Cue notes: bar 1, beat 3; bar 1, beat 4.",),
    "quarter-tones.musicxml": ("The quarter tones of signs, rounded down: bar 1, beat 1.",),
    "tempo-word-only.musicxml": ("A tempo that cannot be played (0): bar 1, beat 1.",),
    "two-parts-with-chords.musicxml": ("Of chords all but the highest note: bar 1, beat 1; bar 1, beat 4.",),
    "two-voices.musicxml": ("Another voice (2): bar 1.",),
    "voice-that-begins-late.musicxml": ("Another voice (2): bar 2.",),
    "piano-two-staves.musicxml": ("Another voice (2.5): bar 1.",),
    "da-capo-al-fine.musicxml": ("Repeats and endings are read once, in the order of the page: bar 3.",),
    "dal-segno-al-coda.musicxml": ("Repeats and endings are read once, in the order of the page: bar 4.",),
    "repeats-and-endings.musicxml": (
        "Repeats and endings are read once, in the order of the page: bars 2 to 3.",
    ),
    "session-tune.abc": (
        "Repeats and endings are read once, in the order of the page: bars 3 to 4; bars 6 to 7.",
    ),
    "chords-and-overfull.abc": (
        "Of chords all but the highest note: bar 1, beat 1; bar 1, beat 2; bar 2, beat 1.",
        "Bars longer than their time signature, read as they stand: bar 2.",
    ),
    "played-in.mid": ("The file names no key; it was guessed.",),
}


def read(name, **choices):
    return read_score(next(path for path in SCORES if path.name == name).read_bytes(), Choices(**choices))


def steps(reading):
    return "".join(n.written_pitch.step if n.written_pitch else "-" for n in reading.passage)


@pytest.fixture(scope="module")
def schema():
    """The schema of MusicXML 4.0, as a package of the registry has it; nothing is fetched."""
    home = Path(importlib.util.find_spec("musicxml").origin).parent / "generate_classes"
    return xmlschema.XMLSchema(str(home / "musicxml_4_0.xsd"), allow="local")


@pytest.mark.parametrize("path", SCORES, ids=lambda path: path.name)
def test_every_score_is_read_its_losses_listed_and_written_again_it_is_the_same(path, schema):
    reading = read_score(path.read_bytes())
    assert reading.notices == LOSSES.get(path.name, ())
    text = write_musicxml(reading.passage, ALTO, "Alto saxophone")
    schema.validate(text)
    again = read_score(text.encode())
    assert again.passage == reading.passage
    assert not [notice for notice in again.notices if not notice.startswith("Repeats")]  # "D.C." stays there


def test_what_is_written_with_everything_in_it_is_valid(schema):
    source = b"Q:1/4=90\nK:D\n!mf!!<(!(.{Bd}c !<)!Td) !f!!fermata!e-|(3efg z/ ^^f/|\nw:wa-ter falls"
    passage = read_score(source).passage
    passage = Passage(passage.bars, "Weir", "N. N.").with_fingerings(
        {n.id: "L1 bis" for n in passage if not n.is_rest}
    )
    text = write_musicxml(passage, ALTO, "Alto saxophone")
    schema.validate(text)
    assert "<fingering>L1 bis</fingering>" in text
    assert read_score(text.encode()).passage == passage


def test_parts_voices_and_notes_of_chords_are_chosen():
    assert steps(read("two-parts-with-chords.musicxml", part="P2")) == "CDEFAB"
    assert steps(read("two-parts-with-chords.musicxml", player="Alto saxophone")) == "CDEFAB"
    assert steps(read("two-parts-with-chords.musicxml", chord=Chord.LOWEST)) == "CFGAC"
    assert steps(read("two-parts-with-chords.musicxml", chord=Chord.SECOND)) == "CFGCC"
    assert steps(read("two-voices.musicxml", voice="2")) == "CBC"  # where it is silent, the other
    assert steps(read("voice-that-begins-late.musicxml", voice="2")) == "CDEF-EFC"
    assert steps(read("piano-two-staves.musicxml", voice="2.5")) == "C"
    assert steps(read("timewise.musicxml", part="P2")) == "CGABCGAB"
    assert steps(read("percussion-beside.musicxml")) == "CDEF"
    assert steps(read("four-voices.abc", part="B")) == "FFBCF"
    assert steps(read("songs-with-words.abc", piece="2")) == "FAD"


@pytest.mark.parametrize(
    ("name", "played"),
    [
        ("repeats-and-endings.musicxml", "CDEFG CDEFC"),
        ("da-capo-al-fine.musicxml", "CDEFG ABAG CDEFG"),
        ("dal-segno-al-coda.musicxml", "CDEF GABC DE GABC D C"),
    ],
)
def test_repeats_and_jumps_are_played_out_if_wished(name, played):
    reading = read(name, play_out=True)
    assert steps(reading) == played.replace(" ", "")
    assert reading.notices == ()


def test_bars_of_a_score_are_chosen_with_key_and_time_as_they_are_there():
    bars = read("repeats-and-endings.musicxml", bars=(2, 3)).passage.bars
    assert [(bar.time, bar.key_fifths, len(bar.notes)) for bar in bars] == [((4, 4), 0, 1), (None, None, 1)]


def test_marks_are_kept():
    first, _, second, *_ = read("grace-notes.musicxml").passage, None, read("ornaments.musicxml").passage
    assert [[str(pitch) for pitch in n.grace] for n in first] == [["B4"], ["E5", "F5"], [], []]
    assert [sorted(n.ornaments) for n in second] == [["trill-mark"], ["mordent"], ["tremolo"], []]
    assert [n.fermata for n in second] == [False, False, False, True]
    assert [n.lyric for n in read("lyrics.musicxml").passage] == ["wa-", "ter", "falls", ""]
    assert next(iter(read("rehearsal-and-words.musicxml").passage)).words == "A Allegretto"
    whole = read("one-line.musicxml").passage
    assert (whole.title, whole.composer) == ("Weir Song", "A. Miller")
    assert read("about-66.musicxml").passage.tempo_bpm == 99


def test_hairpins_lead_from_mark_to_mark():
    loud = [event.loudness for event in sounding_events(read("hairpins.musicxml").passage)]
    assert loud[0] < loud[1] < loud[2] < loud[3]
    assert loud[3] == loud[4] > loud[5]


def test_a_file_that_says_nothing_of_its_pitch_says_so():
    assert read("no-transpose.musicxml").silent_on_pitch
    assert not any(read(name).silent_on_pitch for name in ("one-line.musicxml", "concert-score.musicxml"))
    assert not read("session-tune.abc").silent_on_pitch
    assert read("octave-change.musicxml").to_sounding == Interval(-8, -14)


@given(st.sampled_from(SCORES), st.data())
@settings(max_examples=150, deadline=None)
def test_a_damaged_score_is_read_or_refused_and_nothing_else(path, data):
    whole = path.read_bytes()
    at = data.draw(st.integers(0, len(whole)))
    gone = data.draw(st.integers(0, 40) | st.just(len(whole)))
    put = data.draw(
        st.binary(max_size=12) | st.sampled_from([b"<note/>", b"-", b"9" * 30, b"</part>", b"|:"])
    )
    with contextlib.suppress(CoreError):
        passage = read_score(whole[:at] + put + whole[at + gone :], Choices(play_out=True)).passage
        assert any(not note.is_rest for note in passage)
