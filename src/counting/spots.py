"""The spot that an address names: as it was fingered where it was opened, or worked out anew to be opened."""

from dataclasses import dataclass

import numpy as np

from bench.queries import Opened
from core.practice.attempts import QUARTERS_MOST, SPOT_MOST, Began, SpotNote

# Quarters that the shortest move takes at the least; from which loudness down a note is begun softly.
SHORTEST, SOFT = 0.001, 0.35


@dataclass(frozen=True)
class Span:
    """Notes of a passage one after the other, by the places of the first and the last, and that of a miss."""

    first: int
    last: int
    at: int


def span_between(opened: Opened, first_id="", last_id="", miss_id="") -> Span:
    """The notes from one to another, in either order; what is too long ends earlier.

    A note that is not there falls back to the other; without either it is a whole drill, else the first note.
    Unless a note of it is named, a miss is one of the note with most faults expected.
    """
    solution = opened.solution()
    places, end = solution.note_at, len(solution.events) - 1
    first, last = places.get(first_id), places.get(last_id)
    if first is None and last is None:
        first, last = 0, end if opened.passage.purpose else 0
    first, last = (last if first is None else first), (first if last is None else last)
    first, last = min(first, last), max(first, last)
    last = min(last, first + SPOT_MOST - 1)
    at = places.get(miss_id, -1)
    return Span(first, last, at if first <= at <= last else hardest(solution.table, first, last))


def hardest(table, first, last) -> int:
    """The note with most faults expected, with the way into it; of a move the note arrived at."""
    if last - first < 2:
        return last
    faults = table.node_faults.total + table.move_faults.total
    return first + 1 + int(np.argmax(faults[first + 1 : last + 1]))


def steps_of(opened: Opened, first, last, entry="") -> tuple[SpotNote, ...]:
    """Notes of a passage by their places, as the route fingers them; a note alone with another fingering."""
    solution, quarters_s = opened.solution(), 60 / opened.settings.tempo_bpm
    pairs = zip(solution.events[first : last + 1], solution.entries[first : last + 1], strict=True)
    steps = tuple(_step(event, one, quarters_s, n == 0) for n, (event, one) in enumerate(pairs))
    if entry and len(steps) == 1:
        chart = opened.in_hand.catalogue.by_id
        fits = entry in chart and chart[entry].note.midi == steps[0].midi
        return (SpotNote(steps[0].midi, entry, 0.0),) if fits else steps
    return steps


def _step(event, entry, quarters_s, begins):
    time = 0.0 if begins else event.available_s * event.freed / quarters_s
    quarters = 0.0 if begins else round(min(max(time, SHORTEST), QUARTERS_MOST), 4)
    return SpotNote(event.written_pitch.midi, entry.id if entry else "", quarters)


def began_of(event) -> Began:
    """How a note of a passage begins."""
    if event.slurred:
        return Began.SLURRED
    return Began.SOFT if event.attack <= SOFT else Began.TONGUED


def stands_in(opened: Opened | None, steps, first) -> bool:
    """Whether notes stand at a place of a passage, whatever they are fingered with there."""
    if opened is None:
        return False
    events = opened.solution().events[first : first + len(steps)]
    return [event.written_pitch.midi for event in events] == [step.midi for step in steps]
