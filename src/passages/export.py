"""What leaves the application: the score with its chosen fingerings."""

from catalogue import shipped
from core.notation.musicxml_writer import write_musicxml
from passages.solution import fingered, settings_of, solve


def musicxml_of(passage, state) -> str:
    """The passage under a state as MusicXML, fingerings as text under the notes."""
    solution = solve(passage.instrument, passage.musicxml, settings_of(passage, state))
    model = shipped.instrument(passage.instrument)
    return write_musicxml(fingered(solution, passage.instrument), model.to_sounding, model.label)
