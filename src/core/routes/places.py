"""Places: runs of notes with a choice, between notes that leave none.

What a place costs does not depend on the others, so that whatever is asked of a passage is answered place by
place and added. Costs have a further axis here: many tempi, weights, draws of what is known, or notes held to
one fingering, all of them solved in one go.

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
    """Weighted costs of the slots and links of places, in columns.

    Parameters
    ----------
    node : np.ndarray [shape=(n_slots, n_columns)]
        Of the slots in `Places.slots`.
    link : np.ndarray [shape=(n_cells, n_columns)]
        Of the links in `Places.cells`.
    """

    node: FloatArray
    link: FloatArray


@dataclass(frozen=True)
class Place:
    """One run of notes with a choice.

    Parameters
    ----------
    first, last : int
        The rows of its first and last note; the ones before and after leave no choice.
    slots : tuple of np.ndarray of int
        Usable slots of every row, as places in the arrays of the problem.
    node : tuple of slice
        Where they lie among `Places.slots`.
    link : tuple of (slice, (int, int))
        Where the links into every row, and out of the last, lie among `Places.cells`, and their shape.
    """

    first: int
    last: int
    slots: tuple[IntArray, ...]
    node: tuple[slice, ...]
    link: tuple[tuple[slice, tuple[int, int]], ...]

    @property
    def rows(self) -> range:
        return range(self.first, self.last + 1)

    @property
    def span(self) -> slice:
        """Where its slots lie among `Places.slots`."""
        return slice(self.node[0].start, self.node[-1].stop)

    def nodes(self, costs: Costs) -> list[FloatArray]:
        """Costs of the slots of every row; arrays of shape (n_slots of the row, n_columns)."""
        return [costs.node[at] for at in self.node]

    def links(self, costs: Costs) -> list[FloatArray]:
        """Costs of the links into every row and out of the last; (n_slots before, n_slots, n_columns)."""
        return [costs.link[at].reshape(*shape, -1) for at, shape in self.link]

    def shifted(self, nodes: int, links: int) -> Place:
        """The same place where the slots and links before it are not there."""
        node = tuple(slice(at.start - nodes, at.stop - nodes) for at in self.node)
        link = tuple((slice(at.start - links, at.stop - links), shape) for at, shape in self.link)
        return replace(self, node=node, link=link)


@dataclass(frozen=True, eq=False)
class Places:
    """Places of a passage.

    Parameters
    ----------
    all : tuple of Place
    slots, cells : np.ndarray of int
        Usable slots of all their rows, and all links of theirs, as places in the arrays of the problem.
    """

    problem: Problem
    all: tuple[Place, ...]
    slots: IntArray
    cells: IntArray

    @classmethod
    def of(cls, problem: Problem) -> Places:
        """Every place of a passage."""
        usable = np.flatnonzero(problem.usable)
        begins = np.searchsorted(usable, problem.first).tolist()
        first, count, first_link = problem.first.tolist(), problem.count.tolist(), problem.first_link.tolist()
        choice = np.diff(begins) > 1
        starts = np.flatnonzero(choice & ~np.append(False, choice[:-1])).tolist()
        ends = np.flatnonzero(choice & ~np.append(choice[1:], False)).tolist()
        slots: list[IntArray] = []
        cells: list[IntArray] = []
        at_slot = at_cell = 0
        found = []
        for start, end in zip(starts, ends, strict=True):
            here = [usable[begins[row] : begins[row + 1]] for row in range(start - 1, end + 2)]
            node, link = [], []
            for row in range(start, end + 2):
                before, after = here[row - start], here[row - start + 1]
                out_of = first_link[row - 1] + (before - first[row - 1]) * count[row]
                cells.append((out_of[:, None] + (after - first[row])[None, :]).ravel())
                link.append((slice(at_cell, at_cell + len(cells[-1])), (len(before), len(after))))
                at_cell += len(cells[-1])
                if row <= end:
                    slots.append(after)
                    node.append(slice(at_slot, at_slot + len(after)))
                    at_slot += len(after)
            found.append(Place(start, end, tuple(here[1:-1]), tuple(node), tuple(link)))
        none = np.zeros(0, dtype=np.int64)
        return cls(problem, tuple(found), np.concatenate([none, *slots]), np.concatenate([none, *cells]))

    def parts(self, cells: int) -> Iterator[Places]:
        """The places in groups of about so many links, or one place, at most."""
        begin = 0
        while begin < len(self.all):
            first_link = self.all[begin].link[0][0].start
            end = begin + 1
            while end < len(self.all) and self.all[end].link[-1][0].stop - first_link <= cells:
                end += 1
            group, first_node = self.all[begin:end], self.all[begin].node[0].start
            yield Places(
                self.problem,
                tuple(place.shifted(first_node, first_link) for place in group),
                self.slots[first_node : group[-1].node[-1].stop],
                self.cells[first_link : group[-1].link[-1][0].stop],
            )
            begin = end

    def around(self, notes: Collection[int]) -> Places:
        """The places in which some notes lie, without the others; there may be none.

        Parameters
        ----------
        notes : collection of int
            Counted from 0.
        """
        found = [place for place in self.all if any(note + 1 in place.rows for note in notes)]
        slots = [self.slots[place.span] for place in found]
        cells = [self.cells[place.link[0][0].start : place.link[-1][0].stop] for place in found]
        moved, at_slot, at_cell = [], 0, 0
        for place, here, between in zip(found, slots, cells, strict=True):
            moved.append(place.shifted(place.span.start - at_slot, place.link[0][0].start - at_cell))
            at_slot, at_cell = at_slot + len(here), at_cell + len(between)
        none = np.zeros(0, dtype=np.int64)
        return Places(
            self.problem, tuple(moved), np.concatenate([none, *slots]), np.concatenate([none, *cells])
        )

    @cached_property
    def faults(self) -> tuple[Faults, Faults]:
        """Unweighted faults of `slots` and of `cells`, one column."""
        by_note, by_link = self.problem.by_note[self.slots], self.problem.by_link[self.cells]
        return Faults(*(p[:, None] for p in by_note.parts)), Faults(*(p[:, None] for p in by_link.parts))

    @cached_property
    def costs(self) -> Costs:
        """Costs as they are in the problem, one column."""
        return Costs(self.problem.node[self.slots][:, None], self.problem.link[self.cells][:, None])

    def costs_where(self, known: Qualities, notes: Timing) -> Costs:
        """Costs with other knowledge, or at other tempi, of which either has a column for each."""
        problem = self.problem
        by_note = problem.faults_of_slots(self.slots, known, notes)
        by_link = problem.faults_of_links(self.cells, known, notes)
        start = problem.head_start[self.slots][:, None]
        return Costs(by_note.weighted(problem.weights).total - start, by_link.weighted(problem.weights).total)

    def local(self, place: Place, slots: IntArray) -> IntArray:
        """A route of the passage, slots counted within their rows, as usable slots of a place's rows."""
        flat = self.problem.first[place.first : place.last + 1] + slots[place.first : place.last + 1]
        pairs = zip(place.slots, flat.tolist(), strict=True)
        return np.array([int(np.searchsorted(usable, slot)) for usable, slot in pairs], dtype=np.int64)

    def put(self, slots: IntArray, place: Place, route: IntArray) -> IntArray:
        """A route of the passage with another one at a place."""
        changed = slots.copy()
        flat = np.array([usable[n] for usable, n in zip(place.slots, route.tolist(), strict=True)])
        changed[place.first : place.last + 1] = flat - self.problem.first[place.first : place.last + 1]
        return changed

    def chosen(self, place: Place, slots: IntArray) -> IntArray:
        """Entries that a route takes at a place, as places in the chart."""
        rows = np.arange(place.first, place.last + 1)
        return np.asarray(self.problem.rows[self.problem.first[rows] + slots[rows]])


def best(place: Place, costs: Costs) -> tuple[FloatArray, IntArray]:
    """The best route of a place in every column.

    Returns
    -------
    cost : np.ndarray [shape=(n_columns,)]
    route : np.ndarray of int [shape=(n_rows, n_columns)]
        Usable slots of the place's rows; of equal ones always the same.
    """
    arriving, ways = _forth(place, costs)
    nodes, links = place.nodes(costs), place.links(costs)
    whole = arriving[-1] + nodes[-1] + links[-1][:, 0]
    column = np.arange(whole.shape[-1])
    last = whole.argmin(axis=0)
    route = [last]
    for way in reversed(ways):
        route.append(way[route[-1], column])
    return whole[last, column], np.stack(route[::-1])


def _forth(place: Place, costs: Costs) -> tuple[list[FloatArray], list[IntArray]]:
    """What it costs to arrive at every slot of every row; from which slot best, from the second row on."""
    nodes, links = place.nodes(costs), place.links(costs)
    so_far = links[0][0]
    arriving, ways = [so_far], []
    for node, link in zip(nodes, links[1:-1], strict=False):
        onward = (so_far + node)[:, None] + link
        ways.append(onward.argmin(axis=0))
        so_far = onward.min(axis=0)
        arriving.append(so_far)
    return arriving, ways


def through(place: Place, costs: Costs) -> list[FloatArray]:
    """Least cost of the place through every slot of every row; arrays of (n_slots of the row, n_columns)."""
    arriving, _ = _forth(place, costs)
    nodes, links = place.nodes(costs), place.links(costs)
    leaving = links[-1][:, 0]
    found = [arriving[-1] + nodes[-1] + leaving]
    for n in range(len(nodes) - 2, -1, -1):
        leaving = (links[n + 1] + (nodes[n + 1] + leaving)[None]).min(axis=1)
        found.append(arriving[n] + nodes[n] + leaving)
    return found[::-1]


def cost_of(place: Place, costs: Costs, routes: IntArray) -> FloatArray:
    """What given routes cost in every column.

    Parameters
    ----------
    routes : np.ndarray of int [shape=(n_routes, n_rows)]

    Returns
    -------
    np.ndarray [shape=(n_routes, n_columns)]
    """
    nodes, links = place.nodes(costs), place.links(costs)
    whole = links[0][0, routes[:, 0]] + links[-1][routes[:, -1], 0]
    for n, node in enumerate(nodes):
        whole = whole + node[routes[:, n]]
        if n:
            whole = whole + links[n][routes[:, n - 1], routes[:, n]]
    return np.asarray(whole)


def distinct(routes: IntArray, first: IntArray) -> IntArray:
    """The different columns of routes, one a row, beginning with a given one.

    Parameters
    ----------
    routes : np.ndarray of int [shape=(n_rows, n_columns)]
    first : np.ndarray of int [shape=(n_rows,)]
    """
    found = dict.fromkeys([tuple(first.tolist()), *map(tuple, np.unique(routes.T, axis=0).tolist())])
    return np.array(list(found), dtype=np.int64)


def alone(place: Place, costs: Costs) -> Costs:
    """The costs of a place without those of others."""
    return Costs(costs.node[place.span], costs.link[place.link[0][0].start : place.link[-1][0].stop])


def by_itself(place: Place, costs: Costs, node: FloatArray) -> tuple[Place, Costs]:
    """A place without the others, with other costs of its slots, in columns.

    Parameters
    ----------
    costs : Costs
        Of one column.
    node : np.ndarray [shape=(n_slots of the place, n_columns)]
    """
    link = alone(place, costs).link
    here = place.shifted(place.span.start, place.link[0][0].start)
    return here, Costs(node, np.broadcast_to(link, (len(link), node.shape[1])))


def held(place: Place, costs: Costs, holds: Sequence[tuple[int, int]]) -> tuple[Place, Costs]:
    """A place by itself with one column for each hold: a row of the place, and the slot that it must take.

    Parameters
    ----------
    costs : Costs
        Of one column.
    """
    node = np.repeat(costs.node[place.span], len(holds), axis=1)
    for column, (row, slot) in enumerate(holds):
        at = slice(place.node[row].start - place.span.start, place.node[row].stop - place.span.start)
        others = np.arange(at.stop - at.start) != slot
        node[at, column] = np.where(others, np.inf, node[at, column])
    return by_itself(place, costs, node)
