"""One way of one note in a figure: kept where changing is worth less than it costs, at any tempo the same."""

from dataclasses import replace
from itertools import pairwise

import pytest

from catalogue.in_hand import moves_of
from core.instruments.hand import PlayerLevel
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.candidates import offer_for
from core.routes.explain import NEIGHBOURS, NOTEWORTHY, chosen, reason, route_faults
from core.routes.one_way import CHANGED_WAY, one_way
from core.routes.solve import solve
from core.routes.table import make_table
from core_shapes import in_hand_of

# Figures in which hands would go to and fro between two ways, were changing free; at the two speeds at which
# ways are chosen, eighths of 0.2 and 0.4 seconds.
FIGURES = [
    ("oboe", 150, "(d e d e d e d e)"),
    ("bassoon", 150, "(G, A, G, A, G, A, G, A,)"),
    ("alto-saxophone", 150, "(c' e' c' e' g' e' c' e')"),
    ("alto-saxophone", 150, "(B _B A _B F _B =B _B)"),
    ("oboe", 75, "(D F E F _E F =E F)"),
    ("b-flat-clarinet", 75, "(F ^F G ^F E ^F =F ^F)"),
]


def solved_line(model, tempo, line, pins=()):
    in_hand = in_hand_of(model)
    in_hand = replace(in_hand, hand=replace(in_hand.hand, level=PlayerLevel.BEGINNING))
    clef = " clef=bass" * (model == "bassoon")
    events = sounding_events(read_abc(f"L:1/8\nM:4/4\nK:C{clef}\n{line}|").passage, float(tempo))
    return in_hand, solve(events, in_hand, moves_of(in_hand.catalogue, in_hand.hand), dict(pins))


def ways_of(table):
    """The way of each note, by its pitch."""
    plain, ways = table.problem.given.chart.plain, {}
    for n, event in enumerate(table.problem.events):
        ways.setdefault(event.written_pitch.midi, []).append((event.id, plain[chosen(table, n).entry.id]))
    return ways


@pytest.mark.parametrize(("model", "tempo", "line"), FIGURES)
def test_a_note_that_comes_again_keeps_its_way_or_it_is_worth_the_changes(model, tempo, line):
    """Held from outside: one of its ways throughout costs more faults than the changes are worth."""
    _, table = solved_line(model, tempo, line)
    spent = float(route_faults(table).total)
    for taken in ways_of(table).values():
        ways = [way for _, way in taken]
        changes = sum(one != other for one, other in pairwise(ways))
        for way in set(ways) if changes else ():
            _, pinned = solved_line(model, tempo, line, [(note, way) for note, _ in taken])
            assert float(route_faults(pinned).total) - spent > CHANGED_WAY * changes, (taken, way)


def test_without_it_hands_would_change_to_and_fro():
    """Some of these figures do change where changing is free, so that the test above tells something."""
    changing = 0
    for model, tempo, line in FIGURES:
        _, table = solved_line(model, tempo, line)
        free = make_free(table)
        changing += any(len({way for _, way in taken}) > 1 for taken in ways_of(free).values())
    assert changing >= 2


def make_free(table):
    problem = table.problem
    nothing = problem.same_way * 0
    return make_table(replace(problem, same_way=nothing, node=problem.node + problem.same_way))


@pytest.mark.parametrize(("model", "tempo", "line"), FIGURES)
def test_ways_are_the_same_however_the_table_was_come_to(model, tempo, line):
    in_hand, table = solved_line(model, tempo, line)
    assert one_way(table).slots.tolist() == table.slots.tolist()
    faster = solved_line(model, 1.5 * tempo, line)[1]
    quicker = one_way(make_table(table.problem.quicker(1.5)))
    assert ways_of(quicker) == ways_of(faster)
    event = table.problem.events[1]
    entry = chosen(table, 1).entry.id
    offer = offer_for(in_hand, event.written_pitch, entry, frozenset(), table.problem.notes.met(1))
    changed = one_way(table.with_offer(1, offer))
    fresh = solved_line(model, tempo, line, [(event.id, entry)])[1]
    assert changed.slots.tolist() == fresh.slots.tolist()
    assert changed.route.cost == pytest.approx(fresh.route.cost)


def test_after_a_rest_or_struck_again_a_note_begins_anew():
    _, table = solved_line("alto-saxophone", 120, "B _B z _B")
    figures = table.problem.same_way
    assert not figures.any()
    _, table = solved_line("alto-saxophone", 120, "_B _B _B _B")
    assert not table.problem.same_way.any()


def test_what_is_taught_beside_neighbours_is_the_reason_where_no_strand_is():
    in_hand = in_hand_of("oboe")
    events = sounding_events(read_abc("L:1/4\nM:4/4\nK:C\nC _E C _E|").passage, 60.0)
    why = reason(solve(events, in_hand, moves_of(in_hand.catalogue)), 1)
    assert why.because == NEIGHBOURS
    assert abs(why.saved.hands) < NOTEWORTHY
