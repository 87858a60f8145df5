"""The tempo map: which fingerings hold at which tempo, and from where others serve better.

The route is worked out at every whole metronome number, for all of them at once and stretch by stretch. A
fingering is kept, from the tempo in hand outwards, until another saves `WORTH_CHANGING`: a teacher does not
change a habit for less.

Notes
-----
With the tempo every fault of a note by itself falls or stays and every fault of a move rises or stays, but
for the uses of charts, long and fast. Between whole numbers a third route can be the best one; by how little
it can be is proved for any route shown, in the tests, from bounds on how the costs bend.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from math import ceil, floor
from typing import NamedTuple

import numpy as np

from core.routes.explain import MATTERS
from core.routes.facility import FloatArray, IntArray
from core.routes.stretches import Stretch, Stretches, best, cost_of, distinct
from core.routes.table import Table

# A fingering is kept until another saves what matters: one playing in twenty.
WORTH_CHANGING = MATTERS
MAP_FROM_BPM, MAP_TO_BPM = 40, 208
# Links whose costs at all tempi are worked out in one go: bounds memory.
CELLS_AT_ONCE = 20_000


@dataclass(frozen=True)
class Switch:
    """Fingerings that change together at a tempo.

    Parameters
    ----------
    bpm : int
        The first whole number at which the others serve better, coming from the tempo in hand.
    faster : bool
        Whether it lies above the tempo in hand.
    notes : tuple of int
        Which notes change, counted from 0.
    before, after : tuple of int
        Their entries on the side of the tempo in hand, and beyond, as places in the chart.
    saves : float
        Faults that the others save at most, up to where they change again.
    """

    bpm: int
    faster: bool
    notes: tuple[int, ...]
    before: tuple[int, ...]
    after: tuple[int, ...]
    saves: float


@dataclass(frozen=True)
class TempoMap:
    """What changes with the tempo.

    Parameters
    ----------
    bpm : float
        The tempo in hand.
    tempi : np.ndarray of int [shape=(n_tempi,)], quarter notes a minute
        Every whole number that was looked at.
    switches : tuple of Switch
        From slow to fast.
    kept_costs : np.ndarray [shape=(n_tempi,)]
        Faults that the fingerings of the tempo in hand cost more, at every tempo, than the best ones there.
    faults : np.ndarray [shape=(n_tempi,)]
        Weighted faults of the best route at every tempo.
    """

    bpm: float
    tempi: IntArray
    switches: tuple[Switch, ...]
    kept_costs: FloatArray
    faults: FloatArray

    def kept_cost_at(self, bpm: float) -> float:
        """What the fingerings of the tempo in hand cost more at the whole number nearest to another.

        Parameters
        ----------
        bpm : float, quarter notes a minute, above 0

        Returns
        -------
        float, faults, from 0
        """
        nearest = np.clip(round(bpm) - self.tempi[0], 0, len(self.tempi) - 1)
        return float(self.kept_costs[nearest])


class Mapped(NamedTuple):
    """The routes of a stretch that are the best one somewhere, and what each costs at every tempo.

    Parameters
    ----------
    routes : np.ndarray of int [shape=(n_routes, n_rows)]
        That of the tempo in hand first.
    costs : np.ndarray [shape=(n_routes, n_tempi)]
    """

    stretch: Stretch
    routes: IntArray
    costs: FloatArray


def grid_of(bpm: float) -> IntArray:
    """Every whole metronome number of a map that begins from a tempo.

    Parameters
    ----------
    bpm : float, quarter notes a minute, above 0

    Returns
    -------
    np.ndarray of int [shape=(n_tempi,)], quarter notes a minute
    """
    return np.arange(min(MAP_FROM_BPM, floor(bpm)), max(MAP_TO_BPM, ceil(bpm)) + 1)


def mapped(
    table: Table, bpm: float, stretches: Stretches | None = None
) -> Iterator[tuple[Stretches, Mapped]]:
    """Work out stretches at every tempo; all of them if it is not said which.

    Parameters
    ----------
    table : Table
    bpm : float, quarter notes a minute, above 0
    stretches : Stretches, optional

    Returns
    -------
    iterator of (Stretches, Mapped)
    """
    notes = table.problem.notes.at(grid_of(bpm) / bpm)
    for part in (table.stretches if stretches is None else stretches).parts(CELLS_AT_ONCE):
        costs = part.costs_where(table.problem.given.known, notes)
        for stretch in part.all:
            _, found = best(stretch, costs)
            routes = distinct(found, part.local(stretch, table.slots))
            yield part, Mapped(stretch, routes, cost_of(stretch, costs, routes))


def tempo_map(table: Table, bpm: float) -> TempoMap:
    """Make the map of a passage.

    Parameters
    ----------
    table : Table
        Of the passage at the tempo in hand.
    bpm : float
        That tempo, quarter notes a minute.

    Returns
    -------
    TempoMap
    """
    tempi = grid_of(bpm)
    found = list(mapped(table, bpm))
    least, kept = np.zeros(len(tempi)), np.zeros(len(tempi))
    for _, one in found:
        least += one.costs.min(axis=0)
        kept += one.costs[0] - one.costs.min(axis=0)
    return TempoMap(bpm, tempi, _switches(found, bpm), kept, least + _without_choice(table, bpm))


def holds(table: Table, bpm: float, note: int) -> tuple[Switch | None, Switch | None]:
    """Where a note's fingering changes next, slower and faster; None where it holds to the end.

    Parameters
    ----------
    table : Table
    bpm : float, quarter notes a minute, above 0
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    (Switch or None, Switch or None)
    """
    stretches = table.stretches.around([note])
    switches = _switches_of(table, bpm, stretches.all[0].first - 1) if stretches.all else ()
    slower = [s for s in switches if not s.faster and note in s.notes]
    faster = [s for s in switches if s.faster and note in s.notes]
    return slower[-1] if slower else None, faster[0] if faster else None


@lru_cache(maxsize=4)  # it keeps the tables, which are large
def _switches_of(table: Table, bpm: float, note: int) -> tuple[Switch, ...]:
    """The switches of the stretch in which a note lies: those who step through it ask again."""
    return _switches(list(mapped(table, bpm, table.stretches.around([note]))), bpm)


def _switches(found: list[tuple[Stretches, Mapped]], bpm: float) -> tuple[Switch, ...]:
    tempi = grid_of(bpm)
    up, down = int(np.searchsorted(tempi, bpm)), int(np.searchsorted(tempi, bpm, side="right")) - 1
    switches = []
    for stretches, one in found:
        for faster, start in ((True, up), (False, down)):
            costs = one.costs[:, start:] if faster else one.costs[:, start::-1]
            for at, old, new, saves in _outwards(costs):
                there = int(tempi[start + at if faster else start - at])
                switches.append(_switch(stretches, one, old, new, there, faster, saves))
    return tuple(sorted(switches, key=lambda switch: (switch.bpm, switch.notes)))


def _outwards(costs: FloatArray) -> Iterator[tuple[int, int, int, float]]:
    """Go outwards from the first column: where a route is left, for which, and what that saves at most."""
    loss = costs - costs.min(axis=0)
    steps = costs.shape[1]
    # how far each route stays good from each column on
    left = np.where(loss <= WORTH_CHANGING, steps, np.arange(steps))
    until = np.minimum.accumulate(left[:, ::-1], axis=1)[:, ::-1]
    # where each route is taken up, the one of the tempo in hand first
    taken, here = [(0, 0)], int(until[0, 0])
    while here < steps:
        longest = until[:, here].max()
        among = np.flatnonzero(until[:, here] == longest)
        new = int(among[loss[among, here].argmin()])
        at, now = here, taken[-1][1]
        while at > taken[-1][0] and costs[new, at - 1] < costs[now, at - 1]:
            at -= 1
        if at == taken[-1][0] and len(taken) > 1:
            taken.pop()  # the one before is passed over
        taken.append((at, new))
        here = int(longest)
    ends = [at for at, _ in taken[2:]] + [steps]
    for (_, old), (at, new), end in zip(taken, taken[1:], ends, strict=False):
        yield at, old, new, float((costs[old, at:end] - costs[new, at:end]).max())


def _switch(
    stretches: Stretches, one: Mapped, old: int, new: int, bpm: int, faster: bool, saves: float
) -> Switch:
    rows, stretch = stretches.problem.trellis.rows, one.stretch
    changed = np.flatnonzero(one.routes[old] != one.routes[new]).tolist()

    def entries(route: int) -> tuple[int, ...]:
        return tuple(int(rows[stretch.slots[n][one.routes[route, n]]]) for n in changed)

    notes = tuple(stretch.first + n - 1 for n in changed)
    return Switch(bpm, faster, notes, entries(old), entries(new), saves)


def _without_choice(table: Table, bpm: float) -> FloatArray:
    """Weighted faults, at every tempo, of the notes and moves that lie in no stretch."""
    problem, stretches = table.problem, table.stretches
    trellis = problem.trellis
    row = np.arange(len(table.slots))
    slots = trellis.first[:-1] + table.slots
    cells = trellis.cells(row[:-1], table.slots[:-1], table.slots[1:])
    alone = ~np.isin(slots, stretches.slots)
    between = ~np.isin(cells, stretches.cells)
    notes = problem.notes.at(grid_of(bpm) / bpm)
    node = problem.faults_of_slots(slots[alone], problem.given.known, notes).weighted(problem.weights).total
    move = problem.faults_of_moves(cells[between], problem.given.known, notes).weighted(problem.weights).total
    started = problem.head_start[slots[alone]].sum() - problem.avoided[cells[between]].sum()
    return np.asarray(node.sum(axis=0) + move.sum(axis=0) - started)
