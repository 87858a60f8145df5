"""Every state of the holes that hands can bring about: for tests and benchmarks, never for a search."""

from __future__ import annotations

from collections.abc import Collection
from itertools import chain, combinations, product

import numpy as np
import numpy.typing as npt

from core.acoustics.impedance import CLOSED, HALF, OPEN, StateArray
from core.instruments.instrument import Instrument
from core.instruments.parts import Finger, ToneHole

BoolArray = npt.NDArray[np.bool_]


def every_state(instrument: Instrument) -> StateArray:
    """Find every state of the holes that a holdable fingering gives.

    Parameters
    ----------
    instrument : Instrument

    Returns
    -------
    np.ndarray [shape=(n_states, n_holes)]
        Distinct rows, holes in the order of the keywork.
    """
    names = list(instrument.touch_by_name)
    column = {name: n for n, name in enumerate(names)}
    rows = np.zeros((1, len(names)), dtype=np.uint8)
    for finger in instrument.fingers:
        ways = np.zeros((0, len(names)), dtype=np.uint8)
        for way in _ways(instrument, finger):
            row = np.zeros((1, len(names)), dtype=np.uint8)
            for touch, held in way:
                row[0, column[touch]] = held
            ways = np.concatenate([ways, row])
        rows = (rows[:, None, :] + ways[None, :, :]).reshape(-1, len(names))
    states = np.stack([_standing(hole, rows, column) for hole in instrument.holes_as_fitted()], axis=1)
    return np.unique(states, axis=0)


def _ways(instrument: Instrument, finger: Finger) -> list[list[tuple[str, int]]]:
    """Ways in which a finger can hold its touches: each touch with `OPEN` for full, `HALF` for half."""
    touches = instrument.reach(finger)
    found: list[list[tuple[str, int]]] = []
    for chosen in chain.from_iterable(combinations(touches, n) for n in range(len(touches) + 1)):
        if finger.can_hold(frozenset(touch.name for touch in chosen)):
            held = [[OPEN, HALF] if touch.half else [OPEN] for touch in chosen]
            named = [touch.name for touch in chosen]
            found += [list(zip(named, kinds, strict=True)) for kinds in product(*held)]
    return found


def _standing(hole: ToneHole, rows: StateArray, column: dict[str, int]) -> StateArray:
    """State of one hole under each row of touches, as `keywork.mechanism` has it."""

    def any_of(touches: Collection[str], held: BoolArray) -> BoolArray:
        return np.asarray(held[:, [column[name] for name in touches]].any(axis=1))

    pressed = rows > 0
    moved = any_of(hole.moved_by, pressed)
    if hole.only_with:
        moved = moved & any_of(hole.only_with, pressed)
    moved = moved & ~any_of(hole.unless, pressed)
    state = np.where(moved != (hole.rest == "open"), OPEN, CLOSED).astype(np.uint8)
    half = any_of(hole.half, rows == HALF) & ~any_of(set(hole.moved_by) - set(hole.half), pressed)
    state[half] = HALF
    return state
