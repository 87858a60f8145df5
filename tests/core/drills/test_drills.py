"""Laws of drills: full bars, spelled keys, within reach, fingered as the music, read again as the same."""

from collections import Counter
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core_shapes import in_hand_of

from catalogue.in_hand import moves_of
from core.charts.entry import Entry
from core.drills.kinds import drills
from core.drills.material import Drill, DrillKind, Material, Served
from core.drills.order import easiest_first
from core.drills.stones import stones_in_chart
from core.errors import PassageError
from core.instruments.fingering import format_fingering
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.music.notation.abc_writer import write_abc
from core.music.notation.musicxml import read_musicxml
from core.music.notation.musicxml_writer import write_musicxml
from core.music.passage import NOMINAL
from core.music.pitch import parse_pitch, spell
from core.routes.explain import chosen
from core.routes.hard_moves import safe_bpm

MODELS = ("alto-saxophone", "b-flat-clarinet", "oboe", "bassoon")


def material(model, midis, fifths=0, top=None, bpm=72.0):
    """Notes on a shipped model, fingered as its chart offers first."""
    in_hand = in_hand_of(model)
    playable = frozenset(m for m in in_hand.instrument.accepted if any(in_hand.at_hand(m)))

    def touches(midi):
        entry = in_hand.plainest(spell(midi))
        return format_fingering(entry.fingering, in_hand.instrument) if entry else ""

    others = [e for e in in_hand.at_hand(max(midis)) if format_fingering(e.fingering, in_hand.instrument)]
    return Material(
        notes=tuple(Served(spell(midi, fifths), Fraction(1, 4), touches(midi)) for midi in midis),
        fifths=fifths,
        tempo_bpm=bpm,
        playable=playable,
        top=max(playable) if top is None else top,
        fingerings={midi: touches(midi) for midi in midis},
        colours=tuple(format_fingering(e.fingering, in_hand.instrument) for e in others[1:2]),
    )


@st.composite
def materials(draw):
    model = draw(st.sampled_from(MODELS))
    accepted = in_hand_of(model).instrument.accepted
    low, high = accepted[0], accepted[-1]
    midis = draw(st.lists(st.integers(low, high), min_size=1, max_size=9))
    return model, material(model, midis, draw(st.integers(-5, 6)), draw(st.integers(low, high)))


@settings(max_examples=25, deadline=None)
@given(materials())
def test_every_drill_is_playable_as_it_is_written(made):
    model, served = made
    in_hand, own = in_hand_of(model), {note.pitch.midi for note in served.notes}
    instrument = in_hand.instrument
    for drill in drills(served):
        passage = drill.passage
        assert all(bar.quarters == 4 for bar in passage.bars), drill.name
        assert passage.tempo_bpm == served.tempo_bpm
        assert "The spot" not in drill.name or len(served.notes) <= 16
        for note in passage:
            assert note.nominal in NOMINAL
            if note.written_pitch is not None:
                assert abs(note.written_pitch.alter) < 2
                assert note.written_pitch.midi in own or served.within(note.written_pitch.midi)
                wanted = served.fingerings.get(note.written_pitch.midi)
                kinds = (DrillKind.COLOURS, DrillKind.MATCHING, DrillKind.STONES)
                assert wanted is None or drill.kind in kinds or note.fingering == wanted
        slurs = Counter(
            (note.slur_start, note.slur_stop) for note in passage if note.slur_start or note.slur_stop
        )
        assert slurs[True, False] == slurs[False, True]
        xml = write_musicxml(passage, instrument.to_sounding, instrument.label, instrument.clefs)
        again = read_musicxml(xml.encode()).passage
        assert (again.bars, again.title) == (passage.bars, passage.title)


def test_the_route_of_a_drill_keeps_the_fingerings_of_the_music():
    in_hand = in_hand_of("alto-saxophone")
    side = next(e for e in in_hand.catalogue.by_midi[70] if e.kind.value == "side")
    touches = format_fingering(side.fingering, in_hand.instrument)
    notes = tuple(
        Served(parse_pitch(name), Fraction(1, 2), touches if name == "Bb4" else "")
        for name in ("A4", "Bb4", "C5")
    )
    served = Material(notes, -1, 200.0, frozenset(in_hand.instrument.accepted), 84, {70: touches})
    found = easiest_first(drills(served), in_hand, moves_of(in_hand.catalogue))
    assert len(found) > 15
    assert [faults for *_, faults in found] == sorted(faults for *_, faults in found)
    # sixteenths of a trill ask more than the music in halves of a beat: they begin slower
    assert min(drill.passage.tempo_bpm for drill, *_ in found) < 200
    for drill, table, _ in found:
        assert safe_bpm(table, 0, len(table.problem.events) - 1, 400) >= drill.passage.tempo_bpm - 1
        for n, event in enumerate(sounding_events(drill.passage)):
            if event.written_pitch.midi == 70 and drill.kind is not DrillKind.COLOURS:
                assert chosen(table, n).entry == side, drill.name


def named(found, kind):
    return [drill for drill in found if drill.kind is kind]


def test_what_is_made_of_a_move_and_of_a_note():
    move = drills(material("b-flat-clarinet", (69, 71)))
    of_other_matter = {
        DrillKind.ADD_A_NOTE,
        DrillKind.MATCHING,
        DrillKind.STONES,
    }  # three notes, a harmonic, a way
    assert {drill.kind for drill in move} == set(DrillKind) - of_other_matter
    (trill,) = named(move, DrillKind.TRILL)
    assert [len(bar.notes) for bar in trill.passage.bars] == [4, 8, 12, 16, 1]
    assert len(named(move, DrillKind.RHYTHM)) == 9
    note = drills(material("b-flat-clarinet", (84,)))
    assert len(named(note, DrillKind.TRILL)) == 4  # whole and half steps, above and below
    assert not named(note, DrillKind.THROUGH_KEYS)


def test_loops_are_in_every_key_that_has_the_note():
    (loops,) = named(drills(material("oboe", (74,))), DrillKind.LOOPS)
    keys = [bar.key_fifths for bar in loops.passage.bars if bar.key_fifths is not None]
    assert sorted(keys) == [-3, -2, -1, 0, 1, 2, 3]
    for fifths in keys:
        assert (74 - 7 * fifths) % 12 in {0, 2, 4, 5, 7, 9, 11}


def test_a_fragment_goes_through_twelve_keys_and_every_octave():
    found = drills(material("alto-saxophone", (67, 69, 71), fifths=1, top=90))
    for drill in named(found, DrillKind.THROUGH_KEYS):
        firsts = [bar.notes[0].written_pitch.midi % 12 for bar in drill.passage.bars]
        assert sorted(firsts) == list(range(12))
        assert not any(note.id in drill.passage.foreign for note in drill.passage if note.written_pitch)
    (octaves,) = named(found, DrillKind.OCTAVES)
    assert [bar.notes[0].written_pitch.midi for bar in octaves.passage.bars] == [67, 79]


def test_a_drill_that_is_written_as_abc_sounds_the_same():
    for drill in drills(material("alto-saxophone", (76, 78, 79), fifths=2)):
        again = read_abc(write_abc(drill.passage)).passage
        assert [(n.written_pitch, n.quarters) for n in again] == [
            (n.written_pitch, n.quarters) for n in drill.passage
        ], drill.name


def test_nothing_is_made_of_nothing_or_of_too_much():
    for midis in ((), (70,) * 65):
        with pytest.raises((PassageError, ValueError)):
            material("oboe", midis)
    long = drills(material("oboe", tuple(70 + n % 5 for n in range(64))))
    assert max(sum(len(bar.notes) for bar in drill.passage.bars) for drill in long) < 500
    assert all(
        "first" in drill.name for drill in long if drill.kind in (DrillKind.RHYTHM, DrillKind.ADD_A_NOTE)
    )


def test_where_no_other_note_can_be_played_only_the_note_itself_is_left():
    served = Material((Served(parse_pitch("A6"), Fraction(1)),), 0, 60.0, frozenset({93}), 93)
    assert {drill.kind for drill in drills(served)} == {DrillKind.ATTACKS}


@pytest.mark.parametrize("model", MODELS)
def test_stones_change_one_touch_at_a_time_and_end_at_the_note(model):
    in_hand = in_hand_of(model)
    entries = [entry for entry in in_hand.catalogue.entries if not in_hand.lacking(entry)]
    starts = {entry.id for entry in entries}
    found = 0
    for goal in entries[::7]:
        way: list[Entry] = stones_in_chart(entries, goal, starts)
        found += bool(way)
        assert not way or (way[-1] == goal and len(way) > 2 and way[0].note.midi < goal.note.midi)
        for one, other in pairwise(way):
            a, b = one.fingering.steady, other.fingering.steady
            assert sum(a.held(touch) != b.held(touch) for touch in a.touches | b.touches) == 1
    assert found


def test_each_drill_says_what_it_is_for_in_words_of_its_own():
    made: list[Drill] = drills(material("alto-saxophone", (84, 86, 88)))
    names = [(drill.kind, drill.name) for drill in made]
    assert len(set(names)) == len(names)
    assert all(drill.purpose.endswith(".") for drill in made)
