"""The cheapest routes through a passage: exact, with the k best, pins and bans.

The notes are the layers of a graph, the candidates of a note its nodes; a route's cost is the
sum of the faults of its nodes and links. Dynamic programming over the layers is exact.

References
----------
Bellman (1957), Dynamic Programming.
Särkkä & García-Fernández (2021), Temporal parallelization of inference in hidden Markov models,
IEEE Transactions on Signal Processing 69. (The associative join of stretches, in `best_route`.)
Lawler (1972), A procedure for computing the k best solutions to discrete optimization problems,
Management Science 18. (Kept here as k best costs per node, which suffices for a layered graph.)
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from core.errors import RouteError
from core.music.passage import Event
from core.routes.candidates import Offer
from core.routes.facility import FloatArray
from core.routes.faults import STRANDS, Library, link_faults, note_faults

IntArray = npt.NDArray[np.int64]
ROUTES_LIMIT = 50


@dataclass(frozen=True)
class Problem:
    """A passage ready to be solved.

    Parameters
    ----------
    rows : np.ndarray of int [shape=(n_notes, n_candidates)]
        Places in the library's entries; empty slots hold 0.
    usable : np.ndarray of bool [shape=(n_notes, n_candidates)]
        Slots that a route may take.
    gap : np.ndarray of bool [shape=(n_notes,)]
        Notes without a fingering: they cost nothing and cut the route in two.
    node, link : np.ndarray [shape=(n_notes, n_candidates, 4), (n_notes - 1, n_candidates, n_candidates, 4)]
        Expected faults by strand, unweighted.
    node_cost, link_cost : np.ndarray
        Weighted sums over the strands; empty slots are infinite. A candidate's head
        start is taken off its own.
    """

    rows: IntArray
    usable: npt.NDArray[np.bool_]
    gap: npt.NDArray[np.bool_]
    node: FloatArray
    link: FloatArray
    node_cost: FloatArray
    link_cost: FloatArray


@dataclass(frozen=True)
class Route:
    """One route: for each note the slot among its candidates, or None for a gap."""

    slots: tuple[int | None, ...]
    cost: float


def make_problem(
    library: Library,
    index: Mapping[str, int],
    events: Sequence[Event],
    offered: Sequence[Offer],
    weights: Mapping[str, float] | None = None,
) -> Problem:
    """Lay out candidates and costs for a passage.

    Parameters
    ----------
    index : mapping of entry id to its place in `library.entries`
    weights : mapping of strand to number from 0 to 10, optional
        Default 1 each.

    Raises
    ------
    RouteError
        If a weight is out of range or there is no note.
    """
    weight = _weights(weights or {})
    if not events:
        raise RouteError("a route must have at least one note, got none")
    width = max(1, *(len(offer.candidates) for offer in offered))
    rows = np.zeros((len(events), width), dtype=np.int64)
    filled, usable = np.zeros((2, *rows.shape), dtype=np.bool_)
    for place, offer in enumerate(offered):
        count = len(offer.candidates)
        rows[place, :count] = [index[candidate.entry.id] for candidate in offer.candidates]
        filled[place, :count] = True
        usable[place, :count] = [not candidate.bar for candidate in offer.candidates]
    gap = np.asarray(~usable.any(axis=1))
    node = np.zeros((*rows.shape, 4))
    node[..., :3] = note_faults(library, events, rows)
    link = np.zeros((len(events) - 1, width, width, 4))
    link[..., 2:] = link_faults(library, events, rows)
    node[gap], link[gap[:-1] | gap[1:]] = 0.0, 0.0
    usable[gap, 0] = filled[gap, 0] = True
    head_start = np.zeros(rows.shape)
    for place, offer in enumerate(offered):
        head_start[place, : len(offer.candidates)] = [c.head_start for c in offer.candidates]
    head_start[gap] = 0.0
    node_cost = np.where(filled, node @ weight - head_start, np.inf)
    return Problem(rows, usable, gap, node, link, node_cost, link @ weight)


def _weights(weights: Mapping[str, float]) -> FloatArray:
    unknown = sorted(set(weights) - set(STRANDS))
    if unknown:
        raise RouteError(f"weights must be for {', '.join(STRANDS)}, got {unknown}")
    values = np.array([weights.get(strand, 1.0) for strand in STRANDS], dtype=np.float64)
    if not np.all((values >= 0) & (values <= 10)):
        raise RouteError(f"a weight must be from 0 to 10, got {values.tolist()}")
    return values


def best_route(problem: Problem) -> Route:
    """Find the cheapest route; of equal ones always the same, early in the order of the catalogue.

    Notes
    -----
    A stretch of notes is a table of the least cost from each first to each last slot. Two
    adjacent stretches join by a min-plus matrix product, which is associative, so all pairs of
    stretches are joined at once, then pairs of pairs; walking back down names the slots.
    """
    order, node, stretches = _open_tables(problem)
    if stretches.shape[-1] == 0:
        slot = int(node[0].argmin())
        return Route(_named(problem, [int(order[0, slot])]), float(node[0, slot]))
    seams: list[tuple[npt.NDArray[np.int8], int]] = []
    while stretches.shape[-1] > 1:
        length = stretches.shape[-1]
        stretches, middle = _joined(stretches)
        seams.append((middle, length))
    total = node[0][:, None] + stretches[:, :, 0]
    ends = np.array(divmod(int(total.argmin()), total.shape[1]), dtype=np.int64)
    for middle, length in reversed(seams):
        finer = np.empty(2 * len(ends) - 1, dtype=np.int64)
        finer[::2] = ends
        finer[1::2] = middle[ends[:-1], ends[1:], np.arange(middle.shape[-1])]
        ends = finer[: length + 1]
    slots = order[np.arange(len(order)), ends].tolist()
    return Route(_named(problem, slots), float(total.min()))


def _open_tables(problem: Problem) -> tuple[IntArray, FloatArray, FloatArray]:
    """Only the slots that a route may take, moved to the front of every note.

    Returns
    -------
    order : np.ndarray [shape=(n_notes, n_open)]
        The slots; where a note has fewer, the rest cost infinitely much.
    node : np.ndarray [shape=(n_notes, n_open)]
    stretches : np.ndarray [shape=(n_open, n_open, n_notes - 1)]
        Cost of each link and of the node it enters; the notes last, so that they lie together.
    """
    n_notes, width = problem.node_cost.shape
    n_open = int(problem.usable.sum(axis=1).max())
    order = np.argsort(~problem.usable, axis=1, kind="stable")[:, :n_open]
    node = np.take_along_axis(_open_cost(problem), order, axis=1)
    slots = np.ascontiguousarray(order.T)
    cells = slots[:, None, :-1] * width + slots[None, :, 1:] + np.arange(n_notes - 1) * width * width
    return order, node, np.take(problem.link_cost, cells) + node.T[None, :, 1:]


def _joined(stretches: FloatArray) -> tuple[FloatArray, npt.NDArray[np.int8]]:
    """Join adjacent stretches two by two; also the first best slot at every seam."""
    n_open = stretches.shape[0]
    if stretches.shape[-1] % 2:
        alone = np.where(np.eye(n_open, dtype=np.bool_), 0.0, np.inf)
        stretches = np.concatenate([stretches, alone[:, :, None]], axis=2)
    before = np.ascontiguousarray(stretches[:, :, 0::2])
    after = np.ascontiguousarray(stretches[:, :, 1::2])
    best = before[:, 0, None, :] + after[None, 0, :, :]
    middle = np.zeros(best.shape, dtype=np.int8)  # there are never so many candidates
    for slot in range(1, n_open):
        total = before[:, slot, None, :] + after[None, slot, :, :]
        np.copyto(middle, slot, where=total < best)
        np.minimum(best, total, out=best)
    return best, middle


def best_routes(problem: Problem, k: int) -> list[Route]:
    """Find the k cheapest routes, cheapest first; fewer where there are fewer.

    Raises
    ------
    RouteError
        If `k` is not from 1 to 50.
    """
    if not 1 <= k <= ROUTES_LIMIT:
        raise RouteError(f"k must be from 1 to {ROUTES_LIMIT}, got {k}")
    open_cost = _open_cost(problem)
    n_notes, width = open_cost.shape
    cost = np.full((width, k), np.inf)
    cost[:, 0] = open_cost[0]
    came_from = np.zeros((n_notes, width, k), dtype=np.int64)
    for place in range(1, n_notes):
        # (slot before, rank before) x slot: every way to arrive, in the order of the catalogue.
        total = (cost[:, :, None] + problem.link_cost[place - 1][:, None, :]).reshape(width * k, width)
        order = total.argsort(axis=0, kind="stable")[:k]
        came_from[place] = order.T
        cost = np.take_along_axis(total, order, axis=0).T + open_cost[place][:, None]
    flat = cost.reshape(-1)
    ends = [int(end) for end in flat.argsort(kind="stable")[:k] if np.isfinite(flat[end])]
    return [_walk_back(problem, came_from, end, float(flat[end]), k) for end in ends]


def _open_cost(problem: Problem) -> FloatArray:
    """Cost of each node, infinite where a route may not go."""
    return np.asarray(np.where(problem.usable, problem.node_cost, np.inf))


def _walk_back(problem: Problem, came_from: IntArray, end: int, cost: float, k: int) -> Route:
    slots = []
    for place in range(len(came_from) - 1, -1, -1):
        slot, rank = divmod(end, k)
        slots.append(slot)
        end = int(came_from[place, slot, rank])
    return Route(_named(problem, slots[::-1]), cost)


def _named(problem: Problem, slots: list[int]) -> tuple[int | None, ...]:
    return tuple(None if gap else slot for slot, gap in zip(slots, problem.gap.tolist(), strict=True))


def added_cost(problem: Problem, slots: Sequence[int | None]) -> float:
    """Add up a route's cost note by note and link by link, apart from how it was found."""
    total = 0.0
    for place, slot in enumerate(slots):
        here = slot or 0
        total += float(problem.node_cost[place, here])
        if place:
            total += float(problem.link_cost[place - 1, slots[place - 1] or 0, here])
    return total


def cost_through(problem: Problem) -> FloatArray:
    """Cost of the cheapest route through each candidate of each note.

    Returns
    -------
    np.ndarray [shape=(n_notes, n_candidates)]
        Candidates that a route may not take are priced as if this one note allowed them; empty
        slots are infinite. Over the usable slots the least value is the same for every note.
    """
    open_cost = _open_cost(problem)
    arriving, leaving = np.zeros_like(open_cost), np.zeros_like(open_cost)
    for place, link in enumerate(problem.link_cost):
        so_far = arriving[place] + open_cost[place]
        arriving[place + 1] = (so_far[:, None] + link).min(axis=0)
    for place in range(len(problem.link_cost) - 1, -1, -1):
        onward = open_cost[place + 1] + leaving[place + 1]
        leaving[place] = (problem.link_cost[place] + onward[None, :]).min(axis=1)
    return np.asarray(arriving + problem.node_cost + leaving)


def strand_faults(problem: Problem, slots: Sequence[int | None], place: int, slot: int) -> FloatArray:
    """Faults by strand if one note of a route took another candidate, its neighbours unchanged.

    Returns
    -------
    np.ndarray [shape=(5,)]
        Pitch, tone, speaks, hands into the note, hands out of it; unweighted.
    """
    result = np.zeros(5)
    result[:3] = problem.node[place, slot, :3]
    if place > 0:
        into = problem.link[place - 1, slots[place - 1] or 0, slot]
        result[2] += into[2]
        result[3] = into[3]
    if place + 1 < len(slots):
        result[4] = problem.link[place, slot, slots[place + 1] or 0, 3]
    return result


@dataclass(frozen=True)
class Reason:
    """Why a candidate stands in the route.

    Parameters
    ----------
    runner_up : int or None
        Slot of the next cheapest candidate; None if there is no other.
    extra : float
        Faults that the whole passage would gain with it.
    because, despite : str
        Strand in which the choice saves most, and in which it loses most; empty if none.
    """

    runner_up: int | None
    extra: float
    because: str
    despite: str


def reasons(problem: Problem, route: Route) -> list[Reason]:
    """Say for every note of a route what speaks for it against its runner-up."""
    through = cost_through(problem)
    return [reason_for(problem, route, place, through[place]) for place in range(len(route.slots))]


def reason_for(problem: Problem, route: Route, place: int, through: FloatArray) -> Reason:
    """Say it for one note; `through` is its row of `cost_through`."""
    slots = route.slots
    chosen = slots[place]
    others = [slot for slot in np.flatnonzero(problem.usable[place]).tolist() if slot != chosen]
    if chosen is None or not others:
        return Reason(None, 0.0, "", "")
    rival = min(others, key=lambda slot: float(through[slot]))
    saved = strand_faults(problem, slots, place, rival) - strand_faults(problem, slots, place, chosen)
    by_strand = dict(zip(STRANDS, [*saved[:3], saved[3] + saved[4]], strict=True))
    best, worst = max(by_strand, key=by_strand.__getitem__), min(by_strand, key=by_strand.__getitem__)
    return Reason(
        runner_up=rival,
        extra=float(through[rival] - through[chosen]),
        because=best if by_strand[best] > NOTEWORTHY else "",
        despite=worst if by_strand[worst] < -NOTEWORTHY else "",
    )


# One fault in two hundred playings is not worth a word.
NOTEWORTHY = 0.005
