"""Time that a move of the hands needs, and the risk that it fails in the time there is.

A move takes as long as its slowest finger, and longer where fingers must be coordinated. The
time needed varies from one playing to the next; a stumble is a move that needs more than the
music leaves.

Notes
-----
Order and rough size of the finger times follow published measurements: index and middle fingers
move faster than ring and little finger, and fingers that move together are apart by some
milliseconds, more so when one lifts while another presses. The exact numbers are our choice,
made so that a plain crossing of the break in slurred sixteenths at 120 fails about once in eighteen.
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
from dataclasses import replace
from itertools import permutations

import numpy as np
import numpy.typing as npt

from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.instruments.moves import ROLLING_DIGITS, STACK_DIGITS

FloatArray = npt.NDArray[np.float64]
BoolArray = npt.NDArray[np.bool_]

DIGIT_S = {
    "thumb": 0.050,
    "palm": 0.068,
    "index": 0.042,
    "middle": 0.044,
    "ring": 0.052,
    "little": 0.060,
    "side": 0.064,
}
SLIDE_S = 0.045
TABLE_SLIDE_S = 0.015
STAGGER_S = 0.002
CONTRARY_S = 0.020
BOTH_HANDS_S = 0.006
THUMB_WITH_STACK_S = 0.006
HAND_SHAPE_S = 0.025
PARTIAL_S = 0.010

# Spread of the logarithm of the time needed: about a quarter from one playing to the next.
LOG_SPREAD = 0.25


EFFECT_WORDS = {
    "finger": "slowest finger",
    "slide": "one finger slides",
    "stagger": "several fingers at once",
    "contrary": "fingers of one hand move against each other",
    "both_hands": "both hands move",
    "thumb": "thumb moves with the stack",
    "hand_shape": "the hand changes shape",
    "partial": "the voicing changes",
}


def move_effects(
    instrument: Instrument,
    before: Sequence[Fingering],
    after: Sequence[Fingering],
    partial_before: Sequence[int | None],
    partial_after: Sequence[int | None],
) -> dict[str, FloatArray]:
    """Compute the parts of the time needed for every pair of fingerings.

    Parameters
    ----------
    before, after : sequence of Fingering, lengths n_before and n_after
    partial_before, partial_after : sequence of int or None
        Partial of each; None, not settled, differs from every number.

    Returns
    -------
    dict of str to np.ndarray [shape=(n_before, n_after)]
        Seconds, 0 or more, for each name of `EFFECT_WORDS`; their sum is the time needed.
    """
    # A momentary touch is let go soon after the attack: it is pressed on the way in only.
    steady = [replace(fingering, momentary=frozenset()) for fingering in before]
    old, new = _held(instrument, steady)[:, None, :], _held(instrument, after)[None, :, :]
    lane = np.array(
        [[touch.finger == finger.name for finger in instrument.fingers] for touch in instrument.touches]
    )
    lifts, presses = _per_finger(old & ~new, lane), _per_finger(new & ~old, lane)
    keeps = _per_finger(old & new, lane)
    moving = lifts | presses
    digit = np.array([finger.digit for finger in instrument.fingers])
    rolling = np.isin(digit, sorted(ROLLING_DIGITS))
    thumb = digit == "thumb"
    slides = moving & ~rolling & ~thumb & (keeps | lifts) & (keeps | presses)
    slides |= thumb & lifts & presses
    lifts, presses = lifts & ~slides, presses & ~slides
    hands = [np.array([finger.hand == hand for finger in instrument.fingers]) for hand in ("left", "right")]
    stack = np.isin(digit, sorted(STACK_DIGITS))
    digit_s = np.array([DIGIT_S[name] for name in digit])
    moves_hand = [np.any(moving & hand, axis=-1) for hand in hands]
    any_move = np.any(moving, axis=-1)

    shape = sum(
        np.any(moving & hand & rolling, axis=-1) & np.any(moving & hand & stack, axis=-1) for hand in hands
    )
    contrary = sum(np.any(lifts & hand, axis=-1) & np.any(presses & hand, axis=-1) for hand in hands)
    table = np.any(slides & (digit == "little"), axis=-1)
    partial = np.not_equal.outer(_partials(partial_before), _partials(partial_after))
    partial |= np.logical_or.outer(_partials(partial_before) == 0, _partials(partial_after) == 0)
    same = ~any_move & np.equal.outer(_partials(partial_before), _partials(partial_after))
    return {
        "finger": np.max(np.where(moving, digit_s, 0.0), axis=-1),
        "slide": SLIDE_S * np.any(slides, axis=-1) + TABLE_SLIDE_S * table,
        "stagger": STAGGER_S * np.maximum(np.sum(moving, axis=-1) - 1, 0),
        "contrary": CONTRARY_S * np.asarray(contrary, dtype=np.float64),
        "both_hands": BOTH_HANDS_S * (moves_hand[0] & moves_hand[1]),
        "thumb": THUMB_WITH_STACK_S * (np.any(moving & thumb, axis=-1) & np.any(moving & stack, axis=-1)),
        "hand_shape": HAND_SHAPE_S * np.asarray(shape, dtype=np.float64),
        "partial": PARTIAL_S * (partial & ~same),
    }


def jumps(instrument: Instrument, before: Sequence[Fingering], after: Sequence[Fingering]) -> FloatArray:
    """Find the moves in which a finger of the stack, or a thumb, jumps from one touch to another.

    Between the two it holds neither, so that something else sounds: a slur is broken at any tempo.
    A touch only flicked is no jump.

    Returns
    -------
    np.ndarray [shape=(n_before, n_after)], 0 or 1
    """
    found = np.zeros((len(before), len(after)), dtype=np.bool_)
    for finger in instrument.fingers:
        names = [touch.name for touch in instrument.reach(finger)]
        if finger.digit not in STACK_DIGITS | {"thumb"} or len(names) < 2:
            continue
        old, new = (
            {name: np.array([name in f.full | f.half for f in side], dtype=np.bool_) for name in names}
            for side in (before, after)
        )
        for one, other in permutations(names, 2):
            if finger.jumps(one, other):
                lets_go = np.logical_and.outer(old[one] & ~old[other], ~new[one] & new[other])
                found |= lets_go
    return found.astype(np.float64)


def time_needed_s(effects: dict[str, FloatArray]) -> FloatArray:
    """Add up the parts of `move_effects`, in seconds."""
    return np.asarray(np.sum(list(effects.values()), axis=0), dtype=np.float64)


def stumble_risk(needed_s: FloatArray, available_s: FloatArray) -> FloatArray:
    """Probability that a move needs more time than there is.

    Parameters
    ----------
    needed_s : np.ndarray, seconds, 0 or more
        Median time needed; 0 (nothing moves) never fails.
    available_s : np.ndarray, seconds, above 0, broadcast against `needed_s`

    Returns
    -------
    np.ndarray, 0 to 1
        Log-normal law with the spread `LOG_SPREAD`.
    """
    ratio = np.where(needed_s > 0, needed_s, 1.0) / available_s
    risk = normal_cdf(np.log(np.maximum(ratio, 1e-12)) / LOG_SPREAD)
    return np.asarray(np.where(needed_s > 0, risk, 0.0))


def normal_cdf(x: FloatArray) -> FloatArray:
    """Distribution function of the standard normal law, error below 2e-7.

    References
    ----------
    Abramowitz & Stegun (1964), Handbook of Mathematical Functions, chapter 7, rational
    approximation of the error function.

    Examples
    --------
    >>> np.round(normal_cdf(np.array([-1.96, 0.0, 1.96])), 3).tolist()
    [0.025, 0.5, 0.975]
    """
    z = np.abs(x) / np.sqrt(2.0)
    t = 1.0 / (1.0 + 0.3275911 * z)
    poly = t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))))
    tail = 0.5 * poly * np.exp(-z * z)
    return np.asarray(np.where(x < 0, tail, 1.0 - tail))


def _held(instrument: Instrument, fingerings: Sequence[Fingering]) -> BoolArray:
    """Which touches are held, a half-holed one as a touch of its own; shape (n, 2 * n_touches)."""
    names = list(instrument.touch_by_name)
    full = [[name in fingering.full for name in names] for fingering in fingerings]
    other = [[name in fingering.touches - fingering.full for name in names] for fingering in fingerings]
    return np.hstack([np.array(full, dtype=bool), np.array(other, dtype=bool)]).reshape(
        len(fingerings), 2 * len(names)
    )


def _per_finger(touches: BoolArray, lane: BoolArray) -> BoolArray:
    """Whether any touch of a finger's lane is set; (..., 2 * n_touches) to (..., n_fingers)."""
    both = np.vstack([lane, lane])
    return np.asarray(touches.astype(np.uint8) @ both.astype(np.uint8) > 0)


def _partials(partials: Sequence[int | None]) -> npt.NDArray[np.int64]:
    return np.array([partial or 0 for partial in partials], dtype=np.int64)
