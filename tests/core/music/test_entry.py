"""Notes entered and changed: every press leaves a passage that can be written, its bars full."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import CoreError, PassageError, PitchError
from core.music import entry
from core.music.entry import LENGTHS, Draft
from core.music.notation.abc import read_abc
from core.music.notation.abc_writer import write_abc
from core.music.note_names import NAMES_LIMIT, parse_names
from core.music.passage import NOTES_LIMIT
from core.music.pitch import parse_pitch
from core.music.studies import Study, study
from core_shapes import passages, pitches

C5 = parse_pitch("C5")


def said(draft):
    return " | ".join(
        " ".join(
            f"{n.written_pitch.ascii if n.written_pitch else 'z'}:{n.quarters}{'-' * n.tied}"
            for n in bar.notes
        )
        for bar in draft.passage.bars
    )


def begun(names="C5 D5 E5 F5 G5", length="4", time=(4, 4)):
    return entry.insert(entry.blank(0, time), parse_names(names, C5), LENGTHS[length])


def test_notes_go_on_over_bar_lines_tied():
    draft = entry.insert(begun("C5 D5 E5", time=(3, 4)), parse_names("F5", C5), LENGTHS["1"])
    assert said(draft) == "C5:1 D5:1 E5:1 | F5:3- | F5:1"
    assert draft.here.written_pitch.step == "F"
    assert said(entry.delete(draft)) == "C5:1 D5:1 E5:1"
    shorter = entry.set_length(draft, LENGTHS["2"])
    assert said(shorter) == "C5:1 D5:1 E5:1 | F5:2"  # what the bar line parted is one note again


def test_a_note_put_in_moves_what_follows_and_the_cursor_stands_on_it():
    draft = entry.insert(Draft(begun().passage, 1), parse_names("A5 B5", C5), LENGTHS["8"])
    assert said(draft) == "C5:1 D5:1 A5:1/2 B5:1/2 E5:1 | F5:1 G5:1"
    assert draft.at == 3


def test_a_note_over_a_bar_line_is_one_wherever_the_cursor_stands_on_it():
    draft = entry.insert(begun("C5 D5 E5", time=(3, 4)), parse_names("F5", C5), LENGTHS["1"])
    for at in (3, 4):
        assert said(entry.move_pitch(Draft(draft.passage, at), semitones=1)).endswith("F#5:3- | F#5:1")
        assert said(entry.delete(Draft(draft.passage, at))) == "C5:1 D5:1 E5:1"


def test_bars_before_the_cursor_stay_as_they_are_however_odd():
    odd = read_abc("M:4/4\nL:1/4\nK:C\nc d e|f g a b c'|[M:3/4] d e f|g a|b3|]").passage
    for at in range(len(tuple(odd))):
        bar = next(n for n in range(5) if at < sum(len(one.notes) for one in odd.bars[: n + 1]))
        for change in (entry.delete, entry.dot, lambda draft: entry.insert(draft, [C5], LENGTHS["8"])):
            assert change(Draft(odd, at)).passage.bars[:bar] == odd.bars[:bar]
    assert entry.with_signs(Draft(odd, 0), 2, (4, 4), 80.0).passage.bars[1:] == odd.bars[1:]


def test_lengths_dots_and_triplets_of_a_note():
    draft = Draft(begun().passage, 0)
    assert said(entry.dot(draft)) == "C5:3/2 D5:1 E5:1 F5:1/2- | F5:1/2 G5:1"
    assert said(entry.dot(entry.dot(draft))) == said(draft)
    assert said(entry.triplet(draft)).startswith("C5:2/3 D5:1")
    assert said(entry.triplet(entry.triplet(draft))) == said(draft)


def test_signs_octaves_ties_slurs_and_marks():
    draft = Draft(begun().passage, 0)
    sharper = entry.move_pitch(draft, semitones=1)
    assert sharper.here.written_pitch.ascii == "C#5"
    assert entry.move_pitch(sharper, semitones=1).here.written_pitch.ascii == "D5"
    assert entry.move_pitch(draft, steps=7).here.written_pitch.ascii == "C6"
    slurred = entry.toggle_slur(entry.move(entry.toggle_slur(draft), 2))
    assert [(n.slur_start, n.slur_stop) for n in slurred.notes[:3]] == [
        (True, False),
        (False, False),
        (False, True),
    ]
    assert entry.toggle_tie(draft).here.tied
    assert entry.set_dynamic(draft, "p").here.dynamic == "p"
    assert entry.set_dynamic(entry.set_dynamic(draft, "p"), "p").here.dynamic == ""
    assert entry.toggle_articulation(draft, "accent").here.articulations == {"accent"}
    with pytest.raises(PassageError, match="a dynamic must be one of"):
        entry.set_dynamic(draft, "loud")


def test_key_time_and_tempo_of_the_beginning():
    draft = entry.with_signs(begun(), 2, (3, 4), 72.0)
    assert said(draft) == "C5:1 D5:1 E5:1 | F5:1 G5:1"
    assert (draft.passage.bars[0].key_fifths, draft.passage.tempo_bpm, draft.key_here) == (2, 72, 2)
    later = entry.insert(entry.with_signs(entry.blank(), 1, (2, 4), 60.0), [C5], LENGTHS["4"])
    assert (later.passage.tempo_bpm, later.passage.bars[0].time) == (60, (2, 4))


def test_there_is_an_end_to_what_can_be_entered():
    draft = Draft(read_abc("L:1/4\nK:C\n" + "cdef|" * (NOTES_LIMIT // 4)).passage, 0)
    with pytest.raises(PassageError, match="at most 3,000"):
        entry.insert(draft, [C5], LENGTHS["4"])


PRESSES = st.one_of(
    st.tuples(st.just("insert"), st.none() | pitches(), st.sampled_from(sorted(LENGTHS)), st.booleans()),
    st.tuples(st.just("length"), st.sampled_from(sorted(LENGTHS))),
    st.tuples(st.just("move"), st.integers(-4, 4)),
    st.tuples(st.sampled_from(["dot", "triplet", "delete", "tie", "slur", "sharper", "octave"])),
)


def press(draft, what, *more):
    match what:
        case "insert":
            pitch, length, three = more
            return entry.insert(draft, [pitch], LENGTHS[length], entry.TRIPLET if three else (1, 1))
        case "length":
            return entry.set_length(draft, LENGTHS[more[0]])
        case "move":
            return entry.move(draft, more[0])
        case "sharper":
            return entry.move_pitch(draft, semitones=1)
        case "octave":
            return entry.move_pitch(draft, steps=7)
        case "dot" | "triplet" | "delete":
            return getattr(entry, what)(draft)
        case _:
            return getattr(entry, f"toggle_{what}")(draft)


@given(st.lists(PRESSES, max_size=25), st.sampled_from([(4, 4), (3, 4), (6, 8)]))
def test_whatever_is_pressed_every_bar_but_the_last_is_full_and_it_can_be_kept(presses, time):
    draft = entry.blank(0, time)
    for what, *more in presses:
        try:
            draft = press(draft, what, *more)
        except PitchError:
            continue  # beyond all instruments
        full = Fraction(4 * time[0], time[1])
        assert all(bar.quarters == full for bar in draft.passage.bars[:-1])
        assert draft.passage.bars[-1].quarters <= full
        assert -1 <= draft.at < len(draft.notes)
    if not draft.is_blank:
        again = read_abc(write_abc(draft.passage)).passage
        assert [n.quarters for n in again] == [n.quarters for n in draft.notes]


@given(passages(), st.integers(0, 30))
def test_a_change_of_pitch_leaves_all_other_notes_as_they_are(passage, at):
    draft = entry.move(Draft(passage, -1), at + 1)
    moved = entry.move_pitch(draft, semitones=1)
    others = [n for place, n in enumerate(moved.notes) if place != draft.at]
    assert others == [n for place, n in enumerate(draft.notes) if place != draft.at]


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("F#6", "F#6"),
        ("f sharp", "F#5"),
        ("B♭4 A4 G4", "Bb4 A4 G4"),
        ("c b a", "C5 B4 A4"),
        ("ab bb b", "Ab4 Bb4 B4"),
        ("e-flat 5, rest; D double sharp 6", "Eb5 z D##6"),
        ("f", "F5"),
        ("F natural5 r", "F5 z"),
        ("", ""),
    ],
)
def test_names_as_teachers_type_them(text, names):
    assert " ".join(pitch.ascii if pitch else "z" for pitch in parse_names(text, C5)) == names


def test_a_name_without_a_sign_has_that_of_the_key():
    assert [pitch.ascii for pitch in parse_names("e b", C5, -2)] == ["Eb5", "Bb4"]


@pytest.mark.parametrize("text", ["H4", "F#6 zork", "4", "C12", "c" * 300, "do re mi"])
def test_what_is_no_name_is_said_with_how_names_are_written(text):
    with pytest.raises(CoreError, match=r"write notes like F#6|octave must"):
        parse_names(text, C5)


def test_so_many_names_at_once():
    with pytest.raises(PitchError, match=f"at most {NAMES_LIMIT}"):
        parse_names("c " * (NAMES_LIMIT + 1), C5)


@pytest.mark.parametrize("kind", Study)
def test_studies_go_up_and_come_back_within_their_range(kind):
    low, high = parse_pitch("Bb3"), parse_pitch("Bb5")
    notes = study(kind, "Bb", "major", low, high)
    assert min(n.midi for n in notes) == low.midi
    assert max(n.midi for n in notes) == high.midi
    assert notes[0] == notes[-1] == low
    assert len(notes) > 3


def test_a_study_that_has_no_room_is_refused():
    with pytest.raises(PitchError, match="too little"):
        study(Study.OCTAVES, "C", "major", parse_pitch("C4"), parse_pitch("G4"))
    with pytest.raises(PitchError, match="no F# lies"):
        study(Study.ARPEGGIO, "F#", "major", parse_pitch("G4"), parse_pitch("E5"))
