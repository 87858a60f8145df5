"""What a model adds to what is known of a fingering: its prediction, as far as it has earned trust."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from core.acoustics.model import Model
from core.acoustics.prediction import Prediction
from core.acoustics.trust import Level, TriedModel, Trust, trust_in
from core.charts.entry import Entry
from core.evidence.offset import Beside, Offset, corrected, offset_from
from core.evidence.setups import FIRST, InForce
from core.evidence.sources import NOTHING_MODELLED, Basis, Estimate, Heard, Modelled, read_estimate
from core.instruments.fingering import Fingering
from core.music.pitch import Pitch

# Notes that a player must have read in a register before cents are shown that rest on them.
NOTES_READ = 2
# From margin to how surely a note speaks, around even chances at the family's `even_db`. A word is no
# measurement: it keeps its spread.
SLOPE_DB, SPEAKS_SPREAD = 5.0, 0.22


@dataclass(frozen=True)
class TrustedPrediction:
    """A prediction with what holds for it.

    Parameters
    ----------
    pitch : Estimate or None
        Cents from equal temperament with what must be reckoned with; None where none may be shown.
    speaks : Estimate or None
        How surely it answers, 0 to 1; None where nothing may be shown, or nothing lies below to crack to.
    notes_read : int
        Notes that a player read in this register and use, on which the pitch rests; 0 for none.
    left_out : float or None
        What those readings leave when each note in turn is predicted from the others, in cents.
    fitted_to : bool
        Whether the fit was given this note of this fingering: its pitch is the chart's then, and counts
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


def as_trusted(
    prediction: Prediction | None,
    trust: Trust,
    even_db: float,
    offset: Offset | None = None,
    *,
    fitted_to: bool = False,
) -> TrustedPrediction | None:
    """Find what of a prediction may be shown; None where nothing may.

    Parameters
    ----------
    prediction : Prediction or None
    trust : Trust
    even_db : float
        Margin at which a note speaks in half of all cases, in dB.
    offset : Offset, optional
    fitted_to : bool

    Returns
    -------
    TrustedPrediction or None
    """
    if prediction is None or trust.level is Level.NONE:
        return None
    speaks = speaks_from(prediction.margin, even_db) if math.isfinite(prediction.margin) else None
    read = offset if offset and offset.notes >= NOTES_READ else None
    pitch = None
    if read and trust.level in (Level.PITCH, Level.READINGS):
        cents, spread = corrected(prediction, read)
        pitch = Estimate(cents, max(spread, trust.scatter), Basis.MODELLED)
    elif trust.level is Level.PITCH:
        pitch = Estimate(prediction.cents, max(prediction.spread, trust.error), Basis.MODELLED)
    if read is None or pitch is None:
        return TrustedPrediction(prediction, trust.level, pitch, speaks, fitted_to=fitted_to)
    return TrustedPrediction(prediction, trust.level, pitch, speaks, read.notes, read.left_out, fitted_to)


def speaks_from(margin: float, even_db: float) -> Estimate:
    """How surely a note answers, from its margin in dB over the margin of even chances.

    Parameters
    ----------
    margin, even_db : float, dB

    Returns
    -------
    Estimate

    Examples
    --------
    >>> speaks_from(10, even_db=-3).value > speaks_from(10, even_db=7).value > 0.5
    True
    """
    value = 1 / (1 + math.exp((even_db - margin) / SLOPE_DB))
    return Estimate(value, SPEAKS_SPREAD, Basis.MODELLED)


class TrustedModel:
    """A tried model on one instrument in hand: corrected by what its player read.

    Parameters
    ----------
    tried : TriedModel
        For what of the optional touches and fittings is there.
    heard : sequence of (Entry, Heard)
        What was read on the instrument.
    setups : InForce
        Which of it counts.
    """

    def __init__(
        self, tried: TriedModel, heard: Sequence[tuple[Entry, Heard]] = (), setups: InForce = FIRST
    ) -> None:
        self.tried, self._heard, self._setups = tried, heard, setups
        self.instrument = tried.model.instrument

    @property
    def model(self) -> Model:
        """The model itself, its predictions not held to anything."""
        return self.tried.model

    @property
    def even_db(self) -> float:
        """Margin in dB from which a note speaks as often as not."""
        return self.tried.limits.even_db

    @cached_property
    def _beside(self) -> Mapping[tuple[str, str], list[tuple[Fingering, Beside]]]:
        """Readings beside what the model said, by register and use."""
        rows = [
            (entry, [c for r in self._setups.counting(heard).readings for c in r.cents])
            for entry, heard in self._heard
        ]
        read = [(entry, cents) for entry, cents in rows if cents and self.knows(entry)]
        found = self.model.predict([(entry.fingering, entry.note) for entry, _ in read])
        sorted_: dict[tuple[str, str], list[tuple[Fingering, Beside]]] = defaultdict(list)
        for (entry, cents), prediction in zip(read, found, strict=True):
            if prediction:
                beside = Beside(entry.note.midi, prediction, read_estimate(cents))
                sorted_[self._area(prediction, entry.note)].append((entry.fingering, beside))
        return dict(sorted_)

    @cached_property
    def _offsets(self) -> Mapping[tuple[str, str], Offset | None]:
        """What all readings of a register and use say."""
        return {area: offset_from([read for _, read in rows]) for area, rows in self._beside.items()}

    def offset(self, prediction: Prediction, note: Pitch, fingering: Fingering) -> Offset | None:
        """What readings of other fingerings say of the model there: its own would count twice.

        Parameters
        ----------
        prediction : Prediction
        note : Pitch
        fingering : Fingering

        Returns
        -------
        Offset or None
        """
        area = self._area(prediction, note)
        rows = self._beside.get(area, ())
        others = [read for other, read in rows if (other, read.midi) != (fingering, note.midi)]
        return self._offsets.get(area) if len(others) == len(rows) else offset_from(others)

    def knows(self, entry: Entry) -> bool:
        """Whether the keywork shows what an entry opens, so that a model can speak of it.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        bool
        """
        return not entry.requires & self.instrument.unmodelled

    @cached_property
    def _fitted_to(self) -> set[tuple[int, bytes]]:
        """Notes with the holes that stand open for them, which the fit was given."""
        anchors = self.tried.anchors
        if not anchors:
            return set()
        states = self.model.states([entry.fingering for entry in anchors])
        return {(entry.note.midi, state.tobytes()) for entry, state in zip(anchors, states, strict=True)}

    def would_sound(self, asked: Sequence[tuple[Fingering, Pitch]]) -> Sequence[float | None]:
        """As the model's own; see `core.charts.verdict.AskModel`.

        Parameters
        ----------
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        sequence of float or None, cents
        """
        return self.model.would_sound(asked)

    def told_cents(self, asked: Sequence[tuple[Fingering, Pitch]]) -> list[float | None]:
        """Cents off written notes, where the model has earned to say so.

        Parameters
        ----------
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        list of float or None, cents
        """
        rows = self.of_predictions(self.model.predict(asked), asked)
        return [row.pitch.value if row and row.pitch else None for row in rows]

    def of(self, fingering: Fingering, note: Pitch) -> TrustedPrediction | None:
        """What may be shown of a fingering for a written note.

        Parameters
        ----------
        fingering : Fingering
        note : Pitch

        Returns
        -------
        TrustedPrediction or None
        """
        return self.of_predictions([self.model.predict([(fingering, note)])[0]], [(fingering, note)])[0]

    def of_entries(self, entries: Sequence[Entry]) -> list[TrustedPrediction | None]:
        """What may be shown of rows of a chart, worked out together.

        Parameters
        ----------
        entries : sequence of Entry

        Returns
        -------
        list of TrustedPrediction or None
        """
        asked = [(entry.fingering, entry.note) for entry in entries]
        found = self.of_predictions(self.model.predict(asked), asked)
        return [row if self.knows(entry) else None for entry, row in zip(entries, found, strict=True)]

    def modelled(self, entries: Sequence[Entry]) -> list[Modelled]:
        """The same as a source of evidence.

        Parameters
        ----------
        entries : sequence of Entry

        Returns
        -------
        list of Modelled
        """
        return [row.modelled if row else NOTHING_MODELLED for row in self.of_entries(entries)]

    def of_predictions(
        self, predictions: Sequence[Prediction | None], asked: Sequence[tuple[Fingering, Pitch]]
    ) -> list[TrustedPrediction | None]:
        """What may be shown of predictions already made for fingerings and notes.

        Parameters
        ----------
        predictions : sequence of Prediction or None
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        list of TrustedPrediction or None
        """
        if not asked:
            return []
        states = self.model.states([fingering for fingering, _ in asked])
        return [
            self._of(prediction, fingering, note, (note.midi, state.tobytes()) in self._fitted_to)
            for prediction, (fingering, note), state in zip(predictions, asked, states, strict=True)
        ]

    def _of(
        self, prediction: Prediction | None, fingering: Fingering, note: Pitch, fitted_to: bool
    ) -> TrustedPrediction | None:
        if prediction is None:
            return None
        if fitted_to:  # there a fork is no leap into the dark
            prediction = replace(prediction, forked=False)
        trust = trust_in(self.tried, prediction, fingering, note)
        offset = self.offset(prediction, note, fingering)
        return as_trusted(prediction, trust, self.even_db, offset, fitted_to=fitted_to)

    def _area(self, prediction: Prediction, note: Pitch) -> tuple[str, str]:
        """Where one offset holds: whatever the form, so that two readings high up are enough."""
        return self.instrument.register_of(note).name, prediction.sounds_as.value
