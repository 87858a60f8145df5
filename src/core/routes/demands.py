"""What moves between the fingerings of a chart ask of the hands: worked out where they occur, and kept."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any

import numpy as np

from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.charts.uses import avoided_beside
from core.instruments.actions import Grips, finger_actions, grips
from core.instruments.fingering import Fingering
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.instrument import Instrument
from core.routes.facility import (
    BoolArray,
    FloatArray,
    IntArray,
    chance_missed,
    jumps,
    move_effects,
    stumble_risk,
    time_again_s,
    time_needed_s,
)

# Pairs of fingerings looked at in one go: bounds what the arrays of one go take.
AT_ONCE = 40_000
# How much of another hand shape it is to set a hand down, or take it up, for notes that it alters little.
UNSETTLED = 0.25
# Of moves that fingers miss, how many are heard where the tongue begins the note.
HIDDEN_BY_TONGUE = 0.5
# The same touches do not sound two notes so few semitones apart, though leads may name them for both.
ONE_OR_OTHER = 2
OCTAVE = 12


@dataclass(frozen=True)
class Demands:
    """What each of many moves asks; all arrays of one shape.

    Parameters
    ----------
    needed_s : np.ndarray [shape=(n_moves,)], seconds
        Time that the move needs.
    again_s : np.ndarray [shape=(n_moves,)], seconds
        Time that it needs where it is repeated to and fro, the hands being there already.
    missed : np.ndarray [shape=(n_moves,)], 0 to 1
        Chance that fingers do not cover or do not come together, at any tempo.
    crosses : np.ndarray of bool [shape=(n_moves,)]
        The move goes to another partial, or one of the two is not settled.
    jumps, contrary : np.ndarray of bool [shape=(n_moves,)]
        A finger of the stack, or a thumb, jumps from one touch to another; fingers of one hand move
        against each other.
    reshapes : np.ndarray [shape=(n_moves,)], 0 to 1
        How far the hands go over to another shape: 1 from one form of fingering to another, as from front
        to palm.
    unprepared : np.ndarray of bool [shape=(n_moves,)]
        The move leads to a fingering that is good only when coming from certain others, and not from
        one of those; or to the same touches for a note close by, which one of the two is not.
    avoided : np.ndarray of bool [shape=(n_moves,)]
        The row of one of the two says that it is to be avoided beside the other note.
    """

    needed_s: FloatArray
    again_s: FloatArray
    missed: FloatArray
    crosses: BoolArray
    jumps: BoolArray
    contrary: BoolArray
    reshapes: FloatArray
    unprepared: BoolArray
    avoided: BoolArray

    def __getitem__(self, index: Any) -> Demands:
        return Demands(*(getattr(self, part.name)[index] for part in fields(self)))

    @property
    def in_columns(self) -> Demands:
        """The same with a second axis of length one."""
        return self[:, None]


_NO = np.zeros(1, dtype=np.bool_)
NO_MOVE = Demands(np.zeros(1), np.zeros(1), np.zeros(1), _NO, _NO, _NO, np.zeros(1), _NO, _NO)


def joined(parts: Iterable[Demands]) -> Demands:
    """Several one after the other; at least one.

    Parameters
    ----------
    parts : iterable of Demands

    Returns
    -------
    Demands
    """
    listed = list(parts)
    columns = ([getattr(part, field.name) for part in listed] for field in fields(Demands))
    return Demands(*(np.concatenate(column) for column in columns))


class Moves:
    """The moves between the fingerings of a chart, for every pair of notes that was asked for.

    Parameters
    ----------
    chart : Catalogue
    hand : Hand
        Whose hands.
    """

    def __init__(self, chart: Catalogue, hand: Hand = ANY_HAND) -> None:
        self.chart, self.hand = chart, hand
        self._kept: dict[tuple[int, int], Demands] = {}

    @cached_property
    def rows(self) -> dict[int, IntArray]:
        """For each semitone the places of its fingerings in the chart, in its order."""
        index = self.chart.index
        return {
            midi: np.array([index[entry.id] for entry in entries], dtype=np.int64)
            for midi, entries in self.chart.by_midi.items()
        }

    @cached_property
    def position(self) -> IntArray:
        """Where each entry stands among those of its note."""
        found = np.zeros(len(self.chart.entries), dtype=np.int64)
        for rows in self.rows.values():
            found[rows] = np.arange(len(rows))
        return found

    @cached_property
    def _touches(self) -> tuple[IntArray, IntArray]:
        """For each entry a number that the same touches share, and its note's semitone."""
        numbers: dict[Fingering, int] = {}
        entries = self.chart.entries
        kind = [numbers.setdefault(entry.fingering, len(numbers)) for entry in entries]
        return np.array(kind, dtype=np.int64), np.array([e.note.midi for e in entries], dtype=np.int64)

    @cached_property
    def _avoids(self) -> BoolArray:
        """For each entry the semitones beside which its row is to be avoided; (n_entries, 128)."""
        found = np.zeros((len(self.chart.entries), 128), dtype=np.bool_)
        lowest = self.chart.instrument.written_low.midi
        for row, entry in enumerate(self.chart.entries):
            for name, low in avoided_beside(entry.avoid_when):
                first = lowest + (name - lowest) % OCTAVE
                around = range(entry.note.midi - OCTAVE, entry.note.midi + OCTAVE + 1)
                named = [first] if low else [midi for midi in around if midi % OCTAVE == name]
                found[row, [midi for midi in named if 0 <= midi < 128]] = True
        return found

    @cached_property
    def _forms(self) -> IntArray:
        """For each entry a number that the same form shares; 0 where forms are not told apart."""
        numbers = {"": 0}
        forms = [numbers.setdefault(entry.form, len(numbers)) for entry in self.chart.entries]
        return np.array(forms, dtype=np.int64)

    @cached_property
    def _settled(self) -> tuple[IntArray, BoolArray]:
        """The register of each entry, and which hands, the left and the right, hold what stays in it."""
        instrument, entries = self.chart.instrument, self.chart.entries
        registers = [instrument.register_of(entry.note) for entry in entries]
        place = [instrument.registers.index(register) for register in registers]
        hand_of = {t.name: instrument.finger(t.finger).hand for t in instrument.touches}
        holding = [
            {hand_of[touch] for touch in entry.fingering.touches.intersection(register.stays)}
            for entry, register in zip(entries, registers, strict=True)
        ]
        down = [[hand in hands for hand in ("left", "right")] for hands in holding]
        return np.array(place, dtype=np.int64), np.array(down, dtype=np.bool_).reshape(-1, 2)

    @cached_property
    def _grips(self) -> Grips:
        return entry_grips(self.chart, self.chart.entries)

    def between(self, pairs: Sequence[tuple[int, int]]) -> tuple[Demands, IntArray]:
        """The moves from every fingering of one note to every one of another.

        Parameters
        ----------
        pairs : sequence of (int, int)
            Semitones of the first and the second note; at least one pair. A note that the chart does
            not have has no moves.

        Returns
        -------
        Demands
            Of all pairs, one after the other, each row by row.
        starts : np.ndarray of int [shape=(n_pairs,)]
            Where each pair begins.
        """
        new = [pair for pair in dict.fromkeys(pairs) if pair not in self._kept]
        if new:
            self._kept |= dict(zip(new, self._worked_out(new), strict=True))
        found = [self._kept[pair] for pair in pairs]
        sizes = [len(part.needed_s) for part in found]
        return joined(found), np.cumsum([0, *sizes[:-1]], dtype=np.int64)

    def _worked_out(self, pairs: Sequence[tuple[int, int]]) -> list[Demands]:
        none = np.zeros(0, dtype=np.int64)
        sides = [(self.rows.get(before, none), self.rows.get(after, none)) for before, after in pairs]
        before = np.concatenate([np.repeat(rows, len(others)) for rows, others in sides])
        after = np.concatenate([np.tile(others, len(rows)) for rows, others in sides])
        goes = [slice(start, start + AT_ONCE) for start in range(0, max(1, len(before)), AT_ONCE)]
        whole = joined(self._asked(before[go], after[go]) for go in goes)
        ends = np.cumsum([len(rows) * len(others) for rows, others in sides])
        return [
            whole[slice(end - size, end)] for end, size in zip(ends, np.diff(ends, prepend=0), strict=True)
        ]

    def _asked(self, before: IntArray, after: IntArray) -> Demands:
        entries = self.chart.entries
        found = demands(self.chart.instrument, self._grips[before], self._grips[after], self.hand)
        for place, entry in enumerate(entries):
            if entry.only_from:
                leads = np.flatnonzero(after == place)
                prepared = [entry.only_from <= entries[row].fingering.touches for row in before[leads]]
                found.unprepared[leads] = ~np.array(prepared, dtype=np.bool_)
        form, (register, down) = self._forms, self._settled
        other_form = (form[before] != form[after]) & (form[before] > 0) & (form[after] > 0)
        unsettled = (register[before] == register[after]) * (down[before] != down[after]).sum(axis=-1)
        found.reshapes[:] = np.where(other_form, 1.0, UNSETTLED * unsettled)
        kind, midi = self._touches
        apart = np.abs(midi[before] - midi[after])
        # the same touches for notes a half or whole step apart: one of the two is not what they sound
        found.unprepared[:] |= (kind[before] == kind[after]) & (apart > 0) & (apart <= ONE_OR_OTHER)
        found.avoided[:] = self._avoids[before, midi[after]] | self._avoids[after, midi[before]]
        return found


def entry_grips(chart: Catalogue, entries: Sequence[Entry]) -> Grips:
    """Entries as arrays.

    Parameters
    ----------
    chart : Catalogue
    entries : sequence of Entry

    Returns
    -------
    Grips
    """
    fingerings: list[Fingering] = [entry.fingering for entry in entries]
    partials, notes = [entry.partial for entry in entries], [entry.note for entry in entries]
    return grips(chart.instrument, fingerings, partials, notes)


def demands(instrument: Instrument, before: Grips, after: Grips, hand: Hand = ANY_HAND) -> Demands:
    """What moves ask, aligned or broadcast; none of them unprepared, none to another hand shape.

    Parameters
    ----------
    instrument : Instrument
    before, after : Grips
    hand : Hand

    Returns
    -------
    Demands
    """
    did = finger_actions(instrument, before, after)
    effects = move_effects(instrument, before, after, hand, did)
    needed_s = time_needed_s(effects)
    return Demands(
        needed_s=needed_s,
        again_s=time_again_s(effects, did, instrument, hand),
        missed=chance_missed(instrument, before, after, hand, did),
        crosses=effects["partial"] > 0,
        jumps=jumps(instrument, before, after),
        contrary=(effects["contrary"] > 0) | (effects["against"] > 0),
        reshapes=np.zeros(needed_s.shape),
        unprepared=np.zeros(needed_s.shape, dtype=np.bool_),
        avoided=np.zeros(needed_s.shape, dtype=np.bool_),
    )


def stumbles(
    asked: Demands,
    available_s: FloatArray | float,
    factor: FloatArray | float = 1.0,
    *,
    tongued: BoolArray | bool = False,
) -> FloatArray:
    """Chance that moves fail: that they take more time than there is, or that fingers miss.

    Parameters
    ----------
    asked : Demands
    available_s : np.ndarray [shape=(...,)] or float, seconds
    factor : np.ndarray [shape=(...,)] or float
        By which the hands take longer.
    tongued : np.ndarray of bool [shape=(...,)] or bool
        Whether the tongue begins the second note, which hides what does not come together.

    Returns
    -------
    np.ndarray [shape=(...,)], 0 to 1
    """
    missed = asked.missed * np.where(tongued, HIDDEN_BY_TONGUE, 1.0)
    return np.asarray(1 - (1 - stumble_risk(asked.needed_s * factor, available_s)) * (1 - missed))
