"""Sweeping stretches of a passage: what it costs to arrive at every slot, to go on from it, and the best way.

Between two notes that leave no choice lies a stretch; what it costs does not depend on the others. All
stretches are swept at once, so that the loop is as long as the longest of them.
"""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np

from core.routes.facility import BoolArray, FloatArray, IntArray
from core.routes.problem import Problem

# Stretches in which a note has more candidates than this are swept apart from the others, so that the
# others are not padded to its width.
NARROW = 16


class Filled(NamedTuple):
    """What a sweep fills in: costs by slot, and the best slot of each row; see `core.routes.table.Table`."""

    arriving: FloatArray
    leaving: FloatArray
    slots: IntArray


def anchors_of(problem: Problem) -> IntArray:
    """Rows that leave no choice, in order; the first and the last row are two of them."""
    return np.flatnonzero(np.add.reduceat(problem.usable.astype(np.int64), problem.first[:-1]) == 1)


class _Group(NamedTuple):
    """Rows that are one after the other equally far into their stretches, padded to the widest of them.

    Parameters
    ----------
    inside : list of int
        Where each step begins among the rows, and where the last ends.
    slots : np.ndarray of int [shape=(n_rows, width)]
        Places of the slots in the problem; one past the last where there is none.
    cells : np.ndarray of int [shape=(n_rows, width_before, width)]
        Places of the links into them; one past the last where there is none. Of no meaning in the first step.
    """

    inside: list[int]
    slots: IntArray
    cells: IntArray


class _Stretches(NamedTuple):
    """Stretches swept together: their rows, step by step, where each step begins, and the groups of steps."""

    rows: IntArray
    cuts: list[int]
    groups: list[_Group]


class Layout(NamedTuple):
    """How a problem is swept: it depends on nothing but which slots a route may take."""

    usable: BoolArray
    apart: list[_Stretches]


class _Costs(NamedTuple):
    """Cost of the slots of a group, and of the links into them; infinite where there is none."""

    enter: FloatArray
    link: FloatArray


def laid_out(problem: Problem) -> Layout:
    """The layout of a whole problem, worked out once for all tempi and weights."""
    layout: Layout | None = problem.kept.get("layout")
    if layout is None or layout.usable is not problem.usable:
        layout = problem.kept["layout"] = lay_out(problem, anchors_of(problem))
    return layout


def lay_out(problem: Problem, anchors: IntArray) -> Layout:
    """The layout between adjacent anchors: narrow stretches apart from wide ones, the longest first."""
    begin, length = anchors[:-1], np.diff(anchors)
    count = np.diff(problem.usable_slots[1])[: anchors[-1] + 1]
    widest = np.maximum(np.maximum.reduceat(count, begin), count[anchors[1:]])
    apart = []
    for some in (widest <= NARROW, widest > NARROW):
        if some.any():
            order = np.argsort(-length[some], kind="stable")
            rows, back, cuts = _in_step(begin[some][order], length[some][order])
            apart.append(_Stretches(rows[::2], cuts, _groups(problem, rows, back, cuts)))
    return Layout(problem.usable, apart)


def sweep(problem: Problem, layout: Layout, filled: Filled) -> None:
    """Fill in the table as it is laid out."""
    enter, link = np.append(problem.node, np.inf), np.append(problem.link, np.inf)
    for some in layout.apart:
        costs = [_Costs(enter[group.slots], link[group.cells]) for group in some.groups]
        _sweep_stretches(some, costs, filled)
        _trace(problem, some, costs, filled)


def _sweep_stretches(stretches: _Stretches, costs: list[_Costs], filled: Filled) -> None:
    """Sweep stretches; the longest come first, so that those still going on are always the first ones.

    To go back through a stretch is to go forth through its mirror image: each stands beside its own, so
    that one loop fills both tables. What can be done for all steps at once is done outside the loop.
    """
    groups, cuts = stretches.groups, stretches.cuts
    steps = [
        (cost.enter[a:b], cost.link[a:b])
        for group, cost in zip(groups, costs, strict=True)
        for a, b in pairwise(group.inside)
    ]
    # The end of a stretch costs nothing here: it belongs to both its stretches.
    so_far = _free(steps[0][0])
    arriving = [so_far]
    for enter, link in steps[1:]:
        arrived = np.minimum.reduce(so_far[: len(enter), :, None] + link, axis=1)
        arriving.append(arrived)
        so_far = arrived + enter
    done = 0
    for group in groups:
        found = np.concatenate(arriving[done : done + len(group.inside) - 1])
        first = 0 if done else cuts[1]  # the first rows are arrived at from the stretch before
        done += len(group.inside) - 1
        for values, way in ((filled.arriving, 0), (filled.leaving, 1)):
            at, cost = group.slots[first + way :: 2], found[first + way :: 2]
            values[at[at < len(values)]] = cost[at < len(values)]


def _trace(problem: Problem, stretches: _Stretches, costs: list[_Costs], filled: Filled) -> None:
    """Walk forth through the stretches, from slot to slot that is best to go on to."""
    rows, cuts = stretches.rows, stretches.cuts
    leaving = np.append(filled.leaving, np.inf)
    ways: list[list[int]] = []
    for group, cost in zip(stretches.groups, costs, strict=True):
        onward = cost.enter[::2] + leaving[group.slots[::2]]  # at an end too: it leaves no choice
        ways += (cost.link[::2] + onward[:, None, :]).argmin(axis=2).tolist()
    chosen = _free(costs[0].enter[: cuts[1] : 2]).argmin(axis=1).tolist()
    found: list[int] = list(chosen)
    for first, last in pairwise(cuts[1:]):
        here = ways[first // 2 : last // 2]
        chosen = [way[slot] for way, slot in zip(here, chosen, strict=False)]
        found += chosen
    usable, begins = problem.usable_slots
    at, nth = rows[cuts[1] // 2 :], np.array(found[cuts[1] // 2 :], dtype=np.int64)
    filled.slots[at] = usable[begins[at] + nth] - problem.first[at]


def _free(enter: FloatArray) -> FloatArray:
    """Nothing for a slot that a route may take, infinitely much for another."""
    return np.where(enter < np.inf, 0.0, np.inf)


def _in_step(begin: IntArray, length: IntArray) -> tuple[IntArray, BoolArray, list[int]]:
    """The rows of stretches, and of their mirror images, by how far they are in.

    Returns
    -------
    rows : np.ndarray of int
        In every step a row of each stretch that reaches so far, followed by that of its mirror image.
    back : np.ndarray of bool
        Which are of mirror images: every other one.
    cuts : list of int
        Where each step begins among them, and where the last ends.
    """
    far = np.arange(int(length[0]) + 1)
    counts = 2 * np.searchsorted(-length, -far, side="right")
    cuts = np.concatenate([[0], np.cumsum(counts)])
    place = np.arange(cuts[-1]) - np.repeat(cuts[:-1], counts)
    stretch, back, into = place // 2, place % 2 == 1, np.repeat(far, counts)
    return np.where(back, (begin + length)[stretch] - into, begin[stretch] + into), back, cuts.tolist()


def _groups(problem: Problem, rows: IntArray, back: BoolArray, cuts: list[int]) -> list[_Group]:
    """Steps that are gathered together: all of them where they are narrow."""
    count = np.diff(problem.usable_slots[1])
    width = int(count[rows].max())
    if width <= NARROW:
        return [_Group(cuts, *_gathered(problem, rows, back, width, width))]
    found, width = [], 1
    for a, b in pairwise(cuts):
        wide = int(count[rows[a:b]].max())
        found.append(_Group([0, b - a], *_gathered(problem, rows[a:b], back[a:b], width, wide)))
        width = wide
    return found


def _gathered(
    problem: Problem, rows: IntArray, back: BoolArray, width_before: int, width: int
) -> tuple[IntArray, IntArray]:
    """Usable slots of rows, and links into them from the row before, or back from the row after; padded."""
    before = np.clip(np.where(back, rows + 1, rows - 1), 0, len(problem.gap) - 1)
    slots, slots_before = _usable_of(problem, rows, width), _usable_of(problem, before, width_before)
    real, real_before = slots < len(problem.rows), slots_before < len(problem.rows)
    cells = _cells(problem, (before, slots_before[:, :, None]), (rows, slots[:, None, :]), back)
    return slots, np.where(real_before[:, :, None] & real[:, None, :], cells, len(problem.link))


def _usable_of(problem: Problem, rows: IntArray, width: int) -> IntArray:
    """Usable slots of rows; one past the last of all where a row has no more."""
    usable, first = problem.usable_slots
    at = first[rows][:, None] + np.arange(width)
    return np.where(at < first[rows + 1][:, None], usable[np.minimum(at, len(usable) - 1)], len(problem.rows))


def _cells(
    problem: Problem, before: tuple[IntArray, IntArray], after: tuple[IntArray, IntArray], back: BoolArray
) -> IntArray:
    """Places of the links between slots of rows that stand beside each other; `back` is from later rows."""
    count, first = problem.count, problem.first
    (from_row, from_slot), (to_row, to_slot) = before, after
    where, to = from_slot - first[from_row][:, None, None], to_slot - first[to_row][:, None, None]
    # A link lies with its earlier row, whose slots vary slowest.
    slow = np.where(back, 1, count[to_row])[:, None, None] * where
    fast = np.where(back, count[from_row], 1)[:, None, None] * to
    cells = problem.first_link[np.minimum(from_row, to_row)][:, None, None] + slow + fast
    return np.asarray(np.clip(cells, 0, len(problem.link) - 1))  # the first rows have nothing before them


def beside_barred(
    problem: Problem, arriving: FloatArray, leaving: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """The tables, filled in for slots that a route may not take, too."""
    slots = np.flatnonzero(~problem.usable)
    rows = problem.slot_row[slots]
    is_anchor = np.zeros(len(problem.gap), dtype=np.bool_)
    is_anchor[anchors_of(problem)] = True
    found = []
    for swept, step, wanted in ((arriving, -1, rows > 0), (leaving, 1, rows < len(problem.gap) - 1)):
        values = swept.copy()
        found.append(values)
        at, here = slots[wanted], rows[wanted]
        if not len(at):
            continue
        beside = here + step
        others = _usable_of(problem, beside, int(np.diff(problem.usable_slots[1])[beside].max()))
        cells = _cells(
            problem, (beside, others[:, :, None]), (here, at[:, None, None]), np.full(len(at), step > 0)
        )[:, :, 0]
        so_far = np.append(np.where(is_anchor[problem.slot_row], 0.0, swept + problem.node), np.inf)
        real = others < len(problem.rows)
        values[at] = (so_far[others] + np.where(real, problem.link[np.where(real, cells, 0)], np.inf)).min(
            axis=1
        )
    return found[0], found[1]
