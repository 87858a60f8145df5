"""Stepping stones: from a fingering that speaks to one in a new register, one touch at a time.

Every touch that differs is changed once, so no chain is shorter; of the orders in which they may be
changed, the one is taken whose notes step least and hold best. Each step must be one that the hands
hold and the bore answers; it may lie a little off pitch.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from core.acoustics.model import LOST_DB, Model
from core.acoustics.response import CENTS
from core.errors import AcousticsError
from core.instruments.fingering import Fingering
from core.instruments.keywork import unholdable
from core.music.pitch import Pitch, spell

MOST_TOUCHES = 9
# A step that leaps farther than this, a fourth and a little, is no step; nor one farther off any note.
LEAP_CENTS, OFF_CENTS = 550.0, 60.0
# So many semitones beyond both ends the notes on the way may lie.
BEYOND = 3
# What a decibel below the strongest lower resonance counts, in cents of leap, and what a step counts that no
# chart has for its note.
DB_COUNTS, UNKNOWN_COUNTS = 6.0, 100.0
NO_ORDER = "no order of changes gives steps that the hands hold and the instrument answers"


@dataclass(frozen=True)
class Stone:
    """One step: the touch changed, empty for the first; what sounds, in Hz; its margin in dB."""

    fingering: Fingering
    changed: str
    frequency: float
    margin: float


@dataclass(frozen=True)
class _Sound:
    """What a fingering on the way may sound: cents above the first note, and its margin in dB.

    `known` is whether a chart has it for that note.
    """

    cents: float
    margin: float
    known: bool


# The cheapest way to a set of changes and one of its sounds: cost, the touch changed last, and which sound
# came before.
Way = tuple[float, int, int]


def stepping_stones(
    model: Model,
    start: tuple[Fingering, Pitch],
    goal: tuple[Fingering, Pitch],
    known: Collection[tuple[Fingering, int]] = (),
) -> list[Stone]:
    """Find the shortest chain of one-touch changes between two fingerings.

    Parameters
    ----------
    model : Model
    start, goal : (Fingering, Pitch)
        Each with the written note that it sounds.
    known : collection of (Fingering, semitone number)
        Fingerings that a chart has for a note; a chain goes by way of them where it can.

    Returns
    -------
    list of Stone
        From start to goal.

    Raises
    ------
    AcousticsError
        If they differ by more than nine touches, or no order of changes gives playable steps only.
    """
    held, wanted = start[0].steady, goal[0].steady
    changes = sorted(
        touch for touch in held.touches | wanted.touches if held.held(touch) != wanted.held(touch)
    )
    if len(changes) > MOST_TOUCHES:
        raise AcousticsError(
            f"the two differ by {len(changes)} touches; a chain is made of {MOST_TOUCHES} at most"
        )
    fingerings = [
        _mixed(held, wanted, [touch for n, touch in enumerate(changes) if chosen >> n & 1])
        for chosen in range(1 << len(changes))
    ]
    sounds = _sounds(model, fingerings, start[1], goal[1], known)
    ways = _ways(sounds, len(changes))
    last = min(range(len(ways[-1])), key=lambda n: ways[-1][n][0], default=None)
    if last is None or ways[-1][last][0] == math.inf:
        raise AcousticsError(NO_ORDER)
    return _chain(model.sounding_hz(start[1]), fingerings, sounds, ways, changes, last)


def _ways(sounds: Sequence[Sequence[_Sound]], n_changes: int) -> list[list[Way]]:
    """The cheapest way to every sound of every set of changes, in the order of the sets."""
    ways: list[list[Way]] = [[(0.0, -1, -1) for _ in sounds[0]]]
    for chosen in range(1, len(sounds)):
        earlier = [(n, chosen & ~(1 << n)) for n in range(n_changes) if chosen >> n & 1]
        ways.append([_cheapest(sound, earlier, sounds, ways) for sound in sounds[chosen]])
    return ways


def _cheapest(
    sound: _Sound,
    earlier: Sequence[tuple[int, int]],
    sounds: Sequence[Sequence[_Sound]],
    ways: Sequence[Sequence[Way]],
) -> Way:
    best: Way = (math.inf, -1, -1)
    for changed, before in earlier:
        for place, from_ in enumerate(sounds[before]):
            leap = abs(sound.cents - from_.cents)
            cost = ways[before][place][0] + leap + DB_COUNTS * max(0.0, -sound.margin)
            cost += UNKNOWN_COUNTS * (not sound.known)
            if leap <= LEAP_CENTS and cost < best[0]:
                best = cost, changed, place
    return best


def _chain(
    first_hz: float,
    fingerings: Sequence[Fingering],
    sounds: Sequence[Sequence[_Sound]],
    ways: Sequence[Sequence[Way]],
    changes: Sequence[str],
    place: int,
) -> list[Stone]:
    found, chosen = [], len(fingerings) - 1
    while True:
        here, (_, changed, before) = sounds[chosen][place], ways[chosen][place]
        hertz = first_hz * 2 ** (here.cents / CENTS)
        found.append(Stone(fingerings[chosen], changes[changed] if chosen else "", hertz, here.margin))
        if not chosen:
            return found[::-1]
        chosen, place = chosen & ~(1 << changed), before


def _mixed(held: Fingering, wanted: Fingering, changed: Sequence[str]) -> Fingering:
    """The start with some touches as the goal has them."""
    full = (held.full - set(changed)) | (wanted.full & set(changed))
    half = (held.half - set(changed)) | (wanted.half & set(changed))
    return Fingering(full, half)


def _sounds(
    model: Model,
    fingerings: Sequence[Fingering],
    first: Pitch,
    last: Pitch,
    known: Collection[tuple[Fingering, int]],
) -> list[list[_Sound]]:
    """What each mixture may sound on the way; the ends sound their own notes, as well as they can."""
    low, high = sorted((first.midi, last.midi))
    notes = [spell(midi) for midi in range(low - BEYOND, high + BEYOND + 1)]
    ends = {0: first, len(fingerings) - 1: last}
    held = [not unholdable(model.instrument, fingering) for fingering in fingerings]
    # All hole states together: a hundred times quicker than one after the other below.
    model.resonances([fingering for fingering, may in zip(fingerings, held, strict=True) if may])
    found: list[list[_Sound]] = []
    for place, fingering in enumerate(fingerings):
        if not held[place]:
            found.append([])
            continue
        asked = [ends[place]] if place in ends else notes
        answers = model.predict([(fingering, note) for note in asked])
        found.append(
            [
                _Sound(
                    100.0 * (note.midi - first.midi) + answer.cents,
                    answer.margin,
                    (fingering, note.midi) in known,
                )
                for note, answer in zip(asked, answers, strict=True)
                if answer and answer.margin >= -LOST_DB and (place in ends or abs(answer.cents) <= OFF_CENTS)
            ]
        )
    return found
