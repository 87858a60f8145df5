"""What leaves the application: the score with its chosen fingerings."""

from core.music.notation.musicxml_writer import write_musicxml
from passages.queries import Opened
from passages.solution import fingered


def musicxml_of(opened: Opened) -> str:
    """The passage under a state as MusicXML, fingerings as text under the notes."""
    model = opened.in_hand.instrument
    return write_musicxml(fingered(opened.solution()), model.to_sounding, model.label, model.clefs)
