"""What may be told of a fingering: the prediction, as far as it has earned trust."""

from __future__ import annotations

import math
from dataclasses import dataclass

from core.acoustics.model import Prediction
from core.acoustics.trust import Level, Trust
from core.evidence.offset import Offset, corrected
from core.evidence.sources import Basis, Estimate, Modelled

# Notes that a player must have read in a register before cents are told that rest on them.
NOTES_READ = 2
# From margin to how surely a note speaks: even chances at `EVEN_DB`, by family, which lines up with the
# words that charts use for taught fingerings. A word is no measurement: it keeps its spread.
EVEN_DB = {"saxophone": -3.0, "clarinet": -3.0, "oboe": -3.0, "bassoon": 7.0}
SLOPE_DB, SPEAKS_SPREAD = 5.0, 0.22


@dataclass(frozen=True)
class Told:
    """A prediction with what holds for it.

    Parameters
    ----------
    pitch : Estimate or None
        Cents from equal temperament with what must be reckoned with; None where none may be told.
    speaks : Estimate or None
        How surely it answers, 0 to 1; None where nothing may be told, or nothing lies below to crack to.
    notes_read : int
        Notes that a player read in this register and use, on which the pitch rests; 0 for none.
    left_out : float or None
        What those readings leave when each note in turn is predicted from the others, in cents.
    fitted_to : bool
        Whether the fit was told this note of this fingering: its pitch is the chart's then, and counts
        for nothing beside it.
    """

    prediction: Prediction
    level: Level
    pitch: Estimate | None
    speaks: Estimate | None
    notes_read: int = 0
    left_out: float | None = None
    fitted_to: bool = False

    @property
    def modelled(self) -> Modelled:
        """As a source of evidence."""
        return Modelled(None if self.fitted_to and not self.notes_read else self.pitch, self.speaks)


def tell(
    prediction: Prediction | None,
    trust: Trust,
    family: str,
    offset: Offset | None = None,
    *,
    fitted_to: bool = False,
) -> Told | None:
    """Find what may be told of a prediction; None where nothing may."""
    if prediction is None or trust.level is Level.NONE:
        return None
    speaks = speaks_from(prediction.margin, family) if math.isfinite(prediction.margin) else None
    read = offset if offset and offset.notes >= NOTES_READ else None
    pitch = None
    if read and trust.level in (Level.PITCH, Level.READINGS):
        cents, spread = corrected(prediction, read)
        pitch = Estimate(cents, max(spread, trust.scatter), Basis.MODELLED)
    elif trust.level is Level.PITCH:
        pitch = Estimate(prediction.cents, max(prediction.spread, trust.error), Basis.MODELLED)
    if read is None or pitch is None:
        return Told(prediction, trust.level, pitch, speaks, fitted_to=fitted_to)
    return Told(prediction, trust.level, pitch, speaks, read.notes, read.left_out, fitted_to)


def speaks_from(margin: float, family: str) -> Estimate:
    """How surely a note answers, from its margin in dB.

    Examples
    --------
    >>> speaks_from(10, "oboe").value > speaks_from(10, "bassoon").value > 0.5
    True
    """
    value = 1 / (1 + math.exp((EVEN_DB[family] - margin) / SLOPE_DB))
    return Estimate(value, SPEAKS_SPREAD, Basis.MODELLED)
