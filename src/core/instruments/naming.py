"""How touches are said to a player: in short words, hand by hand, as a teacher names them.

The notation of `core.instruments.fingering` is for files and addresses. What is said here can be typed, too:
`core.charts.chart_format.read_touches` reads every naming.
"""

from __future__ import annotations

import re
from enum import StrEnum

from core.instruments.fingering import OPEN, Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.parts import ROLLING_DIGITS, Touch

THROUGH_ORDINAL = {"first": "fourth", "second": "fifth", "third": "sixth"}
HANDS_PARTED = " · "
NO_HAND = "–"


class Naming(StrEnum):
    """How a teacher names touches."""

    EACH_HAND = "1 2 3 in each hand"
    THROUGH = "1 to 6, straight through"
    NUMBERED = "1 2 3 in each hand, palm and side touches by number"


def said(fingering: Fingering, instrument: Instrument, naming: Naming = Naming.EACH_HAND) -> str:
    """Say a fingering: the left hand, then the right.

    Thumbs first, then the other touches from the index finger on; a half hole is 1½, a vent only touched at
    the attack is flicked. No touch is "open".

    Parameters
    ----------
    fingering : Fingering
    instrument : Instrument
    naming : Naming

    Returns
    -------
    str
    """
    hands = [_hand(fingering, instrument, hand, naming) for hand in ("left", "right")]
    if not any(hands):
        return OPEN
    left, right = hands
    return HANDS_PARTED.join([left or NO_HAND, right]) if right else left


def numbered(touch: Touch, instrument: Instrument) -> str:
    """A palm or side touch by its number, counted from the one that sounds lowest; empty for any other.

    Parameters
    ----------
    touch : Touch
    instrument : Instrument

    Returns
    -------
    str
    """
    finger = instrument.finger(touch.finger)
    if finger.digit not in ROLLING_DIGITS:
        return ""
    names = [other.name for other in instrument.reach(finger)]
    return f"{finger.digit} {len(names) - names.index(touch.name)}"


def labelled(touch: Touch, instrument: Instrument, naming: Naming = Naming.EACH_HAND) -> str:
    """A touch in words, as within a sentence: "side B-flat", "palm 1", "fourth hole".

    Parameters
    ----------
    touch : Touch
    instrument : Instrument
    naming : Naming

    Returns
    -------
    str
    """
    if naming is Naming.NUMBERED and (number := numbered(touch, instrument)):
        return number
    if naming is Naming.THROUGH and re.fullmatch("R[123]", touch.name):
        ordinal, _, what = touch.label.partition(" ")
        return f"{THROUGH_ORDINAL[ordinal]} {what}"
    return touch.label


def short(touch: Touch, instrument: Instrument, naming: Naming = Naming.EACH_HAND) -> str:
    """A touch in a drawing, in at most three characters.

    Parameters
    ----------
    touch : Touch
    instrument : Instrument
    naming : Naming

    Returns
    -------
    str
    """
    if naming is Naming.NUMBERED and (number := numbered(touch, instrument)):
        finger, _, place = number.partition(" ")
        return finger[0] + place
    return _number(touch, naming) or touch.short


def _hand(fingering: Fingering, instrument: Instrument, hand: str, naming: Naming) -> str:
    thumbs: list[str] = []
    others: list[str] = []
    for touch in instrument.touches:
        held, finger = fingering.held(touch.name), instrument.finger(touch.finger)
        if held is None or finger.hand != hand:
            continue
        number = _number(touch, naming)
        word = number or _word(touch, instrument, naming)
        word = f"{word}½" if held is Held.HALF else f"flick {word}" if held is Held.MOMENTARY else word
        if finger.digit == "thumb":
            thumbs.append(word)
        elif number and others and others[-1][0].isdigit():
            others[-1] += f" {word}"
        else:
            others.append(word)
    by_thumb = " and ".join(filter(None, (", ".join(thumbs[:-1]), *thumbs[-1:])))
    return ", ".join(filter(None, (by_thumb, *others)))


def _number(touch: Touch, naming: Naming) -> str:
    """The number of a finger of the stack on its own touch."""
    match = re.fullmatch(r"([LR])([123])", touch.name)
    if not match:
        return ""
    place = int(match[2])
    return str(place + 3 if match[1] == "R" and naming is Naming.THROUGH else place)


def _word(touch: Touch, instrument: Instrument, naming: Naming) -> str:
    return in_signs(labelled(touch, instrument, naming).removesuffix(" touch").removesuffix(" hole"))


def in_signs(label: str) -> str:
    """A label with its signs instead of words: B♭ for B-flat.

    Parameters
    ----------
    label : str
        As ``B-flat``.

    Returns
    -------
    str

    Examples
    --------
    >>> in_signs("left F-sharp/C-sharp")
    'left F♯/C♯'
    """
    return re.sub(r"(?<=\b[A-G])-(flat|sharp)\b", lambda sign: "♭" if sign[1] == "flat" else "♯", label)
