"""Ornaments that alternate with a note beside the one written: with which."""

from __future__ import annotations

from dataclasses import dataclass

from core.music.passage import Note
from core.music.pitch import Pitch, key_alter

STEPS = "CDEFGAB"
# Of each ornament whether it goes to the note above, and to the one below.
SIDES = {
    "trill-mark": (True, False),
    "mordent": (False, True),
    "inverted-mordent": (True, False),
    "turn": (True, True),
    "inverted-turn": (True, True),
}


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
    """

    name: str
    others: tuple[Pitch, ...]
    lasting: bool


def ornament_of(note: Note, fifths: int) -> Ornament | None:
    """The first ornament of a note that moves the hands; None where there is none.

    Parameters
    ----------
    fifths : int
        Key signature at the note: sharps, or flats as a negative number.

    Examples
    --------
    >>> from fractions import Fraction
    >>> note = Note("n1", Pitch("F", 1, 5), Fraction(1), ornaments=frozenset({"turn"}))
    >>> [str(pitch) for pitch in ornament_of(note, 1).others]
    ['G5', 'E5']
    """
    name = next((name for name in SIDES if name in note.ornaments), None)
    if name is None or note.written_pitch is None:
        return None
    above, below = SIDES[name]
    steps = [1] * above + [-1] * below
    others = tuple(beside(note.written_pitch, step, fifths) for step in steps)
    return Ornament(name, others, lasting=name == "trill-mark")


def beside(pitch: Pitch, step: int, fifths: int) -> Pitch:
    """The note of the key a step above or below a pitch."""
    place = STEPS.index(pitch.step) + step
    name = STEPS[place % 7]
    return Pitch(name, key_alter(name, fifths), pitch.octave + place // 7)
