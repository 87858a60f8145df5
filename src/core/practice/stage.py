"""How many more attempts on a stage until nine of ten may be expected there."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from core.practice.learning import ON_STAGE, Learning

# Nine clean of ten; how many attempts a stage takes to lose most of its weight, and how much that differs.
WANTED = math.log(9.0)
FADES, FADES_SPREAD = 30.0, 0.7
# The range told leaves out a tenth on each side; so many quantiles of each of what is uncertain.
OUTSIDE, GRID = 0.1, 15
MOST = 300


@dataclass(frozen=True)
class StillToCome:
    """Attempts on a stage still to come.

    Parameters
    ----------
    fewest, likely, most : int or None
        None: never, while the practice room is as it is.
    never : float, 0 to 1
        Chance that practice alone is not enough for it.
    """

    fewest: int | None
    likely: int | None
    most: int | None
    never: float


def still_to_come(learning: Learning, midi: int) -> StillToCome:
    """Attempts on a stage until nine of ten of a note may be expected to be clean, as a range.

    Parameters
    ----------
    learning : Learning
    midi : int
        Written.

    Returns
    -------
    StillToCome

    Notes
    -----
    With log odds `b` in the practice room and `o` less on a stage, which fades over `t` attempts, it takes
    ``t log(o / (b - 0.2 - log 9))`` of them; never, if what is below the line is not above 0.
    """
    z = ndtri((np.arange(GRID) + 0.5) / GRID)
    at = midi - learning.low
    room = learning.odds[at] + learning.spread[at] * z - ON_STAGE - WANTED
    stage, spread = learning.stage
    less = -(stage + spread * z)
    fades = FADES * np.exp(FADES_SPREAD * z)
    with np.errstate(divide="ignore", invalid="ignore"):
        count = fades[:, None, None] * np.log(less[None, :, None] / room[None, None, :])
    count = np.where(less[None, :, None] <= room[None, None, :], 0.0, count)
    count = np.where(room[None, None, :] <= 0, np.inf, count)
    few, likely, most = np.quantile(count.ravel(), [OUTSIDE, 0.5, 1 - OUTSIDE], method="lower")
    return StillToCome(_whole(few), _whole(likely), _whole(most), float(np.mean(room <= 0)))


def _whole(count: float) -> int | None:
    return min(math.ceil(count), MOST) if math.isfinite(count) else None
