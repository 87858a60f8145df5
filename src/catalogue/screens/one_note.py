"""What every page of one written note has: its neighbours, its caution, and how to voice it."""

from collections.abc import Callable
from dataclasses import dataclass

from catalogue import shipped
from core.charts.schools import Position
from core.evidence.in_hand import InstrumentInHand
from core.music.pitch import Pitch, both_names, spell
from core.overtones.voicing import Check, Cue

CAUTION = (
    "High notes: keep them short, rest often and mind the ears. Stop at any pain or strain; "
    "biting is no remedy."
)


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


def asked_first(in_hand: InstrumentInHand, note: Pitch) -> dict[str, tuple[Position, ...]]:
    """What positions ask before such a note is begun: `before` is not logged, `prepared` is done."""
    asked = shipped.voicing().before(in_hand, note)
    return {
        "before": tuple(position for position in asked if position.name not in in_hand.prepared),
        "prepared": tuple(position for position in asked if position.name in in_hand.prepared),
    }


def taught_first(in_hand: InstrumentInHand, note: Pitch) -> tuple[str, ...]:
    """What the positions followed ask before such a note is begun, as long as it is not logged."""
    asked = asked_first(in_hand, note)["before"]
    return tuple(position.before for position in asked if position.name in in_hand.positions)


def caution_for(in_hand: InstrumentInHand, note: Pitch) -> str:
    """The usual caution where high notes are chosen and planned; empty below them."""
    return CAUTION if in_hand.instrument.is_loud(note) else ""
