import pytest
from hypothesis import given

from core.music.events import sounding_events
from core.music.notation.formats import read_score, written_for
from core.music.notation.musicxml_writer import write_musicxml
from core.music.pitch import Interval
from core_shapes import DATA, bar, note, passages, score

ALTO = Interval(-5, -9)


@given(passages())
def test_written_and_read_again_it_is_unchanged(passage):
    text = write_musicxml(passage, ALTO, "Alto saxophone")
    again = read_score(text.encode())
    assert again.passage == passage
    assert again.to_sounding == ALTO
    assert write_musicxml(again.passage, ALTO, "Alto saxophone") == text


def test_slurs_ties_tuplets_and_marks_survive():
    source = read_score((DATA / "demo" / "over-the-top-sluice.abc").read_bytes()).passage
    shipped = read_score((DATA / "demo" / "over-the-top-sluice.musicxml").read_bytes()).passage
    assert shipped == source
    assert read_score(write_musicxml(source, ALTO, "Alto saxophone").encode()).passage == source
    assert sum(n.slur_start for n in source) == sum(n.slur_stop for n in source) > 10
    assert any(n.tuplet == (3, 2) for n in source)
    assert any(n.tied for n in source)


def test_fingerings_stand_as_text_under_the_notes():
    passage = read_score(b"K:C\n_B2 c2|").passage.with_fingerings({"n1": "L1 bis", "n2": "open"})
    text = write_musicxml(passage, ALTO, "Alto saxophone")
    assert "<text>L1 bis</text>" in text
    assert [n.fingering for n in read_score(text.encode()).passage] == ["L1 bis", "open"]


def test_accidentals_are_written_once_a_bar():
    text = write_musicxml(read_score(b"K:G\n^c c f =f ^f|c|").passage, ALTO, "x")
    assert text.count("<accidental>") == 3  # ^c, =f, ^f; the second c and the key's f need none


def test_beams_follow_the_beat():
    text = write_musicxml(read_score(b"M:4/4\nL:1/16\nK:C\nCDEF G2A2 z2 B2 c4|").passage, ALTO, "x")
    levels = [text.count(f'<beam number="{level}">') for level in (1, 2)]
    assert levels == [6, 4]
    assert text.count(">begin<") == text.count(">end<") == 3


def test_reading_what_others_write():
    direction = "<direction><direction-type><dynamics><ff/></dynamics></direction-type></direction>"
    metronome = (
        "<direction><direction-type><metronome><beat-unit>half</beat-unit>"
        "<per-minute>50</per-minute></metronome></direction-type></direction>"
    )
    slur = '<notations><slur type="start" number="2"/><articulations><accent/></articulations></notations>'
    grace = "<note><grace/><pitch><step>C</step><octave>5</octave></pitch></note>"
    reading = read_score(
        score(
            bar(
                metronome,
                direction,
                note(more=slur),
                grace,
                note("D", duration=3),
                "<forward><duration>2</duration></forward>",
            )
        )
    )
    first, second, gap = list(reading.passage)
    assert (first.tempo_bpm, first.dynamic, first.slur_start) == (100, "ff", True)
    assert first.articulations == {"accent"}
    assert (second.quarters, gap.is_rest, gap.quarters) == (3, True, 2)
    assert [str(pitch) for pitch in second.grace] == ["C5"]
    assert reading.notices == ()


def test_a_length_that_no_note_has_becomes_tied_notes():
    events = sounding_events(read_score(score(bar(note(duration=5)))).passage)
    assert [part.note.quarters for part in events[0].notes] == [4, 1]


@pytest.mark.parametrize(
    ("head", "transpose", "pitch_is", "written"),
    [
        pytest.param("", "", "file", "C5", id="silent file: as written"),
        pytest.param("", "", "concert", "A5", id="told concert: up a major sixth"),
        pytest.param("<defaults><concert-score/></defaults>", "", "file", "A5", id="file says concert"),
        pytest.param("<defaults><concert-score/></defaults>", "", "written", "C5", id="told written"),
        pytest.param("", "-5 -9", "file", "C5", id="file for the alto"),
        pytest.param("", "-1 -2", "file", "G5", id="file for a B-flat instrument"),
        pytest.param("", "-1 -2", "written", "C5", id="B-flat part read as it stands"),
    ],
)
def test_which_pitch_a_source_is_in(head, transpose, pitch_is, written):
    attributes = "<divisions>1</divisions>"
    if transpose:
        steps, semitones = transpose.split()
        attributes += f"<transpose><diatonic>{steps}</diatonic><chromatic>{semitones}</chromatic></transpose>"
    reading = read_score(score(bar(note(), attributes=attributes), head))
    assert str(next(iter(written_for(reading, ALTO, pitch_is))).written_pitch) == written


def test_octave_transposition_and_missing_diatonic():
    attributes = (
        "<divisions>1</divisions><transpose><chromatic>-2</chromatic>"
        "<octave-change>-1</octave-change></transpose>"
    )
    assert read_score(score(bar(note(), attributes=attributes))).to_sounding == Interval(-8, -14)
