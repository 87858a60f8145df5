"""The spot of a passage that an address names, as it is counted."""

from dataclasses import dataclass

import numpy as np
from django.core.exceptions import ValidationError

from bench.queries import Opened
from core.practice.attempts import (
    QUARTERS_MOST,
    SPOT_MOST,
    Place,
    Spot,
    SpotNote,
)

# Quarters that the shortest move takes at the least.
SHORTEST = 0.001


@dataclass(frozen=True)
class SpotAsked:
    """What an address of count mode asks: notes by their ids, the place, the ladder, the tempo."""

    first: str
    last: str
    miss: str = ""
    place: Place = Place.ROOM
    by_heart: bool = True
    climb: str = ""
    bpm: int | None = None


def spot_asked(opened: Opened, asked: SpotAsked) -> tuple[Spot, int, int]:
    """The spot as it is kept, the place of its first note in the passage, and of that with the miss.

    Notes that are not there fall back to the first link, of a drill to the whole; one too long ends earlier.
    A passage of one note is refused.
    """
    solution = opened.solution()
    places, last = solution.note_at, len(solution.events) - 1
    if not last:
        raise ValidationError("A spot has two notes or more; count this one by itself.", code="short")
    end = places.get(asked.last, places.get(asked.first, 0))
    first = places.get(asked.first, end)
    first, end = min(first, end), max(first, end)
    if opened.passage.purpose and not asked.first and not asked.last:
        first, end = 0, last
    elif first == end:
        first, end = (first - 1, end) if first else (first, min(end + 1, last))
    end = min(end, first + SPOT_MOST - 1)
    quarters_s = 60 / opened.settings.tempo_bpm
    steps = tuple(
        _step(event, entry, quarters_s, n == 0)
        for n, (event, entry) in enumerate(
            zip(solution.events[first : end + 1], solution.entries[first : end + 1], strict=True)
        )
    )
    at = places.get(asked.miss, -1) - first
    if not 0 <= at < len(steps):
        at = _hardest(solution.table, first, end) - first
    return Spot(steps, opened.passage.pk, first), first, at


def _step(event, entry, quarters_s, begins):
    time = 0.0 if begins else event.available_s * event.freed / quarters_s
    quarters = 0.0 if begins else round(min(max(time, SHORTEST), QUARTERS_MOST), 4)
    return SpotNote(event.written_pitch.midi, entry.id if entry else "", quarters)


def _hardest(table, first, end):
    """The note of a spot with most expected faults, with the way into it; of a link the one arrived at."""
    if end - first == 1:
        return end
    faults = table.node_faults.total + table.move_faults.total
    return first + 1 + int(np.argmax(faults[first + 1 : end + 1]))
