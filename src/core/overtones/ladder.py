"""Overtones for practice: the ladder of a fingering, one pitch on many tubes, and a path of exercises."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from core.acoustics.model import Model
from core.acoustics.prediction import Prediction, Rung, SoundsAs
from core.acoustics.response import CENTS
from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.instruments.fingering import Fingering, Kind
from core.instruments.instrument import Instrument
from core.instruments.keywork import mechanism, missing
from core.music.pitch import A4_MIDI, Pitch, frequency_hz, spell

# Partials that are practised, in their order: octave, twelfth and double octave first.
PRACTISED = {"all": (2, 3, 4), "odd": (3, 5)}
FUNDAMENTALS = 6
# A partial that lies farther from a note is no other way to play it.
SAME_CENTS = 50.0
# A ladder ends with the eighth rung, or a quarter tone above the range.
RUNGS, ABOVE_RANGE = 8, 2 ** (0.5 / 12)


@dataclass(frozen=True)
class LadderRung:
    """A rung of the ladder.

    Parameters
    ----------
    note : Pitch
        The written note that lies nearest.
    cents : float
        Departure from that note in equal temperament.
    from_pure : float or None
        Departure from the partial's number times the lowest resonance, in cents; None where a vent is
        open, which shifts the lowest.
    margin : float
        Height over the strongest lower resonance in dB; infinite for the lowest.
    favoured : bool
        Whether it is the one that an open vent lets sound first: the strongest of all.
    """

    rung: Rung
    note: Pitch
    cents: float
    from_pure: float | None
    margin: float
    favoured: bool


@dataclass(frozen=True)
class AsPartial:
    """A note as a partial of a lower fingering."""

    base: Entry
    prediction: Prediction


@dataclass(frozen=True)
class Exercise:
    """An overtone to practise: a fingering, which partial of it, and the note that this gives."""

    base: Entry
    partial: int
    note: Pitch
    prediction: Prediction


def nearest_note(instrument: Instrument, hertz: float) -> tuple[Pitch, float]:
    """The written note next to a sounding frequency, and the cents from it.

    Parameters
    ----------
    instrument : Instrument
    hertz : float, Hz, above 0

    Returns
    -------
    (Pitch, float), cents, sharp positive
        The note, and how far the frequency lies from it.

    Examples
    --------
    >>> from core.music.pitch import Interval
    >>> from types import SimpleNamespace
    >>> note, cents = nearest_note(SimpleNamespace(to_sounding=Interval(0, 0)), 442.0)
    >>> str(note), round(cents, 1)
    ('A4', 7.9)
    """
    sounding = A4_MIDI + CENTS / 100 * math.log2(hertz / 440.0)
    cents = 100 * (sounding - round(sounding))
    return spell(round(sounding) - instrument.to_sounding.semitones), cents


def ladder(model: Model, fingering: Fingering) -> list[LadderRung]:
    """The resonances of a fingering, from the lowest up, as far as the instrument's range.

    Parameters
    ----------
    model : Model
    fingering : Fingering

    Returns
    -------
    list of LadderRung
    """
    top = frequency_hz(model.instrument.to_sounding.apply(model.instrument.written_high)) * ABOVE_RANGE
    rungs = [rung for rung in model.rungs(fingering) if rung.frequency < top][:RUNGS]
    if not rungs:
        return []
    vented = bool(mechanism(model.instrument, fingering).open_vents)
    strongest = max(range(len(rungs)), key=lambda n: rungs[n].height)
    found = []
    for n, rung in enumerate(rungs):
        note, cents = nearest_note(model.instrument, rung.frequency)
        rival = max((lower.height for lower in rungs[:n]), default=-math.inf)
        pure = rung.partial * rungs[0].frequency
        found.append(
            LadderRung(
                rung,
                note,
                cents,
                None if vented else CENTS * math.log2(rung.frequency / pure),
                rung.height - rival,
                vented and n == strongest,
            )
        )
    return found


def same_pitch(model: Model, catalogue: Catalogue, note: Pitch, fitted: frozenset[str]) -> list[AsPartial]:
    """A note as a partial of the fingerings below it: the lowest partial first, then the readiest.

    Parameters
    ----------
    model : Model
    catalogue : Catalogue
    note : Pitch
    fitted : frozenset of str
        Optional touches and fittings that are there.

    Returns
    -------
    list of AsPartial
    """
    bases = [entry for entry in fundamentals(catalogue, fitted) if entry.note.midi < note.midi - 10]
    found = model.predict([(entry.fingering, note) for entry in bases])
    pairs = [
        AsPartial(entry, prediction)
        for entry, prediction in zip(bases, found, strict=True)
        if prediction and prediction.sounds_as is SoundsAs.OVERTONE and abs(prediction.cents) <= SAME_CENTS
    ]
    return sorted(pairs, key=lambda pair: (pair.prediction.partial, -pair.prediction.margin))


def path(model: Model, catalogue: Catalogue, fitted: frozenset[str]) -> list[Exercise]:
    """Overtones to practise on the lowest fingerings: one partial after the other, the readiest first.

    Parameters
    ----------
    model : Model
    catalogue : Catalogue
    fitted : frozenset of str
        Optional touches and fittings that are there.

    Returns
    -------
    list of Exercise
    """
    bases = fundamentals(catalogue, fitted)[:FUNDAMENTALS]
    asked = [
        (entry, partial, _partial_note(model.instrument, entry, partial))
        for partial in PRACTISED[model.instrument.partials]
        for entry in bases
    ]
    found = model.predict([(entry.fingering, note) for entry, _, note in asked])
    exercises = [
        Exercise(entry, partial, note, prediction)
        for (entry, partial, note), prediction in zip(asked, found, strict=True)
        if prediction and prediction.partial == partial
    ]
    return sorted(exercises, key=lambda row: (row.partial, -row.prediction.margin))


def _partial_note(instrument: Instrument, entry: Entry, partial: int) -> Pitch:
    sounding = frequency_hz(instrument.to_sounding.apply(entry.note))
    return nearest_note(instrument, partial * sounding)[0]


def fundamentals(catalogue: Catalogue, fitted: frozenset[str]) -> Sequence[Entry]:
    """One standard fingering at hand for each note of the first register, from the lowest up.

    Parameters
    ----------
    catalogue : Catalogue
    fitted : frozenset of str
        Optional touches and fittings that are there.

    Returns
    -------
    sequence of Entry
    """
    found: dict[int, Entry] = {}
    for entry in catalogue.entries:
        if entry.kind is not Kind.STANDARD or entry.partial != 1 or entry.reason:
            continue
        if not missing(catalogue.instrument, entry.fingering, entry.requires, fitted):
            found.setdefault(entry.note.midi, entry)
    return [found[midi] for midi in sorted(found)]
