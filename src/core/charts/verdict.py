"""What may be said of a fingering that no chart vouches for: never more than is known.

The rule of the first open hole decides where the tube is plain: open below its first open hole, in the
first register or the next. Forks, split forms, fingers added below, vents that serve as tone holes and
overblown notes it cannot settle; there a model is asked, and what neither can tell stays open.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.instruments.keywork import may_sound, mechanism, partial_semitones, partials_of, usual_note
from core.music.pitch import Pitch
from core.words import cents_words

# A resonance this near a note, in cents, makes a fingering for it plausible.
PLAUSIBLE_CENTS = 60.0
# So many semitones above the second register a note is overblown farther.
OVERBLOWN = 4

Asked = Sequence[tuple[Fingering, Pitch]]
# What a model says of fingerings for written notes: cents off each, None where nothing would sound near.
AskModel = Callable[[Asked], Sequence[float | None]]


class Verdict(StrEnum):
    """What is said of a fingering for a note."""

    FITS = "fits the keywork"
    PLAUSIBLE = "plausible by the model"
    OPEN = "the keywork cannot tell"
    CONTRADICTED = "contradicted by the keywork"


@dataclass(frozen=True)
class Judged:
    """A verdict with its words, those of a teacher; no words where the keywork agrees."""

    verdict: Verdict
    words: str = ""


def judge(instrument: Instrument, asked: Asked, ask_model: AskModel) -> list[Judged]:
    """Say what may be said of fingerings for written notes; a model is asked once for all that need it.

    Parameters
    ----------
    instrument : Instrument
    asked : Asked
    ask_model : AskModel

    Returns
    -------
    list of Judged
    """
    fits = [by_first_open_hole(instrument, fingering, note) for fingering, note in asked]
    plain = [is_plain(instrument, fingering, note) for fingering, note in asked]
    needed = [n for n in range(len(asked)) if not (fits[n] and plain[n])]
    cents = dict(zip(needed, ask_model([asked[n] for n in needed]), strict=True)) if needed else {}
    return [
        _judged(instrument, asked[n], cents[n], fits=fits[n], plain=plain[n])
        if n in cents
        else Judged(Verdict.FITS)
        for n in range(len(asked))
    ]


def by_first_open_hole(instrument: Instrument, fingering: Fingering, note: Pitch) -> bool:
    """Whether the first open hole gives a written note in the first register or the next.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering
    note : Pitch

    Returns
    -------
    bool
    """
    partials = may_sound(instrument, fingering).get(note.midi, ())
    return any(partial in partials_of(instrument)[:2] for partial in partials)


def _judged(
    instrument: Instrument, asked: tuple[Fingering, Pitch], cents: float | None, *, fits: bool, plain: bool
) -> Judged:
    """The verdict once the model was asked: it may clear a fingering, and contradicts none by itself."""
    fingering, note = asked
    near = cents is not None and abs(cents) <= PLAUSIBLE_CENTS
    if fits and near:
        return Judged(Verdict.FITS)
    model = "finds nothing near" if cents is None else f"puts it {cents_words(cents)}"
    if near:
        return Judged(Verdict.PLAUSIBLE, f"plausible: the model {model}")
    if plain and not fits:
        sounds = usual_note(instrument, fingering)
        return Judged(Verdict.CONTRADICTED, f"by the keywork it sounds written {sounds}, not {note}")
    return Judged(Verdict.OPEN, f"the keywork cannot tell, and the model {model}: try it")


def is_plain(instrument: Instrument, fingering: Fingering, note: Pitch) -> bool:
    """Whether the rule of the first open hole decides what a fingering sounds near a written note.

    It does where every hole for a lower note that rests open is open, none is half open, and the note does
    not lie far above the second register.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering
    note : Pitch

    Returns
    -------
    bool
    """
    read = mechanism(instrument, fingering)
    below = [
        hole.name
        for hole in instrument.holes
        if hole.rest == "open" and hole.sounds and hole.sounds.midi < read.plain.midi
    ]
    second = read.plain.midi + partial_semitones(partials_of(instrument)[1])
    return (
        all(hole in read.open_holes for hole in below)
        and not read.half_holes
        and note.midi < second + OVERBLOWN
    )
