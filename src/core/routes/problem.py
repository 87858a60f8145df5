"""A passage laid out for its route: every candidate of every note, and every link between neighbours.

All of it lies in flat arrays, note after note, so that a note with two candidates takes two cells beside
one with two hundred. A gap, and one imagined note at either end of the passage, has a single slot that
costs nothing; so every stretch of the passage begins and ends with a note that leaves no choice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from itertools import pairwise
from typing import Any

import numpy as np
import numpy.typing as npt

from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.errors import RouteError
from core.evidence.weigh import Evidence
from core.music.events import Event
from core.routes.candidates import Offer
from core.routes.demands import AT_ONCE, Demands, Moves
from core.routes.facility import BoolArray, FloatArray, IntArray
from core.routes.faults import Faults, Qualities, check_weights, link_faults, note_faults, qualities
from core.routes.timing import Timing, timing

# Links between candidates that are weighed for one passage: bounds memory, and time to some seconds.
LINKS_LIMIT = 20_000_000


@dataclass(frozen=True)
class Problem:
    """A passage with what each choice costs. Note n of the passage is row n + 1 of these arrays.

    Parameters
    ----------
    first : np.ndarray of int [shape=(n_notes + 3,)]
        Where the slots of each row begin, and where the last ends.
    rows : np.ndarray of int [shape=(n_slots,)]
        Entry of each slot, as a place among the chart's entries; 0 for a slot of a gap.
    usable : np.ndarray of bool [shape=(n_slots,)]
        Slots that a route may take.
    gap : np.ndarray of bool [shape=(n_notes + 2,)]
        Rows that cost nothing and cut the route in two.
    node : np.ndarray [shape=(n_slots,)]
        Weighted faults of each slot, less its head start.
    first_link : np.ndarray of int [shape=(n_notes + 2,)]
        Where the links out of each row begin, and where the last end.
    link : np.ndarray [shape=(n_links,)]
        Weighted faults of every link, from each slot of a row to each of the next, row by row.
    """

    chart: Catalogue
    events: tuple[Event, ...]
    offered: tuple[Offer, ...]
    weights: Mapping[str, float]
    first: IntArray
    rows: IntArray
    usable: BoolArray
    gap: BoolArray
    node: FloatArray
    head_start: FloatArray
    first_link: IntArray
    link: FloatArray
    known: Qualities
    notes: Timing
    demands: Demands

    @property
    def count(self) -> IntArray:
        """Slots of each row."""
        return np.diff(self.first)

    def links(self, row: IntArray, before: IntArray, after: IntArray) -> IntArray:
        """Places in `link` of the links out of rows, between slots counted within their rows."""
        return self.first_link[row] + before * self.count[row + 1] + after

    def node_faults(self, slots: IntArray) -> Faults:
        """Unweighted faults of slots, one for each row; nothing at a gap."""
        row = np.arange(len(slots))
        real = ~self.gap
        found = note_faults(
            self.known, self.notes, np.maximum(row - 1, 0)[real], self.rows[self.first[:-1] + slots][real]
        )
        return _spread(found, real)

    def link_faults(self, slots: IntArray) -> Faults:
        """Unweighted faults of the links of a route, one into each row; nothing into the first."""
        row = np.arange(len(slots) - 1)
        real = ~(self.gap[:-1] | self.gap[1:])
        entry = self.rows[self.first[:-1] + slots]
        cells = self.links(row, slots[:-1], slots[1:])[real]
        found = link_faults(
            self.known, self.notes, row[real], (entry[:-1][real], entry[1:][real]), self.demands[cells]
        )
        return _spread(found, np.concatenate([[False], real]))


def _spread(found: Faults, real: BoolArray) -> Faults:
    """Put values back in their rows, nothing in the others."""

    def whole(values: FloatArray) -> FloatArray:
        spread = np.zeros(len(real))
        spread[real] = values
        return spread

    return Faults(*(whole(values) for values in (found.pitch, found.tone, found.speaks, found.hands)))


def make_problem(
    events: Sequence[Event],
    offered: Sequence[Offer],
    moves: Moves,
    known: Mapping[str, Evidence],
    weights: Mapping[str, float] | None = None,
) -> Problem:
    """Lay out candidates and costs for a passage.

    Parameters
    ----------
    moves : Moves
        Of the chart that the candidates are taken from.
    known : mapping of entry id to Evidence
        What is known of every candidate.
    weights : mapping of strand to number from 0 to 10, optional
        Default 1 each.

    Raises
    ------
    RouteError
        If a weight is out of range, there is no note, or there are more links than can be weighed.
    """
    weights = check_weights(weights or {})
    if not events:
        raise RouteError("a route must have at least one note, got none")
    count = np.array([1, *(max(1, len(offer.candidates)) for offer in offered), 1], dtype=np.int64)
    first, first_link = _begins(count)
    gap = np.array([True, *(bool(offer.gap) for offer in offered), True], dtype=np.bool_)
    rows, usable, head_start = _slots(offered, moves.chart, count)
    row = np.repeat(np.arange(len(count)), count)
    usable[first[:-1][gap]] = True
    qualities_of, notes = _qualities(moves.chart.entries, known), timing(events)
    node = note_faults(qualities_of, notes, np.clip(row - 1, 0, len(events) - 1), rows)
    cost = np.where(gap[row], 0.0, node.weighted(weights).total - head_start)
    asked, link = _links(moves, events, (first, first_link, rows), gap, qualities_of, notes, weights)
    return Problem(
        chart=moves.chart,
        events=tuple(events),
        offered=tuple(offered),
        weights=weights,
        first=first,
        rows=rows,
        usable=usable,
        gap=gap,
        node=cost,
        head_start=head_start,
        first_link=first_link,
        link=link,
        known=qualities_of,
        notes=notes,
        demands=asked,
    )


def _begins(count: IntArray) -> tuple[IntArray, IntArray]:
    """Where the slots and the links of every row begin, and where the last end."""
    sizes = count[:-1] * count[1:]
    if sizes.sum() > LINKS_LIMIT:
        raise RouteError(
            "the notes of this passage have too many fingerings to be weighed together; hide some of your "
            "own, or bring in a shorter part"
        )
    return np.concatenate([[0], np.cumsum(count)]), np.concatenate([[0], np.cumsum(sizes)])


def _slots(
    offered: Sequence[Offer], chart: Catalogue, count: IntArray
) -> tuple[IntArray, BoolArray, FloatArray]:
    """Entry, whether a route may take it, and head start of every slot; nothing for the imagined ones."""
    filled = [False, *(bool(offer.candidates) for offer in offered), False]
    real = np.repeat(np.array(filled, dtype=np.bool_), count)
    rows, usable = np.zeros(len(real), dtype=np.int64), np.zeros(len(real), dtype=np.bool_)
    head_start = np.zeros(len(real))
    flat = [candidate for offer in offered for candidate in offer.candidates]
    rows[real] = [chart.index[candidate.entry.id] for candidate in flat]
    usable[real] = [not candidate.bar for candidate in flat]
    head_start[real] = [candidate.head_start for candidate in flat]
    return rows, usable, head_start


def _qualities(entries: Sequence[Entry], known: Mapping[str, Evidence]) -> Qualities:
    """Arrays as long as the chart, filled for the entries that something is known of."""
    used = np.array([n for n, entry in enumerate(entries) if entry.id in known], dtype=np.int64)
    whole = qualities([entries[row] for row in used], [known[entries[row].id] for row in used])

    def spread(values: npt.NDArray[Any]) -> npt.NDArray[Any]:
        found = np.ones((len(entries), *values.shape[1:]), dtype=values.dtype)
        found[used] = values
        return found

    return Qualities(*(spread(values) for values in (getattr(whole, part.name) for part in fields(whole))))


def _links(
    moves: Moves,
    events: Sequence[Event],
    places: tuple[IntArray, IntArray, IntArray],
    gap: BoolArray,
    known: Qualities,
    notes: Timing,
    weights: Mapping[str, float],
) -> tuple[Demands, FloatArray]:
    """Every link: what it asks, and what it costs; worked out in goes of a bounded size.

    `places` is first, first_link and rows of the `Problem`.
    """
    first, first_link, rows = places
    count, n_links = np.diff(first), int(first_link[-1])
    midis = [0, *(event.written_pitch.midi for event in events), 0]
    asked, starts = moves.between(list(pairwise(midis)))
    width = np.array([len(moves.rows.get(midi, ())) for midi in midis], dtype=np.int64)
    cost, cells = np.zeros(n_links), np.zeros(n_links, dtype=np.int64)
    cut = gap[:-1] | gap[1:]
    begin = 0
    while begin < len(cut):
        end = int(np.searchsorted(first_link, first_link[begin] + AT_ONCE, side="right")) - 1
        end = max(end, begin + 1)
        here = slice(int(first_link[begin]), int(first_link[end]))
        row = np.repeat(np.arange(begin, end), np.diff(first_link[begin : end + 1]))
        within = np.arange(here.start, here.stop) - first_link[row]
        before = rows[first[row] + within // count[row + 1]]
        after = rows[first[row + 1] + within % count[row + 1]]
        real = ~cut[row]
        row, before, after = row[real], before[real], after[real]
        cell = starts[row] + moves.position[before] * width[row + 1] + moves.position[after]
        cells[here][real] = cell
        found = link_faults(known, notes, row, (before, after), asked[cell])
        cost[here][real] = found.weighted(weights).total
        begin = end
    return asked[cells] if len(asked.needed_s) else asked, cost
