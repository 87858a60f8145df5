"""Fingerings few touches away from others, thousands at once: what hands can hold, what stands open.

A fingering is a row of booleans, one for each touch pressed and one for each touch held half.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from itertools import combinations

import numpy as np
import numpy.typing as npt

from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument

BoolArray = npt.NDArray[np.bool_]
StateArray = npt.NDArray[np.uint8]
# States of a hole, as `core.acoustics.impedance` numbers them.
OPEN, HALF = 1, 2


class Variants:
    """Fingerings of an instrument as rows.

    Parameters
    ----------
    instrument : Instrument
    fitted : collection of str
        Optional touches and fittings that are there; a touch that is not is never pressed.
    """

    def __init__(self, instrument: Instrument, fitted: Collection[str]) -> None:
        self.instrument, self.fitted = instrument, frozenset(fitted)
        there = [t for t in instrument.touches if t.name in self.fitted or not t.optional]
        self.touches = [touch.name for touch in there]
        halves = [touch.name for touch in there if touch.half]
        self.columns = {(name, False): n for n, name in enumerate(self.touches)}
        self.columns |= {(name, True): len(self.touches) + n for n, name in enumerate(halves)}
        self._can_hold = [self._held_by(finger.name) for finger in instrument.fingers]

    def _held_by(self, name: str) -> tuple[npt.NDArray[np.int64], BoolArray]:
        """Columns of a finger's touches, and whether it can hold each choice of them, by its number."""
        finger = self.instrument.finger(name)
        mine = {touch.name for touch in self.instrument.reach(finger)}
        own = [(key, at) for key, at in self.columns.items() if key[0] in mine]
        can = np.zeros(1 << len(own), dtype=np.bool_)
        for number in range(len(can)):
            held = [key[0] for n, (key, _) in enumerate(own) if number >> n & 1]
            can[number] = len(set(held)) == len(held) and finger.can_hold(frozenset(held))
        return np.array([at for _, at in own], dtype=np.int64), can

    def row(self, fingering: Fingering) -> BoolArray | None:
        """A fingering as a row; None where it needs what is not there.

        Parameters
        ----------
        fingering : Fingering
            What is only touched at the attack is left out.

        Returns
        -------
        np.ndarray of bool [shape=(n_columns,)] or None
        """
        keys = [(name, half) for half in (False, True) for name in (fingering.full, fingering.half)[half]]
        if not all(key in self.columns for key in keys):
            return None
        found = np.zeros(len(self.columns), dtype=np.bool_)
        found[[self.columns[key] for key in keys]] = True
        return found

    def rows(self, fingerings: Iterable[Fingering]) -> BoolArray:
        """Those that need nothing that is not there.

        Parameters
        ----------
        fingerings : iterable of Fingering

        Returns
        -------
        np.ndarray of bool [shape=(n, n_columns)]
        """
        some = [row for row in map(self.row, fingerings) if row is not None]
        return np.array(some, dtype=np.bool_).reshape(len(some), len(self.columns))

    def fingering(self, row: BoolArray) -> Fingering:
        """A row as a fingering.

        Parameters
        ----------
        row : np.ndarray of bool [shape=(n_columns,)]

        Returns
        -------
        Fingering
        """
        held: tuple[set[str], set[str]] = set(), set()
        for (name, half), at in self.columns.items():
            if row[at]:
                held[half].add(name)
        return Fingering(frozenset(held[0]), frozenset(held[1]))

    def changed(self, rows: BoolArray, touches: int) -> BoolArray:
        """Every fingering that hands can hold and that is up to so many touches away from one of some.

        Parameters
        ----------
        rows : np.ndarray of bool [shape=(n, n_columns)]
        touches : int, from 1
            A touch turned from full to half counts two.

        Returns
        -------
        np.ndarray of bool [shape=(n_found, n_columns)]
            Each once, `rows` among them; always in the same order.
        """
        width = len(self.columns)
        flips = [some for count in range(touches + 1) for some in combinations(range(width), count)]
        flip = np.zeros((len(flips), width), dtype=np.bool_)
        for at, some in enumerate(flips):
            flip[at, list(some)] = True
        whole = (rows[:, None, :] ^ flip[None]).reshape(-1, width)
        packed = np.ascontiguousarray(np.packbits(whole, axis=1))
        _, first = np.unique(packed.view(f"V{packed.shape[1]}"), return_index=True)
        found = whole[first]
        return np.asarray(found[self.holdable(found)])

    def holdable(self, rows: BoolArray) -> BoolArray:
        """Whether hands can hold each of some.

        Parameters
        ----------
        rows : np.ndarray of bool [shape=(n, n_columns)]

        Returns
        -------
        np.ndarray of bool [shape=(n,)]
        """
        found = np.ones(len(rows), dtype=np.bool_)
        for columns, can in self._can_hold:
            found &= can[rows[:, columns] @ (1 << np.arange(len(columns)))]
        return found

    def states(self, rows: BoolArray) -> StateArray:
        """State of every hole, in the order of the keywork; as `core.instruments.keywork.mechanism` reads it.

        Parameters
        ----------
        rows : np.ndarray of bool [shape=(n, n_columns)]

        Returns
        -------
        np.ndarray of int [shape=(n, n_holes)]
        """
        half = np.zeros((len(rows), len(self.touches)), dtype=np.bool_)
        full = rows[:, : len(self.touches)]
        for (name, is_half), at in self.columns.items():
            if is_half:
                half[:, self.touches.index(name)] = rows[:, at]
        pressed = full | half
        found = np.zeros((len(rows), len(self.instrument.holes)), dtype=np.uint8)
        for n, hole in enumerate(self.instrument.holes_as_fitted(self.fitted)):
            moved = self._any(pressed, hole.moved_by)
            if hole.only_with:
                moved = moved & self._any(pressed, hole.only_with)
            moved = moved & ~self._any(pressed, hole.unless)
            found[:, n] = np.where(moved != (hole.rest == "open"), OPEN, 0)
            if hole.half:
                others = [name for name in hole.moved_by if name not in hole.half]
                found[self._any(half, hole.half) & ~self._any(pressed, others), n] = HALF
        return found

    def _any(self, pressed: BoolArray, touches: Sequence[str]) -> BoolArray:
        """Whether any of some touches is pressed in each row."""
        columns = [self.touches.index(name) for name in touches if name in self.touches]
        return np.asarray(pressed[:, columns].any(axis=1))
