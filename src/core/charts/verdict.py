"""What may be said of a fingering that no chart vouches for: never more than is known.

The rule of the first open hole decides where the tube is plain: open below its first open hole, in the
first register or the next. Forks, split forms, fingers added below, vents that serve as tone holes and
overblown notes it cannot settle. A model that finds the note clears a fingering that the rule speaks against,
without a word; a number it adds only where it has earned it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol

from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.instruments.fingering import ON_PURPOSE, Fingering
from core.instruments.instrument import Instrument
from core.instruments.keywork import (
    Mechanism,
    may_sound,
    mechanism,
    partial_semitones,
    partials_of,
    usual_note,
)
from core.music.pitch import Pitch
from core.words import cents_words

# A resonance this near a note, in cents, clears a fingering.
CLEARED_CENTS = 60.0
# So many semitones above the second register a note is overblown farther.
OVERBLOWN = 4
# A fingering taught for another note so few semitones away is rather that one's.
ANOTHERS = 7

Asked = Sequence[tuple[Fingering, Pitch]]


class AskModel(Protocol):
    """What a model is asked of fingerings for written notes, many at once."""

    def would_sound(self, asked: Asked) -> Sequence[float | None]:
        """Cents off each note, earned or not; None where nothing would sound near.

        Parameters
        ----------
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        sequence of float or None, cents
        """

    def told_cents(self, asked: Asked) -> Sequence[float | None]:
        """The same where it has earned to say so; None where it has not.

        Parameters
        ----------
        asked : sequence of (Fingering, Pitch)

        Returns
        -------
        sequence of float or None, cents
        """


class Verdict(StrEnum):
    """What is said of a fingering for a note."""

    FITS = "fits the keywork"
    OPEN = "the keywork cannot tell"
    DOUBTFUL = "doubtful"
    CONTRADICTED = "contradicted by the keywork"


@dataclass(frozen=True)
class Judged:
    """A verdict with its words, those of a teacher; no words where the keywork agrees."""

    verdict: Verdict
    words: str = ""


def judge(catalogue: Catalogue, asked: Asked, ask_model: AskModel) -> list[Judged]:
    """Say what may be said of fingerings for written notes; a model is asked once for all that need it.

    Parameters
    ----------
    catalogue : Catalogue
        Of the instrument; what it teaches tells misprints.
    asked : Asked
    ask_model : AskModel

    Returns
    -------
    list of Judged
    """
    instrument = catalogue.instrument
    fits = [by_first_open_hole(instrument, fingering, note) for fingering, note in asked]
    plain = [is_plain(instrument, fingering, note) for fingering, note in asked]
    needed = [n for n in range(len(asked)) if not (fits[n] and plain[n])]
    wanted = [asked[n] for n in needed]
    sound = dict(zip(needed, ask_model.would_sound(wanted), strict=True)) if needed else {}
    told = dict(zip(needed, ask_model.told_cents(wanted), strict=True)) if needed else {}
    found = []
    for n, (fingering, note) in enumerate(asked):
        cents = sound.get(n)
        cleared = cents is not None and abs(cents) <= CLEARED_CENTS
        if plain[n] and not fits[n] and not cleared:
            words = f"by the keywork it sounds written {usual_note(instrument, fingering)}, not {note}"
            found.append(Judged(Verdict.CONTRADICTED, words))
        elif words := misprint(catalogue, fingering, note):
            found.append(Judged(Verdict.DOUBTFUL, words))
        elif fits[n] and (plain[n] or cleared):
            found.append(Judged(Verdict.FITS))
        else:
            earned = told.get(n)
            model = "" if earned is None else f", and the model puts it {cents_words(earned)}"
            found.append(Judged(Verdict.OPEN, f"the keywork cannot tell{model}: try it"))
    return found


def misprint(catalogue: Catalogue, fingering: Fingering, note: Pitch) -> str:
    """What is probably wrong with a fingering, by those that are taught; empty where nothing is.

    A vent that a taught one opens is closed, else alike: the commonest misprint of all. Or just these touches
    are taught for a note nearby, and no partial of theirs gives this one.

    Parameters
    ----------
    catalogue : Catalogue
    fingering : Fingering
    note : Pitch

    Returns
    -------
    str
    """
    instrument = catalogue.instrument
    read, vents = mechanism(instrument, fingering), _vent_touches(instrument)
    for entry in catalogue.by_midi.get(note.midi, ()):
        if _taught(entry) and entry.fingering != fingering and _but_for(entry.fingering, fingering, vents):
            lacks = _lifted(instrument, mechanism(instrument, entry.fingering)) - _lifted(instrument, read)
            if lacks and 1 not in may_sound(instrument, fingering).get(note.midi, ()):
                return _vent_words(entry.fingering, fingering, instrument)
    if note.midi in may_sound(instrument, fingering):
        return ""
    near = range(note.midi - ANOTHERS, note.midi + ANOTHERS + 1)
    others = (entry for midi in near if midi != note.midi for entry in catalogue.by_midi.get(midi, ()))
    other = next((e for e in others if _taught(e) and e.fingering.steady == fingering.steady), None)
    return f"as it is taught it sounds written {other.note}, not {note}" if other else ""


def _taught(entry: Entry) -> bool:
    return entry.is_truth and entry.kind not in ON_PURPOSE


def _vent_touches(instrument: Instrument) -> frozenset[str]:
    """Touches that work a vent, or tilt to half a hole."""
    vents = [hole for hole in instrument.holes if hole.sounds is None or hole.vents or hole.half]
    return frozenset(touch for hole in vents for touch in hole.moved_by)


def _but_for(one: Fingering, other: Fingering, vents: frozenset[str]) -> bool:
    """Whether two fingerings are alike but for touches that work vents."""
    return not ((one.touches ^ other.touches) - vents)


def _lifted(instrument: Instrument, read: Mechanism) -> set[str]:
    """Vents that stand open, a hole that serves as one among them."""
    serves = {hole.name for hole in instrument.holes if hole.vents}
    return {*read.open_vents, *(serves & set(read.open_holes))}


def _named(label: str) -> str:
    return label if label.endswith(("touch", "plate", "hole")) else f"{label} touch"


def _vent_words(taught: Fingering, fingering: Fingering, instrument: Instrument) -> str:
    """Which vent is probably meant, in words."""
    labels = {touch.name: _named(touch.label) for touch in instrument.touches}
    if taught.half - fingering.half:
        return "it speaks so at best as a harmonic: is the half hole missing?"
    if missing := [labels[name] for name in labels if name in taught.touches - fingering.touches]:
        named = " or the ".join(missing)
        return f"it speaks so only as a harmonic: is the {named} missing?"
    more = " and the ".join(labels[name] for name in labels if name in fingering.touches - taught.touches)
    return f"a vent is closed that a taught one opens: is the {more} too much?"


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
