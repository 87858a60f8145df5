"""The bars of a MusicXML part laid out in time, and where a reader of them has come to."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction

from core.music.notation.score import Losses
from core.music.pitch import Pitch
from core.music.playing_order import Signs

NUMBER_LENGTH = 40
# Type of a staff that stands for another, and is played instead.
OSSIA = "ossia"


@dataclass(frozen=True)
class Head:
    """One note of a chord."""

    pitch: Pitch
    tied: bool


@dataclass
class Timed:
    """A note, chord or rest; without heads it is a rest.

    Parameters
    ----------
    slurs : list of (number, type)
        Slurs that begin or end.
    tremolo : str
        "start" or "stop" of one between two notes, or empty.
    trill_alter : int or None
        The sign over a trill.
    """

    onset: Fraction
    quarters: Fraction
    tuplet: tuple[int, int] = (1, 1)
    heads: list[Head] = field(default_factory=list)
    grace: list[Pitch] = field(default_factory=list)
    slurs: list[tuple[str, str]] = field(default_factory=list)
    articulations: frozenset[str] = frozenset()
    ornaments: frozenset[str] = frozenset()
    fermata: bool = False
    fingering: str = ""
    lyric: str = ""
    tremolo: str = ""
    trill_alter: int | None = None

    @property
    def end(self) -> Fraction:
        """Where it ends, in quarters since the bar began."""
        return self.onset + self.quarters


@dataclass(frozen=True)
class Above:
    """What stands above or below a staff at a moment; `staff` is empty where it is for all."""

    onset: Fraction
    staff: str = ""
    dynamic: str = ""
    tempo_bpm: float | None = None
    words: str = ""
    hairpin: str = ""
    hairpin_stop: bool = False
    chord: str = ""


@dataclass
class Measure:
    """A bar of a part: its voices by key, its ossia, what stands above, what it asks of the order."""

    number: int
    key_fifths: int | None = None
    time: tuple[int, int] | None = None
    length: Fraction = Fraction(0)
    voices: dict[str, list[Timed]] = field(default_factory=dict)
    above: list[Above] = field(default_factory=list)
    ossia: list[Timed] = field(default_factory=list)
    signs: Signs = field(default_factory=Signs)


@dataclass
class Cursor:
    """Where a reader of a part has come to; what it does not understand is listed.

    Parameters
    ----------
    divisions : Fraction
        Of a quarter note, in which lengths are given.
    at : Fraction
        Quarters since the bar began.
    """

    losses: Losses
    measures: list[Measure] = field(default_factory=list)
    divisions: Fraction = Fraction(1)
    beat_type: int = 4
    at: Fraction = Fraction(0)

    @property
    def here(self) -> Measure:
        """The bar that is read."""
        return self.measures[-1]

    def lose(self, what: str) -> None:
        """List what is not understood, with its place.

        Parameters
        ----------
        what : str
            In a teacher's words.
        """
        self.losses.add(what, self.here.number, 1 + self.at * self.beat_type / 4)

    def number(self, text: str | None, what: str) -> Fraction | None:
        """A number; None, listed, where it is none.

        Parameters
        ----------
        text : str or None
            None where there is no such element.
        what : str
            In a teacher's words.

        Returns
        -------
        Fraction or None
        """
        text = (text or "").strip()
        if re.fullmatch(rf"[+-]?\d{{1,{NUMBER_LENGTH}}}(\.\d{{0,{NUMBER_LENGTH}}})?", text):
            return Fraction(text)
        self.lose(f"Not understood, {what} “{text[:20]}”")
        return None

    def whole(self, text: str | None, what: str) -> int | None:
        """A whole number; None, listed, where it is none.

        Parameters
        ----------
        text : str or None
            None where there is no such element.
        what : str
            In a teacher's words.

        Returns
        -------
        int or None
        """
        number = self.number(text, what)
        return None if number is None or number.denominator != 1 else int(number)
