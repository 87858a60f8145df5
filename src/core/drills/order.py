"""Drills in the order of how much they ask, easiest first."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from functools import lru_cache

from core.drills.material import Drill
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import ALL_SOURCES, Basis
from core.music.events import sounding_events
from core.music.passage import Passage
from core.routes.candidates import written_pins
from core.routes.demands import Moves
from core.routes.explain import route_faults
from core.routes.solve import solve
from core.routes.table import Table

Solved = tuple[Drill, Table, float]


def easiest_first(
    drills: Iterable[Drill],
    in_hand: InstrumentInHand,
    moves: Moves,
    use: Collection[Basis] = ALL_SOURCES,
) -> list[Solved]:
    """Each drill with its route, which keeps the fingerings written in it, and its faults in 100 notes.

    Raises
    ------
    RouteError
        If one asks for what cannot be.
    """
    found = [(drill, *_solved(drill.passage, in_hand, moves, frozenset(use))) for drill in drills]
    return sorted(found, key=lambda one: one[2])


@lru_cache(maxsize=256)
def _solved(
    passage: Passage, in_hand: InstrumentInHand, moves: Moves, use: frozenset[Basis]
) -> tuple[Table, float]:
    """The route of a drill, and its faults in 100 notes; the same question is not worked out twice."""
    events = sounding_events(passage)
    pins, _ = written_pins(events, in_hand)
    table = solve(events, in_hand, moves, pins=pins, use=use)
    return table, 100 * route_faults(table).total / len(events)
