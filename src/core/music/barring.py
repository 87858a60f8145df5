"""Notes put into bars: parted at bar lines and tied over them, as the time signatures of a passage ask."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import accumulate

from core.errors import NotationError, PassageError
from core.music.notation.score import continued, single_notes, writable
from core.music.passage import NOMINAL, NOTES_LIMIT, Bar, Note, Passage


def rebarred(passage: Passage, notes: Sequence[Note], at: int) -> tuple[Passage, int]:
    """A passage with other notes, put into bars anew.

    Parameters
    ----------
    passage : Passage
    notes : sequence of Note
    at : int
        Place of one of the notes given, or -1; it is given back as it is in the new passage.

    Returns
    -------
    (Passage, int)
        The passage, and how many notes changed their bar or were parted.

    Raises
    ------
    PassageError
        If there are more notes than a passage may have.
    """
    bars = _Bars(passage)
    now = -1
    for place, note in enumerate(notes):
        if bars.count + len(bars.filled) > NOTES_LIMIT:
            raise PassageError(f"a passage must have at most {NOTES_LIMIT:,} notes and rests")
        begins = bars.put(note)
        now = begins if place == at else now
    return replace(passage, bars=tuple(bars.closed())), now


def joined(passage: Passage, at: int) -> tuple[list[Note], int]:
    """The notes of a passage, what bar lines parted taken together again; and the place `at` among them.

    Parameters
    ----------
    passage : Passage
    at : int, from 0

    Returns
    -------
    (list of Note, int)
        The notes, and a place among them.
    """
    found: list[Note] = []
    cursor = -1
    ends = set(accumulate(len(bar.notes) for bar in passage.bars))
    for place, note in enumerate(passage):
        before = found[-1] if found else None
        after_line = place in ends
        whole = before is not None and not note.chord and goes_on(before, note)
        if before is not None and whole and (after_line or _was_split(before, note)):
            found[-1] = replace(
                before,
                quarters=before.quarters + note.quarters,
                tied=note.tied,
                slur_stop=note.slur_stop,
                hairpin_stop=note.hairpin_stop,
                fermata=note.fermata,
            )
        else:
            found.append(note)
        if place == at:
            cursor = len(found) - 1
    return found, cursor


def _was_split(before: Note, note: Note) -> bool:
    """Whether the two stand for a length that no single note has."""
    return before.tuplet == note.tuplet and before.nominal + note.nominal not in NOMINAL


def goes_on(before: Note, note: Note) -> bool:
    """Whether a note is but the rest of the one before it.

    Parameters
    ----------
    before, note : Note

    Returns
    -------
    bool
    """
    plain = replace(continued(note), tied=note.tied)
    return bool(before.tied and before.written_pitch == note.written_pitch and note == plain)


class _Bars:
    """Bars that are being filled; those of a passage say what key and time each has."""

    def __init__(self, passage: Passage) -> None:
        self.signs = [(bar.key_fifths, bar.time) for bar in passage.bars]
        self.upbeat = passage.bars[0].quarters if passage.has_upbeat else None
        self.bars: list[Bar] = []
        self.filled: list[Note] = []
        self.count = 0
        self.time = self.signs[0][1] or (4, 4)

    @property
    def free(self) -> Fraction:
        """Quarters that are free in the bar."""
        room = Fraction(4 * self.time[0], self.time[1])
        room = self.upbeat if self.upbeat and not self.bars else room
        return room - sum((note.quarters for note in self.filled), Fraction(0))

    def put(self, note: Note) -> int:
        """Put a note where there is room, parted by bar lines; gives back the place of its beginning."""
        if self.free <= 0:
            self.close()
        begins = self.count + len(self.filled)
        while note.quarters > self.free:
            first = replace(
                note,
                quarters=self.free,
                tied=not note.is_rest,
                slur_stop=False,
                hairpin_stop=False,
                fermata=False,
            )
            rest = note.quarters - self.free
            note = replace(continued(note), id="", quarters=rest, tied=note.tied)
            self.filled += _written(first)
            self.close()
        self.filled += _written(note)
        return begins

    def close(self) -> None:
        place = len(self.bars)
        key, time = self.signs[place] if place < len(self.signs) else (None, None)
        self.bars.append(Bar(tuple(self.filled), key, time))
        self.count += len(self.filled)
        self.filled = []
        following = self.signs[place + 1] if place + 1 < len(self.signs) else (None, None)
        self.time = following[1] or self.time

    def closed(self) -> list[Bar]:
        if self.filled:
            self.close()
        return self.bars


def _written(note: Note) -> list[Note]:
    """A note as it can be written."""
    quarters, tuplet = writable(note.quarters, note.tuplet)
    if quarters <= 0:
        return []
    return single_notes(replace(note, quarters=quarters, tuplet=tuplet), NotationError)
