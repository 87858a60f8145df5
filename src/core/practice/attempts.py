"""Attempts: one note, link or spot played once, and what came of it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from core.errors import PracticeError

MIDI_MIN, MIDI_MAX = 0, 127


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


@dataclass(frozen=True)
class Attempt:
    """One note played once.

    Parameters
    ----------
    midi : int, 0 to 127
        Written pitch.
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

    Raises
    ------
    PracticeError
        If a pitch is none, or what it cracked to does not go with the result.
    """

    midi: int
    result: Result
    day: int
    place: Place = Place.ROOM
    fingering: str = ""
    cracked_to: int | None = None
    began: Began = Began.TONGUED
    by_heart: bool = True

    def __post_init__(self) -> None:
        for midi in (self.midi, self.cracked_to):
            if midi is not None and not MIDI_MIN <= midi <= MIDI_MAX:
                raise PracticeError(f"a pitch must be from {MIDI_MIN} to {MIDI_MAX}, got {midi}")
        if self.cracked_to is not None and self.result is not Result.CRACKED:
            raise PracticeError(f"only what cracked goes to another note, got {self.result}")

    @property
    def clean(self) -> bool:
        return self.result is Result.CLEAN
