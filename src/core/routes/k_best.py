"""The k best routes, read off the table of a passage."""

from __future__ import annotations

import heapq

import numpy as np

from core.errors import RouteError
from core.routes.facility import FloatArray, IntArray
from core.routes.table import Route, Table, added_cost, named, route_through

ROUTES_LIMIT = 50


def best_routes(table: Table, k: int) -> list[Route]:
    """Find the k cheapest routes, cheapest first; fewer where there are fewer.

    Every route is the best one with some departures, and after each the best way on; so the next
    cheapest is always one departure from a route already found.

    Parameters
    ----------
    table : Table
    k : int, 1 to 50

    Returns
    -------
    list of Route

    Raises
    ------
    RouteError
        If `k` is not from 1 to 50.
    """
    if not 1 <= k <= ROUTES_LIMIT:
        raise RouteError(f"k must be from 1 to {ROUTES_LIMIT}, got {k}")
    problem = table.problem
    found: list[Route] = []
    waiting: list[tuple[float, int, IntArray, int]] = [(0.0, 0, table.slots, 0)]
    made = 0
    while waiting and len(found) < k:
        extra, _, slots, since = heapq.heappop(waiting)
        found.append(Route(named(problem, slots), added_cost(problem, slots)))
        more, row, slot = _departures(table, slots, since)
        for place in more.argsort(kind="stable")[: k - len(found)]:
            made += 1
            departed = _departed(table, slots, int(row[place]), int(slot[place]))
            heapq.heappush(waiting, (extra + float(more[place]), made, departed, int(row[place])))
    return found


def _departures(table: Table, slots: IntArray, since: int) -> tuple[FloatArray, IntArray, IntArray]:
    """What it costs more to take another slot in a row after `since`, and the best way on from there."""
    problem = table.problem
    trellis = problem.trellis
    row = np.repeat(np.arange(len(slots)), trellis.count)
    slot = np.arange(len(row)) - trellis.first[row]
    open_ = trellis.usable & (row > since) & (slot != slots[row])
    open_ &= ~np.isin(row, trellis.anchors)
    at = np.flatnonzero(open_)
    row, slot = row[at], slot[at]
    kept = trellis.first[row] + slots[row]
    onward = problem.node + table.leaving
    moves = (problem.move[trellis.cells(row - 1, slots[row - 1], which)] for which in (slot, slots[row]))
    taken, best = moves
    return taken + onward[at] - best - onward[kept], row, slot


def _departed(table: Table, slots: IntArray, row: int, slot: int) -> IntArray:
    """A route with one row changed, and the best way on from there."""
    changed = route_through(table, row - 1, slot)
    changed[:row] = slots[:row]
    return changed
