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

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from core.errors import RouteError
from core.routes.candidates import Offer
from core.routes.facility import FloatArray, IntArray
from core.routes.faults import Faults
from core.routes.problem import Problem
from core.routes.stretches import Stretches
from core.routes.sweep import Filled, beside_barred, sweep
from core.routes.trellis import lay_out


@dataclass(frozen=True)
class Route:
    """One route: for each note the slot among its candidates, or None for a gap.

    `cost` is the sum of its weighted faults, less the head starts taken.
    """

    slots: tuple[int | None, ...]
    cost: float


@dataclass(frozen=True, eq=False)
class Table:
    """What every slot costs on the way to it and on from it.

    Parameters
    ----------
    arriving, leaving : np.ndarray [shape=(n_slots,)]
        Least cost from the end of the slot's stretch before it, and to the end of the stretch after it,
        the slot itself not counted. Of no meaning where a route may not take it.
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
        trellis = problem.trellis
        arriving, leaving = beside_barred(problem, self.arriving, self.leaving)
        through = arriving + problem.node + leaving
        best = np.minimum.reduceat(np.where(trellis.usable, through, np.inf), trellis.first[:-1])
        return np.asarray(through - np.repeat(best, trellis.count))

    def extra_at(self, note: int) -> FloatArray:
        """The same for the candidates of one note; nothing at a gap.

        Parameters
        ----------
        note : int, from 0
            Place of the note in the passage.

        Returns
        -------
        np.ndarray [shape=(n_candidates,)], faults
        """
        trellis = self.problem.trellis
        start, end = trellis.first[note + 1 : note + 3]
        if trellis.gap[note + 1]:
            return np.zeros(end - start)
        return self.extra[start:end]

    @cached_property
    def stretches(self) -> Stretches:
        """The runs of notes with a choice."""
        return Stretches.of(self.problem)

    @cached_property
    def node_faults(self) -> Faults:
        """Unweighted faults that the notes of the best route have by themselves, note by note."""
        return self.problem.node_faults(self.slots)[1:-1]

    @cached_property
    def move_faults(self) -> Faults:
        """Unweighted faults of the moves of the best route, by the note that each leads into."""
        return self.problem.move_faults(self.slots)[1:-1]

    def with_offer(self, note: int, offer: Offer) -> Table:
        """The table when one note's pin or bans change: only what lies beside it is swept again.

        Parameters
        ----------
        note : int, from 0
            Place of the note in the passage.
        offer : Offer
            The same candidates as before, with other bars.

        Returns
        -------
        Table

        Raises
        ------
        RouteError
            If it has other candidates, or the note becomes, or ceases to be, a gap.
        """
        trellis = self.problem.trellis
        row = note + 1
        before = self.problem.given.offered[note]
        same = [c.entry.id for c in before.candidates] == [c.entry.id for c in offer.candidates]
        if not same or bool(before.gap) != bool(offer.gap) or offer.gap:
            raise RouteError(
                "a note can change alone only between the same candidates, and not from or to a gap"
            )
        usable = trellis.usable.copy()
        usable[slice(*trellis.first[row : row + 2])] = [not c.bar for c in offer.candidates]
        offered = (*self.problem.given.offered[:note], offer, *self.problem.given.offered[note + 1 :])
        problem = replace(
            self.problem,
            given=replace(self.problem.given, offered=offered),
            trellis=replace(self.problem.trellis, usable=usable),
        )
        anchors = problem.trellis.anchors
        left, right = anchors[anchors < row][-1], anchors[anchors > row][0]
        filled = Filled(self.arriving.copy(), self.leaving.copy(), self.slots.copy())
        sweep(problem, lay_out(problem.trellis, anchors[(anchors >= left) & (anchors <= right)]), filled)
        return Table(problem, *filled)


def make_table(problem: Problem) -> Table:
    """Sweep a whole passage.

    Parameters
    ----------
    problem : Problem

    Returns
    -------
    Table
    """
    trellis = problem.trellis
    n_slots = len(trellis.rows)
    filled = Filled(np.zeros(n_slots), np.zeros(n_slots), np.zeros(len(trellis.gap), dtype=np.int64))
    sweep(problem, trellis.layout, filled)
    return Table(problem, *filled)


def added_cost(problem: Problem, slots: IntArray) -> float:
    """Add up the cost of a route again, apart from how it was found.

    Parameters
    ----------
    problem : Problem
    slots : np.ndarray of int [shape=(n_notes + 2,)]
        A route, slots counted within their rows.

    Returns
    -------
    float, faults
    """
    trellis = problem.trellis
    row = np.arange(len(slots) - 1)
    moves = problem.move[trellis.cells(row, slots[:-1], slots[1:])]
    return float(problem.node[trellis.first[:-1] + slots].sum() + moves.sum())


def named(problem: Problem, slots: IntArray) -> tuple[int | None, ...]:
    """A route note by note: the slot of each, or None for a gap.

    Parameters
    ----------
    problem : Problem
    slots : np.ndarray of int [shape=(n_notes + 2,)]
        A route, slots counted within their rows.

    Returns
    -------
    tuple of int or None
    """
    pairs = zip(slots[1:-1].tolist(), problem.trellis.gap[1:-1].tolist(), strict=True)
    return tuple(None if gap else slot for slot, gap in pairs)


def route_through(table: Table, note: int, slot: int) -> IntArray:
    """The best route that passes through a candidate, slots counted within their rows.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.
    slot : int, from 0
        Place of a candidate among those of its note.

    Returns
    -------
    np.ndarray of int [shape=(n_notes + 2,)]
    """
    problem, row = table.problem, note + 1
    trellis = problem.trellis
    slots = table.slots.copy()
    slots[row] = slot
    anchors = trellis.anchors
    left, right = anchors[anchors < row][-1], anchors[anchors > row][0]
    usable = np.where(trellis.usable, problem.node, np.inf)
    for here in range(row + 1, right):
        start, end = trellis.first[here : here + 2]
        move = problem.move[trellis.cells(np.array(here - 1), slots[here - 1], np.arange(end - start))]
        slots[here] = (move + usable[start:end] + table.leaving[start:end]).argmin()
    for here in range(row - 1, left, -1):
        start, end = trellis.first[here : here + 2]
        move = problem.move[trellis.cells(np.array(here), np.arange(end - start), slots[here + 1])]
        slots[here] = (move + usable[start:end] + table.arriving[start:end]).argmin()
    return slots
