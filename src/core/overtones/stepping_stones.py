"""Stepping stones: from a fingering that speaks to one in a new register, one touch at a time.

Every touch that differs is changed once, so no chain is shorter; of the orders in which they may be
changed, the one is taken whose notes step least and hold best. Each step must be one that the hands
hold and the bore answers.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from core.acoustics.model import Model
from core.acoustics.prediction import Rung
from core.acoustics.response import CENTS
from core.errors import AcousticsError
from core.instruments.fingering import Fingering
from core.instruments.keywork import unholdable
from core.music.pitch import Pitch, frequency_hz

MOST_TOUCHES = 9
# A step that leaps farther than this is no step; a resonance lower by more decibels does not hold.
LEAP_CENTS, LOST_DB = 450.0, 24.0
# What a decibel below the strongest lower resonance counts, in cents of leap.
DB_COUNTS = 6.0
NO_ORDER = "no order of changes gives steps that the hands hold and the instrument answers"


@dataclass(frozen=True)
class Step:
    """One step: the touch changed, empty for the first; what sounds, in Hz; its margin in dB."""

    fingering: Fingering
    changed: str
    frequency: float
    margin: float


def stepping_stones(
    model: Model, start: tuple[Fingering, Pitch], goal: tuple[Fingering, Pitch]
) -> list[Step]:
    """Find the shortest chain of one-touch changes between two fingerings.

    Parameters
    ----------
    start, goal : (Fingering, Pitch)
        Each with the written note that it sounds.

    Returns
    -------
    list of Step
        From start to goal.

    Raises
    ------
    AcousticsError
        If they differ by more than nine touches, or no order of changes gives playable steps only.
    """
    held, wanted = start[0].steady, goal[0].steady
    changes = sorted(
        touch for touch in held.touches | wanted.touches if held.held(touch) != wanted.held(touch)
    )
    if len(changes) > MOST_TOUCHES:
        raise AcousticsError(
            f"the two differ by {len(changes)} touches; a chain is made of {MOST_TOUCHES} at most"
        )
    n_sets = 1 << len(changes)
    fingerings = [
        _mixed(held, wanted, [touch for n, touch in enumerate(changes) if chosen >> n & 1])
        for chosen in range(n_sets)
    ]
    ends = [frequency_hz(model.instrument.to_sounding.apply(note)) for _, note in (start, goal)]
    sounding = _sounding(model, fingerings, ends, len(changes))
    best: list[tuple[float, int]] = [(0.0, -1)] + [(math.inf, -1)] * (n_sets - 1)
    for chosen in range(1, n_sets):
        here = sounding[chosen]
        for n in range(len(changes)):
            before = chosen & ~(1 << n)
            earlier = sounding[before]
            if before == chosen or here is None or earlier is None or best[before][0] == math.inf:
                continue
            leap = abs(CENTS * math.log2(here[0] / earlier[0]))
            cost = best[before][0] + leap + DB_COUNTS * max(0.0, -here[1])
            if leap <= LEAP_CENTS and cost < best[chosen][0]:
                best[chosen] = cost, n
    if best[-1][0] == math.inf:
        raise AcousticsError(NO_ORDER)
    return _chain(fingerings, sounding, best, changes)


def _chain(
    fingerings: Sequence[Fingering],
    sounding: Sequence[tuple[float, float] | None],
    best: Sequence[tuple[float, int]],
    changes: Sequence[str],
) -> list[Step]:
    found, chosen = [], len(fingerings) - 1
    while True:
        here, last = sounding[chosen], best[chosen][1]
        if here is None:
            raise AcousticsError(NO_ORDER)
        found.append(Step(fingerings[chosen], changes[last] if chosen else "", *here))
        if not chosen:
            return found[::-1]
        chosen &= ~(1 << last)


def _mixed(held: Fingering, wanted: Fingering, changed: Sequence[str]) -> Fingering:
    """The start with some touches as the goal has them."""
    full = (held.full - set(changed)) | (wanted.full & set(changed))
    half = (held.half - set(changed)) | (wanted.half & set(changed))
    return Fingering(full, half)


def _sounding(
    model: Model, fingerings: Sequence[Fingering], ends: Sequence[float], n_changes: int
) -> list[tuple[float, float] | None]:
    """What each mixture sounds on the way, in Hz, and its margin; None where it is not playable."""
    found: list[tuple[float, float] | None] = []
    holdable = [fingering for fingering in fingerings if not unholdable(model.instrument, fingering)]
    model.resonances(holdable)  # all at once
    can = set(holdable)
    for chosen, fingering in enumerate(fingerings):
        if fingering not in can:
            found.append(None)
            continue
        share = bin(chosen).count("1") / n_changes if n_changes else 0.0
        on_the_way = ends[0] * (ends[1] / ends[0]) ** share
        found.append(_nearest(model.rungs(fingering), on_the_way))
    return found


def _nearest(rungs: Sequence[Rung], frequency: float) -> tuple[float, float] | None:
    if not rungs:
        return None
    place = min(range(len(rungs)), key=lambda n: abs(math.log(rungs[n].frequency / frequency)))
    rival = max((rung.height for rung in rungs[:place]), default=-math.inf)
    margin = rungs[place].height - rival
    return None if margin < -LOST_DB else (rungs[place].frequency, margin)
