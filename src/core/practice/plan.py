"""What comes next: a note a week at the pace shown, sooner when it holds, longer when it does not."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from core.errors import PracticeError
from core.practice.learning import Learning
from core.practice.reach import LIKELY, holding, reach

# The pace shown; and how long a note has to be kept at least, in days and in sessions.
WEEK, DAYS_LEAST, SESSIONS_LEAST = 7, 3, 2
# The pace of the whole chart by turns: about twice as slow, of simulated students (docs/practice.md).
WHOLE = 14
# After so many days on one note something else is offered.
STUCK_DAYS = 14
STEPS_MOST = 60


@dataclass(frozen=True)
class OnNote:
    """The note that is worked on.

    Parameters
    ----------
    midi : int
        Written.
    days, sessions : int
        Since it was begun, and on how many days it was played.
    """

    midi: int
    days: int
    sessions: int


@dataclass(frozen=True)
class PlannedNote:
    """A note of a plan, from the first day on until the day before the last."""

    midi: int
    first_day: int
    end_day: int


def goes_on(learning: Learning, note: OnNote) -> bool:
    """Whether a note holds well enough for the next: likely, and not on one good day alone.

    Parameters
    ----------
    learning : Learning
    note : OnNote

    Returns
    -------
    bool
    """
    return is_kept(float(holding(learning)[note.midi - learning.low]), note)


def is_kept(holds: float, note: OnNote) -> bool:
    """The same where the chance that it holds is known already.

    Parameters
    ----------
    holds : float, 0 to 1
    note : OnNote

    Returns
    -------
    bool
    """
    return bool(holds >= LIKELY and note.days >= DAYS_LEAST and note.sessions >= SESSIONS_LEAST)


def is_stuck(learning: Learning, note: OnNote) -> bool:
    """Whether a note has been worked on for two weeks and does not hold.

    Parameters
    ----------
    learning : Learning
    note : OnNote

    Returns
    -------
    bool
    """
    return note.days >= STUCK_DAYS and not goes_on(learning, note)


def next_note(learning: Learning, target: int) -> int | None:
    """The lowest note up to a target that does not hold yet; None where all do.

    Where nothing holds it is the one that comes nearest: what nobody tried far below is no place to begin.

    Parameters
    ----------
    learning : Learning
    target : int, 0 to 127
        The highest written note that is aimed at.

    Returns
    -------
    int or None, 0 to 127
    """
    top = reach(learning)
    if top.missing is not None and top.missing <= target:
        return top.missing
    start = learning.low + int(np.argmax(holding(learning))) if top.top is None else top.top + 1
    return start if start <= min(target, learning.high) else None


def chart_notes(learning: Learning, target: int) -> list[int]:
    """The notes that the whole chart takes by turns: from the first that does not hold up to the target.

    Parameters
    ----------
    learning : Learning
    target : int, 0 to 127
        The highest written note that is aimed at.

    Returns
    -------
    list of int, 0 to 127
        Rising.
    """
    first = next_note(learning, target)
    return list(range(first, min(target, learning.high) + 1)) if first is not None else []


def by_turns(learning: Learning, target: int, day: int) -> int | None:
    """The note of a day where the whole chart is played by turns; None where all holds.

    Parameters
    ----------
    learning : Learning
    target : int, 0 to 127
        The highest written note that is aimed at.
    day : int, as `datetime.date.toordinal` counts

    Returns
    -------
    int or None, 0 to 127
    """
    notes = chart_notes(learning, target)
    return notes[day % len(notes)] if notes else None


def pace(
    learning: Learning, target: int, day: int, holidays: Collection[int] = (), days: int = WEEK
) -> list[PlannedNote]:
    """The plan at the pace shown: a note a week up to a target, days off not counted.

    Parameters
    ----------
    learning : Learning
    target : int, 0 to 127
        The highest written note that is aimed at.
    day : int
        The first day, as `datetime.date.toordinal` counts.
    holidays : collection of int
        Days off.
    days : int, from 1
        So many days for each note.

    Returns
    -------
    list of PlannedNote

    Raises
    ------
    PracticeError
        If there is no day that is not off for a year.
    """
    found: list[PlannedNote] = []
    off = frozenset(holidays)
    for midi in chart_notes(learning, target)[:STEPS_MOST]:
        start = _next_open(day, off)
        day = start
        for _ in range(days):
            day = _next_open(day, off) + 1
        found.append(PlannedNote(midi, start, day))
    return found


def _next_open(day: int, off: Collection[int]) -> int:
    for one in range(day, day + 366):
        if one not in off:
            return one
    raise PracticeError("a plan needs days that are not off; take some of the days off away")


def by_due(steps: Collection[PlannedNote], due: int) -> tuple[int | None, list[PlannedNote]]:
    """The highest note that the pace reaches before a day, and the steps that come too late.

    Parameters
    ----------
    steps : collection of PlannedNote
    due : int
        Day, as `datetime.date.toordinal` counts.

    Returns
    -------
    (int or None, list of PlannedNote)
        The note, None for none; and the steps.
    """
    in_time = [step for step in steps if step.end_day <= due]
    late = [step for step in steps if step.end_day > due]
    return (max(step.midi for step in in_time) if in_time else None), late
