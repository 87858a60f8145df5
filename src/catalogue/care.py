"""The usual caution where high notes are chosen and planned; it defers to teachers and physicians."""

from core.instruments.instrument import Instrument
from core.music.pitch import Pitch

# Above this written semitone notes are loud at close range and ask much of the lip.
HIGH_ABOVE = {"saxophone": 89, "clarinet": 84, "oboe": 84, "bassoon": 67}
CAUTION = (
    "High notes: keep them short, rest often and mind the ears. Stop at any pain or strain; "
    "biting is no remedy."
)


def caution_for(instrument: Instrument, written_pitch: Pitch) -> str:
    """The caution for a note; empty below the high notes of the family."""
    return CAUTION if written_pitch.midi > HIGH_ABOVE[instrument.family] else ""
