"""The tempo map: exact at whole numbers, proved in between, and no fingering changed for little."""

import numpy as np
import pytest

from core.music.notation.formats import read_score
from core.routes.facility import LOG_SPREAD
from core.routes.faults import NOTICED_CENTS, NOTICED_CENTS_S, TONE_HEARD_S, TONE_MINDED
from core.routes.stretches import Costs, Stretches, best, cost_of
from core.routes.table import make_table
from core.routes.tempo_map import WORTH_CHANGING, grid_of, holds, mapped, tempo_map
from core.routes.timing import FAST_S, LONG_S
from core_shapes import DATA, DEMO, solved

NOTEWORTHY = 0.005
PEAK = 0.24197072451914337  # of z times the normal density, at 1


@pytest.fixture(scope="module", params=DEMO)
def mapping(request):
    table = solved(request.param, DEMO[request.param])
    passage = read_score((DATA / "demo" / DEMO[request.param]).read_bytes()).passage
    return table, passage, passage.tempo_bpm, tempo_map(table, passage.tempo_bpm)


def test_at_whole_numbers_it_is_the_route(mapping):
    table, passage, _, found = mapping
    for bpm in (40, 63, 97, 132, 208):
        there = make_table(table.problem.quicker(bpm / passage.tempo_bpm))
        at = bpm - int(found.tempi[0])
        assert found.faults[at] == pytest.approx(there.route.cost, abs=1e-9)
        model = there.problem.given.chart.instrument.name
        assert solved(model, DEMO[model], bpm).route.cost == pytest.approx(there.route.cost, abs=1e-9)
        kept = there.problem.node[there.problem.trellis.first[:-1] + table.slots].sum()
        cells = there.problem.trellis.cells(
            np.arange(len(table.slots) - 1), table.slots[:-1], table.slots[1:]
        )
        extra = kept + there.problem.move[cells].sum() - there.route.cost
        assert found.kept_cost_at(bpm) == pytest.approx(extra, abs=1e-9)


def test_every_switch_saves_from_its_tempo_on_and_not_before(mapping):
    """Costed anew on both sides: at the tempo named the others are cheaper, one number nearer not."""
    table, passage, bpm, found = mapping
    for start, faster in ((table.slots, True), (table.slots, False)):
        slots = start.copy()
        outwards = [s for s in found.switches if s.faster == faster]
        for switch in outwards if faster else outwards[::-1]:
            changed = slots.copy()
            for note, entry in zip(switch.notes, switch.after, strict=True):
                first, last = table.problem.trellis.first[note + 1 : note + 3]
                changed[note + 1] = table.problem.trellis.rows[first:last].tolist().index(entry)
            saved = [
                saving(table, passage, at, slots, changed)
                for at in (switch.bpm, switch.bpm - (1 if faster else -1))
            ]
            assert saved[0] > 0 or not switch.notes
            if abs(switch.bpm - bpm) > 1:
                assert saved[1] <= 1e-9
            assert switch.saves > WORTH_CHANGING - 1e-9
            slots = changed


def saving(table, passage, bpm, slots, other):
    problem = table.problem.quicker(bpm / passage.tempo_bpm)
    rows = np.arange(len(slots) - 1)

    def cost(route):
        cells = problem.trellis.cells(rows, route[:-1], route[1:])
        return problem.node[problem.trellis.first[:-1] + route].sum() + problem.move[cells].sum()

    return cost(slots) - cost(other)


def test_what_holds_is_never_worse_by_much(mapping):
    table, _, bpm, found = mapping
    grid = grid_of(bpm)
    for _, one in mapped(table, bpm):
        loss = one.costs[0] - one.costs.min(axis=0)
        at = int(np.searchsorted(grid, bpm))
        assert loss[at] <= WORTH_CHANGING
    for note in range(len(table.problem.events)):
        slower, faster = holds(table, bpm, note)
        assert slower is None or slower in found.switches
        assert faster is None or faster in found.switches
        assert slower is None or slower.bpm <= bpm
        assert faster is None or faster.bpm >= bpm


# The certificate: between whole numbers no route at all is better, by more than so much, than those that are
# best somewhere on the step. What each cost may depart from the straight line between its two ends is bounded
# by how it bends, and by its monotony.


def bend(bent, difference):
    return np.minimum(np.maximum(bent, 0.0) / 8, np.abs(difference))


def peak(low, high):
    """The largest value of z times its normal density on intervals."""
    ends = np.maximum(*(z * np.exp(-(z**2) / 2) / np.sqrt(2 * np.pi) for z in (low, high)))
    return np.where((low <= 1) & (high >= 1), PEAK, ends)


def density(low, high):
    nearest = np.where((low <= 0) & (high >= 0), 0.0, np.minimum(np.abs(low), np.abs(high)))
    return np.exp(-(nearest**2) / 2) / np.sqrt(2 * np.pi)


def move_bends(problem, cells, notes, h, difference):
    """By how much moves may lie below, and above, the line between their ends; steps in columns."""
    row, before, after = (part[cells] for part in problem.trellis.ends)
    factor = np.sqrt(
        problem.given.known.hands_factor[problem.trellis.rows[before]]
        * problem.given.known.hands_factor[problem.trellis.rows[after]]
    )
    needed = problem.given.demands.needed_s[cells] * factor
    available = notes.available_s[np.minimum(row, len(problem.events) - 1)]
    with np.errstate(divide="ignore"):
        z = np.maximum(np.log(np.maximum(needed[:, None], 1e-300) / available) / LOG_SPREAD, -40.0)
    low, high = z[:, :-1], z[:, 1:]
    weight = problem.weights.get("hands", 1.0) * h**2 / LOG_SPREAD**2
    return bend(weight * peak(-high, -low), difference), bend(weight * peak(low, high), difference)


def node_bends(problem, slots, notes, h, difference):
    note, entry = problem.trellis.slot_row[slots] - 1, problem.trellis.rows[slots]
    known, seconds = problem.given.known, notes.seconds[note]
    amplitude = TONE_MINDED * known.thinness[entry] * (0.6 + 0.7 * notes.loudness[note, 0])
    u = seconds / TONE_HEARD_S
    tone = [u * (1 - u) * np.exp(-u)]
    for at, value in ((0.381966, 0.161105), (2.618034, -0.309018)):
        inside = (u[:, 1:] <= at) & (u[:, :-1] >= at)
        tone.append(np.where(inside, value, np.nan))
    ends = np.stack([tone[0][:, :-1], tone[0][:, 1:], *tone[1:]])
    up, down = amplitude[:, None] * np.nanmax(ends, axis=0), amplitude[:, None] * np.nanmax(-ends, axis=0)
    width = NOTICED_CENTS_S / seconds
    mean, spread = known.pitch[entry][:, None], known.pitch_spread[entry][:, None]
    z = [(NOTICED_CENTS + width + sign * mean) / spread for sign in (1, -1)]
    most = width[:, 1:]
    over = sum(np.maximum(peak(one[:, :-1], one[:, 1:]), 0) for one in z)
    under = sum(np.maximum(peak(-one[:, 1:], -one[:, :-1]), 0) for one in z)
    hill = sum(density(one[:, :-1], one[:, 1:]) for one in z)
    up_pitch = most**2 / spread**2 * over
    down_pitch = most**2 / spread**2 * under + most / spread * hill
    weights = [problem.weights.get(strand, 1.0) for strand in ("tone", "pitch")]
    whole = [
        h**2 * (weights[0] * np.maximum(a, 0) + weights[1] * b)
        for a, b in ((up, up_pitch), (down, down_pitch))
    ]
    return bend(whole[0], difference), bend(whole[1], difference)


def test_between_whole_numbers_no_route_is_noticeably_better(mapping):
    table, _, bpm, _ = mapping
    problem, grid = table.problem, grid_of(bpm).astype(float)
    stretches = Stretches.of(problem)

    def costs_at(tempi):
        return stretches.costs_where(problem.given.known, problem.notes.at(tempi / bpm))

    # steps are cut where a note becomes long or fast, for a cost leaps there, and where two routes cross
    leaps = np.concatenate([np.unique(problem.notes.seconds) * bpm / limit for limit in (LONG_S, FAST_S)])
    leaps = leaps[(leaps > grid[0]) & (leaps < grid[-1])]
    tempi = np.unique(np.concatenate([grid, leaps * (1 - 1e-8), leaps * (1 + 1e-8)]))
    tempi = np.unique(np.concatenate([tempi, *crossings(stretches, costs_at(tempi), tempi)]))
    costs, between = costs_at(tempi), costs_at(np.sqrt(tempi[:-1] * tempi[1:]))
    h, notes = np.diff(np.log(tempi)), problem.notes.at(tempi / bpm)
    d_node, d_move = (np.diff(part, axis=1) for part in costs)
    up, down = zip(
        node_bends(problem, stretches.slots, notes, h, d_node),
        move_bends(problem, stretches.cells, notes, h, d_move),
        strict=True,
    )
    below, column = np.zeros(len(h)), np.arange(len(h))
    for stretch in stretches.all:
        _, routes = best(stretch, between)
        gaps = [0 * below]
        for end in (0, 1):
            here = Costs(*(part[:, end : end + len(h)] for part in costs))
            least, _ = best(stretch, lowered(stretch, here, up, down, routes, column))
            own = cost_of(stretch, here, routes.T)[column, column] + errors(stretch, down, routes, column)
            gaps.append(own - least)
        below += np.max(gaps, axis=0)
    assert below[h > 1e-6].max() < NOTEWORTHY


def crossings(stretches, costs, tempi):
    """Where the routes that are best at the two ends of a step come to the same, about."""
    column = np.arange(len(tempi) - 1)
    for stretch in stretches.all:
        _, routes = best(stretch, costs)
        each = cost_of(stretch, costs, routes.T)
        before = each[column + 1, column] - each[column, column]
        after = each[column, column + 1] - each[column + 1, column + 1]
        change = before + after > 1e-12
        yield tempi[:-1][change] + (before / np.where(change, before + after, 1.0) * np.diff(tempi))[change]


def lowered(stretch, costs, up, down, routes, column):
    """Costs less what they may lie below the line, but for the route's own: there both errors are one."""
    node, move = costs.node - up[0], costs.move - up[1]
    for n, at in enumerate(stretch.node):
        node[at][routes[n], column] += (up[0] + down[0])[at][routes[n], column]
    for n, (at, shape) in enumerate(stretch.move):
        before = routes[n - 1] if n else np.zeros(len(column), dtype=int)
        after = routes[n] if n < len(stretch.node) else np.zeros(len(column), dtype=int)
        cell = before * shape[1] + after
        move[at][cell, column] += (up[1] + down[1])[at][cell, column]
    return Costs(node, move)


def errors(stretch, down, routes, column):
    """What the route's own costs may lie above the line."""
    whole = np.zeros(len(column))
    for n, at in enumerate(stretch.node):
        whole += down[0][at][routes[n], column]
    for n, (at, shape) in enumerate(stretch.move):
        before = routes[n - 1] if n else np.zeros(len(column), dtype=int)
        after = routes[n] if n < len(stretch.node) else np.zeros(len(column), dtype=int)
        whole += down[1][at][before * shape[1] + after, column]
    return whole
