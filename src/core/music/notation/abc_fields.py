"""The values of the fields of an ABC text: unit length, time signature, tempo, key."""

from __future__ import annotations

import re
from collections.abc import Callable
from fractions import Fraction

from core.errors import NotationError, PassageError
from core.music.events import check_tempo
from core.music.pitch import parse_pitch

MODES = {"": 0, "maj": 0, "ion": 0, "m": -3, "min": -3, "aeo": -3, "mix": -1, "dor": -2, "phr": -4}
MODES |= {"lyd": 1, "loc": -5}
Fail = Callable[[str], NotationError]


def length_field(value: str, fail: Fail) -> Fraction:
    """Read L:, the unit length, in quarters."""
    match = re.fullmatch(r"(\d{1,3})(?:/(\d{1,3}))?", value)
    if match is None or int(match[2] or 1) == 0 or int(match[1]) == 0:
        raise fail(f"L: must be a length such as 1/8, got {value[:20]!r}")
    return 4 * Fraction(int(match[1]), int(match[2] or 1))


def metre(value: str, fail: Fail) -> tuple[int, int]:
    """Read M:, the time signature."""
    if value in ("C", "C|"):
        return (4, 4) if value == "C" else (2, 2)
    match = re.fullmatch(r"\(?([\d+]{1,9})\)?/(\d{1,2})", value.replace(" ", ""))
    if match and all(match[1].split("+")):
        time = (sum(int(part) for part in match[1].split("+")), int(match[2]))
        if 1 <= time[0] <= 64 and time[1] in (1, 2, 4, 8, 16, 32, 64):
            return time
    raise fail(f"M: must be a time signature such as 4/4, got {value[:20]!r}")


def tempo(value: str, fail: Fail) -> float:
    """Read Q:, the tempo in quarter notes a minute."""
    value = re.sub(r'"[^"]*"', "", value).strip()
    match = re.fullmatch(r"(?:(\d{1,3})/(\d{1,3})\s*=\s*)?(\d{1,6}(?:\.\d{1,3})?)", value)
    if match is None or (match[2] and int(match[2]) == 0):
        raise fail(f"Q: must be a tempo such as 1/4=96, got {value[:20]!r}")
    unit = 4 * Fraction(int(match[1]), int(match[2])) if match[1] else Fraction(1)
    bpm = float(unit * Fraction(match[3]))
    try:
        return check_tempo(bpm)
    except PassageError as error:
        raise fail(str(error)) from error


def key(value: str, fail: Fail) -> int:
    """Read K:, as sharps of the key signature, flats negative."""
    match = re.match(r"\s*(?:(none)|([A-G])([#b]?)\s*([A-Za-z]*))?", value)
    if match is None or not match[2]:
        if value and not value.startswith(("none", "clef", "treble")):
            raise fail(f"K: must be a key such as G, Bb or Dm, got {value[:20]!r}")
        return 0
    mode = "" if "=" in value[: match.end() + 1] else match[4].lower()[:3]
    mode = "" if mode in ("cle", "tre", "bas") else mode
    if mode not in MODES:
        raise fail(f"K: must be a key such as G, Bb or Dm, got {value[:20]!r}")
    fifths = parse_pitch(f"{match[2]}{match[3]}4").fifths + MODES[mode]
    if not -7 <= fifths <= 7:
        raise fail(f"the key must have from 7 flats to 7 sharps, got {value[:20]!r}")
    return fifths
