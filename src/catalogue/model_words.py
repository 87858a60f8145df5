"""The acoustic model in a teacher's words: pitch and its error, what a note cracks to, or why not."""

import math
from statistics import median

import numpy as np

from core.acoustics.trust import Level
from core.evidence.modelled import TrustedModel, TrustedPrediction
from core.instruments.fingering import Fingering
from core.music.pitch import Pitch
from core.overtones.ladder import nearest_note
from core.words import cents_words

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
UNEARNED = "The model has not proved itself here, so it says nothing."
# Why no pitch is told, by what was earned.
NO_PITCH = {
    Level.READINGS: "told once two notes of this kind are read on this instrument",
    Level.RESPONSE: "the model has not proved itself on pitch here",
}
NOTHING_NEAR = "The model finds no resonance near this note."


def ordinal(number: int) -> str:
    """A partial's number as it is said."""
    return ORDINALS[number - 1] if number <= len(ORDINALS) else f"{number}th"


def pitch_words(row: TrustedPrediction) -> str:
    """Modelled pitch as a teacher says it; empty where none may be shown."""
    if row.pitch is None:
        return ""
    if row.fitted_to and not row.notes_read:
        return f"about {cents_words(row.pitch.value)}, as it was fitted to the chart"
    words = f"about {cents_words(row.pitch.value)}, give or take {row.pitch.spread:.0f}"
    if row.notes_read:
        words += f", by the readings of {row.notes_read} notes"
    if row.left_out is not None:
        words += f", each of them foretold from the others within {row.left_out:.0f}"
    return words


def readiness(margin: float, even_db: float) -> str:
    """A margin as a teacher says it."""
    if math.isinf(margin):
        return "lies lowest: nothing below to crack to"
    over = margin - even_db
    return next(words for least, words in READINESS if over >= least)


def sentences(
    acoustics: TrustedModel, fingering: Fingering, note: Pitch, original: Fingering | None = None
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
    row = acoustics.of(fingering, note)
    if row is None:
        return [UNEARNED]
    found = []
    if words := pitch_words(row):
        found.append(f"Modelled pitch: {words}.")
    else:
        found.append(f"Modelled pitch: {NO_PITCH[row.level]}.")
    if original is not None and original != fingering:
        found += _difference(acoustics, row, original, note)
    found.append(_cracks(acoustics, row, fingering))
    return [*found, *_tone(acoustics, fingering, note)]


def difference_words(row: TrustedPrediction, other: TrustedPrediction) -> str:
    """How one fingering lies beside another of the same note, in cents; empty where it may not be shown."""
    pairs = zip(row.prediction.each, other.prediction.each, strict=True)
    differences = [new - old for new, old in pairs if new is not None and old is not None]
    if not differences or not {row.level, other.level} <= {Level.PITCH, Level.READINGS}:
        return ""
    change, spread = median(differences), max(float(np.std(differences)), LEAST_SPREAD)
    if abs(change) < HARDLY_CENTS:
        return f"hardly another pitch (± {spread:.0f} cents)"
    return f"about {abs(change):.0f} ± {spread:.0f} cents {'higher' if change > 0 else 'lower'}"


def _difference(acoustics, row, original, note):
    before = acoustics.of(original, note)
    if before is None:
        return []
    now = row.prediction
    words = [text] if (text := difference_words(row, before)) else []
    if math.isfinite(now.margin) and math.isfinite(before.prediction.margin):
        gain = now.margin - before.prediction.margin
        if abs(gain) >= HARDLY_DB:
            words.append("holds better" if gain > 0 else "holds less well")
    return [f"Beside that fingering: {'; '.join(words)}."] if words else []


def _cracks(acoustics, row, fingering):
    found = row.prediction
    if found.cracks_to is None:
        return "It is the lowest resonance: nothing lies below for it to crack to."
    rival, _ = nearest_note(acoustics.instrument, found.cracks_to)
    rungs = acoustics.model.rungs(fingering)
    partial = min(rungs, key=lambda rung: abs(math.log(rung.frequency / found.cracks_to))).partial
    held = readiness(found.margin, acoustics.even_db).capitalize()
    return f"{held}; if it cracks, to the {ordinal(partial)} partial, about written {rival}."


def _tone(acoustics, fingering, note):
    """What backs its tone; nothing for high notes, where it is not proved, nor without a cutoff."""
    if acoustics.instrument.register_of(note) == acoustics.instrument.registers[-1]:
        return []
    backed = acoustics.model.support(fingering, note)
    if backed is None:
        return []
    if not backed:
        return ["What backs its tone cannot be told: twice the note lies above the cutoff of the open holes."]
    words = [f"{TIMES[n]} the note {decibels:+.0f} dB" for n, decibels in sorted(backed.items())]
    return [f"What backs its tone: {', '.join(words)}, against the note itself.".replace("-", "−")]
