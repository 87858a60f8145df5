"""Spelled pitches, written and sounding, transposition, cents and the tuning reference.

Octaves are numbered so that C4 is middle C; A4 is the tuning note at concert pitch.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache

from core.errors import PitchError

STEPS = "CDEFGAB"
SHARP_ORDER = "FCGDAEB"
_SEMITONES = (0, 2, 4, 5, 7, 9, 11)
_FIFTHS = {"F": -1, "C": 0, "G": 1, "D": 2, "A": 3, "E": 4, "B": 5}
_ALTERS = {"": 0, "#": 1, "♯": 1, "##": 2, "x": 2, "𝄪": 2, "b": -1, "♭": -1, "bb": -2, "𝄫": -2}
_ALTERS |= {"-sharp": 1, "-flat": -1}
_PATTERN = re.compile(r"([A-Ga-g])(##|#|♯|x|𝄪|bb|b|♭|𝄫|-sharp|-flat)?(-?\d)")
_SIGNS = {-2: "𝄫", -1: "♭", 0: "", 1: "♯", 2: "𝄪"}
_ASCII = {-2: "bb", -1: "b", 0: "", 1: "#", 2: "##"}

A4_HZ_MIN, A4_HZ_MAX = 430.0, 450.0
A4_MIDI = 69


@dataclass(frozen=True, order=False)
class Pitch:
    """A spelled pitch; whether it is written or sounding is said by the name that holds it.

    Parameters
    ----------
    step : str
        One of C D E F G A B.
    alter : int, -2 to 2
        Semitones by which the sign changes the step.
    octave : int, -1 to 9
        C4 is middle C.
    """

    step: str
    alter: int
    octave: int

    def __post_init__(self) -> None:
        if self.step not in STEPS or len(self.step) != 1:
            raise PitchError(f"step must be one of C D E F G A B, got {self.step!r}")
        if not -2 <= self.alter <= 2:
            raise PitchError(f"a sign must change a step by at most two semitones, got {self.alter}")
        if not -1 <= self.octave <= 9:
            raise PitchError(f"octave must be from -1 to 9, got {self.octave}")

    @property
    def midi(self) -> int:
        """Semitones counted so that C4 is 60; equal for enharmonic spellings."""
        return 12 * (self.octave + 1) + _SEMITONES[STEPS.index(self.step)] + self.alter

    @property
    def fifths(self) -> int:
        """Place on the line of fifths, C at 0, sharps upward."""
        return _FIFTHS[self.step] + 7 * self.alter

    @property
    def ascii(self) -> str:
        """The pitch in plain letters, as data files write it: ``F#6``, ``Bb3``."""
        return f"{self.step}{_ASCII[self.alter]}{self.octave}"

    def __str__(self) -> str:
        return f"{self.step}{_SIGNS[self.alter]}{self.octave}"


def parse_pitch(text: str) -> Pitch:
    """Read a pitch such as ``F#6``, ``B♭3`` or ``E-flat4``.

    Parameters
    ----------
    text : str

    Returns
    -------
    Pitch

    Raises
    ------
    PitchError
        If the text is not a pitch.

    Examples
    --------
    >>> str(parse_pitch("Bb3")), parse_pitch("c4").midi
    ('B♭3', 60)
    """
    match = _PATTERN.fullmatch(text.strip())
    if match is None:
        raise PitchError(f"a pitch must read like F#6 or Bb3, got {text!r}")
    step, sign, octave = match.groups()
    return Pitch(step.upper(), _ALTERS[sign or ""], int(octave))


@dataclass(frozen=True)
class Interval:
    """A transposition: steps of the staff and semitones, both signed alike.

    Examples
    --------
    >>> alto = Interval(steps=-5, semitones=-9)  # written to sounding: a major sixth down
    >>> str(alto.apply(parse_pitch("F#6"))), str(alto.inverse.apply(parse_pitch("A5")))
    ('A5', 'F♯6')
    """

    steps: int
    semitones: int

    @property
    def inverse(self) -> Interval:
        """The way back."""
        return Interval(-self.steps, -self.semitones)

    @property
    def fifths(self) -> int:
        """Change that the transposition makes to a key signature."""
        return 7 * self.semitones - 12 * self.steps

    def apply(self, pitch: Pitch) -> Pitch:
        """Transpose a pitch, keeping its spelling; more than a double sign is respelled.

        Parameters
        ----------
        pitch : Pitch

        Returns
        -------
        Pitch

        Raises
        ------
        PitchError
            If the result lies outside octaves -1 to 9.
        """
        octave, index = divmod(pitch.octave * 7 + STEPS.index(pitch.step) + self.steps, 7)
        natural = 12 * (octave + 1) + _SEMITONES[index]
        alter = pitch.midi + self.semitones - natural
        if abs(alter) > 2:
            return spell(pitch.midi + self.semitones)
        return Pitch(STEPS[index], alter, octave)


def key_alter(step: str, fifths: int) -> int:
    """The sign that a key signature gives a step: 1 sharp, -1 flat, 0 none.

    Parameters
    ----------
    step : str
        A letter from A to G.
    fifths : int, -7 to 7
        Sharps of a key signature; flats negative.

    Returns
    -------
    int, -1 to 1

    Examples
    --------
    >>> key_alter("F", 1), key_alter("B", -1), key_alter("C", 1)
    (1, -1, 0)
    """
    if fifths >= 0:
        return int(step in SHARP_ORDER[:fifths])
    return -int(step in SHARP_ORDER[fifths:])


@lru_cache(maxsize=512)
def spell(midi: int, key_fifths: int = 0) -> Pitch:
    """Spell a semitone number by the signs nearest to a key signature.

    Parameters
    ----------
    midi : int, 0 to 127
    key_fifths : int, -7 to 7
        Sharps of the key signature (flats negative).

    Returns
    -------
    Pitch

    Raises
    ------
    PitchError
        If it is not from 0 to 127.

    Examples
    --------
    >>> str(spell(78)), str(spell(78, key_fifths=-5)), str(spell(70, key_fifths=-1))
    ('F♯5', 'G♭5', 'B♭4')
    """
    if not 0 <= midi <= 127:
        raise PitchError(f"a semitone number must be from 0 to 127, got {midi}")
    # The centre of the notes used in a major key lies two fifths above its name.
    options = [
        Pitch(step, alter, octave)
        for step in STEPS
        for alter in (-1, 0, 1)
        for octave in (midi // 12 - 2, midi // 12 - 1, midi // 12)
        if -1 <= octave <= 9 and Pitch(step, alter, octave).midi == midi
    ]
    return min(options, key=lambda pitch: (abs(pitch.fifths - key_fifths - 2), pitch.alter))


def both_names(midi: int) -> list[str]:
    """Names of a note: one for a natural, flat and sharp for what lies between.

    Parameters
    ----------
    midi : int, 0 to 127
        Written note.

    Returns
    -------
    list of str

    Examples
    --------
    >>> both_names(70), both_names(72)
    (['B♭4', 'A♯4'], ['C5'])
    """
    names = [spell(midi, fifths) for fifths in (-5, 5)]
    natural = [spell(midi)] if spell(midi).alter == 0 else names
    return [str(pitch) for pitch in natural]


def check_a4(a4_hz: float) -> float:
    """Return the tuning reference if it is one.

    Parameters
    ----------
    a4_hz : float, Hz

    Returns
    -------
    float, Hz

    Raises
    ------
    PitchError
        If `a4_hz` is not from 430 to 450 Hz.
    """
    if not (math.isfinite(a4_hz) and A4_HZ_MIN <= a4_hz <= A4_HZ_MAX):
        raise PitchError(f"A4 must be from {A4_HZ_MIN:.0f} to {A4_HZ_MAX:.0f} Hz, got {a4_hz:g}")
    return a4_hz


def frequency_hz(sounding_pitch: Pitch, a4_hz: float = 440.0) -> float:
    """Equal-tempered frequency of a sounding pitch.

    Parameters
    ----------
    sounding_pitch : Pitch
    a4_hz : float, Hz, above 0

    Returns
    -------
    float, Hz

    Examples
    --------
    >>> frequency_hz(parse_pitch("A5"))
    880.0
    """
    return float(check_a4(a4_hz) * 2.0 ** ((sounding_pitch.midi - A4_MIDI) / 12))


def cents_between(from_hz: float, to_hz: float) -> float:
    """Interval from one frequency to another in cents, positive upward.

    Parameters
    ----------
    from_hz, to_hz : float, Hz, above 0

    Returns
    -------
    float, cents

    Raises
    ------
    PitchError
        If one is not above 0.

    Examples
    --------
    >>> cents_between(440.0, 880.0)
    1200.0
    """
    if not (from_hz > 0 and to_hz > 0):
        raise PitchError(f"frequencies must be above 0 Hz, got {from_hz:g} and {to_hz:g}")
    return 1200.0 * math.log2(to_hz / from_hz)
