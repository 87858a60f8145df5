"""What an ensemble of geometries says of a fingering."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from core.music.pitch import Pitch


class SoundsAs(StrEnum):
    """How a resonance comes to sound."""

    FIRST = "first"
    VENTED = "vented"
    OVERTONE = "overtone"


@dataclass(frozen=True)
class Prediction:
    """What the ensemble says of a fingering for a note.

    Parameters
    ----------
    cents, spread : float
        Median departure from equal temperament, and standard deviation over the ensemble.
    partial : int
        Of the tube, counted from 1: odd ones only for a clarinet.
    sounds_as : SoundsAs
    base : Pitch
        Written note of the first register that the fingering is made of.
    forked : bool
        Whether the hole below the first open one is closed.
    margin : float
        Height over the strongest lower resonance in dB; infinite for the lowest. Where a touch is only
        flicked, at the attack, with it pressed; pitch is that of the steady fingering.
    cracks_to : float or None
        Sounding frequency in Hz of that lower resonance.
    each : tuple of float or None
        Cents of every geometry; None for one that does not answer.
    """

    cents: float
    spread: float
    partial: int
    sounds_as: SoundsAs
    base: Pitch
    forked: bool
    margin: float
    cracks_to: float | None
    each: tuple[float | None, ...]


@dataclass(frozen=True)
class Rung:
    """A resonance of a fingering.

    Parameters
    ----------
    partial : int
        Of the tube, counted from 1: odd ones only for a clarinet.
    sounds_as : SoundsAs
    frequency, spread : float
        Sounding frequency in Hz, the median, and its standard deviation over the ensemble in cents.
    height, q : float
        Height in dB over the least of the curve, and quality factor.
    """

    partial: int
    sounds_as: SoundsAs
    frequency: float
    spread: float
    height: float
    q: float
