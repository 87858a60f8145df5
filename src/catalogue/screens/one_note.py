"""What every page of one written note has: its neighbours, its caution, and how to voice it."""

from collections.abc import Callable
from dataclasses import dataclass

from catalogue import shipped
from catalogue.high_notes import asked_first, caution_for
from core.charts.schools import Position
from core.evidence.in_hand import InstrumentInHand
from core.music.pitch import Pitch, both_names, spell
from core.overtones.voicing import Check, Cue


@dataclass(frozen=True)
class OneNote:
    """A page of one note.

    Parameters
    ----------
    both_names : str
        The note with its other spelling, where it has one.
    lower, higher : str
        Addresses of the notes a half step away; empty beyond the range.
    caution : str
        Empty below the high notes.
    before, prepared : tuple of Position
        Positions that ask something of the student before such a note is begun: not yet logged, and done.
    """

    note: Pitch
    both_names: str
    lower: str
    higher: str
    caution: str
    before: tuple[Position, ...]
    prepared: tuple[Position, ...]
    cues: tuple[Cue, ...]
    checks: tuple[Check, ...]
    voicing_caution: str


def one_note(in_hand: InstrumentInHand, note: Pitch, address: Callable[[Pitch], str]) -> dict:
    """The fields of `OneNote`; `address` gives the address of the page of another note."""
    instrument, guide = in_hand.instrument, shipped.voicing()

    def step(midi):
        return address(spell(midi)) if midi in instrument.accepted else ""

    return {
        "note": note,
        "both_names": " or ".join(both_names(note.midi)),
        "lower": step(note.midi - 1),
        "higher": step(note.midi + 1),
        "caution": caution_for(in_hand, note),
        **asked_first(in_hand, note),
        "cues": tuple(guide.cues_for(in_hand, note)),
        "checks": tuple(guide.checks_for(instrument)),
        "voicing_caution": guide.caution,
    }
