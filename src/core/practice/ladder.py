"""A ladder of tempi up to a target: where to begin, when to go up, and when a step is done."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from core.errors import PracticeError

# Up by ten after three clean ones in a row, by three from nine tenths of the tempo at which it went wrong;
# one step back on a miss; done at five clean ones in a row at the target.
STEP, FINE_STEP, NEAR_WALL = 10.0, 3.0, 0.9
IN_A_ROW, AT_TARGET = 3, 5


@dataclass(frozen=True)
class Ladder:
    """Where a student stands on a ladder.

    Parameters
    ----------
    steps : tuple of float, quarter notes a minute
        The steps that were taken and not taken back; the last is the one that is played.
    target : float
        The tempo aimed at.
    step : float
        How far it goes up at a time, away from the wall.
    clean : int
        Clean ones in a row on this step.
    wall : float or None
        The slowest tempo at which one went wrong and that was not climbed since.
    """

    steps: tuple[float, ...]
    target: float
    step: float = STEP
    clean: int = 0
    wall: float | None = None

    @property
    def bpm(self) -> float:
        """The step that is played."""
        return self.steps[-1]

    @property
    def done(self) -> bool:
        """Whether the target holds: five clean ones in a row."""
        return self.bpm >= self.target and self.clean >= AT_TARGET

    @property
    def wanted(self) -> int:
        """Clean ones in a row that this step asks for."""
        return AT_TARGET if self.bpm >= self.target else IN_A_ROW


def begin(start: float, target: float, step: float = STEP) -> Ladder:
    """A ladder from a tempo to another; it begins at the target if that lies lower.

    Parameters
    ----------
    start, target : float, quarter notes a minute, above 0
    step : float, quarter notes a minute, above 0
        Between two tempi.

    Returns
    -------
    Ladder

    Raises
    ------
    PracticeError
        If a tempo or the step is not above 0.
    """
    if not (start > 0 and target > 0 and step > 0):
        raise PracticeError(f"tempi and steps must be above 0, got {start:g}, {target:g} and {step:g}")
    return Ladder((min(start, target),), target, step)


def steps_to(start: float, target: float, step: float = STEP) -> list[float]:
    """The steps of a ladder where nothing goes wrong, both ends included; the target alone if it lies lower.

    Parameters
    ----------
    start, target : float, quarter notes a minute, above 0
    step : float, quarter notes a minute, above 0
        Between two tempi.

    Returns
    -------
    list of float, quarter notes a minute
        Rising.

    Examples
    --------
    >>> steps_to(84, 100, 8)
    [84, 92, 100]
    """
    found = [start + n * step for n in range(math.ceil(max(target - start, 0) / step))]
    return [*found, target]


def played(ladder: Ladder, *, clean: bool) -> Ladder:
    """The ladder after one more playing at its step.

    Parameters
    ----------
    ladder : Ladder
    clean : bool

    Returns
    -------
    Ladder
    """
    if ladder.done:
        return ladder
    if not clean:
        hit = ladder.bpm if ladder.wall is None else min(ladder.bpm, ladder.wall)
        return replace(ladder, steps=ladder.steps[:-1] or ladder.steps, clean=0, wall=hit)
    now = replace(ladder, clean=ladder.clean + 1)
    if now.bpm >= now.target or now.clean < IN_A_ROW:
        return now
    wall = None if now.wall is not None and now.bpm >= now.wall else now.wall
    near = wall is not None and now.bpm >= NEAR_WALL * wall
    up = min(now.bpm + (min(FINE_STEP, now.step) if near else now.step), now.target)
    return replace(now, steps=(*now.steps, up), clean=0, wall=wall)


def resumed(ladder: Ladder, playings: Sequence[tuple[float, bool]]) -> Ladder:
    """The ladder after playings at whatever tempo each was: another than the step begins a step of its own.

    Parameters
    ----------
    ladder : Ladder
    playings : sequence of (float, bool)
        Tempo, and whether it was clean, in their order.

    Returns
    -------
    Ladder
    """
    for bpm, clean in playings:
        if bpm != ladder.bpm:
            steps = (*(step for step in ladder.steps if step < bpm), bpm)
            ladder = replace(ladder, steps=steps, clean=0)
        ladder = played(ladder, clean=clean)
    return ladder


def climbed(ladder: Ladder, results: Sequence[bool]) -> Ladder:
    """The ladder after playings, clean or not, in their order.

    Parameters
    ----------
    ladder : Ladder
    results : sequence of bool

    Returns
    -------
    Ladder
    """
    for clean in results:
        ladder = played(ladder, clean=clean)
    return ladder
