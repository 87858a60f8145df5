"""How readily a note answers: its resonance against the others, and what carries its tone."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from core.acoustics.air import Air
from core.acoustics.bore import ComplexArray, FloatArray
from core.acoustics.impedance import Tube
from core.acoustics.peaks import Peak

# Farther than this from every resonance a note is not one of the fingering.
REACH_CENTS = 150.0
CENTS = 1200.0


@dataclass(frozen=True)
class Response:
    """What a fingering answers when a note is asked of it.

    Parameters
    ----------
    partial : int
        Which resonance is used, counted from 1.
    cents : float
        Where that resonance lies from the note asked for, sharp positive.
    margin : float
        Its height over the strongest lower resonance, in dB; infinite for the lowest one.
    cracks_to : float or None
        Frequency in Hz of that lower resonance.
    """

    partial: int
    cents: float
    margin: float
    cracks_to: float | None


def respond(peaks: Sequence[Peak], wanted: float) -> Response | None:
    """Find the resonance that serves a note, and what it has to hold out against.

    Parameters
    ----------
    peaks : sequence of Peak
        From the lowest up.
    wanted : float
        Sounding frequency asked for, in Hz, above 0.

    Returns
    -------
    Response or None
        None where no resonance lies within 150 cents.

    Raises
    ------
    ValueError
        If the frequency is not above 0.

    Examples
    --------
    >>> found = respond([Peak(200.0, 40.0, 30.0), Peak(402.0, 36.0, 30.0)], 400.0)
    >>> found.partial, round(found.cents, 1), found.margin, found.cracks_to
    (2, 8.6, -4.0, 200.0)
    """
    if not wanted > 0:
        raise ValueError(f"a frequency must be above 0, got {wanted!r}")
    if not peaks:
        return None
    away = [CENTS * math.log2(peak.frequency / wanted) for peak in peaks]
    place = min(range(len(peaks)), key=lambda n: abs(away[n]))
    if abs(away[place]) > REACH_CENTS:
        return None
    rival = max(peaks[:place], key=lambda peak: peak.height, default=None)
    margin = peaks[place].height - rival.height if rival else math.inf
    return Response(place + 1, away[place], margin, rival.frequency if rival else None)


def support(
    frequency: FloatArray, impedance: ComplexArray, sounding: float, cutoff: float
) -> dict[int, float]:
    """Find how the bore backs the multiples of a sounding frequency.

    Parameters
    ----------
    frequency : np.ndarray [shape=(n_freq,)]
        In Hz, rising.
    impedance : np.ndarray of complex [shape=(n_freq,)], Pa s/m³
    sounding : float
        In Hz.
    cutoff : float
        Cutoff of the open holes in Hz; above it the bore says nothing of the tone.

    Returns
    -------
    dict of int to float
        Height of |Z| at 2 and 3 times the frequency over that at the frequency itself, in dB; only
        those below the cutoff and within the curve. Empty where there is none: then nothing is known.
    """
    level = 20 * np.log10(np.abs(impedance))
    ground = float(np.interp(sounding, frequency, level))
    end = min(cutoff, float(frequency[-1]))
    return {
        n: float(np.interp(n * sounding, frequency, level)) - ground for n in (2, 3) if n * sounding < end
    }


def cutoff_of(tube: Tube, open_holes: Collection[str], air: Air) -> float | None:
    """Find the frequency above which a row of open holes lets sound pass, in Hz.

    Parameters
    ----------
    tube : Tube
    open_holes : collection of str
        The open tone holes, without vents: those are no part of the row.
    air : Air

    Returns
    -------
    float or None
        From the first two of them; None where fewer are open.

    References
    ----------
    Benade (1960), On the mathematical theory of woodwind finger holes, JASA 32.
    """
    row = [tube.holes[name] for name in tube.hole_names if name in open_holes][:2]
    if len(row) < 2:
        return None
    (place, hole), (beyond, _) = row
    half_spacing, height = (beyond - place) / 2, hole.chimney + 1.5 * hole.radius
    return 0.11 * air.speed * hole.ratio / math.sqrt(half_spacing * height)
