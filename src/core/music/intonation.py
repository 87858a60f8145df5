"""What a held note is tuned to: equal temperament, or just to key, drone, root or chord symbols."""

from __future__ import annotations

from core.errors import PassageError
from core.music.passage import Passage
from core.music.pitch import spell

EQUAL, KEY, HARMONY = "equal", "key", "chords"
# Just intervals above a root against equal temperament, in cents, by semitones; pure thirds and fifths.
JUST = (0.0, 11.7, 3.9, 15.6, -13.7, -2.0, -9.8, 2.0, 13.7, -15.6, 17.6, -11.7)
ROOTS = tuple(range(12))


def check_tuned_to(tuned_to: str) -> str:
    """Return what notes are tuned to, if it can be.

    Parameters
    ----------
    tuned_to : str
        One of `TUNED_TO`.

    Returns
    -------
    str

    Raises
    ------
    PassageError
        If it is none of "equal", "key" and "chords", nor a root from "0" (C) to "11" (B).
    """
    if tuned_to not in {EQUAL, KEY, HARMONY, *map(str, ROOTS)}:
        raise PassageError(
            f"tuned_to must be equal, key, chords, or a root from 0 to 11, got {tuned_to[:20]!r}"
        )
    return tuned_to


def tuned_cents(passage: Passage, note_id: str, midi: int, tuned_to: str) -> float:
    """Where a held note should lie against equal temperament, in cents.

    Parameters
    ----------
    passage : Passage
    note_id : str
        Id of a note of the passage.
    midi : int
        Written pitch, as the root is.
    tuned_to : str
        See `check_tuned_to`; of a key the tonic of its major, of a chord symbol its root. Equal where none
        is in force.

    Returns
    -------
    float, cents, sharp positive

    Examples
    --------
    >>> from core.music.notation.abc import read_abc
    >>> tuned_cents(read_abc("K:G" + chr(10) + "B|").passage, "n1", 71, KEY)
    -13.7
    """
    if tuned_to == EQUAL:
        return 0.0
    if tuned_to == HARMONY:
        chord = passage.harmony.get(note_id)
        if chord is None:
            return 0.0
        return JUST[(midi - chord.root.midi) % 12]
    root = passage.key_at(note_id) * 7 if tuned_to == KEY else int(tuned_to)
    return JUST[(midi - root) % 12]


def root_words(root: int) -> str:
    """The written name of a root.

    Parameters
    ----------
    root : int, semitones above C, 0 to 11

    Returns
    -------
    str
    """
    return str(spell(60 + root))[:-1]
