"""What is asked of a student before high notes are begun, and the caution where they are chosen."""

from dataclasses import replace

from catalogue import shipped
from core.charts.schools import Position
from core.evidence.in_hand import InstrumentInHand
from core.music.pitch import Pitch

CAUTION = (
    "High notes: keep them short, rest often and mind the ears. Stop at any pain or strain; "
    "biting is no remedy."
)


def asked_first(in_hand: InstrumentInHand, note: Pitch) -> dict[str, tuple[Position, ...]]:
    """What positions ask before such a note is begun: `before` is not logged, `prepared` is done."""
    family = in_hand.instrument.family
    asked = [
        replace(position, before=position.before_on.get(family, position.before))
        for position in shipped.voicing().before(in_hand, note)
    ]
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
