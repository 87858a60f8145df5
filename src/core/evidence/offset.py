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

from core.acoustics.model import Prediction
from core.evidence.sources import Estimate

PRIOR_CENTS, FINGERING_CENTS = 30.0, 12.0


@dataclass(frozen=True)
class Read:
    """A player's readings of a fingering, and what the model said of it."""

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


def offset_from(readings: Sequence[Read]) -> Offset | None:
    """Find the offset of a register from readings in it; None without any.

    Examples
    --------
    >>> offset_from([]) is None
    True
    """
    if not readings:
        return None
    each, spread = _learned(readings)
    notes = {reading.midi for reading in readings}
    left = [
        reading.measured.value - corrected(reading.prediction, Offset(*_learned(others), 1, None))[0]
        for reading in readings
        if (others := [other for other in readings if other.midi != reading.midi])
    ]
    left_out = float(np.sqrt(np.mean(np.square(left)))) if left else None
    return Offset(each, spread, len(notes), left_out)


def corrected(prediction: Prediction, offset: Offset) -> tuple[float, float]:
    """Cents of a prediction with an offset, and the spread over the ensemble and of the offset."""
    moved = [
        cents + off for cents, off in zip(prediction.each, offset.each, strict=True) if cents is not None
    ]
    return median(moved), math.hypot(float(np.std(moved)), offset.spread)


def _learned(readings: Sequence[Read]) -> tuple[tuple[float, ...], float]:
    """Offsets of every geometry, and their uncertainty."""
    weights = [1 / (reading.measured.spread**2 + FINGERING_CENTS**2) for reading in readings]
    total = sum(weights) + PRIOR_CENTS**-2
    offsets = []
    for geometry in range(len(readings[0].prediction.each)):
        pulls = [
            weight * (reading.measured.value - cents)
            for weight, reading in zip(weights, readings, strict=True)
            if (cents := reading.prediction.each[geometry]) is not None
        ]
        offsets.append(sum(pulls) / total)
    return tuple(offsets), total**-0.5
