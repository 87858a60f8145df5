"""What every reader of a score gives back, and what they share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

from core.errors import NotationError
from core.music.passage import NOMINAL, Note, Passage, split_length
from core.music.pitch import Interval


@dataclass(frozen=True)
class Score:
    """A score as read.

    Parameters
    ----------
    passage : Passage
        Pitches as they stand in the source.
    concert : bool
        The source says that it is at concert pitch.
    to_sounding : Interval or None
        The source's own transposition from written to sounding, if it names one.
    notices : tuple of str
        What was left out, in a teacher's words.
    """

    passage: Passage
    concert: bool = False
    to_sounding: Interval | None = None
    notices: tuple[str, ...] = ()


def single_notes(note: Note, fail: Callable[[str], NotationError]) -> list[Note]:
    """Split a note whose length no single note can have into tied notes.

    Parameters
    ----------
    fail : callable
        Makes an error that names the place of the note.

    Raises
    ------
    NotationError
        If the length is no multiple of a 256th note.
    """
    if note.nominal in NOMINAL:
        return [note]
    try:
        lengths = split_length(note.nominal)
    except ValueError as error:
        raise fail(f"a note length cannot be written: {error}") from error
    scale = Fraction(note.tuplet[1], note.tuplet[0])
    parts = []
    for place, length in enumerate(lengths):
        first, last = place == 0, place == len(lengths) - 1
        parts.append(
            Note(
                id=note.id if first else f"{note.id}.{place}",
                written_pitch=note.written_pitch,
                quarters=length * scale,
                tuplet=note.tuplet,
                tied=note.tied if last else not note.is_rest,
                slur_start=note.slur_start and first,
                slur_stop=note.slur_stop and last,
                articulations=note.articulations if first else frozenset(),
                dynamic=note.dynamic if first else "",
                tempo_bpm=note.tempo_bpm if first else None,
                fingering=note.fingering if first else "",
            )
        )
    return parts
