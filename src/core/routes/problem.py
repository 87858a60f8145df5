"""A passage laid out for its route: every candidate of every note, and every link between neighbours.

All of it lies in flat arrays, note after note, so that a note with two candidates takes two cells beside
one with two hundred. A gap, and one imagined note at either end of the passage, has a single slot that
costs nothing; so every stretch of the passage begins and ends with a note that leaves no choice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from functools import cached_property
from itertools import pairwise
from types import MappingProxyType
from typing import Any

import numpy as np
import numpy.typing as npt

from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.errors import RouteError
from core.evidence.weigh import Evidence
from core.instruments.hand import Hand
from core.music.events import Event
from core.routes.candidates import NOTHING_PINNED, Offer
from core.routes.demands import AT_ONCE, NO_MOVE, Demands, Moves
from core.routes.facility import BoolArray, FloatArray, IntArray
from core.routes.faults import Faults, Qualities, check_weights, link_faults, note_faults, qualities
from core.routes.timing import Timing, timing
from core.routes.trills import Pair, faults_with, pairs, partner_of

# Links between candidates that are weighed for one passage: bounds memory, and time to some seconds.
LINKS_LIMIT = 8_000_000


NOTHING_TRILLED: Mapping[int, list[Entry]] = MappingProxyType({})


@dataclass(frozen=True, eq=False)
class Problem:
    """A passage with what each choice costs. Note n of the passage is row n + 1 of these arrays.

    Parameters
    ----------
    written : tuple of Event
        The notes as they were when the problem was laid out; they are played so many times as fast.
    first : np.ndarray of int [shape=(n_notes + 3,)]
        Where the slots of each row begin, and where the last ends.
    rows : np.ndarray of int [shape=(n_slots,)]
        Entry of each slot, as a place among the chart's entries; 0 for a slot of a gap.
    usable : np.ndarray of bool [shape=(n_slots,)]
        Slots that a route may take.
    gap : np.ndarray of bool [shape=(n_notes + 2,)]
        Rows that cost nothing and cut the route in two.
    ornamented : Faults of arrays [shape=(n_slots,)]
        What of them its ornament adds, with the best pair for it.
    pairs : mapping of int to tuple of list of Pair
        For the slots of ornamented notes, for each other note every pair, the best first.
    by_note : Faults of arrays [shape=(n_slots,)]
        Unweighted faults that each slot has by itself; nothing at a gap.
    node : np.ndarray [shape=(n_slots,)]
        Their weighted sum, less the head start of each slot.
    first_link : np.ndarray of int [shape=(n_notes + 2,)]
        Where the links out of each row begin, and where the last end.
    ends : (np.ndarray, np.ndarray, np.ndarray) of int [shape=(n_links,)]
        Row, and the slots before and after, of every link: from each slot of a row to each of the next, row
        by row.
    by_link : Faults of arrays [shape=(n_links,)]
        Unweighted faults of every link; nothing beside a gap.
    link : np.ndarray [shape=(n_links,)]
        Their weighted sum.
    kept : dict
        What was found once and holds at every tempo; shared by the problems made from one.
    """

    chart: Catalogue
    written: tuple[Event, ...]
    offered: tuple[Offer, ...]
    weights: Mapping[str, float]
    first: IntArray
    rows: IntArray
    usable: BoolArray
    gap: BoolArray
    head_start: FloatArray
    first_link: IntArray
    ends: tuple[IntArray, IntArray, IntArray]
    known: Qualities
    demands: Demands
    notes: Timing
    ornamented: Faults
    pairs: Mapping[int, tuple[list[Pair], ...]]
    hand: Hand
    by_note: Faults = field(default_factory=Faults)
    by_link: Faults = field(default_factory=Faults)
    kept: dict[str, Any] = field(default_factory=dict)
    faster: float = 1.0
    node: FloatArray = field(default_factory=lambda: np.zeros(0))
    link: FloatArray = field(default_factory=lambda: np.zeros(0))

    @cached_property
    def events(self) -> tuple[Event, ...]:
        """The notes at the tempo of the problem."""
        return self.written if self.faster == 1 else tuple(e.quicker(self.faster) for e in self.written)

    @property
    def count(self) -> IntArray:
        """Slots of each row."""
        return np.diff(self.first)

    @cached_property
    def usable_slots(self) -> tuple[IntArray, IntArray]:
        """The slots that a route may take, and where those of each row begin among them, and the last end."""
        counts = np.add.reduceat(self.usable.astype(np.int64), self.first[:-1])
        return np.flatnonzero(self.usable), np.concatenate([[0], np.cumsum(counts)])

    @cached_property
    def slot_row(self) -> IntArray:
        """The row of every slot."""
        return np.repeat(np.arange(len(self.gap)), self.count)

    def links(self, row: IntArray, before: IntArray, after: IntArray) -> IntArray:
        """Places in `link` of the links out of rows, between slots counted within their rows."""
        return self.first_link[row] + before * self.count[row + 1] + after

    def node_faults(self, slots: IntArray) -> Faults:
        """Unweighted faults of slots, one for each row; nothing at a gap."""
        return self.by_note[self.first[:-1] + slots]

    def link_faults(self, slots: IntArray) -> Faults:
        """Unweighted faults of the links of a route, one into each row; nothing into the first."""
        cells = self.links(np.arange(len(slots) - 1), slots[:-1], slots[1:])
        return Faults(*(np.concatenate([[0.0], part]) for part in self.by_link[cells].parts))

    def faults_of_slots(self, slots: IntArray, known: Qualities, notes: Timing) -> Faults:
        """Unweighted faults that slots, by their places in `rows`, have by themselves; nothing at a gap.

        Parameters
        ----------
        known, notes
            Their own, or such with a further axis: many draws of what is known, or many tempi.
        """
        added = self.ornamented[slots]
        if notes.seconds.ndim > 1:
            added = Faults(*(part[:, None] for part in added.parts))
        return self._plain_faults(slots, known, notes) + added

    def _plain_faults(self, slots: IntArray, known: Qualities, notes: Timing) -> Faults:
        """The same without ornaments."""
        row = self.slot_row[slots]
        at, entry = np.clip(row - 1, 0, len(self.written) - 1), self.rows[slots]
        some, again = _alike(at, entry, notes) if notes.seconds.ndim > 1 else EVERY
        return note_faults(known, notes, at[some], entry[some])[again].where(~self.gap[row])

    def faults_of_links(self, cells: IntArray, known: Qualities, notes: Timing) -> Faults:
        """Unweighted faults of links by their places in `link`; nothing beside a gap."""
        row, slot_before, slot_after = (part[cells] for part in self.ends)
        at = np.minimum(row, len(self.written) - 1)
        before, after = self.rows[slot_before], self.rows[slot_after]
        pair = before * len(self.chart.entries) + after
        some, again = _alike(at, pair, notes) if notes.seconds.ndim > 1 else EVERY
        found = link_faults(known, notes, at[some], (before[some], after[some]), self.demands[cells][some])
        return found[again].where(~(self.gap[row] | self.gap[row + 1]))

    def weighing(self, weights: Mapping[str, float]) -> Problem:
        """The same with other weights; one that is out of range is a `RouteError`."""
        weights = check_weights(weights)
        node = self.by_note.weighted(weights).total - self.head_start
        return replace(self, weights=weights, node=node, link=self.by_link.weighted(weights).total)

    def quicker(self, factor: float) -> Problem:
        """The same notes so many times as fast; what they are offered is taken to stay.

        What is alike at one tempo is alike at all: it is found once, and worked out once.
        """
        if "alike" not in self.kept:
            row, before, after = self.ends
            last, n, cut = len(self.written) - 1, len(self.chart.entries), self.gap[:-1] | self.gap[1:]
            pairs = (self.rows[before] * n + self.rows[after]) * 2 + cut[row]
            at_slots = np.clip(self.slot_row - 1, 0, last)
            self.kept["alike"] = [
                _alike(at_slots, self.rows * 2 + self.gap[self.slot_row], self.notes),
                _alike(np.minimum(row, last), pairs, self.notes),
            ]
        (slots, again_slots), (cells, again_cells) = self.kept["alike"]
        notes = self.notes.quicker(factor)
        by_note = self._plain_faults(slots, self.known, notes)[again_slots] + self.ornamented
        by_link = self.faults_of_links(cells, self.known, notes)[again_cells]
        faster = self.faster * factor
        timed = replace(self, notes=notes, by_note=by_note, by_link=by_link, faster=faster)
        return timed.weighing(self.weights)

    def _costed(self) -> Problem:
        """With the faults of every slot and link."""
        by_note = self.faults_of_slots(np.arange(len(self.rows)), self.known, self.notes)
        cells = np.arange(len(self.ends[0]))
        goes = [cells[begin : begin + AT_ONCE] for begin in range(0, len(cells), AT_ONCE)]
        parts = [self.faults_of_links(go, self.known, self.notes).parts for go in goes]
        by_link = Faults(*(np.concatenate(part) for part in zip(*parts, strict=True)))
        return replace(self, by_note=by_note, by_link=by_link).weighing(self.weights)


EVERY = (slice(None), slice(None))


def _alike(at: IntArray, what: IntArray, notes: Timing) -> tuple[IntArray, IntArray]:
    """Of notes with something each, some that stand for all; and for each of all, which of these it is like.

    What has many columns is worked out once for all that are alike.
    """
    key = what * (int(notes.kind.max()) + 1) + notes.kind[at]
    _, some, again = np.unique(key, return_index=True, return_inverse=True)
    return some, again.ravel()


def make_problem(
    events: Sequence[Event],
    offered: Sequence[Offer],
    moves: Moves,
    known: Mapping[str, Evidence],
    weights: Mapping[str, float] | None = None,
    trilled: Mapping[int, list[Entry]] = NOTHING_TRILLED,
    pins: Mapping[str, str] = NOTHING_PINNED,
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
    trilled : mapping of semitone to list of Entry, optional
        Fingerings for the notes that ornaments go to; of these, too, something must be known.
    pins : mapping of name to entry id, optional
        Those of the other fingerings of trills, by `core.routes.trills.partner_of`, count here.

    Raises
    ------
    RouteError
        If a weight is out of range, there is no note, or there are more links than can be weighed.
    """
    if not events:
        raise RouteError("a route must have at least one note, got none")
    count = np.array([1, *(max(1, len(offer.candidates)) for offer in offered), 1], dtype=np.int64)
    first, first_link = _begins(count)
    gap = np.array([True, *(bool(offer.gap) for offer in offered), True], dtype=np.bool_)
    rows, usable, head_start = _slots(offered, moves.chart, count)
    usable[first[:-1][gap]] = True
    ends = _ends(first, first_link)
    qualities_of = _qualities(moves.chart.entries, known)
    found = _pairs(events, first, (rows, gap), (trilled, pins), moves, qualities_of)
    return Problem(
        chart=moves.chart,
        written=tuple(events),
        offered=tuple(offered),
        weights=check_weights(weights or {}),
        first=first,
        rows=rows,
        usable=usable,
        gap=gap,
        head_start=np.where(np.repeat(gap, count), 0.0, head_start),
        first_link=first_link,
        ends=ends,
        known=qualities_of,
        demands=_demands(moves, events, gap, rows, ends),
        notes=timing(events),
        ornamented=_ornamented(events, np.repeat(np.arange(len(count)), count), found),
        pairs=found,
        hand=moves.hand,
    )._costed()


def _pairs(
    events: Sequence[Event],
    first: IntArray,
    slots: tuple[IntArray, BoolArray],
    partners: tuple[Mapping[int, list[Entry]], Mapping[str, str]],
    moves: Moves,
    known: Qualities,
) -> dict[int, tuple[list[Pair], ...]]:
    """Every pair for the slots of ornamented notes; `slots` are the entry of each, and the gaps."""
    (rows, gap), (trilled, pins) = slots, partners
    found, kept = {}, dict[tuple[int, int], list[Pair]]()
    for n, event in enumerate(events):
        if event.ornament is None or gap[n + 1]:
            continue
        pinned, per_s = pins.get(partner_of(event.id)), event.ornament.per_s
        for slot in range(int(first[n + 1]), int(first[n + 2])):
            row = int(rows[slot])
            for pitch in event.ornament.others:
                if (row, pitch.midi) not in kept:
                    entry, offered = moves.chart.entries[row], trilled.get(pitch.midi, [])
                    kept[row, pitch.midi] = pairs(entry, offered, moves, known, per_s)
            ways = (kept[row, pitch.midi] for pitch in event.ornament.others)
            found[slot] = tuple(sorted(way, key=lambda pair: pair.other.id != pinned) for way in ways)
    return found


def _ornamented(
    events: Sequence[Event], slot_row: IntArray, found: Mapping[int, tuple[list[Pair], ...]]
) -> Faults:
    """What ornaments add to every slot."""
    added = Faults(*(np.zeros(len(slot_row)) for _ in range(4)))
    for slot, some in found.items():
        ornament = events[int(slot_row[slot]) - 1].ornament
        if ornament is not None:
            for part, value in zip(added.parts, faults_with(ornament, some).parts, strict=True):
                part[slot] = value
    return added


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


def _ends(first: IntArray, first_link: IntArray) -> tuple[IntArray, IntArray, IntArray]:
    """Row, and the slots before and after, of every link."""
    count = np.diff(first)
    row = np.repeat(np.arange(len(first_link) - 1), np.diff(first_link))
    within = np.arange(len(row)) - first_link[row]
    return row, first[row] + within // count[row + 1], first[row + 1] + within % count[row + 1]


def _demands(
    moves: Moves,
    events: Sequence[Event],
    gap: BoolArray,
    rows: IntArray,
    ends: tuple[IntArray, IntArray, IntArray],
) -> Demands:
    """What every link asks; of no meaning beside a gap."""
    midis = [0, *(event.written_pitch.midi for event in events), 0]
    asked, starts = moves.between(list(pairwise(midis)))
    if not len(asked.needed_s):  # no two notes together
        return NO_MOVE[np.zeros(len(ends[0]), dtype=np.int64)]
    width = np.array([len(moves.rows.get(midi, ())) for midi in midis], dtype=np.int64)
    row, before, after = ends
    cells = starts[row] + moves.position[rows[before]] * width[row + 1] + moves.position[rows[after]]
    return asked[np.where(gap[row] | gap[row + 1], 0, cells)]
