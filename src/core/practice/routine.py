"""The routine of a day: blocks with minutes from what is due, few of them on high notes, with rests between.

A little every day: long tones from the middle down and up to the last note that speaks, the mouthpiece alone,
overtones, scales with the new note in them, hard links, the passage. High notes tire the jaw and are loud:
their minutes have a cap, and none goes on for long without a rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from core.errors import PracticeError
from core.music.scale import keys_with

MINUTES_LEAST, MINUTES_MOST = 10, 120
# Minutes on high notes at a stretch, and of the rest after them.
HIGH_AT_ONCE, REST = 3, 1
# A long tone with its breath takes a quarter of a minute; no more of them than these in a day.
LONG_TONES_A_MINUTE, LONG_TONES_MOST = 4, 24
# Of the major keys with a note in them so many, those with the fewest signs, are taken by turns.
KEYS_BY_TURNS = 5


class Sort(StrEnum):
    """What a block is for."""

    LONG_TONES = "long tones"
    ALONE = "mouthpiece alone"
    OVERTONES = "overtones"
    NEW_NOTE = "scales with the new note"
    REST = "rest"
    MOVES = "hard links"
    PASSAGE = "the passage"


# Parts of the time that the blocks have, against each other.
SHARES = {Sort.LONG_TONES: 5, Sort.OVERTONES: 4, Sort.NEW_NOTE: 6, Sort.MOVES: 5, Sort.PASSAGE: 8}


@dataclass(frozen=True)
class Due:
    """What a day's routine is made from.

    Parameters
    ----------
    low, middle, top : int
        The lowest note, the one that long tones begin on, and the last that speaks; written.
    new_note : int or None
        The note of the week.
    high_from : int
        From which note on one counts as high.
    overtones : bool
        Whether overtones are practised on the instrument.
    moves, passage : bool
        Whether there are hard moves, and a passage to play.
    """

    low: int
    middle: int
    top: int
    new_note: int | None
    high_from: int
    overtones: bool
    moves: bool
    passage: bool


@dataclass(frozen=True)
class Block:
    """Minutes of one thing.

    Parameters
    ----------
    notes : tuple of int
        Long tones in their order, or the new note; written.
    fifths : int or None
        The major key of the scale, in sharps above 0 and flats below.
    high : bool
        Whether its minutes count as high.
    """

    sort: Sort
    minutes: int
    notes: tuple[int, ...] = ()
    fifths: int | None = None
    high: bool = False


def routine(due: Due, minutes: int, high_minutes: int, day: int) -> list[Block]:
    """The blocks of a day; the same day gives the same ones, and they add up to the minutes.

    Parameters
    ----------
    due : Due
    minutes : int
        In all, from 10 to 120.
    high_minutes : int
        At most so many on high notes and overtones.
    day : int
        As `datetime.date.toordinal` counts.

    Returns
    -------
    list of Block

    Raises
    ------
    PracticeError
        If the minutes are out of range.
    """
    if not MINUTES_LEAST <= minutes <= MINUTES_MOST:
        raise PracticeError(f"a routine has from {MINUTES_LEAST} to {MINUTES_MOST} minutes, got {minutes}")
    if high_minutes < 0:
        raise PracticeError(f"minutes of high notes must not be below 0, got {high_minutes}")
    sorts = [sort for sort in SHARES if _is_due(sort, due)]
    high = [sort for sort in sorts if _is_high(sort, due)]
    wanted = minutes * sum(SHARES[sort] for sort in high) / sum(SHARES[sort] for sort in sorts)
    low = [sort for sort in sorts if sort not in high]
    for on_high in range(min(high_minutes, round(wanted)), -1, -1):
        given = _shared(high, on_high)
        rests = sum(-(-given[sort] // HIGH_AT_ONCE) for sort in high)
        left = minutes - 1 - on_high - rests * REST  # one is for the mouthpiece alone
        if left >= len(low):  # what is not high has a minute of each at least
            break
    given |= _shared(low, left)
    blocks: list[Block] = []
    for sort in Sort:
        if sort is Sort.ALONE:
            blocks.append(Block(sort, 1))
        elif sort in high:
            for part in _parts(given[sort]):
                blocks += [_block(sort, part, due, day, high=True), Block(Sort.REST, REST)]
        elif given.get(sort):
            blocks.append(_block(sort, given[sort], due, day))
    return blocks


def _is_due(sort: Sort, due: Due) -> bool:
    return {
        Sort.OVERTONES: due.overtones,
        Sort.NEW_NOTE: due.new_note is not None,
        Sort.MOVES: due.moves,
        Sort.PASSAGE: due.passage,
    }.get(sort, True)


def _is_high(sort: Sort, due: Due) -> bool:
    """Overtones ask as much of the jaw and the ears as the notes that they lead to."""
    new = due.new_note is not None and due.new_note >= due.high_from
    return sort is Sort.OVERTONES or (sort is Sort.NEW_NOTE and new)


def _shared(sorts: Sequence[Sort], minutes: int) -> dict[Sort, int]:
    """Whole minutes by share; those left over go to the largest remainders, of equals to the earlier."""
    whole = sum(SHARES[sort] for sort in sorts)
    exact = {sort: minutes * SHARES[sort] / whole for sort in sorts}
    given = {sort: int(part) for sort, part in exact.items()}
    for sort in sorted(sorts, key=lambda s: (given[s] - exact[s], sorts.index(s)))[
        : minutes - sum(given.values())
    ]:
        given[sort] += 1
    return given


def _parts(minutes: int) -> list[int]:
    """Minutes in as few parts as may be, none longer than goes without a rest, as even as may be."""
    n = -(-minutes // HIGH_AT_ONCE)
    return [minutes // n + (part < minutes % n) for part in range(n)]


def _block(sort: Sort, minutes: int, due: Due, day: int, *, high: bool = False) -> Block:
    if sort is Sort.LONG_TONES:
        return Block(sort, minutes, long_tones(due, minutes))
    if sort is Sort.NEW_NOTE and due.new_note is not None:
        keys = keys_with(due.new_note)[:KEYS_BY_TURNS]
        return Block(sort, minutes, (due.new_note,), keys[day % len(keys)], high)
    return Block(sort, minutes, high=high)


def long_tones(due: Due, minutes: int) -> tuple[int, ...]:
    """Long tones for so many minutes: from the middle down to the lowest, then up to the last that speaks.

    Parameters
    ----------
    due : Due
    minutes : int, from 0

    Returns
    -------
    tuple of int, 0 to 127
        Written notes in their order.
    """
    count = min(max(2, minutes * LONG_TONES_A_MINUTE), LONG_TONES_MOST)
    down, up = due.middle - due.low, max(due.top - due.middle, 0)
    ways = down + up
    n_down = min(down, round(count * down / ways)) if ways else 0
    n_up = min(up, count - n_down)
    below = np.linspace(due.middle, due.low, n_down + 1).round().astype(int).tolist()
    above = np.linspace(due.middle, due.top, n_up + 1).round().astype(int).tolist()
    return (due.middle, *below[1:], *above[1:])
