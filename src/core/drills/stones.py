"""Stepping stones within a chart: from a lower note to a fingering, one touch more or less at a time."""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Iterable

from core.charts.entry import Entry
from core.instruments.fingering import Fingering

# Semitones below and above the note among which the way is looked for, and how many steps it may have.
BELOW, ABOVE, STEPS_MOST = 7, 1, 6


def stones_in_chart(entries: Iterable[Entry], goal: Entry, starts: Collection[str]) -> list[Entry]:
    """The shortest way of three fingerings or more, each with one touch changed; empty where there is none.

    Parameters
    ----------
    entries : iterable of Entry
        Those that may be used.
    goal : Entry
    starts : collection of str
        Ids of those that it may start from: of lower notes. Of ways as short, the one from the nearest note.

    Returns
    -------
    list of Entry
    """
    notes = range(goal.note.midi - BELOW, goal.note.midi + ABOVE + 1)
    near = [entry for entry in entries if entry.note.midi in notes and entry.fingering != goal.fingering]
    after: dict[str, Entry | None] = {goal.id: None}
    steps, found, queue = {goal.id: 1}, list[Entry](), deque([goal])
    while queue:
        here = queue.popleft()
        if steps[here.id] >= STEPS_MOST:
            continue
        for other in near:
            if other.id not in after and _one_apart(here.fingering, other.fingering):
                after[other.id], steps[other.id] = here, steps[here.id] + 1
                queue.append(other)
                if steps[other.id] > 2 and other.id in starts and other.note.midi < goal.note.midi:
                    found.append(other)
    if not found:
        return []
    way: list[Entry] = [min(found, key=lambda one: (steps[one.id], goal.note.midi - one.note.midi))]
    while (following := after[way[-1].id]) is not None:
        way.append(following)
    return way


def _one_apart(one: Fingering, other: Fingering) -> bool:
    one, other = one.steady, other.steady
    return sum(one.held(touch) != other.held(touch) for touch in one.touches | other.touches) == 1
