"""What every page of one written note has: its neighbours, its caution, and how to voice it."""

from abc import ABC, abstractmethod

from catalogue import shipped
from catalogue.care import caution_for
from core.instruments.instrument import Instrument
from core.music.pitch import Pitch, spell


class OneNote(ABC):
    """A page of one note."""

    instrument: Instrument
    note: Pitch

    @abstractmethod
    def address(self, note: Pitch) -> str:
        """The address of the page of another note."""

    def step(self, semitones: int) -> str | None:
        """The address of another note; None beyond the range."""
        midi = self.note.midi + semitones
        low, high = self.instrument.written_low.midi, self.instrument.written_high.midi
        return self.address(spell(midi)) if low <= midi <= high else None

    @property
    def lower(self):
        return self.step(-1)

    @property
    def higher(self):
        return self.step(1)

    @property
    def caution(self):
        return caution_for(self.instrument, self.note)

    @property
    def cues(self):
        return shipped.voicing().cues_for(self.instrument, self.note)

    @property
    def checks(self):
        return shipped.voicing().checks_for(self.instrument)

    @property
    def voicing_caution(self):
        return shipped.voicing().caution
