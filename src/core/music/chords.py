"""Chord symbols over a line: their root, what they sound, and how they move with the music.

A symbol is kept as text in plain letters, such as ``Bbm7/F``, for written pitch like the notes under it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import lru_cache

from core.errors import NotationError
from core.music.pitch import Interval, Pitch

CHORD_LIMIT = 24
NO_CHORD = "N.C."
# Tones above the root as (steps of the staff, semitones): the triad, and the seventh or sixth. What goes
# beyond the seventh colours a chord and is no tone to rest on.
THIRD, MINOR_THIRD, FIFTH = (2, 4), (2, 3), (4, 7)
TRIADS: dict[str, tuple[tuple[int, int], ...]] = {
    "": (THIRD, FIFTH),
    "m": (MINOR_THIRD, FIFTH),
    "dim": (MINOR_THIRD, (4, 6)),
    "aug": (THIRD, (4, 8)),
}
TRIADS |= {"sus4": ((3, 5), FIFTH), "sus2": ((1, 2), FIFTH), "5": (FIFTH,)}
SEVENTHS = {"7": (6, 10), "maj7": (6, 11), "6": (5, 9), "dim7": (6, 9)}
# What follows the root, by the triad and the seventh that it means.
KINDS: dict[str, tuple[str, str]] = {
    "": ("", ""),
    "m": ("m", ""),
    "dim": ("dim", ""),
    "aug": ("aug", ""),
    "sus4": ("sus4", ""),
    "sus2": ("sus2", ""),
    "5": ("5", ""),
    "7": ("", "7"),
    "9": ("", "7"),
    "11": ("", "7"),
    "13": ("", "7"),
    "maj7": ("", "maj7"),
    "maj9": ("", "maj7"),
    "maj11": ("", "maj7"),
    "maj13": ("", "maj7"),
    "m7": ("m", "7"),
    "m9": ("m", "7"),
    "m11": ("m", "7"),
    "m13": ("m", "7"),
    "mmaj7": ("m", "maj7"),
    "6": ("", "6"),
    "m6": ("m", "6"),
    "dim7": ("dim", "dim7"),
    "m7b5": ("dim", "7"),
    "aug7": ("aug", "7"),
    "7sus4": ("sus4", "7"),
}
# Other ways to write the same.
ALIASES = {"M7": "maj7", "ma7": "maj7", "Δ7": "maj7", "Δ": "maj7", "maj": "", "M": "", "min": "m", "mi": "m"}
ALIASES |= {
    "-": "m",
    "+": "aug",
    "°7": "dim7",
    "o7": "dim7",
    "°": "dim",
    "o": "dim",
    "ø7": "m7b5",
    "ø": "m7b5",
}
ALIASES |= {"min7": "m7", "mi7": "m7", "-7": "m7", "-7b5": "m7b5", "+7": "aug7", "7+": "aug7", "sus": "sus4"}
ALIASES |= {"min6": "m6", "-6": "m6", "min9": "m9", "-9": "m9", "min7b5": "m7b5", "mM7": "mmaj7"}
WORDS = sorted({**KINDS, **ALIASES}, key=len, reverse=True)
# Names of kinds in MusicXML.
MUSICXML_KINDS = {
    "": "major",
    "m": "minor",
    "dim": "diminished",
    "aug": "augmented",
    "sus4": "suspended-fourth",
    "sus2": "suspended-second",
    "5": "power",
    "7": "dominant",
    "9": "dominant-ninth",
    "11": "dominant-11th",
    "13": "dominant-13th",
    "maj7": "major-seventh",
    "maj9": "major-ninth",
    "maj11": "major-11th",
    "maj13": "major-13th",
    "m7": "minor-seventh",
    "m9": "minor-ninth",
    "m11": "minor-11th",
    "m13": "minor-13th",
    "mmaj7": "major-minor",
    "6": "major-sixth",
    "m6": "minor-sixth",
    "dim7": "diminished-seventh",
    "m7b5": "half-diminished",
    "aug7": "augmented-seventh",
}
CHORD_KINDS = {name: kind for kind, name in MUSICXML_KINDS.items()}
_ROOT = r"([A-G])(##|#|bb|b)?"
_SYMBOL = re.compile(rf"{_ROOT}(\S*?)(?:/{_ROOT})?")
_ALTERS = {"": 0, "#": 1, "##": 2, "b": -1, "bb": -2}
_ASCII = {alter: sign for sign, alter in _ALTERS.items()}
_FIFTH = re.compile(r"([b#+-])5")


@dataclass(frozen=True)
class ChordSymbol:
    """A chord that is read.

    Parameters
    ----------
    root, bass : Pitch
        In the octave of middle C; the bass is the root unless another is written.
    kind : str
        Of `KINDS`.
    written : str
        What follows the root, as it is written.
    """

    root: Pitch
    bass: Pitch
    kind: str
    written: str

    @property
    def tones(self) -> tuple[Pitch, ...]:
        """Root, third, fifth and what makes it a seventh or sixth, spelled, each once."""
        triad, seventh = KINDS[self.kind]
        parts = [(0, 0), *TRIADS[triad]]
        if altered := _FIFTH.search(self.written):
            parts[-1] = (4, 6) if altered[1] in "b-" else (4, 8)
        parts += [SEVENTHS[seventh]] if seventh else []
        pitches = [Interval(*part).apply(self.root) for part in parts]
        return tuple({pitch.midi % 12: pitch for pitch in [*pitches, self.bass]}.values())

    def __str__(self) -> str:
        name = f"{_name(self.root)}{self.written}"
        return name if self.bass == self.root else f"{name}/{_name(self.bass)}"


def _name(pitch: Pitch) -> str:
    return f"{pitch.step}{_ASCII[pitch.alter]}"


@lru_cache(maxsize=512)
def parse_chord(text: str) -> ChordSymbol | None:
    """Read a chord symbol; None where no chord is wanted.

    Parameters
    ----------
    text : str
        As ``F#m7/C#``.

    Returns
    -------
    ChordSymbol or None

    Raises
    ------
    NotationError
        If it is no chord symbol.

    Examples
    --------
    >>> [str(tone)[:-1] for tone in parse_chord("Bbm7/F").tones]
    ['B♭', 'D♭', 'F', 'A♭']
    """
    plain = text.strip().replace("♭", "b").replace("♯", "#").replace("(", "").replace(")", "")
    if plain.upper().rstrip(".") in ("N.C", "NC"):
        return None
    found = _SYMBOL.fullmatch(plain) if len(plain) <= CHORD_LIMIT else None
    if found is None:
        raise NotationError(f"a chord must read like Dm7 or Bb/F, got “{text[:CHORD_LIMIT]}”")
    step, sign, written, bass, bass_sign = found.groups()
    word = next((word for word in WORDS if written.startswith(word)), "")
    kind = ALIASES.get(word, word)
    if written and not word and not re.match(r"add|[b#+-]|omit|no", written):
        raise NotationError(f"“{written}” is not known after the root of a chord; write it like Dm7 or Bb/F")
    root = Pitch(step, _ALTERS[sign or ""], 4)
    return ChordSymbol(root, Pitch(bass, _ALTERS[bass_sign or ""], 4) if bass else root, kind, written)


def chord_text(text: str) -> str:
    """A chord symbol in plain letters.

    Parameters
    ----------
    text : str
        As it was typed or printed.

    Returns
    -------
    str

    Raises
    ------
    NotationError
        If it is none.

    Examples
    --------
    >>> chord_text("B♭m7"), chord_text("NC")
    ('Bbm7', 'N.C.')
    """
    chord = parse_chord(text)
    return str(chord) if chord else NO_CHORD


def chord_moved(text: str, interval: Interval) -> str:
    """A chord symbol that moves with its music.

    Parameters
    ----------
    text : str
        As ``F#m7/C#``; what cannot be read stays as it is.
    interval : Interval

    Returns
    -------
    str

    Examples
    --------
    >>> chord_moved("Bbm7/F", Interval(1, 2))
    'Cm7/G'
    """
    chord = parse_chord(text)
    if chord is None:
        return text
    return str(replace(chord, root=_moved(chord.root, interval), bass=_moved(chord.bass, interval)))


def _moved(pitch: Pitch, interval: Interval) -> Pitch:
    return replace(interval.apply(pitch), octave=4)
