"""Scales to be walked from note to note, spelled by their key."""

from __future__ import annotations

from core.errors import PitchError
from core.music.pitch import STEPS, Pitch, parse_pitch, spell

# Semitones above the tonic, upward; the melodic minor comes down as the natural one.
MODES = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "natural minor": (0, 2, 3, 5, 7, 8, 10),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "melodic minor": (0, 2, 3, 5, 7, 9, 11),
    "chromatic": tuple(range(12)),
}
TONICS = ("C", "G", "D", "A", "E", "B", "F#", "C#", "F", "Bb", "Eb", "Ab", "Db", "Gb", "Cb", "G#", "D#", "A#")


def tonic_fifths(tonic: str) -> int:
    """Place of a tonic on the line of fifths, C at 0.

    Parameters
    ----------
    tonic : str
        As ``B-flat``, one of `TONICS`.

    Returns
    -------
    int, fifths

    Raises
    ------
    PitchError
        If it is not one of `TONICS`.
    """
    if tonic not in TONICS:
        raise PitchError(f"a key must begin on one of {', '.join(TONICS)}, got {tonic!r}")
    return parse_pitch(f"{tonic}4").fifths


def tonic_name(tonic: str) -> str:
    """A tonic as it is printed.

    Parameters
    ----------
    tonic : str
        One of `TONICS`.

    Returns
    -------
    str

    Examples
    --------
    >>> tonic_name("Bb"), tonic_name("F#")
    ('B♭', 'F♯')
    """
    return tonic.replace("#", "♯").replace("b", "♭")


def scale(tonic: str, mode: str, low: Pitch, high: Pitch, *, down: bool = False) -> list[Pitch]:
    """Every written note of a scale within a range, upward, or downward.

    Parameters
    ----------
    tonic : str
        One of `TONICS`.
    mode : str
        One of `MODES`.
    low, high : Pitch
        Ends of the range, both included.
    down : bool

    Returns
    -------
    list of Pitch

    Raises
    ------
    PitchError
        If tonic or mode is not known, or no note of the scale lies in the range.

    Examples
    --------
    >>> [str(p) for p in scale("D", "major", parse_pitch("C4"), parse_pitch("A4"))]
    ['C♯4', 'D4', 'E4', 'F♯4', 'G4', 'A4']
    """
    if mode not in MODES:
        raise PitchError(f"a scale must be one of {', '.join(MODES)}, got {mode!r}")
    fifths = tonic_fifths(tonic)
    root = parse_pitch(f"{tonic}4")
    degrees = MODES["natural minor" if mode == "melodic minor" and down else mode]
    found = []
    for midi in range(low.midi, high.midi + 1):
        above = (midi - root.midi) % 12
        if above in degrees:
            found.append(_spelled(midi, root, degrees.index(above), mode, fifths))
    if not found:
        raise PitchError(f"no note of this scale lies from {low} to {high}")
    return found[::-1] if down else found


def _spelled(midi: int, root: Pitch, degree: int, mode: str, fifths: int) -> Pitch:
    if mode == "chromatic":
        return spell(midi, max(-7, min(7, fifths)))
    step = STEPS[(STEPS.index(root.step) + degree) % 7]
    for octave in (midi // 12 - 2, midi // 12 - 1, midi // 12):
        natural = Pitch(step, 0, octave).midi if -1 <= octave <= 9 else -99
        if abs(midi - natural) <= 2:
            return Pitch(step, midi - natural, octave)
    return spell(midi)


def keys_with(midi: int) -> list[int]:
    """Major keys that hold a note, by their signs: those with the fewest first, sharps before flats.

    Parameters
    ----------
    midi : int, 0 to 127
        Written note.

    Returns
    -------
    list of int, -7 to 7
    """
    keys = [fifths for fifths in range(-5, 7) if (midi - 7 * fifths) % 12 in MODES["major"]]
    return sorted(keys, key=lambda fifths: (abs(fifths), fifths < 0))


def major_tonic(fifths: int) -> str:
    """The tonic of a major key by its signs, one of `TONICS`.

    Parameters
    ----------
    fifths : int, -7 to 7
        Sharps of a key signature; flats negative.

    Returns
    -------
    str

    Examples
    --------
    >>> major_tonic(-3), major_tonic(1)
    ('Eb', 'G')
    """
    return next(tonic for tonic in TONICS if tonic_fifths(tonic) == fifths)
