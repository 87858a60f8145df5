"""A sound that an address asks for."""

import numpy as np

from catalogue.queries import note_in
from core.errors import CoreError
from core.instruments.fingering import parse_fingering
from core.overtones.sound import tone, wav


def fingering_asked(in_hand, touches, problems):
    """The fingering that an address names; None where it cannot be read, and `problems` says so."""
    try:
        return parse_fingering(touches, in_hand.instrument)
    except CoreError as error:
        problems.append(f"The touches in the address cannot be read: {error}.")
        return None


def simulated_tone(in_hand, here):
    """A WAV file of a note on a fingering as the model has it, and what is wrong with the address."""
    problems = []
    note = note_in(in_hand, here.note, problems)
    fingering = fingering_asked(in_hand, here.touches, problems)
    if problems or note is None:
        return b"", " ".join(problems) or "Name the written note to sound, like Bb4."
    model = in_hand.acoustics.model
    prediction = model.predict([(fingering, note)])[0]
    if prediction is None:
        return b"", f"The model finds no resonance near {note} on this fingering."
    level = 20 * np.log10(np.abs(model.curves(fingering)[0]))
    sounding = model.sounding_hz(note) * 2 ** (prediction.cents / 1200)
    return wav(tone(model.frequency, level, sounding)), ""
