"""One way of one note within a figure: form, as a teacher sees it.

Hands that play a note in one way and shortly after in another have learned two things where one would do. A
route that does so keeps to one of the ways wherever that costs less than the changes do.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np

from core.routes.facility import FloatArray, IntArray
from core.routes.problem import Problem
from core.routes.table import Table, added_cost, make_table

# Expected faults of each change of the way within a figure; how many notes on the same note is of the figure.
CHANGED_WAY, FIGURE = 0.03, 6
# A way is chosen as the music lies when its notes take so long, in seconds, one after the other: at whatever
# tempo it is played, and so that the ways are the same at all.
SLOW_S, FAST_S = 0.5, 0.15


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
    kept = bool(problem.trellis.same_way.any())
    problem = _keeping(problem, nothing) if kept else problem
    same_way, figures = nothing, _figures(problem)
    for seconds in (SLOW_S, FAST_S) if figures else ():
        there = problem.quicker(float(np.median(problem.notes.seconds)) / seconds)
        same_way = _chosen(there, figures, same_way)
    if not same_way.any():
        return make_table(problem) if kept else table
    return make_table(_keeping(problem, same_way))


def _chosen(problem: Problem, figures: list[IntArray], same_way: FloatArray) -> FloatArray:
    """Head starts for the ways of figures, as they were or with more, whichever costs less."""
    table = make_table(_keeping(problem, same_way))
    changing = [rows for rows in figures if _changes(_ways(table, rows))]
    more = same_way.copy()
    for rows in changing:
        _prefer(table, rows, more)
    if np.array_equal(more, same_way):
        return same_way
    kept = make_table(_keeping(problem, more))
    spent = added_cost(problem, kept.slots) - added_cost(problem, table.slots)
    spared = sum(_changes(_ways(table, rows)) - _changes(_ways(kept, rows)) for rows in changing)
    return more if spent <= CHANGED_WAY * spared else same_way


def _figures(problem: Problem) -> list[IntArray]:
    """Rows of the same written note near one another, with no rest between; of two or more."""
    figures: list[list[int]] = []
    latest: dict[int, list[int]] = {}
    for row, event in enumerate(problem.given.events, start=1):
        if problem.notes.after_rest[row - 1] or problem.trellis.gap[row]:
            latest = {}
        figure = latest.get(event.written_pitch.midi)
        if figure and 1 < row - figure[-1] <= FIGURE:
            figure.append(row)
        else:
            figure = [row]
            figures.append(figure)
        latest[event.written_pitch.midi] = figure
    return [np.array(figure, dtype=np.int64) for figure in figures if len(figure) > 1]


def _ways(table: Table, rows: IntArray) -> list[str]:
    """The way taken in each row: a finger that stays down makes no other."""
    chart, trellis = table.problem.given.chart, table.problem.trellis
    places = trellis.rows[trellis.first[rows] + table.slots[rows]]
    return [chart.plain[chart.entries[place].id] for place in places.tolist()]


def _changes(ways: list[str]) -> int:
    return sum(one != other for one, other in pairwise(ways))


def _prefer(table: Table, rows: IntArray, same_way: FloatArray) -> None:
    """Give a head start to the way of a figure that costs least throughout, if that is worth the changes."""
    chart, trellis = table.problem.given.chart, table.problem.trellis
    cheapest: dict[str, list[float]] = {}
    slots_of: dict[str, list[int]] = {}
    for row in rows.tolist():
        here: dict[str, float] = {}
        for slot in range(int(trellis.first[row]), int(trellis.first[row + 1])):
            if trellis.usable[slot]:
                way = chart.plain[chart.entries[int(trellis.rows[slot])].id]
                here[way] = min(here.get(way, np.inf), float(table.extra[slot]))
                slots_of.setdefault(way, []).append(slot)
        for way, extra in here.items():
            cheapest.setdefault(way, []).append(extra)
    throughout = {way: sum(extras) for way, extras in cheapest.items() if len(extras) == len(rows)}
    worth = CHANGED_WAY * _changes(_ways(table, rows))
    if throughout and min(throughout.values()) <= worth:
        for slots in slots_of.values():
            same_way[slots] = 0.0
        same_way[slots_of[min(throughout, key=throughout.__getitem__)]] = worth


def _keeping(problem: Problem, same_way: FloatArray) -> Problem:
    """The problem with other head starts for keeping to ways."""
    trellis = problem.trellis
    head_start = trellis.head_start - trellis.same_way + same_way
    kept = replace(problem, trellis=replace(trellis, head_start=head_start, same_way=same_way))
    return kept.weighing(problem.weights)
