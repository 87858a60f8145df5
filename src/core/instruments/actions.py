"""What each finger does between two fingerings: sliding is told from rolling, adding from pressing.

Words (`core.instruments.moves`) and times (`core.routes.facility`) are both made from it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from enum import StrEnum
from typing import Any

import numpy as np
import numpy.typing as npt

from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.instruments.parts import ROLLING_DIGITS
from core.music.pitch import Pitch

BoolArray = npt.NDArray[np.bool_]
IntArray = npt.NDArray[np.int64]


class Action(StrEnum):
    """What one finger does."""

    STAYS = "stays"
    LIFTS = "lifts"
    PRESSES = "presses"
    ADDS = "adds"
    LETS_GO = "lets go"
    ROLLS = "rolls"
    SLIDES = "slides"
    TILTS = "tilts"
    FINDS = "finds"
    FLICKS = "flicks"


ACTIONS = tuple(Action)
# Those by which a finger comes to a touch, and those by which it leaves one.
TAKING = (Action.PRESSES, Action.ADDS, Action.FINDS, Action.FLICKS)
LEAVING = (Action.LIFTS, Action.LETS_GO)


@dataclass(frozen=True)
class Grips:
    """What the hands hold in each of many fingerings; indexed like an array.

    Parameters
    ----------
    full, half, flicked : np.ndarray of bool [shape=(..., n_touches)]
        Touches in the order of the instrument.
    partial : np.ndarray of int [shape=(...,)]
        Partial that each sounds on; 0 where it is not settled.
    top : np.ndarray of bool [shape=(...,)]
        Whether it is for a note of the top register.
    """

    full: BoolArray
    half: BoolArray
    flicked: BoolArray
    partial: IntArray
    top: BoolArray

    def __getitem__(self, index: Any) -> Grips:
        return Grips(*(getattr(self, part.name)[index] for part in fields(self)))


def grips(
    instrument: Instrument,
    fingerings: Sequence[Fingering],
    partials: Sequence[int | None],
    notes: Sequence[Pitch] = (),
) -> Grips:
    """Lay out fingerings as arrays.

    Parameters
    ----------
    instrument : Instrument
    fingerings : sequence of Fingering
        Of length n.
    partials : sequence of int or None
        Of length n; None where it is not settled.
    notes : sequence of Pitch, optional
        Of length n; what they are for, as written. Default: not for the top register.

    Returns
    -------
    Grips
        Arrays of n rows.
    """
    names = list(instrument.touch_by_name)

    def held(which: str) -> BoolArray:
        rows = [[name in getattr(fingering, which) for name in names] for fingering in fingerings]
        return np.array(rows, dtype=np.bool_).reshape(len(fingerings), len(names))

    partial = np.array([partial or 0 for partial in partials], dtype=np.int64)
    last = instrument.registers[-1]
    top = [instrument.register_of(note) == last for note in notes] or [False] * len(fingerings)
    return Grips(held("full"), held("half"), held("momentary"), partial, np.array(top, dtype=np.bool_))


@dataclass(frozen=True)
class FingerActions:
    """What every finger does in moves.

    Parameters
    ----------
    did : np.ndarray of int [shape=(..., n_fingers)]
        Places in `ACTIONS`; a finger that holds nothing stays.
    near : np.ndarray of bool [shape=(..., n_fingers)]
        Whether a touch newly taken lies beside one that the finger held: it can hold both, or rolls there.
    """

    did: IntArray
    near: BoolArray

    def any_of(self, *actions: Action) -> BoolArray:
        """Where a finger does one of these.

        Parameters
        ----------
        *actions : Action

        Returns
        -------
        np.ndarray of bool [shape=(..., n_fingers)]
        """
        return np.isin(self.did, [ACTIONS.index(action) for action in actions])


def finger_actions(instrument: Instrument, before: Grips, after: Grips) -> FingerActions:
    """What every finger does between fingerings.

    A finger that gives up a touch for another rolls to it where it could hold both or has rollers, and slides
    elsewhere; one that keeps a touch adds another, or lets go of a part. It tilts between the whole and the
    half of one hole; a half hole from the air has to be found. Palms and sides press and lift: other places
    of the hand open other touches.

    Parameters
    ----------
    instrument : Instrument
    before, after : Grips
        Broadcast against each other: aligned rows give one move each, ``before[:, None]`` and
        ``after[None, :]`` every pair. A momentary touch of `before` has long been let go.

    Returns
    -------
    FingerActions
    """
    old, new = before.full | before.half, after.full | after.half | after.flicked
    halved = (before.full & after.half) | (before.half & after.full)
    lane = instrument.lanes
    keeps, leaves, takes, tilts = (
        per_finger(some, lane) for some in (old & new, old & ~new, new & ~old, halved)
    )
    flicks, finds = per_finger(after.flicked & ~old, lane), per_finger(after.half & ~old, lane)
    near = per_finger((new & ~old) & (old.astype(np.float32) @ instrument.beside > 0), lane)
    opens = np.array([finger.digit in ROLLING_DIGITS for finger in instrument.fingers])
    cases = (
        (~leaves & ~takes & tilts, Action.TILTS),
        (~leaves & ~takes, Action.STAYS),
        (flicks, Action.FLICKS),
        (takes & opens, Action.PRESSES),
        (leaves & opens, Action.LIFTS),
        (leaves & takes & near, Action.ROLLS),
        (leaves & takes, Action.SLIDES),
        (takes & keeps, Action.ADDS),
        (leaves & keeps, Action.LETS_GO),
        (finds, Action.FINDS),
        (takes, Action.PRESSES),
    )
    numbers = [np.int64(ACTIONS.index(action)) for _, action in cases]
    did = np.select([case for case, _ in cases], numbers, np.int64(ACTIONS.index(Action.LIFTS)))
    return FingerActions(np.asarray(did), near)


def per_finger(touches: BoolArray, lane: npt.NDArray[np.float32]) -> BoolArray:
    """Whether any touch of a finger's lane is set.

    Parameters
    ----------
    touches : np.ndarray of bool [shape=(..., n_touches)]
    lane : np.ndarray [shape=(n_touches, n_fingers)]
        As `Instrument.lanes`.

    Returns
    -------
    np.ndarray of bool [shape=(..., n_fingers)]
    """
    return np.asarray(touches.astype(np.float32) @ lane > 0)
