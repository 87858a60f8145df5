"""Ornaments that alternate with a note beside the one written: with which."""

from __future__ import annotations

from dataclasses import dataclass

from core.music.passage import Note
from core.music.pitch import Pitch, key_alter

STEPS = "CDEFGAB"
# Notes a second that make a lively trill.
LIVELY_PER_S = 10.0
# Of each ornament whether it goes to the note above, and to the one below.
SIDES = {
    "trill-mark": (True, False),
    "mordent": (False, True),
    "inverted-mordent": (True, False),
    "turn": (True, True),
    "inverted-turn": (True, True),
}

# A tremolo moves the hands where it goes to and fro between two notes; these last as long as their notes.
TRILL, TREMOLO = "trill-mark", "tremolo"
LASTING = {TRILL, TREMOLO}


@dataclass(frozen=True)
class Ornament:
    """What a note alternates with.

    Parameters
    ----------
    name : str
        Of `core.music.passage.ORNAMENTS`.
    others : tuple of Pitch
        The notes beside it, as the key has them.
    lasting : bool
        Whether it goes on for the whole note, as a trill does.
    per_s : float
        Notes a second that it is to have.
    """

    name: str
    others: tuple[Pitch, ...]
    lasting: bool
    per_s: float = LIVELY_PER_S


def ornament_of(note: Note, fifths: int, per_s: float = LIVELY_PER_S) -> Ornament | None:
    """The first ornament of a note that moves the hands; None where there is none.

    Parameters
    ----------
    note : Note
    fifths : int
        Key signature at the note: sharps, or flats as a negative number.
    per_s : float
        Notes a second that a trill is to have.

    Returns
    -------
    Ornament or None

    Examples
    --------
    >>> from fractions import Fraction
    >>> note = Note("n1", Pitch("F", 1, 5), Fraction(1), ornaments=frozenset({"turn"}))
    >>> [str(pitch) for pitch in ornament_of(note, 1).others]
    ['G5', 'E5']
    """
    name = next((name for name in SIDES if name in note.ornaments), None)
    if name is None and note.trilled_to is not None and TREMOLO in note.ornaments:
        name = TREMOLO
    if name is None or note.written_pitch is None:
        return None
    if note.trilled_to is not None:
        return Ornament(name, (note.trilled_to,), lasting=name in LASTING, per_s=per_s)
    above, below = SIDES[name]
    steps = [1] * above + [-1] * below
    others = tuple(beside(note.written_pitch, step, fifths) for step in steps)
    return Ornament(name, others, lasting=name in LASTING, per_s=per_s)


def beside(pitch: Pitch, step: int, fifths: int) -> Pitch:
    """The note of the key a step above or below a pitch.

    Parameters
    ----------
    pitch : Pitch
    step : int, 1 or -1
    fifths : int, -7 to 7
        Sharps of a key signature; flats negative.

    Returns
    -------
    Pitch
    """
    place = STEPS.index(pitch.step) + step
    name = STEPS[place % 7]
    return Pitch(name, key_alter(name, fifths), pitch.octave + place // 7)
