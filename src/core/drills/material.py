"""What drills are made from: a note, or a spot of a passage, as the music that they serve fingers it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from fractions import Fraction

from core.errors import PassageError
from core.music.passage import Passage
from core.music.pitch import Pitch

SPOT_MOST = 64


class DrillKind(StrEnum):
    """What a drill is."""

    LONG_TONES = "long tones"
    ATTACKS = "attacks"
    SLURS = "slurs across the register"
    TRILL = "trill"
    LOOPS = "five-note loops"
    SCALES = "scales"
    ARPEGGIOS = "arpeggios"
    RHYTHM = "other rhythms"
    ADD_A_NOTE = "add a note"
    THROUGH_KEYS = "through the keys"
    OCTAVES = "through the octaves"
    COLOURS = "colours"
    MATCHING = "overtone matching"
    STONES = "stepping stones"


@dataclass(frozen=True)
class Served:
    """A note of the music that drills serve.

    Parameters
    ----------
    pitch : Pitch
        Written.
    quarters : Fraction
        From its beginning to that of the next, or its length.
    fingering : str
        Touches chosen there, in the notation of `core.instruments.fingering`, or empty for none.
    """

    pitch: Pitch
    quarters: Fraction
    fingering: str = ""


@dataclass(frozen=True)
class Material:
    """What drills are made from.

    Parameters
    ----------
    notes : tuple of Served
        From 1 to 64; of one note alone the note itself.
    fifths : int
        Key signature in force, in sharps above 0 and flats below.
    tempo_bpm : float, quarter notes a minute
        At which a drill begins at most: where the hands are called safe in the music that it serves.
    playable : frozenset of int
        Written semitones that have a fingering at hand.
    top : int
        The highest note that a drill may go to beside those of the spot: the reach.
    fingerings : mapping of int to str
        Touches that the music chose, by semitone, where it has the note.
    colours, harmonics : tuple of str
        Touches of other fingerings of the last note: for colour, and as a partial of a lower one.
    stones : tuple of (Pitch, str)
        The way to the fingering of the last note, one touch at a time, with the note that each sounds.

    Raises
    ------
    PassageError
        If there are too few notes or too many.
    """

    notes: tuple[Served, ...]
    fifths: int
    tempo_bpm: float
    playable: frozenset[int]
    top: int
    fingerings: Mapping[int, str] = field(default_factory=dict)
    colours: tuple[str, ...] = ()
    harmonics: tuple[str, ...] = ()
    stones: tuple[tuple[Pitch, str], ...] = ()

    def __post_init__(self) -> None:
        if not 1 <= len(self.notes) <= SPOT_MOST:
            raise PassageError(f"a drill serves from 1 to {SPOT_MOST} notes, got {len(self.notes)}")

    @property
    def highest(self) -> Served:
        """The highest note, of equals the first: what the drills of one note are for."""
        return max(self.notes, key=lambda note: note.pitch.midi)

    def within(self, midi: int) -> bool:
        """Whether a drill may go to a note.

        Parameters
        ----------
        midi : int, 0 to 127
            Written note.

        Returns
        -------
        bool
        """
        return midi in self.playable and midi <= max(self.top, self.highest.pitch.midi)


@dataclass(frozen=True)
class Drill:
    """Something to practise.

    Parameters
    ----------
    name, purpose : str
        What it is, and what it is for, in a teacher's words.
    passage : Passage
        The music, with the fingerings of the music that it serves under its notes.
    """

    kind: DrillKind
    name: str
    purpose: str
    passage: Passage
