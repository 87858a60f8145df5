"""Ready-made lines to begin from: scales, arpeggios, chromatic runs, interval studies."""

from __future__ import annotations

from enum import StrEnum

from core.errors import PitchError
from core.music.pitch import Pitch
from core.music.scale import scale

# Degrees of a scale in its chord, counted from the keynote.
CHORD = (0, 2, 4)


class Study(StrEnum):
    """What kinds there are."""

    SCALE = "scale"
    ARPEGGIO = "arpeggio"
    CHROMATIC = "chromatic run"
    THIRDS = "in thirds"
    FOURTHS = "in fourths"
    SIXTHS = "in sixths"
    OCTAVES = "in octaves"


APART = {Study.THIRDS: 2, Study.FOURTHS: 3, Study.SIXTHS: 5, Study.OCTAVES: 7}


def study(kind: Study, tonic: str, mode: str, low: Pitch, high: Pitch) -> list[Pitch]:
    """The notes of a study from a low note up to a high one, and down again.

    Parameters
    ----------
    kind : Study
    tonic : str
        One of `TONICS`.
    mode : str
        One of `MODES`.
    low, high : Pitch

    Returns
    -------
    list of Pitch

    Raises
    ------
    PitchError
        As `core.music.scale.scale`; or if no two notes of the study lie in the range.

    Examples
    --------
    >>> from core.music.pitch import parse_pitch
    >>> [str(p) for p in study(Study.ARPEGGIO, "D", "major", parse_pitch("D4"), parse_pitch("D5"))]
    ['D4', 'F♯4', 'A4', 'D5', 'A4', 'F♯4', 'D4']
    """
    if low.midi > high.midi:
        low, high = high, low
    if kind is Study.CHROMATIC:
        up = scale(tonic, "chromatic", low, high)
        return _there_and_back(up, up[::-1])
    steps = scale(tonic, mode, low, high)
    if kind is Study.ARPEGGIO:
        root = [place for place, pitch in enumerate(steps) if pitch.ascii.rstrip("0123456789-") == tonic]
        if not root:
            raise PitchError(f"no {tonic} lies from {low} to {high}")
        up = [pitch for place, pitch in enumerate(steps) if (place - root[0]) % 7 in CHORD]
        return _there_and_back(up, up[::-1])
    if kind in APART:
        apart = APART[kind]
        if len(steps) <= apart:
            raise PitchError(f"from {low} to {high} is too little for a study {kind.value}")
        pairs = list(zip(steps, steps[apart:], strict=False))
        return [note for pair in pairs for note in pair] + [
            note for low_note, high_note in reversed(pairs) for note in (high_note, low_note)
        ]
    return _there_and_back(steps, scale(tonic, mode, low, high, down=True))


def _there_and_back(up: list[Pitch], down: list[Pitch]) -> list[Pitch]:
    """Up, then down without the top again."""
    return up + [pitch for pitch in down if pitch.midi < up[-1].midi]
