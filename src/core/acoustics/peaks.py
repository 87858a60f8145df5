"""Resonances: the maxima of the input impedance, where a reed woodwind sounds."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import signal

from core.acoustics.bore import ComplexArray, FloatArray

# A maximum that stands less than this above its neighbours is a ripple, no resonance.
LEAST_RISE_DB = 0.5
NEWTON_STEPS = 8
# Points to an octave: 10 cents apart place a resonance within half a cent.
PER_OCTAVE = 120


@dataclass(frozen=True)
class Peak:
    """A resonance: frequency in Hz, height in dB above the least of the curve, and quality factor."""

    frequency: float
    height: float
    q: float


def frequencies(low: float, high: float) -> FloatArray:
    """Frequencies at which curves are worked out: even steps of pitch from `low` to `high`, in Hz."""
    count = int(np.ceil(PER_OCTAVE * np.log2(high / low))) + 1
    return np.asarray(low * 2 ** (np.arange(count) / PER_OCTAVE))


def find_peaks(frequency: FloatArray, impedance: ComplexArray) -> list[Peak]:
    """Find the resonances of an input impedance, from the lowest up; see `peaks_of_all`."""
    return peaks_of_all(frequency, impedance[None, :])[0]


def peaks_of_all(frequency: FloatArray, impedances: ComplexArray) -> list[list[Peak]]:
    """Find the resonances of many input impedances.

    Parameters
    ----------
    frequency : np.ndarray [shape=(n_freq,)]
        In Hz, rising by steps that are even, or evenly growing.
    impedances : np.ndarray [shape=(n_curves, n_freq)]

    Returns
    -------
    list of list of Peak

    Raises
    ------
    ValueError
        If the frequencies do not rise so.

    Notes
    -----
    Around a maximum of |Z| the admittance runs smoothly; a complex parabola through three of its
    points gives frequency, height and, by its slope, Q: exactly for a resonance that stands alone.
    """
    steps = np.diff(frequency)
    if len(frequency) < 3 or steps.min() <= 0 or (np.abs(np.diff(steps)) > 0.05 * steps[1:]).any():
        raise ValueError("frequencies must rise by even or evenly growing steps")
    admittances = 1 / impedances
    levels = -20 * np.log10(np.abs(admittances))
    places = [signal.find_peaks(level, prominence=LEAST_RISE_DB)[0] for level in levels]
    at = np.concatenate(places)
    curve = np.repeat(np.arange(len(places)), [len(found) for found in places])
    shift, least, slope = lowest(*(admittances[curve, at + side] for side in (-1, 0, 1)))
    before, here, after = frequency[at - 1], frequency[at], frequency[at + 1]
    step = (after - before) / 2
    peak = here + shift * step + shift**2 * (after - 2 * here + before) / 2
    heights = -20 * np.log10(least) - levels.min(axis=1)[curve]
    q = peak * slope / (2 * step * least)
    found = [Peak(*row) for row in np.stack([peak, heights, q], axis=1).tolist()]
    ends = np.cumsum([0, *map(len, places)])
    return [found[start:end] for start, end in pairwise(map(int, ends))]


def lowest(
    below: ComplexArray, at: ComplexArray, above: ComplexArray, limit: float = 1.0
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Where on the parabola through three points the magnitude is least, that least, and the slope there.

    The place counts in steps from the middle point and stays within `limit` of it.
    """
    first, second = (above - below) / 2, (above - 2 * at + below) / 2
    shift = np.zeros(len(at))
    for _ in range(NEWTON_STEPS):
        value, slope = at + first * shift + second * shift**2, first + 2 * second * shift
        down = (value.conj() * slope).real
        bend = np.abs(slope) ** 2 + 2 * (value.conj() * second).real
        shift = np.where(bend > 0, np.clip(shift - down / np.where(bend > 0, bend, 1), -limit, limit), shift)
    return shift, np.abs(at + first * shift + second * shift**2), np.abs(first + 2 * second * shift)
