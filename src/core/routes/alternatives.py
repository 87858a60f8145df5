"""Other ways through a passage that differ in something: by stretch, and by habit.

The plain k best routes differ in duplicates of hardly any weight. What tells a teacher something is, for
every other fingering of a note, what it costs and what must change with it; and what it costs never, or
always, to use a fingering wherever it is offered.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.instruments.fingering import Fingering, Kind
from core.routes.facility import BoolArray, IntArray
from core.routes.stretches import Stretch, Stretches, best, by_itself, held
from core.routes.table import Table

# Differences below the first are as good; up to the second, near.
AS_GOOD, NEAR = 0.005, 0.1
LISTED = 8
# How many fingerings of notes are held at once: bounds memory.
HELD_AT_ONCE = 512


@dataclass(frozen=True)
class Change:
    """A way that differs from the route at some notes of one stretch.

    Parameters
    ----------
    notes : tuple of int
        Which notes, counted from 0.
    before, after : tuple of int
        Their entries in the route and in this way, as places in the chart.
    extra : float
        Weighted faults that it costs more.
    """

    notes: tuple[int, ...]
    before: tuple[int, ...]
    after: tuple[int, ...]
    extra: float


@dataclass(frozen=True)
class Habit:
    """A fingering, or several of the same build, never or always used where it is offered.

    Parameters
    ----------
    entries : frozenset of int
        As places in the chart.
    always : bool
        Used wherever it is offered; never otherwise.
    extra : float
        Weighted faults that this costs more.
    notes : tuple of int
        The notes that change.
    """

    entries: frozenset[int]
    always: bool
    extra: float
    notes: tuple[int, ...]


def by_stretch(table: Table, stretches: Stretches | None = None) -> list[Change]:
    """For every other fingering of every note the best way with it; each way once, the cheapest first.

    Parameters
    ----------
    table : Table
    stretches : Stretches, optional
        Where to look; everywhere if it is not said.

    Returns
    -------
    list of Change
    """
    stretches = table.stretches if stretches is None else stretches
    found: dict[tuple[tuple[int, ...], tuple[int, ...]], Change] = {}
    for stretch in stretches.all:
        now = stretches.local(stretch, table.slots)
        holds = [
            (row, slot)
            for row, slots in enumerate(stretch.slots)
            for slot in range(len(slots))
            if slot != now[row]
        ]
        least = best(stretch, stretches.costs)[0][0]
        for begin in range(0, len(holds), HELD_AT_ONCE):
            costs, routes = best(*held(stretch, stretches.costs, holds[begin : begin + HELD_AT_ONCE]))
            for cost, route in zip(costs, routes.T, strict=True):
                change = changed(stretches, stretch, now, route, float(cost - least))
                found.setdefault((change.notes, change.after), change)
    return sorted(found.values(), key=lambda change: (change.extra, change.notes))


def changed(stretches: Stretches, stretch: Stretch, now: IntArray, route: IntArray, extra: float) -> Change:
    """What differs between two routes of a stretch.

    Parameters
    ----------
    stretches : Stretches
    stretch : Stretch
    now : np.ndarray of int [shape=(n_rows,)]
        Usable slots of the rows of the stretch.
    route : np.ndarray of int [shape=(n_rows,)]
        The other way.
    extra : float, faults
        What it costs more.

    Returns
    -------
    Change
    """
    rows = stretches.problem.trellis.rows
    differ = np.flatnonzero(now != route).tolist()
    return Change(
        notes=tuple(stretch.first + n - 1 for n in differ),
        before=tuple(int(rows[stretch.slots[n][now[n]]]) for n in differ),
        after=tuple(int(rows[stretch.slots[n][route[n]]]) for n in differ),
        extra=extra,
    )


def with_change(table: Table, change: Change) -> IntArray:
    """The route with a change put in, slots counted within their rows.

    Parameters
    ----------
    table : Table
    change : Change

    Returns
    -------
    np.ndarray of int [shape=(n_notes + 2,)]
    """
    problem, slots = table.problem, table.slots.copy()
    trellis = problem.trellis
    for note, entry in zip(change.notes, change.after, strict=True):
        offered = trellis.rows[trellis.first[note + 1] : trellis.first[note + 2]]
        slots[note + 1] = np.flatnonzero(offered == entry)[0]
    return slots


def near(changes: list[Change]) -> list[Change]:
    """Ways that cost little more and change different notes, at most `LISTED`; equals are left out.

    Parameters
    ----------
    changes : list of Change

    Returns
    -------
    list of Change
    """
    taken: list[Change] = []
    touched: set[int] = set()
    for change in changes:
        if AS_GOOD <= change.extra < NEAR and touched.isdisjoint(change.notes):
            taken.append(change)
            touched.update(change.notes)
    return taken[:LISTED]


def by_habit(table: Table, family: Mapping[int, object]) -> list[Habit]:
    """What it costs never, or always, to use fingerings; the cheapest first.

    Parameters
    ----------
    table : Table
    family : mapping of int to anything hashable
        Of every entry, as a place in the chart, what those of the same build share.

    Returns
    -------
    list of Habit
        Only such as change something; of those that come to the same at the same notes the first.
    """
    problem, stretches = table.problem, table.stretches
    entry = problem.trellis.rows[stretches.slots]
    used = np.unique(entry).tolist()
    number: dict[object, int] = {}
    kind = np.zeros(len(problem.given.chart.entries), dtype=np.int64)
    kind[used] = [number.setdefault(family[one], len(number)) for one in used]
    groups = [frozenset(one for one in used if kind[one] == at) for at in number.values()]
    asked = [(group, always) for group in groups for always in (False, True)]
    extra, notes = np.zeros(len(asked)), [set[int]() for _ in asked]
    for stretch in stretches.all:
        now = stretches.local(stretch, table.slots)
        which, barred = _bearing(stretch, kind[entry[stretch.span]], now)
        if not which:
            continue
        node = np.where(barred, np.inf, stretches.costs.node[stretch.span])
        least = best(stretch, stretches.costs)[0][0]
        cost, routes = best(*by_itself(stretch, stretches.costs, node))
        for at, value, route in zip(which, cost, routes.T, strict=True):
            extra[at] += value - least
            notes[at] |= {stretch.first + int(n) - 1 for n in np.flatnonzero(route != now)}
    made: dict[tuple[float, tuple[int, ...]], Habit] = {}
    for (group, always), more, touched in zip(asked, extra.tolist(), notes, strict=True):
        if touched and np.isfinite(more):
            habit = Habit(group, always, more, tuple(sorted(touched)))
            made.setdefault((round(more, 6), habit.notes), habit)
    return sorted(made.values(), key=lambda habit: (habit.extra, habit.notes))


@dataclass(frozen=True)
class Family:
    """What fingerings of the same build share, across notes.

    Parameters
    ----------
    kind : Kind
    apart : Fingering or None
        What sets them apart from the other fingerings of their notes; None for one that only lacks what the
        others hold, which has no kin.
    """

    kind: Kind
    apart: Fingering | None
    alone: str = ""


def families(chart: Catalogue) -> list[Family]:
    """The family of every entry of a chart.

    Parameters
    ----------
    chart : Catalogue

    Returns
    -------
    list of Family
    """
    return [_family(entry, chart.by_midi[entry.note.midi]) for entry in chart.entries]


def _family(entry: Entry, others: Sequence[Entry]) -> Family:
    held = [{(touch, one.fingering.held(touch)) for touch in one.fingering.touches} for one in others]
    common = set.intersection(*held)
    mine = {touch for touch in entry.fingering.touches if (touch, entry.fingering.held(touch)) not in common}
    fingering = entry.fingering
    apart = Fingering(fingering.full & mine, fingering.half & mine, fingering.momentary & mine)
    return Family(entry.kind, apart) if mine else Family(entry.kind, None, entry.id)


def _bearing(stretch: Stretch, kind: IntArray, now: IntArray) -> tuple[list[int], BoolArray]:
    """Habits that bar the route at a stretch, and which of its slots each bars, in columns.

    A note is left alone where a habit would leave it nothing. Habit 2n is never to use what is of kind n,
    habit 2n + 1 always to use it.
    """
    begins = np.array([at.start - stretch.span.start for at in stretch.node])
    row = np.repeat(np.arange(len(begins)), np.diff([*begins.tolist(), len(kind)]))
    which, columns = [], []
    for one in np.unique(kind).tolist():
        for always in (False, True):
            barred = (kind == one) ^ always
            barred &= ~np.logical_and.reduceat(barred, begins)[row]
            if barred[begins + now].any():
                which.append(2 * one + always)
                columns.append(barred)
    return which, np.stack(columns, axis=1) if columns else np.zeros((len(kind), 0), dtype=np.bool_)
