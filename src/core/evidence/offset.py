"""What a player's own readings say of the model: how far off it lies in a register.

Mouthpiece families agree on standard notes and part company high up, each by about as much on every
note of a register. So each geometry of the ensemble has an offset of its own, from the same readings.

Notes
-----
An offset starts at nothing, give or take `PRIOR_CENTS`; each reading pulls it, as strongly as it is
sure. What is left over of single fingerings is `FINGERING_CENTS`, about what the hold-outs leave.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from core.acoustics.prediction import Prediction
from core.evidence.sources import Estimate

PRIOR_CENTS, FINGERING_CENTS = 30.0, 12.0


@dataclass(frozen=True)
class Beside:
    """A player's readings of a fingering beside what the model says of it."""

    midi: int
    prediction: Prediction
    measured: Estimate


@dataclass(frozen=True)
class Offset:
    """How far a player's instrument lies from each geometry in a register.

    Parameters
    ----------
    each : tuple of float
        Cents to add to what each geometry says.
    spread : float
        Uncertainty of the offset, in cents.
    notes : int
        How many notes it rests on.
    left_out : float or None
        Root mean square of what is left when each note in turn is predicted from the others; None
        for fewer than two notes.
    """

    each: tuple[float, ...]
    spread: float
    notes: int
    left_out: float | None


def offset_from(readings: Sequence[Beside]) -> Offset | None:
    """Find the offset of a register from readings in it; None without any.

    Every note is left out by taking its share away from the sums, so the time grows with the readings,
    not with their square.

    Parameters
    ----------
    readings : sequence of Beside

    Returns
    -------
    Offset or None

    Examples
    --------
    >>> offset_from([]) is None
    True
    """
    if not readings:
        return None
    each = np.array([[math.nan if c is None else c for c in r.prediction.each] for r in readings])
    measured = np.array([reading.measured.value for reading in readings])[:, None]
    weight = 1 / (np.array([reading.measured.spread for reading in readings]) ** 2 + FINGERING_CENTS**2)
    pull = np.nan_to_num(weight[:, None] * (measured - each))
    notes, note = np.unique([reading.midi for reading in readings], return_inverse=True)
    of_note, weight_of_note = np.zeros((len(notes), each.shape[1])), np.zeros(len(notes))
    np.add.at(of_note, note, pull)
    np.add.at(weight_of_note, note, weight)
    whole, total = pull.sum(axis=0), weight.sum() + PRIOR_CENTS**-2
    left_out = None
    if len(notes) > 1:
        without = (whole - of_note) / (total - weight_of_note)[:, None]
        left = measured[:, 0] - np.nanmedian(each + without[note], axis=1)
        left_out = float(np.sqrt(np.mean(np.square(left))))
    return Offset(tuple((whole / total).tolist()), float(total**-0.5), len(notes), left_out)


def corrected(prediction: Prediction, offset: Offset) -> tuple[float, float]:
    """Cents of a prediction with an offset, and the spread over the ensemble and of the offset.

    Parameters
    ----------
    prediction : Prediction
    offset : Offset

    Returns
    -------
    (float, float), cents
        Where it lies, sharp positive, and the spread.
    """
    moved = [
        cents + off for cents, off in zip(prediction.each, offset.each, strict=True) if cents is not None
    ]
    return median(moved), math.hypot(float(np.std(moved)), offset.spread)
