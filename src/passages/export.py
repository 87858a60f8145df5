"""What leaves the application: the score with its chosen fingerings."""

from core.music.notation.musicxml_writer import write_musicxml
from passages.solution import fingered, settings_of, solve


def musicxml_of(passage, state, hand) -> str:
    """The passage under a state as MusicXML, fingerings as text under the notes."""
    solution = solve(hand, passage.musicxml, settings_of(hand, state))
    model = hand.instrument
    return write_musicxml(fingered(solution, hand), model.to_sounding, model.label, model.clefs)
