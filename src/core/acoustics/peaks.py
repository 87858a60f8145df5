"""Resonances: the maxima of the input impedance, where a reed woodwind sounds."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from core.acoustics.bore import ComplexArray, FloatArray

# A maximum that stands less than this above its neighbours is a ripple, no resonance.
LEAST_RISE_DB = 0.5
NEWTON_STEPS = 8


@dataclass(frozen=True)
class Peak:
    """A resonance: frequency in Hz, height in dB above the least of the curve, and quality factor."""

    frequency: float
    height: float
    q: float


def find_peaks(frequency: FloatArray, impedance: ComplexArray) -> list[Peak]:
    """Find the resonances of an input impedance, from the lowest up.

    Parameters
    ----------
    frequency : np.ndarray [shape=(n_freq,)]
        In Hz, evenly spaced; 4 Hz place a resonance within a fifth of a cent.
    impedance : np.ndarray [shape=(n_freq,)]

    Returns
    -------
    list of Peak

    Raises
    ------
    ValueError
        If the frequencies are not evenly spaced and rising.

    Notes
    -----
    Around a maximum of |Z| the admittance runs smoothly; a complex parabola through three of its
    points gives frequency, height and, by its slope, Q: exactly for a resonance that stands alone.
    """
    steps = np.diff(frequency)
    if len(frequency) < 3 or steps.min() <= 0 or np.ptp(steps) > 1e-6 * steps[0]:
        raise ValueError("frequencies must rise by even steps")
    admittance = 1 / impedance
    level, step = -20 * np.log10(np.abs(admittance)), float(steps[0])
    found = []
    for place in map(int, np.flatnonzero((level[1:-1] > level[:-2]) & (level[1:-1] >= level[2:])) + 1):
        shift, least, slope = _lowest(admittance[place - 1 : place + 2])
        peak, top = float(frequency[place]) + shift * step, -20 * math.log10(least)
        if top - _valley(level, place) >= LEAST_RISE_DB:
            found.append(Peak(peak, top - float(level.min()), peak * slope / (2 * step * least)))
    return found


def _lowest(points: ComplexArray) -> tuple[float, float, float]:
    """Where on the parabola through three points the magnitude is least, that least, and the slope there."""
    below, at, above = map(complex, points)
    first, second = (above - below) / 2, (above - 2 * at + below) / 2
    shift = 0.0
    for _ in range(NEWTON_STEPS):
        value, slope = at + first * shift + second * shift**2, first + 2 * second * shift
        down = (value.conjugate() * slope).real
        bend = abs(slope) ** 2 + 2 * (value.conjugate() * second).real
        if bend <= 0:
            break
        shift = min(1.0, max(-1.0, shift - down / bend))
    return shift, abs(at + first * shift + second * shift**2), abs(first + 2 * second * shift)


def _valley(level: FloatArray, place: int) -> float:
    """The higher of the two lows between which a maximum stands."""
    sides = []
    for side in (level[place::-1], level[place:]):
        higher = np.flatnonzero(side > side[0])
        sides.append(float(side[: higher[0] if len(higher) else len(side)].min()))
    return max(sides)
