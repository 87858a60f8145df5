"""Time that a move of the hands needs, and the risk that it fails in the time there is.

A move takes as long as its slowest finger, and longer where fingers must be coordinated. The
time needed varies from one playing to the next; a stumble is a move that needs more than the
music leaves.

Notes
-----
Order and rough size of the finger times follow published measurements: index and middle fingers
move faster than ring and little finger, and fingers that move together are apart by some
milliseconds, more so when one lifts while another presses. The exact numbers are our choice,
set on half of 240 moves that were ranked by hand and told on the other half (`docs/hands.md`), and scaled by
the level of the player. They describe nobody in particular.

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

from itertools import permutations

import numpy as np
import numpy.typing as npt
from scipy.special import ndtr

from core.instruments.actions import (
    LEAVING,
    TAKING,
    Action,
    FingerActions,
    Grips,
    finger_actions,
    per_finger,
)
from core.instruments.hand import ANY_HAND, Hand, PlayerLevel
from core.instruments.instrument import Instrument
from core.instruments.parts import ROLLING_DIGITS, STACK_DIGITS, Finger, Touch

FloatArray = npt.NDArray[np.float64]
BoolArray = npt.NDArray[np.bool_]
IntArray = npt.NDArray[np.int64]

DIGIT_S = {
    "thumb": 0.050,
    "palm": 0.056,
    "index": 0.042,
    "middle": 0.044,
    "ring": 0.047,
    "little": 0.060,
    "side": 0.062,
    "lever": 0.30,
}
# A finger that slides has no time to lift, nor one that is to flick what lies apart; on the table of the
# little finger it goes the farther, the more lies between. One that rolls to what is beside it comes sooner.
SLIDE_S, ON_ROLLERS_S, ROLL_S = 0.060, 0.048, 0.028
TABLE_STEP_S = 0.010
# A finger that keeps what it holds and takes more, or lets a part go, reaches over its touches.
ADD_S = {"thumb": 0.006, "rolling": 0.046, "else": 0.008}
# A touch that works large pads; one that lies away from where its finger rests.
HEAVY_S = 0.016
AWAY_S = 0.014
# A thumb that moves against the fingers of its hand; one hand that lifts while the other presses.
AGAINST_S = 0.009
ACROSS_S = 0.006
# A finger that tilts to half a hole stays where it is; one that comes to it from the air has to find it.
TILT_S, FIND_S = 0.014, 0.030
STAGGER_S = 0.002
CONTRARY_S = 0.020
BOTH_HANDS_S = 0.008
# By how much a stiff finger is slower; a small hand where it has to reach; a roll that is not learned.
STIFF, FAR, UNLEARNED = 1.4, 1.25, 2.5
FAR_DIGITS = {"palm", "side", "little"}
THUMB_WITH_STACK_S = 0.006
HAND_SHAPE_S = 0.036
PARTIAL_S = 0.003
# In the top register the partials lie close together: the mouth has to be there with the hands.
TOP_S = 0.018
# A break between registers: every finger beyond the second has to find its place while the air changes.
BREAK_S, BREAK_FROM = 0.0035, 1

# By level: how much of these times a player takes, and how often a plain break is missed at any tempo. Chosen
# so that over the clarinet's, in slurred sixteenths, an advanced player stumbles 3 times of 100 at 120 and 10
# at 144, one who is moving on 10 at 92; a beginner fails one in three in quarters at 60.
TIMES = {PlayerLevel.BEGINNING: 1.0, PlayerLevel.MOVING_ON: 0.78, PlayerLevel.ADVANCED: 0.52}
MISSES = {PlayerLevel.BEGINNING: 1 / 3, PlayerLevel.MOVING_ON: 0.03, PlayerLevel.ADVANCED: 0.006}
# Fingers beyond the first in a plain break; how much of one half a hole asks.
PLAIN_BREAK, HALF_HOLE = 7, 0.25

# A move repeated, as in a trill: what has been reached once is not reached again, and what has to come
# together comes apart the more. A side or palm touch is struck by a finger that lies on it.
AGAIN = {"away": 0.0, "hand_shape": 0.0, "stagger": 2.0, "across": 2.0, "both_hands": 2.0, "roll": 2.0}
THERE_ALREADY_S = 0.014

# Spread of the logarithm of the time needed: about a quarter from one playing to the next.
LOG_SPREAD = 0.25


EFFECT_WORDS = {
    "finger": "slowest finger",
    "slide": "one finger slides",
    "roll": "a finger rolls to the touch beside",
    "add": "a finger adds a touch, or lets one go",
    "heavy": "heavy touches move",
    "away": "a finger leaves its home",
    "against": "the thumb moves against the fingers",
    "tilt": "a finger tilts to or from half a hole",
    "find": "a finger comes down on half a hole",
    "stagger": "several fingers at once",
    "contrary": "fingers of one hand move against each other",
    "across": "one hand lifts while the other presses",
    "both_hands": "both hands move",
    "thumb": "thumb moves with the stack",
    "hand_shape": "the hand changes shape",
    "partial": "the voicing changes",
    "break": "many fingers across a break of the registers",
    "top": "in the top register the mouth has to be there, too",
}


def move_effects(
    instrument: Instrument,
    before: Grips,
    after: Grips,
    hand: Hand = ANY_HAND,
    did: FingerActions | None = None,
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
    did : FingerActions, optional
        What the fingers do, where that is known already.

    Returns
    -------
    dict of str to np.ndarray [shape=(...,)]
        Seconds, 0 or more, for each name of `EFFECT_WORDS`; their sum is the time needed.
    """
    did = did or finger_actions(instrument, before, after)
    digit = np.array([finger.digit for finger in instrument.fingers])
    opens, thumb = np.isin(digit, sorted(ROLLING_DIGITS)), digit == "thumb"
    hands = [np.array([finger.hand == hand for finger in instrument.fingers]) for hand in ("left", "right")]
    stack = np.isin(digit, sorted(STACK_DIGITS))
    moving, slides, rolls = ~did.any_of(Action.STAYS), did.any_of(Action.SLIDES), did.any_of(Action.ROLLS)
    lifts, presses = did.any_of(*LEAVING), did.any_of(*TAKING)
    if not hand.rollers:
        stiff_rolls = rolls & (digit == "little")
        rolls, slides = rolls & ~stiff_rolls, slides | stiff_rolls
    digit_s = np.array([_finger_s(finger, hand) for finger in instrument.fingers])
    moves_hand = [np.any(moving & hand, axis=-1) for hand in hands]

    shape = sum(
        np.any(moving & hand & opens, axis=-1) & np.any(moving & hand & stack, axis=-1) for hand in hands
    )
    up, down = ([np.any(way & hand & ~thumb, axis=-1) for hand in hands] for way in (lifts, presses))
    thumbs = [[np.any(way & hand & thumb, axis=-1) for hand in hands] for way in (lifts, presses)]
    against = sum((thumbs[0][n] & down[n]) | (thumbs[1][n] & up[n]) for n in range(len(hands)))
    contrary = sum(one & other for one, other in zip(up, down, strict=True))
    across_hands = ((up[0] & down[1]) | (up[1] & down[0])) & (contrary == 0)
    across = (slides | rolls) & (digit == "little")
    far = did.any_of(Action.FLICKS) & ~did.near & per_finger(before.full | before.half, instrument.lanes)
    count, partial = np.sum(moving, axis=-1), _partial_changes(before, after, moving)
    old, new = before.full | before.half, after.full | after.half | after.flicked
    away = np.array(
        [
            touch.column != 0 and instrument.finger(touch.finger).digit in STACK_DIGITS
            for touch in instrument.touches
        ]
    )
    heavy = np.array([touch.heavy for touch in instrument.touches])
    adding = np.array([_adding_s(finger) for finger in instrument.fingers])
    learned = 1.0 if hand.half_holes else UNLEARNED
    effects = {
        "finger": np.max(np.where(moving, digit_s, 0.0), axis=-1),
        "slide": SLIDE_S * np.any(slides | far, axis=-1)
        + TABLE_STEP_S
        * (FAR if hand.small else 1.0)
        * np.max(np.where(across, _steps(instrument, before, after), 0.0), axis=-1),
        "roll": np.max(np.where(rolls, np.where(digit == "little", ON_ROLLERS_S, ROLL_S), 0.0), axis=-1),
        "add": np.max(np.where(did.any_of(Action.ADDS, Action.LETS_GO), adding, 0.0), axis=-1),
        "heavy": HEAVY_S * np.sum((old ^ new) & heavy, axis=-1),
        "away": AWAY_S
        * np.any(did.any_of(Action.PRESSES) & per_finger(new & ~old & away, instrument.lanes), axis=-1),
        "tilt": TILT_S * learned * np.any(did.any_of(Action.TILTS), axis=-1),
        "find": FIND_S * learned * np.any(did.any_of(Action.FINDS), axis=-1),
        "stagger": STAGGER_S * np.maximum(count - 1, 0),
        "contrary": CONTRARY_S * np.asarray(contrary, dtype=np.float64),
        "across": ACROSS_S * across_hands,
        "both_hands": BOTH_HANDS_S * (moves_hand[0] & moves_hand[1]),
        "against": AGAINST_S * np.asarray(against, dtype=np.float64),
        "thumb": THUMB_WITH_STACK_S * (np.any(moving & thumb, axis=-1) & np.any(moving & stack, axis=-1)),
        "hand_shape": HAND_SHAPE_S * np.asarray(shape, dtype=np.float64),
        "partial": PARTIAL_S * partial,
        "break": BREAK_S * np.maximum(count - BREAK_FROM, 0) * partial,
        "top": TOP_S * (np.any(moving, axis=-1) & (before.top | after.top)),
    }
    return {name: TIMES[hand.level] * seconds for name, seconds in effects.items()}


def chance_missed(
    instrument: Instrument,
    before: Grips,
    after: Grips,
    hand: Hand = ANY_HAND,
    did: FingerActions | None = None,
) -> FloatArray:
    """Compute the chance that fingers do not cover, or do not come together, however slow the music is.

    It is asked of fingers that come together while the register changes, and of those on half a hole;
    measured by a plain break with eight fingers.

    Parameters
    ----------
    instrument : Instrument
    before, after : Grips
        As in `move_effects`.
    hand : Hand
    did : FingerActions, optional

    Returns
    -------
    np.ndarray [shape=(...,)], 0 to 1
    """
    did = did or finger_actions(instrument, before, after)
    moving = ~did.any_of(Action.STAYS)
    more = np.maximum(np.sum(moving, axis=-1) - 1, 0) / PLAIN_BREAK
    halved = np.any(did.any_of(Action.TILTS, Action.FINDS), axis=-1)
    asked = more * _partial_changes(before, after, moving) + HALF_HOLE * halved
    return np.asarray(-np.expm1(np.log1p(-MISSES[hand.level]) * asked))


def _partial_changes(before: Grips, after: Grips, moving: BoolArray) -> BoolArray:
    """Whether another partial is to sound; one that is not settled differs from every number."""
    unsettled = (before.partial == 0) | (after.partial == 0)
    still = ~np.any(moving, axis=-1) & (before.partial == after.partial)
    return np.asarray(((before.partial != after.partial) | unsettled) & ~still)


def _adding_s(finger: Finger) -> float:
    """Time by which a finger is slower that keeps a touch and takes another, or lets it go."""
    if finger.digit == "thumb":
        return ADD_S["thumb"]
    return (
        ADD_S["rolling"]
        if any(set(a) <= set(b) for a in finger.together for b in finger.rolls)
        else ADD_S["else"]
    )


def _finger_s(finger: Finger, hand: Hand) -> float:
    """Time that a finger needs by itself."""
    stiff = STIFF if f"{finger.hand} {finger.digit}" in hand.stiff else 1.0
    return DIGIT_S[finger.digit] * stiff * (FAR if hand.small and finger.digit in FAR_DIGITS else 1.0)


def _steps(instrument: Instrument, before: Grips, after: Grips) -> FloatArray:
    """Touches from the one a finger leaves to the one it takes: on rollers along them; (..., n_fingers)."""
    old, new = before.full | before.half, after.full | after.half | after.flicked
    lets_go, takes = old & ~new, new & ~old
    at = {name: place for place, name in enumerate(instrument.touch_by_name)}
    shape = np.broadcast_shapes(old.shape, new.shape)[:-1]
    steps = np.zeros((*shape, len(instrument.fingers)))
    for place, finger in enumerate(instrument.fingers):
        for one, other in permutations(instrument.reach(finger), 2):
            goes = lets_go[..., at[one.name]] & takes[..., at[other.name]]
            apart = _apart(finger, one, other)
            steps[..., place] = np.maximum(steps[..., place], np.where(goes, apart, 0.0))
    return steps


def _apart(finger: Finger, one: Touch, other: Touch) -> float:
    for group in finger.rolls:
        if {one.name, other.name} <= set(group):
            return float(abs(group.index(one.name) - group.index(other.name)))
    return float(abs(one.column - other.column))


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


def time_again_s(
    effects: dict[str, FloatArray], did: FingerActions, instrument: Instrument, hand: Hand = ANY_HAND
) -> FloatArray:
    """Add up the parts of `move_effects` for moves that are repeated to and fro, in seconds.

    Parameters
    ----------
    effects : dict of str to np.ndarray
        Of one shape, by name.
    did : FingerActions
    instrument : Instrument
    hand : Hand

    Returns
    -------
    np.ndarray [shape=(...,)], seconds
        The hands stay where they are for it; what has to be brought together counts more.
    """
    seconds = np.sum([AGAIN.get(name, 1.0) * part for name, part in effects.items()], axis=0)
    opens = np.array([finger.digit in ROLLING_DIGITS for finger in instrument.fingers])
    moving = ~did.any_of(Action.STAYS)
    there_already = np.any(moving, axis=-1) & ~np.any(moving & ~opens, axis=-1)
    return np.asarray(seconds - TIMES[hand.level] * THERE_ALREADY_S * there_already)


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
