"""Resonances: the maxima of the input impedance, where a reed woodwind sounds."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from core.acoustics.bore import ComplexArray, FloatArray

IntArray = npt.NDArray[np.int64]

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
    """Frequencies at which curves are worked out: even steps of pitch from `low` to `high`, in Hz.

    Parameters
    ----------
    low : float, Hz, above 0
    high : float, Hz, above `low`

    Returns
    -------
    np.ndarray [shape=(n_freq,)], Hz
    """
    count = int(np.ceil(PER_OCTAVE * np.log2(high / low))) + 1
    return np.asarray(low * 2 ** (np.arange(count) / PER_OCTAVE))


def find_peaks(frequency: FloatArray, impedance: ComplexArray) -> list[Peak]:
    """Find the resonances of an input impedance, from the lowest up; see `peaks_of_all`.

    Parameters
    ----------
    frequency : np.ndarray [shape=(n_freq,)], Hz
    impedance : np.ndarray of complex [shape=(n_freq,)], Pa s/m³

    Returns
    -------
    list of Peak

    Raises
    ------
    ValueError
        If the frequencies do not rise evenly.
    """
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
    curve, at = prominent(levels, LEAST_RISE_DB)
    before, here, after = (admittances[curve, at + side] for side in (-1, 0, 1))
    shift, least, slope = lowest(before, here, after)
    low, middle, high = frequency[at - 1], frequency[at], frequency[at + 1]
    step = (high - low) / 2
    peak = middle + shift * step + shift**2 * (high - 2 * middle + low) / 2
    heights = -20 * np.log10(least) - levels.min(axis=1)[curve]
    q = peak * slope / (2 * step * least)
    found = [Peak(*row) for row in np.stack([peak, heights, q], axis=1).tolist()]
    ends = np.searchsorted(curve, np.arange(len(levels) + 1))
    return [found[start:end] for start, end in pairwise(map(int, ends))]


def prominent(levels: FloatArray, least: float) -> tuple[IntArray, IntArray]:
    """Find the maxima of many curves that stand out.

    Parameters
    ----------
    levels : np.ndarray [shape=(n_curves, n_freq)]
    least : float >= 0
        So far a maximum has to stand above the lowest point between it and a higher one, on either side; the
        end of a curve counts where there is none.

    Returns
    -------
    curve, at : np.ndarray of int [shape=(n_found,)]
        The curve of each, and its place there, curve by curve and from the left.
    """
    inner = levels[:, 1:-1]
    curve, at = np.nonzero((inner > levels[:, :-2]) & (inner >= levels[:, 2:]))
    at = at + 1
    if not len(at):
        return curve, at
    width = levels.shape[1]
    marks = np.unique(np.concatenate([np.arange(len(levels)) * width, curve * width + at]))
    valley = np.minimum.reduceat(levels.ravel(), marks)  # from each maximum, or beginning, to the next
    here = np.searchsorted(marks, curve * width + at)
    height, owner = levels.ravel()[marks], marks // width
    top, beginning = height[here], np.searchsorted(owner, curve)
    end = np.searchsorted(owner, curve, side="right")
    left, right = valley[here - 1], valley[here]
    for side, step, low in ((here - 1, -1, left), (here + 1, 1, right)):
        place, active = side.copy(), np.arange(len(here))
        while len(active):  # past maxima that are no higher
            inside = (place[active] > beginning[active]) & (place[active] < end[active])
            active = active[inside]
            active = active[height[place[active]] <= top[active]]
            beyond = place[active] - (step < 0)
            low[active] = np.minimum(low[active], valley[beyond])
            place[active] += step
    stands = top - np.maximum(left, right) >= least
    return curve[stands], at[stands]


def lowest(
    below: ComplexArray, at: ComplexArray, above: ComplexArray, limit: float = 1.0
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Where on the parabola through three points the magnitude is least, that least, and the slope there.

    The place counts in steps from the middle point and stays within `limit` of it.

    Parameters
    ----------
    below : np.ndarray of complex [shape=(n,)]
        Admittances one step below.
    at : np.ndarray of complex [shape=(n,)]
        At the middle points.
    above : np.ndarray of complex [shape=(n,)]
        One step above.
    limit : float, steps

    Returns
    -------
    (np.ndarray, np.ndarray, np.ndarray) [shape=(n,)]
        Places in steps from the middle; magnitudes; slopes a step.
    """
    first, second = (above - below) / 2, (above - 2 * at + below) / 2
    shift = np.zeros(len(at))
    for _ in range(NEWTON_STEPS):
        value, slope = at + first * shift + second * shift**2, first + 2 * second * shift
        down = (value.conj() * slope).real
        bend = np.abs(slope) ** 2 + 2 * (value.conj() * second).real
        shift = np.where(bend > 0, np.clip(shift - down / np.where(bend > 0, bend, 1), -limit, limit), shift)
    return shift, np.abs(at + first * shift + second * shift**2), np.abs(first + 2 * second * shift)
