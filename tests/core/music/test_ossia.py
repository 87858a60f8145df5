"""The ossia of a passage: what is played, how it stands on its small staff, and in MusicXML."""

from hypothesis import given
from hypothesis import strategies as st

from core.music.notation.abc import read_abc
from core.music.notation.musicxml import read_musicxml
from core.music.notation.musicxml_writer import write_musicxml
from core.music.ossia import OSSIA_ID, as_played, by_octaves, ossia_of, small_staff, with_ossia
from core.music.pitch import Interval, Pitch
from core_shapes import bar, note, passages, pitches, score

LINE = "L:1/8\nK:D\n(d2 f2 a2 d'2) | (e'2{f'}g'2 Ta'4-) | (a'4 d4) | f8 |"


def test_graces_and_ornaments_go_along_an_octave_away_and_not_to_another_tone():
    passage = read_abc(LINE).passage
    octave = {"n6": Pitch("G", 0, 5), "n7": Pitch("A", 0, 5), "n8": Pitch("A", 0, 5)}
    played = {n.id: n for n in as_played(with_ossia(passage, octave))}
    assert [str(pitch) for pitch in played["n6"].grace] == ["F♯5"]
    assert played["n7"].ornaments
    tone = {n.id: n for n in as_played(with_ossia(passage, {"n6": Pitch("E", 0, 6), "n7": Pitch("F", 1, 6)}))}
    assert not tone["n6"].grace
    assert not tone["n7"].ornaments
    assert str(tone["n7"].written_pitch) == "F♯6"


def test_a_small_staff_is_closed_in_itself():
    passage = read_abc(LINE).passage
    staff = small_staff(with_ossia(passage, {"n7": Pitch("A", 0, 5), "n3": Pitch("A", 0, 4)}))
    assert list(staff) == [0, 1]
    notes = [n for place in staff for n in staff[place].notes]
    assert [n.id for n in notes] == [f"{OSSIA_ID}n{k}" for k in range(1, 8)]
    assert not notes[-1].tied
    assert sum(n.slur_start for n in notes) == sum(n.slur_stop for n in notes) == 2


@given(passages(), st.data())
def test_musicxml_is_read_as_it_was_written(passage, data):
    pitched = [n for n in passage if n.written_pitch]
    some = data.draw(st.lists(st.sampled_from(pitched), unique_by=lambda n: n.id, max_size=4))
    other = {n.id: data.draw(pitches().filter(lambda p, n=n: p != n.written_pitch)) for n in some}
    written = with_ossia(passage, other)
    reading = read_musicxml(write_musicxml(written, Interval(0, 0), "x").encode())
    assert reading.passage == written
    assert ossia_of(reading.passage) == other


def test_an_ossia_in_another_rhythm_is_told_and_left_out():
    staff = "<staff-details><staff-type>ossia</staff-type></staff-details>"
    attributes = f"<divisions>1</divisions><staves>2</staves>{staff}"
    back = "<backup><duration>2</duration></backup>"
    content = note(duration=2, more="<staff>2</staff>"), back, note("E", more="<staff>1</staff>")
    reading = read_musicxml(score(bar(*content, attributes=attributes)))
    assert ossia_of(reading.passage) == {}
    assert [str(n.written_pitch) for n in reading.passage] == ["C5"]
    assert "ossia" in reading.notices[0]


@given(pitches(), st.integers(-20, 20))
def test_octaves_stay_within_what_can_be_written(pitch, octaves):
    assert (by_octaves(pitch, octaves).midi - pitch.midi) % 12 == 0
