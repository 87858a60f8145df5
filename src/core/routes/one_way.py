"""One way of one note within a figure: form, as a teacher sees it.

Hands that play a note in one way and shortly after in another have learned two things where one would do. A
route that does so keeps to one of the ways wherever that costs less than the changes do.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from core.charts.catalogue import Catalogue
from core.routes.facility import FloatArray, IntArray
from core.routes.problem import Problem
from core.routes.table import Table, added_cost, make_table

# Expected faults of each change of the way within a figure; how many notes on the same note is of the figure.
CHANGED_WAY, FIGURE = 0.03, 6
# A way is chosen as the music lies when its notes take so long, in seconds, one after the other: at whatever
# tempo it is played, and so that the ways are the same at all.
SLOW_S, FAST_S = 0.4, 0.2


@dataclass(frozen=True)
class Figures:
    """Rows of the same written note near one another, figure after figure.

    Parameters
    ----------
    rows, figure : np.ndarray of int [shape=(n,)]
        Rows of the trellis, rising within a figure, and the number of the figure that each belongs to.
    """

    rows: IntArray
    figure: IntArray


def one_way(table: Table) -> Table:
    """The table of the same passage with every note kept to one way within a figure, where that is worth it.

    Notes after a rest, and notes struck again, begin anew: there a change may be on purpose.

    Parameters
    ----------
    table : Table
        Of a problem that may keep to ways already; they are found anew.

    Returns
    -------
    Table
    """
    problem, nothing = table.problem, np.zeros(len(table.problem.trellis.rows))
    kept = bool(problem.same_way.any())
    problem = _keeping(problem, nothing) if kept else problem
    same_way, figures = nothing, _figures(problem)
    for seconds in (SLOW_S, FAST_S) if len(figures.rows) else ():
        there = problem.quicker(float(np.median(problem.notes.seconds)) / seconds)
        same_way = _chosen(there, figures, same_way)
    if not same_way.any():
        return make_table(problem) if kept else table
    return make_table(_keeping(problem, same_way))


def _chosen(problem: Problem, figures: Figures, same_way: FloatArray) -> FloatArray:
    """Head starts for the ways of figures, as they were or with more, whichever costs less."""
    table = make_table(_keeping(problem, same_way) if same_way.any() else problem)
    changes, more = _changes(table, figures), same_way.copy()
    for figure in np.flatnonzero(changes).tolist():
        _prefer(table, figures.rows[figures.figure == figure], CHANGED_WAY * int(changes[figure]), more)
    if np.array_equal(more, same_way):
        return same_way
    kept = make_table(_keeping(problem, more))
    spent = added_cost(problem, kept.slots) - added_cost(problem, table.slots)
    spared = int(changes.sum() - _changes(kept, figures).sum())
    return more if spent <= CHANGED_WAY * spared else same_way


@lru_cache(maxsize=32)
def _way_of(chart: Catalogue) -> IntArray:
    """For each entry of a chart a number that one way shares: a finger that stays down makes no other."""
    numbers: dict[str, int] = {}
    ways = [numbers.setdefault(chart.plain[entry.id], len(numbers)) for entry in chart.entries]
    return np.array(ways, dtype=np.int64)


def _figures(problem: Problem) -> Figures:
    """The figures of a passage in which there is a choice, of two notes or more."""
    figures: list[list[int]] = []
    latest: dict[int, list[int]] = {}
    choice = np.diff(problem.trellis.usable_slots[1]) > 1
    ends = problem.notes.after_rest | problem.trellis.gap[1:-1]
    pairs = zip(problem.given.events, ends.tolist(), strict=True)
    for row, (event, begins) in enumerate(pairs, start=1):
        if begins:
            latest = {}
        midi = event.written_pitch.midi
        figure = latest.get(midi)
        if figure and 1 < row - figure[-1] <= FIGURE:
            figure.append(row)
        else:
            latest[midi] = [row]
            figures.append(latest[midi])
    chosen = [figure for figure in figures if len(figure) > 1 and choice[figure].any()]
    number = np.repeat(np.arange(len(chosen)), [len(figure) for figure in chosen])
    return Figures(np.array([row for figure in chosen for row in figure], dtype=np.int64), number)


def _changes(table: Table, figures: Figures) -> IntArray:
    """How often the way is changed in each figure."""
    trellis, rows = table.problem.trellis, figures.rows
    way = _way_of(table.problem.given.chart)[trellis.rows[trellis.first[rows] + table.slots[rows]]]
    changed = (way[1:] != way[:-1]) & (figures.figure[1:] == figures.figure[:-1])
    return np.bincount(figures.figure[1:], weights=changed, minlength=int(figures.figure[-1]) + 1).astype(
        np.int64
    )


def _prefer(table: Table, rows: IntArray, worth: float, same_way: FloatArray) -> None:
    """Give a head start to the way of a figure that costs least throughout, if that is worth the changes."""
    trellis = table.problem.trellis
    slots = np.concatenate([np.arange(*trellis.first[row : row + 2]) for row in rows])
    slots = slots[trellis.usable[slots]]
    ways, which = np.unique(_way_of(table.problem.given.chart)[trellis.rows[slots]], return_inverse=True)
    extra = np.full((len(rows), len(ways)), np.inf)
    np.minimum.at(extra, (np.searchsorted(rows, trellis.slot_row[slots]), which), table.extra[slots])
    throughout = extra.sum(axis=0)
    best = int(throughout.argmin())
    if throughout[best] <= worth:
        same_way[slots] = np.where(which == best, worth, 0.0)


def _keeping(problem: Problem, same_way: FloatArray) -> Problem:
    """The problem with other head starts for keeping to ways."""
    return replace(problem, same_way=same_way, node=problem.node + problem.same_way - same_way)
