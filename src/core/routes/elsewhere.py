"""The same music elsewhere: in another key or octave, or on another instrument, and what is hard there."""

from __future__ import annotations

from dataclasses import dataclass

from core.instruments.fingering import Kind
from core.music.passage import Passage
from core.music.pitch import Interval
from core.routes.explain import chosen, route_faults
from core.routes.hard_moves import HARD, stumble
from core.routes.table import Table

# Moves that are tried: keys up and down to half an octave, and whole octaves.
SEMITONES = (*range(-6, 0), *range(1, 7), -12, 12)
# A note is on the edge from so many faults of its own on, or where a lead is all that is known.
EDGE = 0.3


@dataclass(frozen=True)
class Measures:
    """What a passage asks somewhere.

    Parameters
    ----------
    beyond : int
        Notes without a fingering.
    edge : int
        Notes on the edge: of many faults by themselves, or on leads alone.
    altissimo : int
        Notes that are fingered so.
    hard : int
        Hard moves.
    faults : float
        Expected in one playing.
    """

    beyond: int
    edge: int
    altissimo: int
    hard: int
    faults: float

    @property
    def rank(self) -> tuple[int, float]:
        """The easier, the smaller: first what is within reach."""
        return self.beyond, self.faults


def measures(table: Table) -> Measures:
    """What a solved passage asks.

    Parameters
    ----------
    table : Table

    Returns
    -------
    Measures
    """
    notes = range(len(table.problem.events))
    entries = [candidate.entry if candidate else None for candidate in (chosen(table, n) for n in notes)]
    own = table.node_faults.total
    return Measures(
        beyond=entries.count(None),
        edge=sum(e is not None and (e.is_lead or own[n] >= EDGE) for n, e in enumerate(entries)),
        altissimo=sum(e is not None and e.kind is Kind.ALTISSIMO for e in entries),
        hard=sum((stumble(table, n) or 0.0) >= HARD for n in notes),
        faults=float(route_faults(table).total),
    )


def by_semitones(passage: Passage, semitones: int) -> Passage:
    """A passage so many semitones higher, in the key with the fewest signs.

    Parameters
    ----------
    passage : Passage
    semitones : int
        Down where it is below 0.

    Returns
    -------
    Passage

    Examples
    --------
    >>> from core.music.notation.abc import read_abc
    >>> moved = by_semitones(read_abc("K:D" + chr(10) + "D|").passage, 1)
    >>> str(next(iter(moved)).written_pitch), moved.bars[0].key_fifths
    ('E♭4', -3)
    """
    return passage.transposed(interval_for(passage, semitones))


def interval_for(passage: Passage, semitones: int) -> Interval:
    """How many steps to write for so many semitones, for the key with the fewest signs.

    Parameters
    ----------
    passage : Passage
    semitones : int
        Down where it is below 0.

    Returns
    -------
    Interval
    """
    octaves, rest = divmod(semitones, 12)
    fifths = next((bar.key_fifths for bar in passage.bars if bar.key_fifths is not None), 0)
    intervals = [Interval(steps + 7 * octaves, semitones) for steps in STEPS[rest]]
    return min(intervals, key=lambda one: (abs(fifths + one.fifths), one.steps))


# Ways to spell each number of semitones, in steps of the staff.
STEPS = ((0,), (0, 1), (1,), (1, 2), (2,), (3,), (3, 4), (4,), (4, 5), (5,), (5, 6), (6,))


def key_words(semitones: int) -> str:
    """How far music is moved.

    Parameters
    ----------
    semitones : int
        Down where it is below 0.

    Returns
    -------
    str

    Examples
    --------
    >>> [key_words(n) for n in (0, 1, -2, 12)]
    ['as written', 'up a half step', 'down 2 half steps', 'up an octave']
    """
    if semitones == 0:
        return "as written"
    way = "up" if semitones > 0 else "down"
    named = {1: "a half step", 12: "an octave"}
    return f"{way} {named.get(abs(semitones), f'{abs(semitones)} half steps')}"
