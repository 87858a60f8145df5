"""Reads an address and makes the page, or the sound, that it asks for."""

import numpy as np

from core.acoustics.sound import tone, wav
from core.errors import CoreError, PitchError
from core.fingering import parse_fingering
from core.pitch import parse_pitch
from overtones.near_page import NearPage
from overtones.page import TOUCHES_LIMIT, OvertonesPage

NOTE_LIMIT = 20


def _note(hand, asked, problems):
    """The written note of an address; None where there is none, or none that can be read."""
    text = asked.get("note", "").strip()
    if not text:
        return None
    try:
        note = parse_pitch(text)
    except PitchError:
        problems.append(f"“{text[:NOTE_LIMIT]}” is no note. Type one with its octave, like Bb4 or C#6.")
        return None
    if hand.instrument.in_range(note):
        return note
    span = f"{hand.instrument.written_low} to {hand.instrument.written_high}"
    problems.append(f"{note} lies outside the written range of this instrument, {span}.")
    return None


def overtones_page(hand, asked):
    problems = []
    note = _note(hand, asked, problems)
    return OvertonesPage(hand, note, asked.get("touches", ""), asked.get("from", ""), problems)


def near_page(hand, asked):
    problems = []
    return NearPage(hand, _note(hand, asked, problems), problems)


def simulated_tone(hand, asked):
    """A WAV file of a note on a fingering as the model has it, and what is wrong with the question."""
    problems = []
    note = _note(hand, asked, problems)
    try:
        fingering = parse_fingering(asked.get("touches", "")[:TOUCHES_LIMIT], hand.instrument)
    except CoreError as error:
        problems.append(f"The touches in the address cannot be read: {error}.")
    if problems or note is None:
        return b"", " ".join(problems) or "Name the written note to sound, like Bb4."
    model = hand.acoustics.model
    prediction = model.predict([(fingering, note)])[0]
    if prediction is None:
        return b"", f"The model finds no resonance near {note} on this fingering."
    level = 20 * np.log10(np.abs(model.curves(fingering)[0]))
    sounding = model.sounding_hz(note) * 2 ** (prediction.cents / 1200)
    return wav(tone(model.frequency, level, sounding)), ""
