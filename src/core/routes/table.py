"""The table of a route: what it costs to arrive at every candidate, and to go on from it. Exact.

A note with a single usable candidate (or a gap) leaves no choice, so the costs to its left and right do
not depend on each other. Between two such notes lies a *stretch*; all stretches are swept at once, from
both ends, so that the loop is as long as the longest of them, not as the passage. The best route, what
each other candidate would cost, the k best routes, and the reasons (`core.routes.explain`) are read off
this one table; when one note changes, only the stretches beside it are swept again.

References
----------
Bellman (1957), Dynamic Programming.
Lawler (1972), A procedure for computing the k best solutions to discrete optimization problems,
Management Science 18. (The k best as departures from the best way on, in `best_routes`.)
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from core.errors import RouteError
from core.routes.candidates import Offer
from core.routes.facility import FloatArray, IntArray
from core.routes.faults import Faults
from core.routes.problem import Problem

# Stretches in which a note has more candidates than this are swept apart from the others, so that the
# others are not padded to its width.
NARROW = 16


@dataclass(frozen=True)
class Route:
    """One route: for each note the slot among its candidates, or None for a gap.

    `cost` is the sum of its weighted faults, less the head starts taken.
    """

    slots: tuple[int | None, ...]
    cost: float


@dataclass(frozen=True)
class Table:
    """What every slot costs on the way to it and on from it.

    Parameters
    ----------
    arriving, leaving : np.ndarray [shape=(n_slots,)]
        Least cost from the end of the slot's stretch before it, and to the end of the stretch after it,
        the slot itself not counted.
    slots : np.ndarray of int [shape=(n_notes + 2,)]
        The best route, slots counted within their rows.
    """

    problem: Problem
    arriving: FloatArray
    leaving: FloatArray
    slots: IntArray

    @cached_property
    def route(self) -> Route:
        """The best route; of equal ones always the same, early in the order of the catalogue."""
        return Route(named(self.problem, self.slots), added_cost(self.problem, self.slots))

    @cached_property
    def extra(self) -> FloatArray:
        """For every slot: what the whole passage would cost more if the route passed through it."""
        problem = self.problem
        through = self.arriving + problem.node + self.leaving
        best = np.minimum.reduceat(np.where(problem.usable, through, np.inf), problem.first[:-1])
        return np.asarray(through - np.repeat(best, problem.count))

    def extra_at(self, note: int) -> FloatArray:
        """The same for the candidates of one note; nothing at a gap."""
        start, end = self.problem.first[note + 1 : note + 3]
        if self.problem.gap[note + 1]:
            return np.zeros(end - start)
        return self.extra[start:end]

    @cached_property
    def node_faults(self) -> Faults:
        """Unweighted faults that the notes of the best route have by themselves, note by note."""
        return self.problem.node_faults(self.slots)[1:-1]

    @cached_property
    def link_faults(self) -> Faults:
        """Unweighted faults of the links of the best route, by the note that each leads into."""
        return self.problem.link_faults(self.slots)[1:-1]

    def with_offer(self, note: int, offer: Offer) -> Table:
        """The table when one note's pin or bans change: only what lies beside it is swept again.

        Parameters
        ----------
        offer : Offer
            The same candidates as before, with other bars.

        Raises
        ------
        RouteError
            If it has other candidates, or the note becomes, or ceases to be, a gap.
        """
        row = note + 1
        before = self.problem.offered[note]
        same = [c.entry.id for c in before.candidates] == [c.entry.id for c in offer.candidates]
        if not same or bool(before.gap) != bool(offer.gap) or offer.gap:
            raise RouteError(
                "a note can change alone only between the same candidates, and not from or to a gap"
            )
        usable = self.problem.usable.copy()
        usable[slice(*self.problem.first[row : row + 2])] = [not c.bar for c in offer.candidates]
        offered = (*self.problem.offered[:note], offer, *self.problem.offered[note + 1 :])
        problem = replace(self.problem, usable=usable, offered=offered)
        anchors = anchors_of(problem)
        left, right = anchors[anchors < row][-1], anchors[anchors > row][0]
        table = Table(problem, self.arriving.copy(), self.leaving.copy(), self.slots.copy())
        _sweep(table, anchors[(anchors >= left) & (anchors <= right)])
        return table


def make_table(problem: Problem) -> Table:
    """Sweep a whole passage."""
    n_slots = len(problem.rows)
    table = Table(problem, np.zeros(n_slots), np.zeros(n_slots), np.zeros(len(problem.gap), dtype=np.int64))
    _sweep(table, anchors_of(problem))
    return table


def anchors_of(problem: Problem) -> IntArray:
    """Rows that leave no choice, in order; the first and the last row are two of them."""
    return np.flatnonzero(np.add.reduceat(problem.usable.astype(np.int64), problem.first[:-1]) == 1)


@dataclass(frozen=True)
class _Step:
    """The rows that are equally far into their stretches, padded to the widest of them.

    Parameters
    ----------
    slots : np.ndarray of int [shape=(n_stretches, width)]
        Places of the slots in the problem; one past the last where there is none.
    enter : np.ndarray, same shape
        Cost of each slot, infinite where a route may not go.
    link : np.ndarray [shape=(n_stretches, width_before, width)]
        Cost of the links into them; infinite where there is none. Of no meaning in the first step.
    """

    row: IntArray
    slots: IntArray
    enter: FloatArray
    link: FloatArray


def _sweep(table: Table, anchors: IntArray) -> None:
    """Fill in the table between adjacent anchors, all stretches together, narrow ones apart from wide."""
    begin, length = anchors[:-1], np.diff(anchors)
    count = table.problem.count[: anchors[-1] + 1]
    widest = np.maximum(np.maximum.reduceat(count, begin), count[anchors[1:]])
    for some in (widest <= NARROW, widest > NARROW):
        if some.any():
            order = np.argsort(-length[some], kind="stable")
            _sweep_stretches(table, begin[some][order], length[some][order])


def _sweep_stretches(table: Table, begin: IntArray, length: IntArray) -> None:
    """Sweep stretches, the longest first, so that those still going on are always the first ones."""
    problem = table.problem
    steps = list(_steps(problem, begin, length))
    # The ends of a stretch cost nothing here: they belong to both their stretches.
    ends = [np.where(np.isfinite(step.enter), 0.0, np.inf) for step in steps]
    arriving = [ends[0]]
    so_far = ends[0]
    for step in steps[1:]:
        arrived = (so_far[: len(step.row), :, None] + step.link).min(axis=1)
        arriving.append(arrived)
        so_far = arrived + step.enter
    onward = [ends[-1]]
    leaving = [ends[-1]]
    for step, following, end in zip(steps[-2::-1], steps[:0:-1], ends[-2::-1], strict=True):
        going = len(following.row)
        left = (following.link + onward[-1][:, None, :]).min(axis=2)
        leaving.append(left)
        onward.append(np.concatenate([left + step.enter[:going], end[going:]]))
    onward.reverse()
    chosen = ends[0].argmin(axis=1)
    for step, rest in zip(steps[1:], onward[1:], strict=True):
        chosen = chosen[: len(step.row)]
        chosen = (step.link[np.arange(len(chosen)), chosen] + rest).argmin(axis=1)
        table.slots[step.row] = chosen
    _put(table.arriving, [step.slots for step in steps[1:]], arriving[1:])
    _put(
        table.leaving,
        [s.slots[: len(left)] for s, left in zip(steps, leaving[::-1], strict=True)][:-1],
        leaving[:0:-1],
    )


def _put(values: FloatArray, slots: list[IntArray], found: list[FloatArray]) -> None:
    """Put what was found for padded slots in its place."""
    at, whole = (np.concatenate([part.ravel() for part in parts]) for parts in (slots, found))
    real = at < len(values)
    values[at[real]] = whole[real]


def _steps(problem: Problem, begin: IntArray, length: IntArray) -> Iterator[_Step]:
    """The rows of stretches, from their first ones on; gathered together where they are narrow."""
    going = [begin[length >= far] + far for far in range(int(length[0]) + 1)]
    counts = [len(rows) for rows in going]
    if problem.count[np.concatenate(going)].max() <= NARROW:
        whole = _gathered(problem, np.concatenate(going), *_widths(problem, np.concatenate(going)))
        for end, count in zip(np.cumsum(counts), counts, strict=True):
            here = slice(end - count, end)
            yield _Step(whole.row[here], whole.slots[here], whole.enter[here], whole.link[here])
        return
    width = 1
    for rows in going:
        wide = int(problem.count[rows].max())
        yield _gathered(problem, rows, width, wide)
        width = wide


def _widths(problem: Problem, rows: IntArray) -> tuple[int, int]:
    width = int(problem.count[rows].max())
    return width, width


def _gathered(problem: Problem, rows: IntArray, width_before: int, width: int) -> _Step:
    """Slots of rows and links into them, padded."""
    slot, count = np.arange(width), problem.count
    there = slot < count[rows][:, None]
    slots = np.where(there, problem.first[rows][:, None] + slot, len(problem.rows))
    cost = np.append(np.where(problem.usable, problem.node, np.inf), np.inf)
    before = np.maximum(rows - 1, 0)
    old = np.arange(width_before)
    linked = (old < count[before][:, None])[:, :, None] & there[:, None, :]
    cells = (problem.first_link[before][:, None] + old * count[rows][:, None])[:, :, None] + slot
    link = np.where(linked, problem.link[np.where(linked, cells, 0)], np.inf)
    return _Step(rows, slots, cost[slots], link)


def added_cost(problem: Problem, slots: IntArray) -> float:
    """Add up the cost of a route again, apart from how it was found."""
    row = np.arange(len(slots) - 1)
    links = problem.link[problem.links(row, slots[:-1], slots[1:])]
    return float(problem.node[problem.first[:-1] + slots].sum() + links.sum())


def named(problem: Problem, slots: IntArray) -> tuple[int | None, ...]:
    pairs = zip(slots[1:-1].tolist(), problem.gap[1:-1].tolist(), strict=True)
    return tuple(None if gap else slot for slot, gap in pairs)


def route_through(table: Table, note: int, slot: int) -> IntArray:
    """The best route that passes through a candidate, slots counted within their rows."""
    problem, row = table.problem, note + 1
    slots = table.slots.copy()
    slots[row] = slot
    anchors = anchors_of(problem)
    left, right = anchors[anchors < row][-1], anchors[anchors > row][0]
    usable = np.where(problem.usable, problem.node, np.inf)
    for here in range(row + 1, right):
        start, end = problem.first[here : here + 2]
        link = problem.link[problem.links(np.array(here - 1), slots[here - 1], np.arange(end - start))]
        slots[here] = (link + usable[start:end] + table.leaving[start:end]).argmin()
    for here in range(row - 1, left, -1):
        start, end = problem.first[here : here + 2]
        link = problem.link[problem.links(np.array(here), np.arange(end - start), slots[here + 1])]
        slots[here] = (link + usable[start:end] + table.arriving[start:end]).argmin()
    return slots
