"""Attempts: one note, link or spot played once, and what came of it.

A spot is two notes or more one after the other, as they are fingered; a link is a spot of two. What came of
it is said of one of its notes: where it went wrong, or else the note that it is practised for.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from core.errors import PracticeError

MIDI_MIN, MIDI_MAX = 0, 127
# Notes of a spot; quarter notes from one to the next; tempi.
SPOT_MOST, QUARTERS_MOST = 64, 64.0
TEMPO_LEAST, TEMPO_MOST = 20, 400


class Result(StrEnum):
    """What came of an attempt."""

    CLEAN = "clean"
    CRACKED = "cracked"
    SILENT = "silent"
    LATE = "late"
    STUMBLED = "stumbled"


class Place(StrEnum):
    """Where an attempt was made."""

    ROOM = "practice room"
    LESSON = "lesson"
    STAGE = "stage"


class Began(StrEnum):
    """How the note began."""

    TONGUED = "tongued"
    SLURRED = "slurred"
    SOFT = "soft"


class By(StrEnum):
    """Who logged an attempt."""

    TEACHER = "teacher"
    STUDENT = "student"


@dataclass(frozen=True)
class SpotNote:
    """A note of a spot.

    Parameters
    ----------
    midi : int, 0 to 127
        Written pitch.
    fingering : str
        Id of the entry, or empty where nobody said.
    quarters : float, 0 to 64
        The time for the hands on the way into it, in quarter notes; 0 for the first.
    """

    midi: int
    fingering: str
    quarters: float

    def __post_init__(self) -> None:
        _check_pitch(self.midi)
        if not 0 <= self.quarters <= QUARTERS_MOST:
            raise PracticeError(f"a note comes up to {QUARTERS_MOST:.0f} quarters after the one before")
        if len(self.fingering.split()) > 1:
            raise PracticeError(f"a fingering is named without spaces, got “{self.fingering[:40]}”")


@dataclass(frozen=True)
class Spot:
    """Notes one after the other.

    Parameters
    ----------
    steps : tuple of SpotNote
        From 2 to 64.
    passage : int or None
        Number of the passage that they are from.
    first : int
        The place of the first of them among the notes of the passage.

    Raises
    ------
    PracticeError
        If there are too few or too many, or they come at no time.
    """

    steps: tuple[SpotNote, ...]
    passage: int | None = None
    first: int = 0

    def __post_init__(self) -> None:
        if not 2 <= len(self.steps) <= SPOT_MOST:
            raise PracticeError(f"a spot has from 2 to {SPOT_MOST} notes, got {len(self.steps)}")
        if not all(step.quarters > 0 for step in self.steps[1:]):
            raise PracticeError("each note of a spot but the first comes after the one before")
        if self.first < 0:
            raise PracticeError("a place in a passage must not be below 0")


@dataclass(frozen=True)
class Attempt:
    """One note, or one spot, played once.

    Parameters
    ----------
    midi : int, 0 to 127
        Written pitch of the note of which the result is said.
    result : Result
    day : int
        Number of the day on which it was, counted as `datetime.date.toordinal` does.
    place : Place
    fingering : str
        Id of the entry played, or empty where nobody said.
    cracked_to : int or None
        Written pitch that came instead, where it cracked.
    began : Began
    by_heart : bool
        Nothing was looked up.
    spot : Spot or None
        What was played, where it was more than the note.
    at : int
        The place of the note in the spot.
    bpm : int or None
        Tempo in quarter notes a minute, 20 to 400; None where there was none.
    by : By

    Raises
    ------
    PracticeError
        If a pitch or a tempo is none, or parts of it do not go together.
    """

    midi: int
    result: Result
    day: int
    place: Place = Place.ROOM
    fingering: str = ""
    cracked_to: int | None = None
    began: Began = Began.TONGUED
    by_heart: bool = True
    spot: Spot | None = None
    at: int = 0
    bpm: int | None = None
    by: By = By.TEACHER

    def __post_init__(self) -> None:
        _check_pitch(self.midi)
        if self.cracked_to is not None:
            _check_pitch(self.cracked_to)
        if self.bpm is not None and not TEMPO_LEAST <= self.bpm <= TEMPO_MOST:
            raise PracticeError(f"a tempo must be from {TEMPO_LEAST} to {TEMPO_MOST}, got {self.bpm}")
        if self.spot is not None:
            if not 0 <= self.at < len(self.spot.steps):
                raise PracticeError(f"the spot has {len(self.spot.steps)} notes, got number {self.at + 1}")
            step = self.spot.steps[self.at]
            if (step.midi, step.fingering) != (self.midi, self.fingering):
                raise PracticeError("what came of a spot is said of one of its notes, fingered as there")
        if self.cracked_to is not None and self.result is not Result.CRACKED:
            raise PracticeError(f"only what cracked goes to another note, got {self.result}")

    @property
    def clean(self) -> bool:
        """Whether the note came as it should."""
        return self.result is Result.CLEAN

    @property
    def tells_of_note(self) -> bool:
        """Whether it tells how surely the note comes by heart: a stumble is one of the hands."""
        return self.by_heart and self.result is not Result.STUMBLED


def sounded(spot: Sequence[SpotNote], at: int, result: Result) -> Iterator[tuple[int, Result]]:
    """The places of a spot that were played, each with what came of it.

    All of them were clean where nothing went wrong; else those before the place at which it did. A note that
    the hands stumbled into is told to have stumbled.

    Parameters
    ----------
    spot : sequence of SpotNote
    at : int, from 0
        Place in the spot where it went wrong, or was looked at.
    result : Result

    Returns
    -------
    iterator of (int, Result)
        Place in the spot, and what came of it.
    """
    if result is Result.CLEAN:
        yield from ((place, Result.CLEAN) for place in range(len(spot)))
        return
    yield from ((place, Result.CLEAN) for place in range(at))
    yield at, result


def _check_pitch(midi: int) -> None:
    if not MIDI_MIN <= midi <= MIDI_MAX:
        raise PracticeError(f"a pitch must be from {MIDI_MIN} to {MIDI_MAX}, got {midi}")
