"""Drills in the order of how much they ask, easiest first."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import replace
from functools import lru_cache
from typing import NamedTuple

from core.drills.material import Drill
from core.drills.writing import with_tempo
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import ALL_SOURCES, Basis
from core.music.events import sounding_events
from core.music.passage import Passage
from core.routes.candidates import written_pins
from core.routes.demands import Moves
from core.routes.explain import route_faults
from core.routes.hard_moves import safe_bpm
from core.routes.solve import solve
from core.routes.table import Table


class SolvedDrill(NamedTuple):
    """A drill with its route, which keeps the fingerings written in it, and its faults in 100 notes."""

    drill: Drill
    table: Table
    faults: float


def easiest_first(
    drills: Iterable[Drill],
    in_hand: InstrumentInHand,
    moves: Moves,
    use: Collection[Basis] = ALL_SOURCES,
    tell: Callable[[int, int], None] | None = None,
) -> list[SolvedDrill]:
    """Each drill with its route.

    A drill whose own rhythm asks more than the music that it serves begins slower, where the hands are safe.

    Parameters
    ----------
    drills : iterable of Drill
    in_hand : InstrumentInHand
    moves : Moves
    use : collection of Basis
    tell : callable, optional
        Is told how many drills are done, of how many.

    Returns
    -------
    list of SolvedDrill

    Raises
    ------
    RouteError
        If one asks for what cannot be.
    """
    found, every = [], list(drills)
    for drill in every:
        passage, table, faults = _solved(drill.passage, in_hand, moves, frozenset(use))
        found.append(SolvedDrill(replace(drill, passage=passage), table, faults))
        if tell is not None:
            tell(len(found), len(every))
    return sorted(found, key=lambda one: one.faults)


@lru_cache(maxsize=256)
def _solved(
    passage: Passage, in_hand: InstrumentInHand, moves: Moves, use: frozenset[Basis]
) -> tuple[Passage, Table, float]:
    """A drill at a safe tempo, its route, and its faults in 100 notes; no question is worked out twice."""
    events = sounding_events(passage)
    pins, _ = written_pins(events, in_hand)
    table = solve(events, in_hand, moves, pins=pins, use=use)
    safe = safe_bpm(table, 0, len(events) - 1, passage.tempo_bpm)
    if safe < passage.tempo_bpm:
        passage = with_tempo(passage, float(safe))
        table = solve(sounding_events(passage), in_hand, moves, pins=pins, use=use)
    return passage, table, 100 * route_faults(table).total / len(events)
