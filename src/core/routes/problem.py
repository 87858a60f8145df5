"""A passage as a problem: what is given, what a route can go through, and what each choice costs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
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
from core.routes.faults import (
    AVOIDED_BESIDE,
    Faults,
    Qualities,
    check_weights,
    missed,
    move_faults,
    note_faults,
    qualities,
)
from core.routes.timing import Timing, timing
from core.routes.trellis import Trellis
from core.routes.trills import Pair, faults_with, pairs, partner_of

# Moves between candidates that are weighed for one passage: bounds memory, and time to some seconds.
MOVES_LIMIT = 8_000_000


NOTHING_TRILLED: Mapping[int, list[Entry]] = MappingProxyType({})


@dataclass(frozen=True, eq=False)
class Given:
    """What a passage and an instrument give: alike at every tempo, however much the strands count.

    Parameters
    ----------
    chart : Catalogue
        The chart that the candidates are taken from.
    events : tuple of Event
        The notes as they are written, at the tempo that they were laid out for.
    offered : tuple of Offer
        What each of them may be played with.
    hand : Hand
        Whose hands.
    known : Qualities
        What is known of every entry of the chart that is a candidate.
    demands : Demands of arrays [shape=(n_moves,)]
        What every move of the trellis asks; of no meaning beside a gap.
    pairs : mapping of int to tuple of list of Pair
        For the slots of ornamented notes, for each other note every pair, the best first.
    ornamented : Faults of arrays [shape=(n_slots,)]
        What an ornament adds to the faults of each slot, with the best pair for it.
    """

    chart: Catalogue
    events: tuple[Event, ...]
    offered: tuple[Offer, ...]
    hand: Hand
    known: Qualities
    demands: Demands
    pairs: Mapping[int, tuple[list[Pair], ...]]
    ornamented: Faults


@dataclass(frozen=True, eq=False)
class Problem:
    """A passage with what each choice costs, at a tempo and with weights.

    Parameters
    ----------
    given : Given
        What the passage and the instrument give.
    trellis : Trellis
        What a route can go through.
    notes : Timing
        What of the notes bears on faults, at the tempo of the problem.
    weights : mapping of strand to number from 0 to 10
        How much each strand counts; 1 where none is given.
    faster : float
        How many times as fast as they are given the notes are played.
    by_note : Faults of arrays [shape=(n_slots,)]
        Unweighted faults that each slot has by itself; nothing at a gap.
    by_move : Faults of arrays [shape=(n_moves,)]
        Unweighted faults of every move; nothing beside a gap.
    node : np.ndarray [shape=(n_slots,)]
        The weighted sum of `by_note`, less the head start of each slot.
    move : np.ndarray [shape=(n_moves,)]
        The weighted sum of `by_move`, and `avoided`.
    same_way : np.ndarray [shape=(n_slots,)]
        Head starts for keeping to one way of a note, see `core.routes.one_way`.
    """

    given: Given
    trellis: Trellis
    notes: Timing
    weights: Mapping[str, float]
    faster: float
    by_note: Faults
    by_move: Faults
    node: FloatArray
    move: FloatArray
    same_way: FloatArray

    @property
    def head_start(self) -> FloatArray:
        """Expected faults that another slot must save before it is taken instead; (n_slots,)."""
        return self.trellis.head_start + self.same_way

    @cached_property
    def avoided(self) -> FloatArray:
        """What every move costs by a row to be avoided beside the other note: no fault; (n_moves,)."""
        row, gap = self.trellis.ends[0], self.trellis.gap
        return np.where(gap[row] | gap[row + 1], 0.0, AVOIDED_BESIDE * self.given.demands.avoided)

    def avoided_by(self, slots: IntArray) -> float:
        """What a route costs by rows that are to be avoided beside their neighbours.

        Parameters
        ----------
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.

        Returns
        -------
        float, faults
        """
        return float(self.avoided[self.trellis.cells(np.arange(len(slots) - 1), slots[:-1], slots[1:])].sum())

    def preferred(self, slots: IntArray) -> float:
        """Head starts that a route takes, less what it costs by `avoided`.

        Parameters
        ----------
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.

        Returns
        -------
        float, faults
        """
        return float(self.head_start[self.trellis.first[:-1] + slots].sum()) - self.avoided_by(slots)

    @cached_property
    def events(self) -> tuple[Event, ...]:
        """The notes at the tempo of the problem."""
        events = self.given.events
        return events if self.faster == 1 else tuple(event.quicker(self.faster) for event in events)

    def node_faults(self, slots: IntArray) -> Faults:
        """Unweighted faults of slots, one for each row; nothing at a gap.

        Parameters
        ----------
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.

        Returns
        -------
        Faults
        """
        return self.by_note[self.trellis.first[:-1] + slots]

    def move_faults(self, slots: IntArray) -> Faults:
        """Unweighted faults of the moves of a route, one into each row; nothing into the first.

        Parameters
        ----------
        slots : np.ndarray of int [shape=(n_notes + 2,)]
            A route, slots counted within their rows.

        Returns
        -------
        Faults
        """
        cells = self.trellis.cells(np.arange(len(slots) - 1), slots[:-1], slots[1:])
        return Faults(*(np.concatenate([[0.0], part]) for part in self.by_move[cells].parts))

    def faults_of_slots(self, slots: IntArray, known: Qualities, notes: Timing) -> Faults:
        """Unweighted faults that slots, by their places in the trellis, have by themselves; nothing at a gap.

        Parameters
        ----------
        slots : np.ndarray of int [shape=(n,)]
            Places in the trellis.
        known, notes : Qualities or Timing
            Their own, or such with a further axis: many draws of what is known, or many tempi.

        Returns
        -------
        Faults
        """
        return _of_slots(self.given, self.trellis, slots, known, notes)

    def faults_of_moves(self, cells: IntArray, known: Qualities, notes: Timing) -> Faults:
        """Unweighted faults of moves by their places in `move`; nothing beside a gap.

        Parameters
        ----------
        cells : np.ndarray of int [shape=(n,)]
        known : Qualities
        notes : Timing

        Returns
        -------
        Faults
        """
        return _of_moves(self.given, self.trellis, cells, known, notes)

    def weighing(self, weights: Mapping[str, float]) -> Problem:
        """The same with other weights; one that is out of range is a `RouteError`.

        Parameters
        ----------
        weights : mapping of str to float, 0 to 10
            How much each strand counts; 1 where none is given.

        Returns
        -------
        Problem

        Raises
        ------
        RouteError
            If a weight is out of range.
        """
        weights = check_weights(weights)
        node = self.by_note.weighted(weights).total - self.head_start
        return replace(
            self, weights=weights, node=node, move=self.by_move.weighted(weights).total + self.avoided
        )

    def quicker(self, factor: float) -> Problem:
        """The same notes so many times as fast; what they are offered is taken to stay.

        Parameters
        ----------
        factor : float, above 0
            So many times as fast.

        Returns
        -------
        Problem
        """
        (slots, again_slots), (cells, again_cells) = self._alike
        given, notes = self.given, self.notes.quicker(factor)
        by_note = _plain(given, self.trellis, slots, given.known, notes)[again_slots] + given.ornamented
        by_move = self.faults_of_moves(cells, given.known, notes)[again_cells]
        timed = replace(self, notes=notes, by_note=by_note, by_move=by_move, faster=self.faster * factor)
        return timed.weighing(self.weights)

    @cached_property
    def _alike(self) -> tuple[tuple[IntArray, IntArray], tuple[IntArray, IntArray]]:
        """Slots that stand for all, and moves: what is alike at one tempo is alike at all."""
        trellis, last = self.trellis, len(self.given.events) - 1
        row, before, after = trellis.ends
        cut, n = trellis.gap[:-1] | trellis.gap[1:], len(self.given.chart.entries)
        pairs = (trellis.rows[before] * n + trellis.rows[after]) * 2 + cut[row]
        at_slots = np.clip(trellis.slot_row - 1, 0, last)
        entries = trellis.rows * 2 + trellis.gap[trellis.slot_row]
        return _alike(at_slots, entries, self.notes), _alike(np.minimum(row, last), pairs, self.notes)


def _of_slots(given: Given, trellis: Trellis, slots: IntArray, known: Qualities, notes: Timing) -> Faults:
    """Unweighted faults that slots have by themselves, with their ornaments."""
    added = given.ornamented[slots]
    if notes.seconds.ndim > 1:
        added = Faults(*(part[:, None] for part in added.parts))
    return _plain(given, trellis, slots, known, notes) + added


def _plain(given: Given, trellis: Trellis, slots: IntArray, known: Qualities, notes: Timing) -> Faults:
    """The same without ornaments."""
    row = trellis.slot_row[slots]
    at, entry = np.clip(row - 1, 0, len(given.events) - 1), trellis.rows[slots]
    some, again = _alike(at, entry, notes) if notes.seconds.ndim > 1 else EVERY
    return note_faults(known, notes, at[some], entry[some])[again].where(~trellis.gap[row])


def _of_moves(given: Given, trellis: Trellis, cells: IntArray, known: Qualities, notes: Timing) -> Faults:
    """Unweighted faults of moves by their places among all."""
    row, slot_before, slot_after = (part[cells] for part in trellis.ends)
    at = np.minimum(row, len(given.events) - 1)
    before, after = trellis.rows[slot_before], trellis.rows[slot_after]
    pair = before * len(given.chart.entries) + after
    some, again = _alike(at, pair, notes) if notes.seconds.ndim > 1 else EVERY
    found = move_faults(known, notes, at[some], (before[some], after[some]), given.demands[cells][some])
    return found[again].where(~(trellis.gap[row] | trellis.gap[row + 1]))


def _costed(given: Given, trellis: Trellis, weights: Mapping[str, float]) -> Problem:
    """The problem, with the faults of every slot and move."""
    notes = _with_unmet(given, trellis, timing(given.events))
    by_note = _of_slots(given, trellis, np.arange(len(trellis.rows)), given.known, notes)
    cells = np.arange(trellis.n_moves)
    goes = [cells[begin : begin + AT_ONCE] for begin in range(0, len(cells), AT_ONCE)]
    parts = [_of_moves(given, trellis, go, given.known, notes).parts for go in goes]
    by_move = Faults(*(np.concatenate(part) for part in zip(*parts, strict=True)))
    nothing, none = np.zeros(0), np.zeros(len(trellis.rows))
    unweighted = Problem(given, trellis, notes, {}, 1.0, by_note, by_move, nothing, nothing, none)
    return unweighted.weighing(weights)


def _with_unmet(given: Given, trellis: Trellis, notes: Timing) -> Timing:
    """The notes with what of their aims no fingering at hand is known to meet."""
    if not notes.aim.any():
        return notes
    at = np.clip(trellis.slot_row - 1, 0, len(given.events) - 1)
    least = np.minimum.reduceat(missed(given.known, trellis.rows, notes.aim[at]), trellis.first[:-1])
    return replace(notes, unmet=np.where(trellis.gap[1:-1], 0.0, least[1:-1]))


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
    events : sequence of Event
    offered : sequence of Offer
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

    Returns
    -------
    Problem

    Raises
    ------
    RouteError
        If a weight is out of range, there is no note, or there are more moves than can be weighed.
    """
    if not events:
        raise RouteError("a route must have at least one note, got none")
    check_weights(weights or {})
    count = np.array([1, *(max(1, len(offer.candidates)) for offer in offered), 1], dtype=np.int64)
    first, first_move = _begins(count)
    gap = np.array([True, *(bool(offer.gap) for offer in offered), True], dtype=np.bool_)
    rows, usable, head_start = _slots(offered, moves.chart, count)
    usable[first[:-1][gap]] = True
    ends = _ends(first, first_move)
    trellis = Trellis(
        first=first,
        rows=rows,
        usable=usable,
        gap=gap,
        head_start=np.where(np.repeat(gap, count), 0.0, head_start),
        first_move=first_move,
        ends=ends,
    )
    qualities_of = _qualities(moves.chart.entries, known)
    found = _pairs(events, trellis, (trilled, pins), moves, qualities_of)
    given = Given(
        chart=moves.chart,
        events=tuple(events),
        offered=tuple(offered),
        hand=moves.hand,
        known=qualities_of,
        demands=_demands(moves, events, trellis),
        pairs=found,
        ornamented=_ornamented(events, trellis.slot_row, found),
    )
    return _costed(given, trellis, weights or {})


def _pairs(
    events: Sequence[Event],
    trellis: Trellis,
    partners: tuple[Mapping[int, list[Entry]], Mapping[str, str]],
    moves: Moves,
    known: Qualities,
) -> dict[int, tuple[list[Pair], ...]]:
    """Every pair for the slots of ornamented notes."""
    trilled, pins = partners
    found, kept = {}, dict[tuple[int, int], list[Pair]]()
    for n, event in enumerate(events):
        if event.ornament is None or trellis.gap[n + 1]:
            continue
        pinned, per_s = pins.get(partner_of(event.id)), event.ornament.per_s
        for slot in range(int(trellis.first[n + 1]), int(trellis.first[n + 2])):
            row = int(trellis.rows[slot])
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
    """Where the slots and the moves of every row begin, and where the last end."""
    sizes = count[:-1] * count[1:]
    if sizes.sum() > MOVES_LIMIT:
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


def _ends(first: IntArray, first_move: IntArray) -> tuple[IntArray, IntArray, IntArray]:
    """Row, and the slots before and after, of every move."""
    count = np.diff(first)
    row = np.repeat(np.arange(len(first_move) - 1), np.diff(first_move))
    within = np.arange(len(row)) - first_move[row]
    return row, first[row] + within // count[row + 1], first[row + 1] + within % count[row + 1]


def _demands(moves: Moves, events: Sequence[Event], trellis: Trellis) -> Demands:
    """What every move asks; of no meaning beside a gap."""
    midis = [0, *(event.written_pitch.midi for event in events), 0]
    asked, starts = moves.between(list(pairwise(midis)))
    if not len(asked.needed_s):  # no two notes together
        return NO_MOVE[np.zeros(trellis.n_moves, dtype=np.int64)]
    width = np.array([len(moves.rows.get(midi, ())) for midi in midis], dtype=np.int64)
    (row, before, after), rows, gap = trellis.ends, trellis.rows, trellis.gap
    cells = starts[row] + moves.position[rows[before]] * width[row + 1] + moves.position[rows[after]]
    return asked[np.where(gap[row] | gap[row + 1], 0, cells)]
