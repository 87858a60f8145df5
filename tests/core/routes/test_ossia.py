"""Ossias: against every route, and as a whole with the passage that they stand in."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from catalogue.in_hand import moves_of
from core.evidence.sources import ALL_SOURCES
from core.music.events import PLAIN, sounding_events
from core.music.notation.abc import read_abc
from core.music.ossia import as_played, with_ossia
from core.music.phrases import phrases
from core.music.pitch import parse_pitch, spell
from core.routes.explain import chosen, route_faults
from core.routes.ossia import Departure, Solved, beyond, kept, ossias
from core.routes.solve import solve
from core_shapes import abc_of, in_hand_of

MODEL = "alto-saxophone"
HIGH = 'Q:1/4=100\nL:1/8\nK:D\n"D"d2 f2 a2 d\'2 | "D"(f\'2 "A7"g\'2) "D"a\'4- | a\'4 z4 | d2 c2 B2 A2 |]'


def asked(text, tempo_bpm=None, pins=None):
    passage = read_abc(text).passage
    in_hand = in_hand_of(MODEL)
    moves = moves_of(in_hand.catalogue)
    tempo = tempo_bpm or passage.tempo_bpm
    table = solve(sounding_events(passage, tempo), in_hand, moves, pins or {})
    return Solved(passage, table, in_hand, moves, tempo, PLAIN, pins or {}, {}, None, ALL_SOURCES)


def entries(table):
    return {event.id: chosen(table, n) for n, event in enumerate(table.problem.events)}


def test_the_least_change_comes_first_and_chord_tones_are_those_of_the_chord():
    found = ossias(asked(HIGH), parse_pitch("E6"))
    assert len(found) == 1
    offers = found[0].offers
    assert [(one.way, one.changed) for one in offers] == [
        (Departure.CHORD, 3),
        (Departure.NOTES, 3),
        (Departure.PHRASE, 7),
    ]
    assert list(map(str, offers[0].ossia.pitches.values())) == ["D6", "E6", "D6", "D6"]
    assert list(map(str, offers[1].ossia.pitches.values())) == ["F♯5", "G5", "A5", "A5"]
    assert offers[0].far < offers[1].far < offers[2].far


def test_without_harmony_there_are_no_chord_tones():
    found = ossias(asked(HIGH.replace('"D"', "").replace('"A7"', "")), parse_pitch("E6"))
    assert {one.way for one in found[0].offers} == {Departure.NOTES, Departure.PHRASE}


def test_notes_too_low_go_up_an_octave():
    found = ossias(asked("L:1/4\nK:C\nA, C D E |"))
    assert [str(n) for n in found[0].offers[0].ossia.pitches.values()] == ["A4"]


def test_a_phrase_is_offered_when_it_is_asked_for():
    question = asked(HIGH)
    assert ossias(question) == []
    within = phrases(question.events)[1]
    assert [one.way for one in ossias(question, None, within)[0].offers] == [Departure.NOTES]


def test_phrases_end_at_rests_and_breaths_and_where_bars_begin():
    events = sounding_events(
        read_abc("L:1/8\nK:C\nCDEF GABc | !breath!d z3 d4 |" + 6 * "cdef cdef |").passage
    )
    found = phrases(events)
    assert [one.start for one in found[1:]] == [one.stop for one in found[:-1]]
    assert (found[0].start, found[-1].stop) == (0, len(events))
    assert [len(one) for one in found] == [9, 17, 16, 16]


@settings(max_examples=25)
@given(
    st.lists(st.integers(74, 95), min_size=3, max_size=6),
    st.integers(80, 88),
    st.floats(50, 160),
    st.booleans(),
)
def test_an_ossia_adds_up_with_the_rest_and_is_the_best_there_is(midis, top, tempo, slur):
    question = asked(abc_of(midis, slur), tempo)
    highest, written = spell(top), entries(question.table)
    far = beyond(question.table, highest)
    assert far == [n for n, midi in enumerate(midis) if midi > top or written[f"n{n + 1}"] is None]
    for phrase in ossias(question, highest):
        assert list(phrase.beyond) == far
        for offered in phrase.offers:
            ossia = offered.ossia
            assert all(p.midi <= top for note, p in ossia.pitches.items())
            assert offered.changed == len(ossia.pitches)
            (again,) = kept(question, ossia.pitches)
            assert again.faults == pytest.approx(ossia.faults, abs=1e-9)
            played = as_played(with_ossia(question.passage, ossia.pitches))
            events = sounding_events(played, tempo)
            inside = {event.id: entry for event, entry in zip(ossia.events, ossia.entries, strict=True)}
            outside = {name: c.entry.id for name, c in written.items() if c and name not in inside}
            whole = solve(
                events, question.in_hand, question.moves, outside | {name: e.id for name, e in inside.items()}
            )
            expected = route_faults(question.table).total - ossia.written_faults + ossia.faults
            assert route_faults(whole).total == pytest.approx(expected, abs=1e-9)
            best = solve(events, question.in_hand, question.moves, outside)
            assert best.route.cost == pytest.approx(whole.route.cost, abs=1e-9)


def test_pins_outside_the_ossia_are_kept():
    question = asked(HIGH)
    table = question.table
    names = {event.id: n for n, event in enumerate(question.events)}
    offer = table.problem.given.offered[names["n4"]]
    other = next(c.entry.id for c in offer.candidates if c.entry.id != chosen(table, names["n4"]).entry.id)
    pinned = asked(HIGH, pins={"n4": other})
    for offered in ossias(pinned, parse_pitch("E6"))[0].offers:
        by_id = dict(zip((e.id for e in offered.ossia.events), offered.ossia.entries, strict=True))
        if "n4" not in offered.ossia.pitches and "n4" in by_id:
            assert by_id["n4"].id == other
        before = entries(offered.ossia.table)
        if "n4" in before and "n4" not in by_id:
            assert before["n4"].entry.id == other
