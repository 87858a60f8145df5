"""Note names as teachers say and type them: "F#6", "f sharp", "B♭4 A4 G4"."""

from __future__ import annotations

import re

from core.errors import PitchError
from core.music.pitch import STEPS, Pitch, key_alter

NAMES_LIMIT = 200
# A sign stands right behind its letter, but for words: "a b" are two notes.
NAME = re.compile(
    r"(?P<step>[A-Ga-g])"
    r"(?P<sign>##|#|♯|x|bb|b|♭|♮|[- ]?(?:double[- ])?(?:sharp|flat|natural)(?![a-z]))?"
    r"(?:\s?(?P<octave>-?\d))?",
    re.IGNORECASE,
)
REST = re.compile(r"(?:rest|pause|r|z)\b", re.IGNORECASE)
BETWEEN = re.compile(r"[\s,;|·-]*")
SIGNS = {"##": 2, "x": 2, "#": 1, "♯": 1, "b": -1, "♭": -1, "bb": -2, "♮": 0}
SIGN_WORDS = {"sharp": 1, "flat": -1, "natural": 0}


def parse_names(text: str, near: Pitch, key_fifths: int = 0) -> list[Pitch | None]:
    """Read note names; None for a rest.

    A name without a sign has that of the key; one without an octave lies nearest to the note before.

    Parameters
    ----------
    text : str
        As ``C4 E-flat G rest``.
    near : Pitch
        What the first name without an octave lies near to.
    key_fifths : int, -7 to 7
        Sharps of the key signature; flats negative.

    Returns
    -------
    list of Pitch or None

    Raises
    ------
    PitchError
        If something is no name, or there are more than `NAMES_LIMIT`; it says how names are written.

    Examples
    --------
    >>> from core.music.pitch import parse_pitch
    >>> [str(p) if p else "rest" for p in parse_names("F#6, e flat rest B♭4 a", parse_pitch("C5"))]
    ['F♯6', 'E♭6', 'rest', 'B♭4', 'A4']
    """
    found: list[Pitch | None] = []
    at = BETWEEN.match(text).end()  # type: ignore[union-attr]  # it matches nothing, too
    while at < len(text):
        match = REST.match(text, at)
        if match:
            found.append(None)
        else:
            match = NAME.match(text, at)
            if match is None or text[match.end() : match.end() + 1].isalnum():
                word = re.split(r"[\s,;]", text[at : at + 20])[0]
                raise PitchError(f"“{word}” is no note; write notes like F#6, B flat 4, or rest")
            pitch = _pitch(match, near, key_fifths)
            near = pitch
            found.append(pitch)
        if len(found) > NAMES_LIMIT:
            raise PitchError(f"at most {NAMES_LIMIT} notes can be typed at once")
        at = BETWEEN.match(text, match.end()).end()  # type: ignore[union-attr]
    return found


def _pitch(match: re.Match[str], near: Pitch, key_fifths: int) -> Pitch:
    step, sign = match["step"].upper(), (match["sign"] or "").strip(" -").lower()
    if not sign:
        alter = key_alter(step, key_fifths)
    elif sign in SIGNS:
        alter = SIGNS[sign]
    else:
        alter = SIGN_WORDS[re.split(r"[- ]", sign)[-1]] * (2 if sign.startswith("double") else 1)
    if match["octave"]:
        return Pitch(step, alter, int(match["octave"]))
    octaves = (
        Pitch(step, alter, octave) for octave in range(max(-1, near.octave - 1), min(9, near.octave + 1) + 1)
    )
    return min(octaves, key=lambda pitch: abs(_height(pitch) - _height(near)))


def _height(pitch: Pitch) -> int:
    """Steps of the staff, whatever the signs."""
    return 7 * pitch.octave + STEPS.index(pitch.step)
