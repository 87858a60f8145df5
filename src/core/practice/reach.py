"""How far a student reaches: which notes hold, which nearly do, and which to try next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.special import ndtr

from core.practice.learning import HOLDS_LOG_ODDS, Learning
from core.routes.facility import FloatArray

# A reach is said where a note holds so likely and at most one lower note is as unlikely; surely so.
LIKELY, GAP = 0.65, 0.40
SURELY, SURE_GAP = 0.80, 0.50
# A note is nearly there from so likely on, and known if its chance is known to so much.
NEARLY, KNOWN_SD = 0.25, 1.3


class HowItHolds(StrEnum):
    """Where a note stands."""

    HOLDS = "holds"
    NEARLY = "nearly"
    NOT_YET = "not yet"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Reach:
    """The highest note that holds, and the one below it that does not, if there is one.

    Parameters
    ----------
    top : int or None
        Written; None where nothing holds.
    missing : int or None
    """

    top: int | None
    missing: int | None = None


def holding(learning: Learning) -> FloatArray:
    """For each note the chance that it holds: that a clean attempt is more likely than four in five.

    Parameters
    ----------
    learning : Learning

    Returns
    -------
    np.ndarray [shape=(n_notes,)], 0 to 1
    """
    return np.asarray(ndtr((learning.odds - HOLDS_LOG_ODDS) / learning.spread))


def reach(learning: Learning, *, surely: bool = False) -> Reach:
    """The reach: the highest note that likely holds with at most one lower note that likely does not.

    Parameters
    ----------
    learning : Learning
    surely : bool

    Returns
    -------
    Reach
    """
    likely, gap = (SURELY, SURE_GAP) if surely else (LIKELY, GAP)
    holds = holding(learning)
    short = holds < gap
    good = np.flatnonzero((holds >= likely) & (np.cumsum(short) <= 1))
    if not len(good):
        return Reach(None)
    below = np.flatnonzero(short[: good[-1]])
    missing = learning.low + int(below[0]) if len(below) else None
    return Reach(learning.low + int(good[-1]), missing)


def standings(learning: Learning, tried: Sequence[int] = ()) -> list[HowItHolds]:
    """Where every note stands.

    Parameters
    ----------
    learning : Learning
    tried : sequence of int
        Notes with attempts; of others too little may be known.

    Returns
    -------
    list of HowItHolds
    """
    known = set(tried)
    found = []
    for at, (holds, spread) in enumerate(zip(holding(learning), learning.spread, strict=True)):
        if learning.low + at not in known and spread > KNOWN_SD and GAP <= holds + 0.2 <= 1.0:
            found.append(HowItHolds.UNKNOWN)
        elif holds >= LIKELY:
            found.append(HowItHolds.HOLDS)
        else:
            found.append(HowItHolds.NEARLY if holds >= NEARLY else HowItHolds.NOT_YET)
    return found


def try_next(learning: Learning, among: Sequence[int] | None = None) -> int:
    """The note of which it is least sure whether it holds; of equals the lower.

    Parameters
    ----------
    learning : Learning
    among : sequence of int, optional
        Notes to choose from; all of the range by default.

    Returns
    -------
    int, 0 to 127
    """
    holds = holding(learning)
    notes = range(learning.low, learning.high + 1) if among is None else sorted(among)
    return min(notes, key=lambda midi: (abs(float(holds[midi - learning.low]) - 0.5), midi))
