"""Time that a move of the hands needs, and the risk that it fails in the time there is.

A move takes as long as its slowest finger, and longer where fingers must be coordinated. The
time needed varies from one playing to the next; a stumble is a move that needs more than the
music leaves.

Notes
-----
Order and rough size of the finger times follow published measurements: index and middle fingers
move faster than ring and little finger, and fingers that move together are apart by some
milliseconds, more so when one lifts while another presses. The exact numbers are our choice,
made so that a plain crossing of the break in slurred sixteenths at 120 fails about once in seven.
They describe nobody in particular.

References
----------
Aoki, Furuya & Kinoshita (2005), Finger-tapping ability in male and female pianists and
nonmusician controls, Motor Control 9.
Almeida, Chow, Smith & Wolfe (2009), The kinetics and acoustics of fingering and note
transitions on the flute, Journal of the Acoustical Society of America 126.
Palmer, Koopmans, Loehr & Carter (2009), Movement-related feedback and temporal accuracy in
clarinet performance, Music Perception 26.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.special import ndtr

from core.instruments.fingering import Fingering
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.instrument import Instrument
from core.instruments.parts import ROLLING_DIGITS, STACK_DIGITS, Finger

FloatArray = npt.NDArray[np.float64]
BoolArray = npt.NDArray[np.bool_]
IntArray = npt.NDArray[np.int64]

DIGIT_S = {
    "thumb": 0.050,
    "palm": 0.068,
    "index": 0.042,
    "middle": 0.044,
    "ring": 0.052,
    "little": 0.060,
    "side": 0.064,
}
# A finger that slides has no time to lift; on the table of the little finger it goes the farther, the more
# touches lie between. A finger that rolls to a half hole, or back, stays where it is.
SLIDE_S, ON_ROLLERS_S = 0.045, 0.032
TABLE_STEP_S = 0.010
ROLL_S = 0.022
STAGGER_S = 0.002
CONTRARY_S = 0.020
BOTH_HANDS_S = 0.006
# By how much a stiff finger is slower; a small hand where it has to reach; a roll that is not learned.
STIFF, FAR, UNLEARNED = 1.4, 1.25, 2.5
FAR_DIGITS = {"palm", "side", "little"}
THUMB_WITH_STACK_S = 0.006
# A thumb that keeps what it holds and takes more, or lets a part go, travels over its touches.
THUMB_TRAVEL_S = 0.014
HAND_SHAPE_S = 0.032
PARTIAL_S = 0.010
# A break between registers: every finger beyond the second has to find its place while the air changes.
BREAK_S, BREAK_FROM = 0.003, 2

# Spread of the logarithm of the time needed: about a quarter from one playing to the next.
LOG_SPREAD = 0.25


EFFECT_WORDS = {
    "finger": "slowest finger",
    "slide": "one finger slides",
    "roll": "a finger rolls to or from a half hole",
    "stagger": "several fingers at once",
    "contrary": "fingers of one hand move against each other",
    "both_hands": "both hands move",
    "thumb": "thumb moves with the stack",
    "thumb_travel": "thumb goes over its touches",
    "hand_shape": "the hand changes shape",
    "partial": "the voicing changes",
    "break": "many fingers across a break of the registers",
}


@dataclass(frozen=True)
class Grips:
    """What the hands hold in each of many fingerings; indexed like an array.

    Parameters
    ----------
    full, half, flicked : np.ndarray of bool [shape=(..., n_touches)]
        Touches in the order of the instrument.
    partial : np.ndarray of int [shape=(...,)]
        Partial that each sounds on; 0 where it is not settled.
    """

    full: BoolArray
    half: BoolArray
    flicked: BoolArray
    partial: IntArray

    def __getitem__(self, index: Any) -> Grips:
        return Grips(self.full[index], self.half[index], self.flicked[index], self.partial[index])


def grips(instrument: Instrument, fingerings: Sequence[Fingering], partials: Sequence[int | None]) -> Grips:
    """Lay out fingerings as arrays.

    Parameters
    ----------
    instrument : Instrument
    fingerings : sequence of Fingering
        Of length n.
    partials : sequence of int or None
        Of length n; None where it is not settled.

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
    return Grips(held("full"), held("half"), held("momentary"), partial)


def move_effects(
    instrument: Instrument, before: Grips, after: Grips, hand: Hand = ANY_HAND
) -> dict[str, FloatArray]:
    """Compute the parts of the time that moves need.

    Parameters
    ----------
    instrument : Instrument
    before, after : Grips
        Broadcast against each other: aligned rows give one move each, ``before[:, None]`` and
        ``after[None, :]`` every pair. A momentary touch of `before` is let go soon after the attack:
        pressed on the way in only. A partial that is not settled differs from every number.
    hand : Hand
        Whose hands; they are nobody's in particular if it is not said.

    Returns
    -------
    dict of str to np.ndarray [shape=(...,)]
        Seconds, 0 or more, for each name of `EFFECT_WORDS`; their sum is the time needed.
    """
    old = np.concatenate([before.full, before.half], axis=-1)
    new = np.concatenate([after.full, after.half | after.flicked], axis=-1)
    lanes = _lanes(instrument)
    lifts, presses = _per_finger(old & ~new, lanes), _per_finger(new & ~old, lanes)
    keeps = _per_finger(old & new, lanes)
    moving = lifts | presses
    digit = np.array([finger.digit for finger in instrument.fingers])
    rolling = np.isin(digit, sorted(ROLLING_DIGITS))
    thumb = digit == "thumb"
    slides = moving & ~rolling & ~thumb & (keeps | lifts) & (keeps | presses)
    slides |= thumb & lifts & presses
    rolls = slides & ~thumb & _rolls(instrument, before, after)
    slides &= ~rolls
    lifts, presses = lifts & ~(slides | rolls), presses & ~(slides | rolls)
    hands = [np.array([finger.hand == hand for finger in instrument.fingers]) for hand in ("left", "right")]
    stack = np.isin(digit, sorted(STACK_DIGITS))
    digit_s = np.array([_finger_s(finger, hand) for finger in instrument.fingers])
    moves_hand = [np.any(moving & hand, axis=-1) for hand in hands]

    shape = sum(
        np.any(moving & hand & rolling, axis=-1) & np.any(moving & hand & stack, axis=-1) for hand in hands
    )
    contrary = sum(np.any(lifts & hand, axis=-1) & np.any(presses & hand, axis=-1) for hand in hands)
    rollers = _on_rollers(instrument, before, after) & hand.rollers
    little = slides & (digit == "little")
    travels = moving & thumb & keeps & ~slides
    count = np.sum(moving, axis=-1)
    unsettled = (before.partial == 0) | (after.partial == 0)
    still = ~np.any(moving, axis=-1) & (before.partial == after.partial)
    partial = ((before.partial != after.partial) | unsettled) & ~still
    return {
        "finger": np.max(np.where(moving, digit_s, 0.0), axis=-1),
        "slide": np.max(np.where(slides, np.where(rollers, ON_ROLLERS_S, SLIDE_S), 0.0), axis=-1)
        + TABLE_STEP_S
        * (FAR if hand.small else 1.0)
        * np.max(np.where(little, _steps(instrument, before, after), 0.0), axis=-1),
        "roll": ROLL_S * (1.0 if hand.half_holes else UNLEARNED) * np.any(rolls, axis=-1),
        "stagger": STAGGER_S * np.maximum(count - 1, 0),
        "contrary": CONTRARY_S * np.asarray(contrary, dtype=np.float64),
        "both_hands": BOTH_HANDS_S * (moves_hand[0] & moves_hand[1]),
        "thumb": THUMB_WITH_STACK_S * (np.any(moving & thumb, axis=-1) & np.any(moving & stack, axis=-1)),
        "thumb_travel": THUMB_TRAVEL_S * np.any(travels, axis=-1),
        "hand_shape": HAND_SHAPE_S * np.asarray(shape, dtype=np.float64),
        "partial": PARTIAL_S * partial,
        "break": BREAK_S * np.maximum(count - BREAK_FROM, 0) * partial,
    }


def _finger_s(finger: Finger, hand: Hand) -> float:
    """Time that a finger needs by itself."""
    stiff = STIFF if f"{finger.hand} {finger.digit}" in hand.stiff else 1.0
    return DIGIT_S[finger.digit] * stiff * (FAR if hand.small and finger.digit in FAR_DIGITS else 1.0)


def _rolls(instrument: Instrument, before: Grips, after: Grips) -> BoolArray:
    """Fingers that only go between the full and the half of one touch; (..., n_fingers)."""
    lane = _lanes(instrument)[: len(instrument.touches)]
    halved = (before.full & after.half) | (before.half & after.full)
    held = (before.full | before.half) ^ (after.full | after.half | after.flicked)
    return _per_finger(halved, lane) & ~_per_finger(held, lane)


def _on_rollers(instrument: Instrument, before: Grips, after: Grips) -> BoolArray:
    """Fingers that go from one of their touches to another on which they roll; (..., n_fingers)."""
    at = {name: place for place, name in enumerate(instrument.touch_by_name)}
    old, new = before.full | before.half, after.full | after.half | after.flicked
    lets_go, takes = old & ~new, new & ~old
    shape = (*np.broadcast_shapes(lets_go.shape, takes.shape)[:-1], len(instrument.fingers))
    found = np.zeros(shape, dtype=np.bool_)
    for place, finger in enumerate(instrument.fingers):
        for one, other in permutations((touch.name for touch in instrument.reach(finger)), 2):
            if any({one, other} <= group for group in finger.rolls):
                found[..., place] |= old[..., at[one]] & takes[..., at[other]]
                found[..., place] |= lets_go[..., at[one]] & new[..., at[other]]
    return found


def _steps(instrument: Instrument, before: Grips, after: Grips) -> FloatArray:
    """Touches from the one a finger leaves to the one it takes, along its own; (..., n_fingers)."""
    old, new = before.full | before.half, after.full | after.half | after.flicked
    along = np.array([float(touch.column) for touch in instrument.touches])
    lane = _lanes(instrument)[: len(instrument.touches)] > 0

    left, taken = (
        np.max(np.where(held[..., None] & lane, along[:, None], -np.inf), axis=-2)
        for held in (old & ~new, new & ~old)
    )
    both = np.isfinite(left) & np.isfinite(taken)
    return np.asarray(np.abs(np.where(both, left, 1.0) - np.where(both, taken, 0.0)))


def jumps(instrument: Instrument, before: Grips, after: Grips) -> BoolArray:
    """Find the moves in which a finger of the stack, or a thumb, jumps from one touch to another.

    Between the two it holds neither, so that something else sounds: a slur is broken at any tempo.
    A touch only flicked is no jump. `before` and `after` are broadcast as in `move_effects`.

    Parameters
    ----------
    instrument : Instrument
    before, after : Grips

    Returns
    -------
    np.ndarray of bool [shape=(...,)]
    """
    at = {name: place for place, name in enumerate(instrument.touch_by_name)}
    old, new = before.full | before.half, after.full | after.half
    lets_go, takes = old & ~new, new & ~old
    found = np.zeros(np.broadcast_shapes(lets_go.shape, takes.shape)[:-1], dtype=np.bool_)
    for finger in instrument.fingers:
        names = [touch.name for touch in instrument.reach(finger)]
        if finger.digit not in (*STACK_DIGITS, "thumb") or len(names) < 2:
            continue
        for one, other in permutations(names, 2):
            if finger.jumps(one, other):
                found |= lets_go[..., at[one]] & takes[..., at[other]]
    return found


def time_needed_s(effects: dict[str, FloatArray]) -> FloatArray:
    """Add up the parts of `move_effects`, in seconds.

    Parameters
    ----------
    effects : dict of str to np.ndarray
        Of one shape, by name.

    Returns
    -------
    np.ndarray [shape=(...,)], seconds
    """
    return np.asarray(np.sum(list(effects.values()), axis=0), dtype=np.float64)


def stumble_risk(needed_s: FloatArray, available_s: FloatArray | float) -> FloatArray:
    """Probability that a move needs more time than there is.

    Parameters
    ----------
    needed_s : np.ndarray [shape=(...,)], seconds, 0 or more
        Median time needed; 0 (nothing moves) never fails.
    available_s : np.ndarray or float, seconds, above 0, broadcast against `needed_s`

    Returns
    -------
    np.ndarray [shape=(...,)], 0 to 1
        Log-normal law with the spread `LOG_SPREAD`.
    """
    ratio = np.where(needed_s > 0, needed_s, 1.0) / available_s
    risk = ndtr(np.log(np.maximum(ratio, 1e-12)) / LOG_SPREAD)
    return np.asarray(np.where(needed_s > 0, risk, 0.0))


def _lanes(instrument: Instrument) -> npt.NDArray[np.float32]:
    """Which finger each touch belongs to, full and otherwise held; shape (2 * n_touches, n_fingers)."""
    lane = [[touch.finger == finger.name for finger in instrument.fingers] for touch in instrument.touches]
    return np.array([*lane, *lane], dtype=np.float32)


def _per_finger(touches: BoolArray, lanes: npt.NDArray[np.float32]) -> BoolArray:
    """Whether any touch of a finger's lane is set; (..., 2 * n_touches) to (..., n_fingers)."""
    return np.asarray(touches.astype(np.float32) @ lanes > 0)
