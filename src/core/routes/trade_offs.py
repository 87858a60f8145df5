"""Exchanges: what a strand gains, what the others pay for it, and where.

For each strand the routes are sought that are best when it counts more, or less, from a tenth to ten times:
the corners of the set of all pairs (faults in the strand, faults in the others). They are found exactly, many
weights at once. From one corner to the next a single stretch changes, at a price: faults added in the others
for each one saved.

References
----------
Aneja & Nair (1979), Bicriteria transportation problem, Management Science 25. (Corners between two known ones
by the weight at which these two come to the same.)
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from core.routes.alternatives import Change, changed
from core.routes.facility import IntArray
from core.routes.faults import STRANDS
from core.routes.stretches import Costs, Stretch, Stretches, alone, best, cost_of
from core.routes.table import Table

LEAST, MOST = 0.1, 10.0  # how much the strand counts beside the others
WORTH_LISTING = 0.02
LISTED = 5
# A pair is another corner if it lies below the line between two by more than this.
BELOW = 1e-9


@dataclass(frozen=True)
class Exchange:
    """Another way through one stretch: what a strand gains against the route, and what the others pay.

    Parameters
    ----------
    gains : float
        Faults saved in the strand; below zero where it is the strand that pays.
    pays : float
        Weighted faults added in the others; below zero where they gain.
    change : Change
        What changes; its `extra` is what the whole passage costs more as strands count now.
    """

    strand: str
    gains: float
    pays: float
    change: Change

    @property
    def price(self) -> float:
        """Faults added where it is paid for each one saved where it is gained."""
        return self.pays / self.gains if self.gains > 0 else self.gains / self.pays


@dataclass(frozen=True)
class Exchanges:
    """Of one strand: ways that gain most cheaply in it, and those by which the others gain at its cost."""

    gaining: tuple[Exchange, ...]
    paying: tuple[Exchange, ...]


def exchanges(table: Table) -> Mapping[str, Exchanges]:
    """The exchanges of every strand.

    At most `LISTED` each way, each saving at least `WORTH_LISTING`, the best price first.

    Parameters
    ----------
    table : Table

    Returns
    -------
    mapping of str to Exchanges
    """
    stretches = table.stretches
    now = [stretches.local(stretch, table.slots) for stretch in stretches.all]
    weights = table.problem.weights
    return {strand: _of_strand(stretches, now, strand, weights.get(strand, 1.0)) for strand in STRANDS}


def _of_strand(stretches: Stretches, now: list[IntArray], strand: str, weight: float) -> Exchanges:
    own, others = _apart(stretches, strand)
    gaining: list[Exchange] = []
    paying: list[Exchange] = []
    for stretch, here in zip(stretches.all, now, strict=True):
        routes = corners(stretch, own, others, here, weight)
        if len(routes) < 2:
            continue
        mine, theirs = (cost_of(stretch, costs, routes)[:, 0] for costs in (own, others))
        for route, gains, pays in zip(routes, mine[0] - mine, theirs - theirs[0], strict=True):
            if max(gains, -pays) < WORTH_LISTING:
                continue
            change = changed(stretches, stretch, here, route, float(pays - weight * gains))
            (gaining if gains > 0 else paying).append(Exchange(strand, float(gains), float(pays), change))
    return Exchanges(_cheapest(gaining), _cheapest(paying))


def _cheapest(found: list[Exchange]) -> tuple[Exchange, ...]:
    return tuple(sorted(found, key=lambda one: (one.price, one.change.notes))[:LISTED])


def _apart(stretches: Stretches, strand: str) -> tuple[Costs, Costs]:
    """Unweighted costs of a strand, and weighted costs of the others less the head starts."""
    by_note, by_move = stretches.faults
    weights = stretches.problem.weights
    own = Costs(getattr(by_note, strand), getattr(by_move, strand))
    rest = {**dict.fromkeys(STRANDS, 1.0), **weights, strand: 0.0}
    start = stretches.problem.head_start[stretches.slots][:, None]
    avoided = stretches.problem.avoided[stretches.cells][:, None]
    return own, Costs(by_note.weighted(rest).total - start, by_move.weighted(rest).total + avoided)


def corners(stretch: Stretch, own: Costs, others: Costs, now: IntArray, weight: float) -> IntArray:
    """Routes of a stretch that are the best one at some weight of the strand; the present one first.

    Parameters
    ----------
    stretch : Stretch
    own, others : Costs
        Of one column each.
    now : np.ndarray of int [shape=(n_rows,)]
        The present route of the stretch.
    weight : float
        What the strand counts now.

    Returns
    -------
    np.ndarray of int [shape=(n_routes, n_rows)]
    """
    own, others = alone(stretch, own), alone(stretch, others)
    here = stretch.shifted(stretch.span.start, stretch.move[0][0].start)
    found = {tuple(now.tolist()): None}

    def solved(ratios: list[float]) -> list[tuple[float, float]]:
        """The pairs (strand, others) that are best at these weights of the strand."""
        _, routes = best(here, Costs(*(b + np.array(ratios) * a for a, b in zip(own, others, strict=True))))
        found.update(dict.fromkeys(map(tuple, routes.T.tolist())))
        mine, theirs = (cost_of(here, costs, routes.T)[:, 0] for costs in (own, others))
        return list(zip(mine.tolist(), theirs.tolist(), strict=True))

    pairs = list(pairwise(sorted(set(solved([min(LEAST, weight), weight, max(MOST, weight)])))))
    while pairs := [(p, q) for p, q in pairs if q[0] - p[0] > BELOW and p[1] - q[1] > BELOW]:
        ratios = [(p[1] - q[1]) / (q[0] - p[0]) for p, q in pairs]
        pairs = [
            pair
            for (p, q), ratio, new in zip(pairs, ratios, solved(ratios), strict=True)
            if new[1] + ratio * new[0] < p[1] + ratio * p[0] - BELOW
            for pair in ((p, new), (new, q))
        ]
    return np.array(list(found), dtype=np.int64)
