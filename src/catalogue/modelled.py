"""The acoustic model in a teacher's words: pitch and its error, what a note cracks to, or why not."""

import math
from statistics import median

import numpy as np

from catalogue.acoustics import Acoustics
from catalogue.strands import cents_words
from core.acoustics.trust import Level
from core.evidence.modelled import EVEN_DB, Told
from core.instruments.fingering import Fingering
from core.music.pitch import Pitch
from core.overtones.ladder import nearest_note

# Differences smaller than this are none worth a word: cents, and decibels of margin.
HARDLY_CENTS, HARDLY_DB = 3.0, 1.5
# What a difference must be reckoned to be off by, at least: geometries agree on more than they know.
LEAST_SPREAD = 3.0
# Words for how far a margin lies over even chances, in dB.
READINESS = (
    (9.0, "holds well"),
    (3.0, "holds"),
    (-6.0, "needs voicing"),
    (-math.inf, "only by strong voicing"),
)
TIMES = {2: "twice", 3: "three times"}
ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth")
UNEARNED = (
    "On fingerings kept from it the model proved no guide for this register, so it gives no number here."
)
NOTHING_NEAR = "The model finds no resonance near this note."


def ordinal(number: int) -> str:
    """A partial's number as it is said."""
    return ORDINALS[number - 1] if number <= len(ORDINALS) else f"{number}th"


def pitch_words(told: Told) -> str:
    """Modelled pitch as a teacher says it; empty where none may be told."""
    if told.pitch is None:
        return ""
    if told.fitted_to and not told.notes_read:
        return f"about {cents_words(told.pitch.value)}, as it was fitted to the chart"
    said = f"about {cents_words(told.pitch.value)}, give or take {told.pitch.spread:.0f}"
    if told.notes_read:
        said += f", by the readings of {told.notes_read} notes"
    if told.left_out is not None:
        said += f", each of them foretold from the others within {told.left_out:.0f}"
    return said


def readiness(margin: float, family: str) -> str:
    """A margin as a teacher says it."""
    if math.isinf(margin):
        return "lies lowest: nothing below to crack to"
    over = margin - EVEN_DB[family]
    return next(words for least, words in READINESS if over >= least)


def sentences(
    acoustics: Acoustics, fingering: Fingering, note: Pitch, original: Fingering | None = None
) -> list[str]:
    """What the model says of a fingering for a note, and of its difference from another.

    Parameters
    ----------
    original : Fingering, optional
        The known fingering that was changed.
    """
    prediction = acoustics.model.predict([(fingering, note)])[0]
    if prediction is None:
        return [NOTHING_NEAR]
    told = acoustics.tell(prediction, note, fingering)
    if told is None:
        return [UNEARNED]
    said = []
    if words := pitch_words(told):
        said.append(f"Modelled pitch: {words}.")
    elif told.level is Level.READINGS:
        said.append("Modelled pitch: not before two notes of this register are read on this instrument.")
    else:
        said.append("Modelled pitch: not told; in this register the model has not earned it.")
    if original is not None and original != fingering:
        said += _difference(acoustics, told, original, note)
    said.append(_cracks(acoustics, told, fingering))
    return [*said, _tone(acoustics, fingering, note)]


def difference_words(told: Told, other: Told) -> str:
    """How one fingering lies beside another of the same note, in cents; empty where it may not be told."""
    pairs = zip(told.prediction.each, other.prediction.each, strict=True)
    differences = [new - old for new, old in pairs if new is not None and old is not None]
    if not differences or not {told.level, other.level} <= {Level.PITCH, Level.READINGS}:
        return ""
    change, spread = median(differences), max(float(np.std(differences)), LEAST_SPREAD)
    if abs(change) < HARDLY_CENTS:
        return f"hardly another pitch (± {spread:.0f} cents)"
    return f"about {abs(change):.0f} ± {spread:.0f} cents {'higher' if change > 0 else 'lower'}"


def _difference(acoustics, told, original, note):
    before = acoustics.told(original, note)
    if before is None:
        return []
    now = told.prediction
    said = [words] if (words := difference_words(told, before)) else []
    if math.isfinite(now.margin) and math.isfinite(before.prediction.margin):
        gain = now.margin - before.prediction.margin
        if abs(gain) >= HARDLY_DB:
            said.append("holds better" if gain > 0 else "holds less well")
    return [f"Beside that fingering: {'; '.join(said)}."] if said else []


def _cracks(acoustics, told, fingering):
    found = told.prediction
    if found.cracks_to is None:
        return "It is the lowest resonance: nothing lies below for it to crack to."
    rival, _ = nearest_note(acoustics.instrument, found.cracks_to)
    rungs = acoustics.model.rungs(fingering)
    partial = min(rungs, key=lambda rung: abs(math.log(rung.frequency / found.cracks_to))).partial
    held = readiness(found.margin, acoustics.instrument.family).capitalize()
    return f"{held}; if it cracks, to the {ordinal(partial)} partial, about written {rival}."


def _tone(acoustics, fingering, note):
    backed = acoustics.model.support(fingering, note)
    if not backed:
        return "What backs its tone cannot be told: twice the note lies above the cutoff of the open holes."
    words = [f"{TIMES[n]} the note {decibels:+.0f} dB" for n, decibels in sorted(backed.items())]
    return f"What backs its tone: {', '.join(words)}, against the note itself.".replace("-", "−")
