"""The values of the fields of an ABC text: unit length, time signature, tempo, key. None: not understood."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction

from core.errors import PassageError, PitchError
from core.music.events import check_tempo
from core.music.pitch import parse_pitch

MODES = {"": 0, "maj": 0, "ion": 0, "m": -3, "min": -3, "aeo": -3, "mix": -1, "dor": -2, "phr": -4}
MODES |= {"lyd": 1, "loc": -5, "exp": 0}
SIGNS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
# Pipe keys: one writes no signs, the other two sharps.
PIPES = {"HP": 0, "Hp": 2}
NO_KEY = ("", "none", "perc")
CLEF_WORDS = ("clef", "bass", "treble", "alto", "tenor")
LENGTH = r"\d{1,3}/\d{1,3}"
TEMPO = re.compile(rf"(?:((?:{LENGTH}\s+)*{LENGTH})\s*=\s*|[Cc]\d?\s*=\s*)?(\d{{1,6}}(?:\.\d{{1,3}})?)")
# A sign that stands by itself after the key, or after another such.
KEY_SIGN = re.compile(r"(?:(?<=\s)|(?<=[\^_=][A-Ga-g]))(\^\^?|__?|=)([A-Ga-g])(?![A-Za-z])")


@dataclass(frozen=True)
class Key:
    """A key signature: its sharps, flats negative, and signs that it has besides, by step."""

    fifths: int
    signs: dict[str, int] = field(default_factory=dict)


def length_field(value: str) -> Fraction | None:
    """Read L:, the unit length, in quarters.

    Parameters
    ----------
    value : str
        What stands behind ``L:``.

    Returns
    -------
    Fraction or None
    """
    match = re.match(r"\s*(\d{1,3})(?:/(\d{1,3}))?(?![\d/])", value)
    if match is None or int(match[2] or 1) == 0 or int(match[1]) == 0:
        return None
    return 4 * Fraction(int(match[1]), int(match[2] or 1))


def metre(value: str) -> tuple[int, int] | None:
    """Read M:, the time signature.

    Parameters
    ----------
    value : str
        What stands behind ``M:``.

    Returns
    -------
    (int, int) or None
        Beats, and what a beat is; None for free time.
    """
    if value in ("C", "c", "C|", "c|"):
        return (2, 2) if "|" in value else (4, 4)
    match = re.match(r"\(?([\d+]{1,9})\)?/(\d{1,2})", value.replace(" ", ""))
    if match and all(match[1].split("+")):
        time = (sum(int(part) for part in match[1].split("+")), int(match[2]))
        if 1 <= time[0] <= 64 and time[1] in (1, 2, 4, 8, 16, 32, 64):
            return time
    return None


def tempo(value: str, unit: Fraction) -> tuple[float | None, str]:
    """Read Q:, the tempo in quarter notes a minute, and its words; `unit` is what a lone number counts.

    Parameters
    ----------
    value : str
        What stands behind ``Q:``.
    unit : Fraction

    Returns
    -------
    (float or None, str)
        Quarter notes a minute, None where none is said; words, empty for none.
    """
    words = " ".join(re.findall(r'"([^"]*)"', value))
    plain = re.sub(r'"[^"]*"', "", value).strip()
    match = TEMPO.match(plain)
    if match is None:
        return None, words or ("" if re.search(r"\d", plain) else plain)
    beat = unit if "=" in plain and not match[1] else Fraction(1)
    if match[1]:
        parts = [part.split("/") for part in match[1].split()]
        if any(int(below) == 0 for _, below in parts):
            return None, words
        beat = sum((4 * Fraction(int(above), int(below)) for above, below in parts), Fraction(0))
    try:
        return check_tempo(float(beat * Fraction(match[2]))), words
    except PassageError:
        return None, words


def key(value: str) -> Key | None:
    """Read K:, the key signature.

    Parameters
    ----------
    value : str
        What stands behind ``K:``.

    Returns
    -------
    Key or None
    """
    words = value.split()
    first = words[0] if words else ""
    if first in PIPES:
        return Key(PIPES[first])
    signs = {match[2].upper(): SIGNS[match[1]] for match in KEY_SIGN.finditer(value)}
    match = re.match(r"([A-G])([#b♯♭]?)\s*([A-Za-z]*)", value)
    if match is None or first.split("=")[0] in CLEF_WORDS:
        plain = first.lower() in NO_KEY or "=" in first or first in CLEF_WORDS or signs
        return Key(0, signs) if plain else None
    mode = match[3].lower()[:3]
    known = mode in MODES and not value[match.end() :].startswith("=")
    sign = match[2].replace("♯", "#").replace("♭", "b")
    try:
        fifths = parse_pitch(f"{match[1]}{sign}4").fifths + (MODES[mode] if known else 0)
    except PitchError:
        return None
    if mode == "exp":
        fifths = 0
    return Key(fifths, signs) if -7 <= fifths <= 7 else None
