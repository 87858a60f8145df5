"""Everything that is told stretch by stretch: against every route, one by one."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from catalogue import shipped
from core.evidence.sources import Heard, Readings
from core.routes.alternatives import AS_GOOD, NEAR, by_habit, by_stretch, near
from core.routes.faults import AVOIDED_BESIDE, STRANDS
from core.routes.most_worth import LISTED, WORTH_LISTING, most_worth
from core.routes.stretches import Costs, Stretches, best, cost_of, through
from core.routes.sureness import Footing, founded
from core.routes.table import added_cost, route_through
from core.routes.trade_offs import exchanges
from core_shapes import DEMO, abc_of, solved

TOLERANCE = 1e-9  # sums in another order
lines = st.lists(st.integers(58, 92), min_size=2, max_size=6)
CHART = shipped.catalogue("alto-saxophone")
FAMILY = {n: entry.kind for n, entry in enumerate(CHART.entries)}


def every_route(table):
    """Every route of a short passage, slots counted within their rows."""
    first, usable = table.problem.trellis.first, table.problem.trellis.usable
    choices = [np.flatnonzero(usable[a:b]).tolist() for a, b in itertools.pairwise(first)]
    return [np.array(slots) for slots in itertools.product(*choices)]


def with_changes(table, change):
    """The route with a change put in."""
    problem, slots = table.problem, table.slots.copy()
    for note, entry in zip(change.notes, change.after, strict=True):
        start, end = problem.trellis.first[note + 1 : note + 3]
        slots[note + 1] = problem.trellis.rows[start:end].tolist().index(entry)
    return slots


@given(lines, st.booleans(), st.floats(40, 200))
def test_places_add_up_to_the_route(midis, slur, tempo):
    table = solved("alto-saxophone", abc_of(midis, slur), tempo)
    stretches, slots = Stretches.of(table.problem), table.slots
    for stretch in stretches.all:
        cost, route = best(stretch, stretches.costs)
        here = stretches.local(stretch, table.slots)
        assert cost_of(stretch, stretches.costs, here[None])[0, 0] == pytest.approx(cost[0], abs=TOLERANCE)
        slots = stretches.put(slots, stretch, route[:, 0])
        extra = [values[:, 0] - cost[0] for values in through(stretch, stretches.costs)]
        for row, told in zip(stretch.rows, extra, strict=True):
            usable = table.problem.trellis.usable[slice(*table.problem.trellis.first[row : row + 2])]
            assert told == pytest.approx(table.extra_at(row - 1)[usable], abs=TOLERANCE)
    assert added_cost(table.problem, slots) == pytest.approx(table.route.cost, abs=TOLERANCE)


@given(lines, st.floats(40, 200))
def test_ways_by_stretch_are_the_best_through_every_other_fingering(midis, tempo):
    table = solved("alto-saxophone", abc_of(midis), tempo)
    changes = by_stretch(table)
    for change in changes:
        cost = added_cost(table.problem, with_changes(table, change))
        assert cost - table.route.cost == pytest.approx(change.extra, abs=TOLERANCE)
    costs = sorted(
        added_cost(table.problem, route_through(table, note, slot)) - table.route.cost
        for note in range(len(midis))
        if not table.problem.trellis.gap[note + 1]
        for slot in np.flatnonzero(
            table.problem.trellis.usable[slice(*table.problem.trellis.first[note + 1 : note + 3])]
        )
        if slot != table.slots[note + 1]
    )
    assert {round(c, 6) for c in costs} == {round(change.extra, 6) for change in changes}
    listed = near(changes)
    assert all(AS_GOOD <= change.extra < NEAR for change in listed)
    touched = [note for change in listed for note in change.notes]
    assert len(touched) == len(set(touched))


@settings(max_examples=25)
@given(lines, st.floats(40, 200))
def test_a_habit_costs_what_the_best_route_that_keeps_it_costs(midis, tempo):
    table = solved("alto-saxophone", abc_of(midis), tempo)
    problem, routes = table.problem, every_route(table)
    choice = np.add.reduceat(problem.trellis.usable.astype(int), problem.trellis.first[:-1]) > 1
    for habit in by_habit(table, FAMILY):

        def keeps(slots, habit=habit):
            for row in np.flatnonzero(choice):
                offered = problem.trellis.rows[problem.trellis.first[row] : problem.trellis.first[row + 1]]
                usable = offered[
                    problem.trellis.usable[problem.trellis.first[row] : problem.trellis.first[row + 1]]
                ]
                of = np.isin(usable, sorted(habit.entries))
                if of.any() and not of.all() and (offered[slots[row]] in habit.entries) != habit.always:
                    return False
            return True

        least = min(added_cost(problem, slots) for slots in routes if keeps(slots))
        assert least - table.route.cost == pytest.approx(habit.extra, abs=TOLERANCE)


@given(lines, st.floats(40, 200), st.sampled_from(STRANDS), st.sampled_from([0.0, 0.5, 1.0, 3.0]))
def test_exchanges_are_the_corners_of_all_routes(midis, tempo, strand, weight):
    table = solved("alto-saxophone", abc_of(midis), tempo, weights={strand: weight})
    problem = table.problem

    def pair(slots):
        faults = problem.node_faults(slots).summed() + problem.move_faults(slots).summed()
        starts = problem.trellis.head_start[problem.trellis.first[:-1] + slots].sum()
        cells = problem.trellis.cells(np.arange(len(slots) - 1), slots[:-1], slots[1:])
        starts -= AVOIDED_BESIDE * problem.given.demands.avoided[cells[1:-1]].sum()
        own = getattr(faults, strand)
        return own, faults.weighted({**problem.weights, strand: 0.0}).total - starts

    mine, theirs = pair(table.slots)
    all_pairs = np.array([pair(slots) for slots in every_route(table)])
    found = exchanges(table)[strand]
    for exchange in (*found.gaining, *found.paying):
        own, rest = pair(with_changes(table, exchange.change))
        assert (mine - own, rest - theirs) == pytest.approx((exchange.gains, exchange.pays), abs=TOLERANCE)
        assert exchange.change.extra >= -TOLERANCE
        # the best of all routes at some weight of the strand, as far as its own stretch goes
        if len(Stretches.of(problem).all) == 1:
            ratios = np.geomspace(0.1, 10, 4001)
            least = (all_pairs[:, 1][:, None] + ratios * all_pairs[:, 0][:, None]).min(axis=0)
            assert (rest + ratios * own - least).min() < 0.01 * max(1.0, own)


@pytest.mark.parametrize("model", DEMO)
def test_readings_are_worth_what_solving_anew_saves(model):
    """The saving of each outcome is what the whole passage, costed anew, saves against today's route."""
    table = solved(model, DEMO[model])
    wanted = most_worth(table)
    assert len(wanted) <= LISTED
    assert all(one.saves >= WORTH_LISTING for one in wanted)
    assert [one.saves for one in wanted] == sorted((one.saves for one in wanted), reverse=True)
    stretches = Stretches.of(table.problem)
    for one in wanted:
        assert one.entry in stretches.problem.trellis.rows[stretches.slots]


@pytest.mark.parametrize("model", DEMO)
def test_what_is_well_founded(model):
    table = solved(model, DEMO[model])
    told = founded(table)
    choice = np.add.reduceat(table.problem.trellis.usable.astype(int), table.problem.trellis.first[:-1]) > 1
    assert sorted(told) == (np.flatnonzero(choice) - 1).tolist()
    for one in told.values():
        assert 0 <= one.within <= 1
        assert one.loss >= 0
        assert (one.footing is Footing.SURE) == (one.within >= 0.9)


def test_a_measured_fingering_leaves_less_to_find_out():
    line = "L:1/2\nK:C\n _B4 |"
    before = solved("alto-saxophone", line, 60.0)
    open_loss = founded(before)[0].loss
    from catalogue.in_hand import moves_of
    from core.music.events import sounding_events
    from core.music.notation.abc import read_abc
    from core.routes.solve import solve
    from core_shapes import in_hand_of

    read = tuple(
        (entry.id, Heard(readings=(Readings(1, (0.0, 1.0, -1.0)),)))
        for entry in CHART.by_midi[70]
        if entry.partial is not None
    )
    alto = in_hand_of("alto-saxophone", heard=read)
    events = sounding_events(read_abc(line).passage, 60.0)
    after = solve(events, alto, moves_of(alto.catalogue))
    assert founded(after)[0].loss < open_loss


def test_columns_are_solved_as_one_by_one():
    table = solved("alto-saxophone", DEMO["alto-saxophone"])
    stretches = Stretches.of(table.problem)
    faster = np.array([0.5, 1.0, 1.7])
    together = stretches.costs_where(table.problem.given.known, table.problem.notes.at(faster))
    for column, factor in enumerate(faster):
        single = stretches.costs_where(table.problem.given.known, table.problem.notes.at(np.array([factor])))
        for stretch in stretches.all:
            one = best(stretch, single)[0][0]
            assert best(stretch, together)[0][column] == pytest.approx(one, abs=TOLERANCE)
    assert isinstance(together, Costs)
