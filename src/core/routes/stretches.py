"""Stretches: runs of notes with a choice, between notes that leave none.

What a stretch costs does not depend on the others, so that whatever is asked of a passage is answered
stretch by stretch and added. Costs have a further axis here: many tempi, weights, draws of what is known, or
notes held to one fingering, all of them solved in one go.

References
----------
Bellman (1957), Dynamic Programming.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from core.routes.facility import FloatArray, IntArray
from core.routes.faults import Faults, Qualities
from core.routes.problem import Problem
from core.routes.timing import Timing


class Costs(NamedTuple):
    """Weighted costs of the slots and moves of stretches, in columns.

    Parameters
    ----------
    node : np.ndarray [shape=(n_slots, n_columns)]
        Of the slots in `Stretches.slots`.
    move : np.ndarray [shape=(n_cells, n_columns)]
        Of the moves in `Stretches.cells`.
    """

    node: FloatArray
    move: FloatArray


@dataclass(frozen=True)
class Stretch:
    """One run of notes with a choice.

    Parameters
    ----------
    first, last : int
        The rows of its first and last note; the ones before and after leave no choice.
    slots : tuple of np.ndarray of int [shape=(n_slots of the row,)]
        Usable slots of every row, as places in the arrays of the problem.
    node : tuple of slice
        Where they lie among `Stretches.slots`.
    move : tuple of (slice, (int, int))
        Where the moves into every row, and out of the last, lie among `Stretches.cells`, and their shape.
    """

    first: int
    last: int
    slots: tuple[IntArray, ...]
    node: tuple[slice, ...]
    move: tuple[tuple[slice, tuple[int, int]], ...]

    @property
    def rows(self) -> range:
        """Its rows among those of the trellis."""
        return range(self.first, self.last + 1)

    @property
    def span(self) -> slice:
        """Where its slots lie among `Stretches.slots`."""
        return slice(self.node[0].start, self.node[-1].stop)

    def nodes(self, costs: Costs) -> list[FloatArray]:
        """Costs of the slots of every row; arrays of shape (n_slots of the row, n_columns).

        Parameters
        ----------
        costs : Costs

        Returns
        -------
        list of np.ndarray [shape=(n_slots of the row, n_columns)], faults
        """
        return [costs.node[at] for at in self.node]

    def moves(self, costs: Costs) -> list[FloatArray]:
        """Costs of the moves into every row and out of the last; (n_slots before, n_slots, n_columns).

        Parameters
        ----------
        costs : Costs

        Returns
        -------
        list of np.ndarray [shape=(n_slots before, n_slots, n_columns)], faults
        """
        return [costs.move[at].reshape(*shape, -1) for at, shape in self.move]

    def shifted(self, nodes: int, moves: int) -> Stretch:
        """The same stretch where the slots and moves before it are not there.

        Parameters
        ----------
        nodes : int, from 0
            Slots before it.
        moves : int, from 0
            Moves before it.

        Returns
        -------
        Stretch
        """
        node = tuple(slice(at.start - nodes, at.stop - nodes) for at in self.node)
        move = tuple((slice(at.start - moves, at.stop - moves), shape) for at, shape in self.move)
        return replace(self, node=node, move=move)


@dataclass(frozen=True, eq=False)
class Stretches:
    """Stretches of a passage.

    Parameters
    ----------
    all : tuple of Stretch
    slots, cells : np.ndarray of int [shape=(n_slots,), (n_cells,)]
        Usable slots of all their rows, and all moves of theirs, as places in the arrays of the problem.
    """

    problem: Problem
    all: tuple[Stretch, ...]
    slots: IntArray
    cells: IntArray

    @classmethod
    def of(cls, problem: Problem) -> Stretches:
        """Every stretch of a passage.

        Parameters
        ----------
        problem : Problem

        Returns
        -------
        Stretches
        """
        trellis = problem.trellis
        usable = np.flatnonzero(trellis.usable)
        begins = np.searchsorted(usable, trellis.first).tolist()
        first, count, first_move = (
            trellis.first.tolist(),
            trellis.count.tolist(),
            trellis.first_move.tolist(),
        )
        choice = np.diff(begins) > 1
        starts = np.flatnonzero(choice & ~np.append(False, choice[:-1])).tolist()
        ends = np.flatnonzero(choice & ~np.append(choice[1:], False)).tolist()
        slots: list[IntArray] = []
        cells: list[IntArray] = []
        at_slot = at_cell = 0
        found = []
        for start, end in zip(starts, ends, strict=True):
            here = [usable[begins[row] : begins[row + 1]] for row in range(start - 1, end + 2)]
            node, move = [], []
            for row in range(start, end + 2):
                before, after = here[row - start], here[row - start + 1]
                out_of = first_move[row - 1] + (before - first[row - 1]) * count[row]
                cells.append((out_of[:, None] + (after - first[row])[None, :]).ravel())
                move.append((slice(at_cell, at_cell + len(cells[-1])), (len(before), len(after))))
                at_cell += len(cells[-1])
                if row <= end:
                    slots.append(after)
                    node.append(slice(at_slot, at_slot + len(after)))
                    at_slot += len(after)
            found.append(Stretch(start, end, tuple(here[1:-1]), tuple(node), tuple(move)))
        none = np.zeros(0, dtype=np.int64)
        return cls(problem, tuple(found), np.concatenate([none, *slots]), np.concatenate([none, *cells]))

    def parts(self, cells: int) -> Iterator[Stretches]:
        """The stretches in groups of about so many moves, or one stretch, at most.

        Parameters
        ----------
        cells : int, from 1

        Returns
        -------
        iterator of Stretches
        """
        begin = 0
        while begin < len(self.all):
            first_move = self.all[begin].move[0][0].start
            end = begin + 1
            while end < len(self.all) and self.all[end].move[-1][0].stop - first_move <= cells:
                end += 1
            group, first_node = self.all[begin:end], self.all[begin].node[0].start
            yield Stretches(
                self.problem,
                tuple(stretch.shifted(first_node, first_move) for stretch in group),
                self.slots[first_node : group[-1].node[-1].stop],
                self.cells[first_move : group[-1].move[-1][0].stop],
            )
            begin = end

    def around(self, notes: Collection[int]) -> Stretches:
        """The stretches in which some notes lie, without the others; there may be none.

        Parameters
        ----------
        notes : collection of int
            Counted from 0.

        Returns
        -------
        Stretches
        """
        found = [stretch for stretch in self.all if any(note + 1 in stretch.rows for note in notes)]
        slots = [self.slots[stretch.span] for stretch in found]
        cells = [self.cells[stretch.move[0][0].start : stretch.move[-1][0].stop] for stretch in found]
        moved, at_slot, at_cell = [], 0, 0
        for stretch, here, between in zip(found, slots, cells, strict=True):
            moved.append(stretch.shifted(stretch.span.start - at_slot, stretch.move[0][0].start - at_cell))
            at_slot, at_cell = at_slot + len(here), at_cell + len(between)
        none = np.zeros(0, dtype=np.int64)
        return Stretches(
            self.problem, tuple(moved), np.concatenate([none, *slots]), np.concatenate([none, *cells])
        )

    @cached_property
    def faults(self) -> tuple[Faults, Faults]:
        """Unweighted faults of `slots` and of `cells`, one column."""
        by_note, by_move = self.problem.by_note[self.slots], self.problem.by_move[self.cells]
        return Faults(*(p[:, None] for p in by_note.parts)), Faults(*(p[:, None] for p in by_move.parts))

    @cached_property
    def costs(self) -> Costs:
        """Costs as they are in the problem, one column."""
        return Costs(self.problem.node[self.slots][:, None], self.problem.move[self.cells][:, None])

    def costs_where(self, known: Qualities, notes: Timing) -> Costs:
        """Costs with other knowledge, or at other tempi, of which either has a column for each.

        Parameters
        ----------
        known : Qualities
        notes : Timing

        Returns
        -------
        Costs
        """
        problem = self.problem
        by_note = problem.faults_of_slots(self.slots, known, notes)
        by_move = problem.faults_of_moves(self.cells, known, notes)
        start = problem.head_start[self.slots][:, None]
        avoided = problem.avoided[self.cells][:, None]
        return Costs(
            by_note.weighted(problem.weights).total - start, by_move.weighted(problem.weights).total + avoided
        )

    def local(self, stretch: Stretch, slots: IntArray) -> IntArray:
        """A route of the passage, slots counted within their rows, as usable slots of a stretch's rows.

        Parameters
        ----------
        stretch : Stretch
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.

        Returns
        -------
        np.ndarray of int [shape=(n_rows,)]
        """
        flat = (
            self.problem.trellis.first[stretch.first : stretch.last + 1]
            + slots[stretch.first : stretch.last + 1]
        )
        pairs = zip(stretch.slots, flat.tolist(), strict=True)
        return np.array([int(np.searchsorted(usable, slot)) for usable, slot in pairs], dtype=np.int64)

    def put(self, slots: IntArray, stretch: Stretch, route: IntArray) -> IntArray:
        """A route of the passage with another one at a stretch.

        Parameters
        ----------
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.
        stretch : Stretch
        route : np.ndarray of int [shape=(n_rows,)]
            Usable slots of the rows of the stretch.

        Returns
        -------
        np.ndarray of int [shape=(n_notes + 2,)]
        """
        changed = slots.copy()
        flat = np.array([usable[n] for usable, n in zip(stretch.slots, route.tolist(), strict=True)])
        changed[stretch.first : stretch.last + 1] = (
            flat - self.problem.trellis.first[stretch.first : stretch.last + 1]
        )
        return changed

    def chosen(self, stretch: Stretch, slots: IntArray) -> IntArray:
        """Entries that a route takes at a stretch, as places in the chart.

        Parameters
        ----------
        stretch : Stretch
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.

        Returns
        -------
        np.ndarray of int [shape=(n_rows,)]
        """
        trellis = self.problem.trellis
        rows = np.arange(stretch.first, stretch.last + 1)
        return np.asarray(trellis.rows[trellis.first[rows] + slots[rows]])


def best(stretch: Stretch, costs: Costs) -> tuple[FloatArray, IntArray]:
    """The best route of a stretch in every column.

    Parameters
    ----------
    stretch : Stretch
    costs : Costs

    Returns
    -------
    cost : np.ndarray [shape=(n_columns,)]
    route : np.ndarray of int [shape=(n_rows, n_columns)]
        Usable slots of the stretch's rows; of equal ones always the same.
    """
    arriving, ways = _forth(stretch, costs)
    nodes, moves = stretch.nodes(costs), stretch.moves(costs)
    whole = arriving[-1] + nodes[-1] + moves[-1][:, 0]
    column = np.arange(whole.shape[-1])
    last = whole.argmin(axis=0)
    route = [last]
    for way in reversed(ways):
        route.append(way[route[-1], column])
    return whole[last, column], np.stack(route[::-1])


def _forth(stretch: Stretch, costs: Costs) -> tuple[list[FloatArray], list[IntArray]]:
    """What it costs to arrive at every slot of every row; from which slot best, from the second row on."""
    nodes, moves = stretch.nodes(costs), stretch.moves(costs)
    so_far = moves[0][0]
    arriving, ways = [so_far], []
    for node, move in zip(nodes, moves[1:-1], strict=False):
        onward = (so_far + node)[:, None] + move
        ways.append(onward.argmin(axis=0))
        so_far = onward.min(axis=0)
        arriving.append(so_far)
    return arriving, ways


def through(stretch: Stretch, costs: Costs) -> list[FloatArray]:
    """Least cost of the stretch through every slot of every row; (n_slots of the row, n_columns).

    Parameters
    ----------
    stretch : Stretch
    costs : Costs

    Returns
    -------
    list of np.ndarray [shape=(n_slots of the row, n_columns)], faults
        One for each row.
    """
    arriving, _ = _forth(stretch, costs)
    nodes, moves = stretch.nodes(costs), stretch.moves(costs)
    leaving = moves[-1][:, 0]
    found = [arriving[-1] + nodes[-1] + leaving]
    for n in range(len(nodes) - 2, -1, -1):
        leaving = (moves[n + 1] + (nodes[n + 1] + leaving)[None]).min(axis=1)
        found.append(arriving[n] + nodes[n] + leaving)
    return found[::-1]


def cost_of(stretch: Stretch, costs: Costs, routes: IntArray) -> FloatArray:
    """What given routes cost in every column.

    Parameters
    ----------
    stretch : Stretch
    costs : Costs
    routes : np.ndarray of int [shape=(n_routes, n_rows)]

    Returns
    -------
    np.ndarray [shape=(n_routes, n_columns)]
    """
    nodes, moves = stretch.nodes(costs), stretch.moves(costs)
    whole = moves[0][0, routes[:, 0]] + moves[-1][routes[:, -1], 0]
    for n, node in enumerate(nodes):
        whole = whole + node[routes[:, n]]
        if n:
            whole = whole + moves[n][routes[:, n - 1], routes[:, n]]
    return np.asarray(whole)


def distinct(routes: IntArray, first: IntArray) -> IntArray:
    """The different columns of routes, one a row, beginning with a given one.

    Parameters
    ----------
    routes : np.ndarray of int [shape=(n_rows, n_columns)]
    first : np.ndarray of int [shape=(n_rows,)]

    Returns
    -------
    np.ndarray of int [shape=(n_routes, n_rows)]
    """
    found = dict.fromkeys([tuple(first.tolist()), *map(tuple, np.unique(routes.T, axis=0).tolist())])
    return np.array(list(found), dtype=np.int64)


def alone(stretch: Stretch, costs: Costs) -> Costs:
    """The costs of a stretch without those of others.

    Parameters
    ----------
    stretch : Stretch
    costs : Costs

    Returns
    -------
    Costs
    """
    return Costs(costs.node[stretch.span], costs.move[stretch.move[0][0].start : stretch.move[-1][0].stop])


def by_itself(stretch: Stretch, costs: Costs, node: FloatArray) -> tuple[Stretch, Costs]:
    """A stretch without the others, with other costs of its slots, in columns.

    Parameters
    ----------
    stretch : Stretch
    costs : Costs
        Of one column.
    node : np.ndarray [shape=(n_slots of the stretch, n_columns)]

    Returns
    -------
    (Stretch, Costs)
    """
    move = alone(stretch, costs).move
    here = stretch.shifted(stretch.span.start, stretch.move[0][0].start)
    return here, Costs(node, np.broadcast_to(move, (len(move), node.shape[1])))


def held(stretch: Stretch, costs: Costs, holds: Sequence[tuple[int, int]]) -> tuple[Stretch, Costs]:
    """A stretch by itself with one column for each hold: a row of it, and the slot that it must take.

    Parameters
    ----------
    stretch : Stretch
    costs : Costs
        Of one column.
    holds : sequence of (int, int)
        From 0: row of the stretch, and usable slot of it.

    Returns
    -------
    (Stretch, Costs)
    """
    node = np.repeat(costs.node[stretch.span], len(holds), axis=1)
    for column, (row, slot) in enumerate(holds):
        at = slice(stretch.node[row].start - stretch.span.start, stretch.node[row].stop - stretch.span.start)
        others = np.arange(at.stop - at.start) != slot
        node[at, column] = np.where(others, np.inf, node[at, column])
    return by_itself(stretch, costs, node)
