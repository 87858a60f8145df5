"""How sure it is that one route costs less than another, from how well their fingerings are known.

What is known of a fingering has a spread. Part of it is the day's and never goes; the rest is what would be
known if it were measured. The rest is drawn, once for each fingering and not for each note, since a fingering
that turns out flat is flat wherever it is used; twins, whose open holes are the same, share their draw. Both
routes are costed in every draw.

References
----------
McKay, Beckman & Conover (1979), A comparison of three methods for selecting values of input variables in the
analysis of output from a computer code, Technometrics 21. (Latin hypercube sampling.)
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np
from scipy.special import ndtri

from core.evidence.sources import DAY_CENTS
from core.routes.facility import FloatArray, IntArray
from core.routes.faults import STRANDS, Faults, Qualities
from core.routes.problem import Problem
from core.routes.stretches import Stretches, through
from core.routes.table import Table

DRAWS = 256  # the share below errs by at most three in a hundred
SALT = {"pitch": 1, "tone": 2, "speaks": 3, "colour": 4}
# A choice is as good as the best while it costs no more than this beside it; in what share of all draws
# it is, when it is sure, and when it is likely.
AS_GOOD, SURE, LIKELY = 0.05, 0.9, 0.6
# Links whose costs in all draws are worked out in one go: bounds memory.
CELLS_AT_ONCE = 20_000


class Footing(StrEnum):
    """How well the choice for a note is founded."""

    SURE = "sure"
    LIKELY = "likely"
    OPEN = "open"


@dataclass(frozen=True)
class Founded:
    """How well the choice for a note is founded.

    Parameters
    ----------
    within : float, 0 to 1
        In what share of all draws it costs at most `AS_GOOD` more than the best.
    loss : float
        Faults that it costs more than the best, on the mean of all draws.
    """

    within: float
    loss: float

    @property
    def footing(self) -> Footing:
        """The same in a word."""
        if self.within >= SURE:
            return Footing.SURE
        return Footing.LIKELY if self.within >= LIKELY else Footing.OPEN


@dataclass(frozen=True)
class Sureness:
    """In what share of all draws the one route costs less than the other, in all and in each strand."""

    whole: float
    by_strand: dict[str, float]


def founded(table: Table, stretches: Stretches | None = None) -> dict[int, Founded]:
    """How well the choice is founded for every note that has one, by its number.

    The passage is solved in every draw; what is told of a note is what its fingering costs more there than
    the best one, the others being chosen anew.

    Parameters
    ----------
    table : Table
    stretches : Stretches, optional
        Where to look; everywhere if it is not said.

    Returns
    -------
    dict of int to Founded
        By place of the note, from 0.
    """
    problem, found = table.problem, dict[int, Founded]()
    notes = problem.notes.at(np.ones(1))
    for part in (table.stretches if stretches is None else stretches).parts(CELLS_AT_ONCE):
        drawn = draws(problem, np.unique(problem.trellis.rows[part.slots]))
        costs = part.costs_where(drawn, notes)
        for stretch in part.all:
            chosen = part.local(stretch, table.slots)
            for row, slot, each in zip(stretch.rows, chosen, through(stretch, costs), strict=True):
                loss = each[slot] - each.min(axis=0)
                found[row - 1] = Founded(float(np.mean(loss <= AS_GOOD)), float(loss.mean()))
    return found


def sureness(problem: Problem, slots: IntArray, other: IntArray, head_start: float = 0.0) -> Sureness:
    """How sure it is that a route costs less than another.

    Parameters
    ----------
    problem : Problem
    slots, other : np.ndarray of int [shape=(n_notes + 2,)]
        The two routes, slots counted within their rows.
    head_start : float
        Expected faults that the other must save more.

    Returns
    -------
    Sureness
    """
    rows = np.flatnonzero(slots != other)
    if not len(rows):
        return Sureness(0.0, dict.fromkeys(STRANDS, 0.0))
    ways_in = np.unique(np.concatenate([rows, rows + 1]))
    saved = _drawn(problem, other, rows, ways_in) - _drawn(problem, slots, rows, ways_in)
    saved = saved.weighted(problem.weights)
    return Sureness(
        whole=float(np.mean(saved.total + head_start > 0)),
        by_strand={strand: float(np.mean(getattr(saved, strand) > 0)) for strand in STRANDS},
    )


def _drawn(problem: Problem, slots: IntArray, rows: IntArray, ways_in: IntArray) -> Faults:
    """Faults of the given notes and of the moves into other rows, in every draw: arrays of `DRAWS`."""
    trellis = problem.trellis
    flat = trellis.first[:-1] + slots
    cells = trellis.cells(ways_in - 1, slots[ways_in - 1], slots[ways_in])
    used = np.unique(trellis.rows[flat[np.concatenate([rows, ways_in - 1, ways_in])]])
    known, notes = draws(problem, used), problem.notes.at(np.ones(1))
    nodes = problem.faults_of_slots(flat[rows], known, notes)
    moves = problem.faults_of_moves(cells, known, notes)
    none = np.zeros(DRAWS)
    return Faults(
        *(none + a.sum(axis=0) + b.sum(axis=0) for a, b in zip(nodes.parts, moves.parts, strict=True))
    )


def draws(problem: Problem, used: Iterable[int]) -> Qualities:
    """What could be known of entries: a column for each of `DRAWS`; the others stay as they are.

    Parameters
    ----------
    problem : Problem
        Colour is drawn only where something is aimed at.
    used : iterable of int
        Places of entries in the chart.

    Returns
    -------
    Qualities
    """
    known, at = problem.given.known, np.fromiter(used, dtype=np.int64)

    def drawn(strand: str, value: FloatArray, spread: FloatArray) -> FloatArray:
        found = np.repeat(value[:, None], DRAWS, axis=1)
        for row in at:
            found[row] += spread[row] * quantiles(int(known.kin[row]), SALT[strand])
        return found

    day = np.minimum(known.pitch_spread, DAY_CENTS)
    columns = known.in_columns
    nothing = np.zeros((len(day), 1))
    if problem.notes.aim.any():
        colour = drawn("colour", known.colour, known.colour_spread)
        columns = replace(columns, colour=colour, colour_spread=nothing)
    return replace(
        columns,
        pitch=drawn("pitch", known.pitch, np.sqrt(known.pitch_spread**2 - day**2)),
        pitch_spread=day[:, None],
        tone=drawn("tone", known.tone, known.tone_spread),
        tone_spread=nothing,
        speaks=drawn("speaks", known.speaks, known.speaks_spread),
        speaks_spread=nothing,
    )


@lru_cache(maxsize=4096)
def quantiles(kin: int, salt: int) -> FloatArray:
    """Quantiles of the normal law, one from each of `DRAWS` equal parts, in an order of the fingering's own.

    The order comes from the number alone, so that what is learned of one fingering moves no other's draws.

    Parameters
    ----------
    kin : int
        Number that twins share.
    salt : int
        Number of the strand.

    Returns
    -------
    np.ndarray [shape=(DRAWS,)], standard deviations
    """
    middles = ndtri((np.arange(DRAWS) + 0.5) / DRAWS)
    return np.asarray(np.random.default_rng([kin, salt]).permutation(middles))
