"""What the acoustic model says on the instrument in hand, corrected by what was read on it."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cached_property

from catalogue import shipped
from core.acoustics.model import Model, Prediction
from core.acoustics.trust import trust_in
from core.charts.catalogue import Entry
from core.evidence.modelled import Told, tell
from core.evidence.offset import Offset, Read, offset_from
from core.evidence.sources import NOTHING_MODELLED, Heard, Modelled, read_estimate
from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.music.pitch import Pitch

# What the keywork of the data does not show: which vent a fully automatic octave opens.
NOT_MODELLED = frozenset({"fullAutomatic"})


class Acoustics:
    """An instrument's model, what it has earned, and what its player's readings make of it.

    Parameters
    ----------
    name : str
        Of the shipped instrument.
    fitted : frozenset of str
        Optional touches and fittings that are there.
    heard : sequence of (Entry, Heard)
        What was read on it.
    setup : int
        Number of the present set-up; readings under another do not count.
    """

    def __init__(
        self, name: str, fitted: frozenset[str], heard: Sequence[tuple[Entry, Heard]] = (), setup: int = 1
    ):
        self.instrument: Instrument = shipped.instrument(name)
        fittings = {fitting.name for fitting in self.instrument.fittings}
        self.model: Model = shipped.model(name, fitted & fittings)
        self._name, self._table = name, shipped.trust(name)
        self._heard, self._setup = heard, setup

    @cached_property
    def _reads(self) -> Mapping[tuple[str, str], list[tuple[Fingering, Read]]]:
        """Readings beside what the model said, by register and use."""
        rows = [
            (entry, [c for r in heard.readings if r.setup == self._setup for c in r.cents])
            for entry, heard in self._heard
        ]
        read = [(entry, cents) for entry, cents in rows if cents and not entry.requires & NOT_MODELLED]
        found = self.model.predict([(entry.fingering, entry.note) for entry, _ in read])
        sorted_: dict[tuple[str, str], list[tuple[Fingering, Read]]] = defaultdict(list)
        for (entry, cents), prediction in zip(read, found, strict=True):
            if prediction:
                beside = Read(entry.note.midi, prediction, read_estimate(cents))
                sorted_[self._key(prediction, entry.note)].append((entry.fingering, beside))
        return dict(sorted_)

    def offset(self, prediction: Prediction, note: Pitch, fingering: Fingering) -> Offset | None:
        """What readings of other fingerings say of the model there: its own would count twice."""
        rows = self._reads.get(self._key(prediction, note), ())
        return offset_from([read for other, read in rows if (other, read.midi) != (fingering, note.midi)])

    @cached_property
    def _fitted_to(self) -> set[tuple[int, bytes]]:
        """Notes with the holes that stand open for them, which the fit was told."""
        by_id, rows = shipped.catalogue(self._name).by_id, shipped.split(self._name)["anchors"]
        states = self.model.states([by_id[row].fingering for row in rows])
        return {(by_id[row].note.midi, state.tobytes()) for row, state in zip(rows, states, strict=True)}

    def _is_fitted_to(self, fingering: Fingering, note: Pitch) -> bool:
        return (note.midi, self.model.states([fingering])[0].tobytes()) in self._fitted_to

    def told(self, fingering: Fingering, note: Pitch) -> Told | None:
        """What may be told of a fingering for a written note."""
        prediction = self.model.predict([(fingering, note)])[0]
        return self.tell(prediction, note, fingering)

    def told_of(self, entries: Sequence[Entry]) -> list[Told | None]:
        """What may be told of rows of a chart, worked out together."""
        found = self.model.predict([(entry.fingering, entry.note) for entry in entries])
        return [
            None if entry.requires & NOT_MODELLED else self.tell(prediction, entry.note, entry.fingering)
            for entry, prediction in zip(entries, found, strict=True)
        ]

    def modelled(self, entries: Sequence[Entry]) -> list[Modelled]:
        """The same as a source of evidence."""
        return [told.modelled if told else NOTHING_MODELLED for told in self.told_of(entries)]

    def tell(self, prediction: Prediction | None, note: Pitch, fingering: Fingering) -> Told | None:
        """What may be told of a prediction already made for a fingering."""
        if prediction is None:
            return None
        fitted_to = self._is_fitted_to(fingering, note)
        if fitted_to:  # there a fork is no leap into the dark
            prediction = replace(prediction, forked=False)
        trust = trust_in(self._table, self.instrument, prediction, note)
        offset = self.offset(prediction, note, fingering)
        return tell(prediction, trust, self.instrument.family, offset, fitted_to=fitted_to)

    def _key(self, prediction, note):
        return self.instrument.register_of(note).name, prediction.use.value
