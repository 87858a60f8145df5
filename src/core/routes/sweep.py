"""Sweeping stretches of a passage: what it costs to arrive at every slot, to go on from it, and the best way.

Between two notes that leave no choice lies a stretch; what it costs does not depend on the others. All
stretches are swept at once, so that the loop is as long as the longest of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from core.routes.facility import FloatArray, IntArray
from core.routes.problem import Problem
from core.routes.trellis import SweptTogether, cells_between, usable_of


class Filled(NamedTuple):
    """What a sweep fills in; see `core.routes.table.Table`.

    Parameters
    ----------
    arriving, leaving : np.ndarray [shape=(n_slots,)], faults
    slots : np.ndarray of int [shape=(n_notes + 2,)]
        The best slot of each row.
    """

    arriving: FloatArray
    leaving: FloatArray
    slots: IntArray


class _Costs(NamedTuple):
    """Cost of the slots of a group, and of the moves into them; infinite where there is none."""

    enter: FloatArray
    move: FloatArray


def sweep(problem: Problem, layout: Sequence[SweptTogether], filled: Filled) -> None:
    """Fill in the table as it is laid out.

    Parameters
    ----------
    problem : Problem
    layout : sequence of SweptTogether
    filled : Filled
    """
    enter, move = np.append(problem.node, np.inf), np.append(problem.move, np.inf)
    for some in layout:
        costs = [_Costs(enter[group.slots], move[group.cells]) for group in some.groups]
        _sweep_stretches(some, costs, filled)
        _trace(problem, some, costs, filled)


def _sweep_stretches(stretches: SweptTogether, costs: list[_Costs], filled: Filled) -> None:
    """Sweep stretches; the longest come first, so that those still going on are always the first ones.

    To go back through a stretch is to go forth through its mirror image: each stands beside its own, so
    that one loop fills both tables. What can be done for all steps at once is done outside the loop.
    """
    groups, cuts = stretches.groups, stretches.cuts
    steps = [
        (cost.enter[a:b], cost.move[a:b])
        for group, cost in zip(groups, costs, strict=True)
        for a, b in pairwise(group.inside)
    ]
    # The end of a stretch costs nothing here: it belongs to both its stretches.
    so_far = _free(steps[0][0])
    arriving = [so_far]
    for enter, move in steps[1:]:
        arrived = np.minimum.reduce(so_far[: len(enter), :, None] + move, axis=1)
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


def _trace(problem: Problem, stretches: SweptTogether, costs: list[_Costs], filled: Filled) -> None:
    """Walk forth through the stretches, from slot to slot that is best to go on to."""
    trellis = problem.trellis
    rows, cuts = stretches.rows, stretches.cuts
    leaving = np.append(filled.leaving, np.inf)
    ways: list[list[int]] = []
    for group, cost in zip(stretches.groups, costs, strict=True):
        onward = cost.enter[::2] + leaving[group.slots[::2]]  # at an end too: it leaves no choice
        ways += (cost.move[::2] + onward[:, None, :]).argmin(axis=2).tolist()
    chosen = _free(costs[0].enter[: cuts[1] : 2]).argmin(axis=1).tolist()
    found: list[int] = list(chosen)
    for first, last in pairwise(cuts[1:]):
        here = ways[first // 2 : last // 2]
        chosen = [way[slot] for way, slot in zip(here, chosen, strict=False)]
        found += chosen
    usable, begins = trellis.usable_slots
    at, nth = rows[cuts[1] // 2 :], np.array(found[cuts[1] // 2 :], dtype=np.int64)
    filled.slots[at] = usable[begins[at] + nth] - trellis.first[at]


def _free(enter: FloatArray) -> FloatArray:
    """Nothing for a slot that a route may take, infinitely much for another."""
    return np.where(enter < np.inf, 0.0, np.inf)


def beside_barred(
    problem: Problem, arriving: FloatArray, leaving: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """The tables, filled in for slots that a route may not take, too.

    Parameters
    ----------
    problem : Problem
    arriving, leaving : np.ndarray [shape=(n_slots,)], faults

    Returns
    -------
    (np.ndarray, np.ndarray) [shape=(n_slots,)], faults
        To arrive at every slot, and to go on from it.
    """
    trellis = problem.trellis
    slots = np.flatnonzero(~trellis.usable)
    rows = trellis.slot_row[slots]
    is_anchor = np.zeros(len(trellis.gap), dtype=np.bool_)
    is_anchor[trellis.anchors] = True
    found = []
    for swept, step, wanted in ((arriving, -1, rows > 0), (leaving, 1, rows < len(trellis.gap) - 1)):
        values = swept.copy()
        found.append(values)
        at, here = slots[wanted], rows[wanted]
        if not len(at):
            continue
        beside = here + step
        others = usable_of(trellis, beside, int(np.diff(trellis.usable_slots[1])[beside].max()))
        cells = cells_between(
            trellis, (beside, others[:, :, None]), (here, at[:, None, None]), np.full(len(at), step > 0)
        )[:, :, 0]
        so_far = np.append(np.where(is_anchor[trellis.slot_row], 0.0, swept + problem.node), np.inf)
        real = others < len(trellis.rows)
        values[at] = (so_far[others] + np.where(real, problem.move[np.where(real, cells, 0)], np.inf)).min(
            axis=1
        )
    return found[0], found[1]
