"""The trellis of a passage: every candidate of every note as a slot, and every move between neighbours.

All of it lies in flat arrays, note after note, so that a note with two candidates takes two cells beside
one with two hundred. A gap, and one imagined note at either end of the passage, has a single slot that
costs nothing; so every stretch of the passage begins and ends with a note that leaves no choice.

References
----------
Forney (1973), The Viterbi algorithm, Proceedings of the IEEE 61. (The graph of states in a row of steps.)
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from core.routes.facility import BoolArray, FloatArray, IntArray

# Stretches in which a note has more candidates than this are swept apart from the others, so that the
# others are not padded to its width.
NARROW = 16


@dataclass(frozen=True, eq=False)
class Trellis:
    """What a route can go through. Note n of the passage is row n + 1.

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
    head_start : np.ndarray [shape=(n_slots,)]
        Expected faults that another slot must save before it is taken instead; 0 at a gap.
    first_move : np.ndarray of int [shape=(n_notes + 2,)]
        Where the moves out of each row begin, and where the last end.
    ends : (np.ndarray, np.ndarray, np.ndarray) of int [shape=(n_moves,)]
        Row, and the slots before and after, of every move: from each slot of a row to each of the next, row
        by row.
    """

    first: IntArray
    rows: IntArray
    usable: BoolArray
    gap: BoolArray
    head_start: FloatArray
    first_move: IntArray
    ends: tuple[IntArray, IntArray, IntArray]

    @property
    def count(self) -> IntArray:
        """Slots of each row."""
        return np.diff(self.first)

    @property
    def n_moves(self) -> int:
        """How many moves there are."""
        return len(self.ends[0])

    @cached_property
    def usable_slots(self) -> tuple[IntArray, IntArray]:
        """The slots that a route may take, and where those of each row begin among them, and the last end."""
        counts = np.add.reduceat(self.usable.astype(np.int64), self.first[:-1])
        return np.flatnonzero(self.usable), np.concatenate([[0], np.cumsum(counts)])

    @cached_property
    def slot_row(self) -> IntArray:
        """The row of every slot."""
        return np.repeat(np.arange(len(self.gap)), self.count)

    @cached_property
    def anchors(self) -> IntArray:
        """Rows that leave no choice, in order; the first and the last row are two of them."""
        return np.flatnonzero(np.diff(self.usable_slots[1]) == 1)

    @cached_property
    def layout(self) -> list[SweptTogether]:
        """How all of it is swept."""
        return lay_out(self, self.anchors)

    def cells(self, row: IntArray, before: IntArray, after: IntArray) -> IntArray:
        """Places in the arrays of moves of those out of rows, between slots counted within their rows.

        Parameters
        ----------
        row : np.ndarray of int [shape=(n,)]
            The rows that the moves lead out of.
        before : np.ndarray of int [shape=(n,)]
            Slots of these rows, from 0.
        after : np.ndarray of int [shape=(n,)]
            Slots of the rows after them, from 0.

        Returns
        -------
        np.ndarray of int [shape=(n,)]
        """
        return self.first_move[row] + before * self.count[row + 1] + after


class Group(NamedTuple):
    """Rows that are one after the other equally far into their stretches, padded to the widest of them.

    Parameters
    ----------
    inside : list of int
        Where each step begins among the rows, and where the last ends.
    slots : np.ndarray of int [shape=(n_rows, width)]
        Places of the slots in the trellis; one past the last where there is none.
    cells : np.ndarray of int [shape=(n_rows, width_before, width)]
        Places of the moves into them; one past the last where there is none. Of no meaning in the first step.
    """

    inside: list[int]
    slots: IntArray
    cells: IntArray


class SweptTogether(NamedTuple):
    """Stretches swept together.

    Parameters
    ----------
    rows : np.ndarray of int [shape=(n_rows,)]
        Their rows, step by step.
    cuts : list of int
        Where each step begins, and the last ends, among the rows and those of their mirror images.
    groups : list of Group
        Steps that are gathered together.
    """

    rows: IntArray
    cuts: list[int]
    groups: list[Group]


def lay_out(trellis: Trellis, anchors: IntArray) -> list[SweptTogether]:
    """What is swept together between anchors: narrow stretches apart from wide ones, the longest first.

    It depends on nothing but which slots a route may take, so it holds at all tempi and weights.

    Parameters
    ----------
    trellis : Trellis
    anchors : np.ndarray of int [shape=(n_anchors,)]
        Rows that leave no choice, rising.

    Returns
    -------
    list of SweptTogether
    """
    begin, length = anchors[:-1], np.diff(anchors)
    count = np.diff(trellis.usable_slots[1])[: anchors[-1] + 1]
    widest = np.maximum(np.maximum.reduceat(count, begin), count[anchors[1:]])
    apart = []
    for some in (widest <= NARROW, widest > NARROW):
        if some.any():
            order = np.argsort(-length[some], kind="stable")
            rows, back, cuts = _in_step(begin[some][order], length[some][order])
            apart.append(SweptTogether(rows[::2], cuts, _groups(trellis, rows, back, cuts)))
    return apart


def _in_step(begin: IntArray, length: IntArray) -> tuple[IntArray, BoolArray, list[int]]:
    """The rows of stretches, and of their mirror images, by how far they are in.

    Returns
    -------
    rows : np.ndarray of int
        In every step a row of each stretch that reaches so far, followed by that of its mirror image.
    back : np.ndarray of bool
        Which are of mirror images: every other one.
    cuts : list of int
        Where each step begins among them, and where the last ends.
    """
    far = np.arange(int(length[0]) + 1)
    counts = 2 * np.searchsorted(-length, -far, side="right")
    cuts = np.concatenate([[0], np.cumsum(counts)])
    place = np.arange(cuts[-1]) - np.repeat(cuts[:-1], counts)
    stretch, back, into = place // 2, place % 2 == 1, np.repeat(far, counts)
    return np.where(back, (begin + length)[stretch] - into, begin[stretch] + into), back, cuts.tolist()


def _groups(trellis: Trellis, rows: IntArray, back: BoolArray, cuts: list[int]) -> list[Group]:
    """Steps that are gathered together: all of them where they are narrow."""
    count = np.diff(trellis.usable_slots[1])
    width = int(count[rows].max())
    if width <= NARROW:
        return [Group(cuts, *_gathered(trellis, rows, back, width, width))]
    found, width = [], 1
    for a, b in pairwise(cuts):
        wide = int(count[rows[a:b]].max())
        found.append(Group([0, b - a], *_gathered(trellis, rows[a:b], back[a:b], width, wide)))
        width = wide
    return found


def _gathered(
    trellis: Trellis, rows: IntArray, back: BoolArray, width_before: int, width: int
) -> tuple[IntArray, IntArray]:
    """Usable slots of rows, and moves into them from the row before, or back from the row after; padded."""
    before = np.clip(np.where(back, rows + 1, rows - 1), 0, len(trellis.gap) - 1)
    slots, slots_before = usable_of(trellis, rows, width), usable_of(trellis, before, width_before)
    real, real_before = slots < len(trellis.rows), slots_before < len(trellis.rows)
    cells = cells_between(trellis, (before, slots_before[:, :, None]), (rows, slots[:, None, :]), back)
    return slots, np.where(real_before[:, :, None] & real[:, None, :], cells, trellis.n_moves)


def usable_of(trellis: Trellis, rows: IntArray, width: int) -> IntArray:
    """Usable slots of rows; one past the last of all where a row has no more.

    Parameters
    ----------
    trellis : Trellis
    rows : np.ndarray of int [shape=(n,)]
    width : int, from 1

    Returns
    -------
    np.ndarray of int [shape=(n, width)]
    """
    usable, first = trellis.usable_slots
    at = first[rows][:, None] + np.arange(width)
    return np.where(at < first[rows + 1][:, None], usable[np.minimum(at, len(usable) - 1)], len(trellis.rows))


def cells_between(
    trellis: Trellis, before: tuple[IntArray, IntArray], after: tuple[IntArray, IntArray], back: BoolArray
) -> IntArray:
    """Places of the moves between slots of rows that stand beside each other; `back` is from later rows.

    Parameters
    ----------
    trellis : Trellis
    before : (np.ndarray of int [shape=(n,)], np.ndarray of int [shape=(n, width_before, 1)])
        Rows, and slots of each.
    after : (np.ndarray of int [shape=(n,)], np.ndarray of int [shape=(n, 1, width)])
        Rows, and slots of each.
    back : np.ndarray of bool [shape=(n,)]

    Returns
    -------
    np.ndarray of int [shape=(n, width_before, width)]
    """
    count, first = trellis.count, trellis.first
    (from_row, from_slot), (to_row, to_slot) = before, after
    where, to = from_slot - first[from_row][:, None, None], to_slot - first[to_row][:, None, None]
    # A move lies with its earlier row, whose slots vary slowest.
    slow = np.where(back, 1, count[to_row])[:, None, None] * where
    fast = np.where(back, count[from_row], 1)[:, None, None] * to
    cells = trellis.first_move[np.minimum(from_row, to_row)][:, None, None] + slow + fast
    return np.asarray(np.clip(cells, 0, trellis.n_moves - 1))  # the first rows have nothing before them
