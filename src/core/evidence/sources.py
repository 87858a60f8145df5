"""Where what is known of a fingering comes from: chart, model, judgements, tuner readings, attempts.

Each source gives a value with its standard deviation. Readings enter by a location that one wild
reading cannot rule, with a floor under their spread: the same player on another day differs by some
cents. The sizes below are our choice.

References
----------
Huber (1964), Robust estimation of a location parameter, Annals of Mathematical Statistics 35.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from statistics import median
from typing import TypeVar

from core.charts.entry import Colour, Confidence, Entry, Speaks, Tone
from core.errors import EvidenceError, NumberError
from core.numbers import decimal


class Basis(StrEnum):
    """What an estimate rests on; each has a mark of its own on screen."""

    TAUGHT = "taught"
    MODELLED = "modelled"
    JUDGED = "judged"
    MEASURED = "measured"
    COUNTED = "counted"
    UNKNOWN = "unknown"


class Handling(StrEnum):
    """How the hands find a fingering, as a teacher judges it."""

    AWKWARD = "awkward"
    CAREFUL = "careful"
    FAIR = "fair"
    EASY = "easy"


class Tuning(StrEnum):
    """Where a note lies, as a teacher judges it by ear."""

    VERY_FLAT = "very flat"
    FLAT = "flat"
    IN_TUNE = "in tune"
    SHARP = "sharp"
    VERY_SHARP = "very sharp"


ALL_SOURCES = frozenset(set(Basis) - {Basis.UNKNOWN})


@dataclass(frozen=True)
class Estimate:
    """A value with its standard deviation, in cents for pitch and from 0 to 1 for the other strands.

    Parameters
    ----------
    count : int
        Judgements or readings that it rests on; 0 for a chart or a model.
    """

    value: float
    spread: float
    basis: Basis
    count: int = 0


@dataclass(frozen=True)
class Judgement:
    """A teacher's rating of a fingering; None is not judged.

    Parameters
    ----------
    setup : int
        Number of the set-up of reed and mouthpiece under which it was made.
    """

    setup: int
    pitch: Tuning | None = None
    tone: Tone | None = None
    speaks: Speaks | None = None
    hands: Handling | None = None
    colour: Colour | None = None


@dataclass(frozen=True)
class Readings:
    """Tuner readings of a fingering in cents, taken one after the other under one set-up."""

    setup: int
    cents: tuple[float, ...]


# How much more, or less, the way a note begins asks of its fingering than a tongued mezzo-forte.
SLURRED, SOFT = 0.6, 1.8


@dataclass(frozen=True)
class Hits:
    """Attempts at a note with a fingering, off the stage, under one set-up.

    Parameters
    ----------
    clean, total : int
        Stumbles of the hands are not among them: they say nothing of how it speaks.
    cracked : tuple of (int, int)
        Written notes that came instead, and how often, the most frequent first.
    worth : (float, float) or None
        Clean ones and missed ones as tongued ones, see `worth_of`; as they are where it is not said.
    """

    setup: int
    clean: int
    total: int
    cracked: tuple[tuple[int, int], ...] = ()
    worth: tuple[float, float] | None = None

    @property
    def as_tongued(self) -> tuple[float, float]:
        """Clean ones and missed ones, as so many tongued ones."""
        return self.worth or (self.clean, self.total - self.clean)


@dataclass(frozen=True)
class Moved:
    """Attempts at the move from one fingering to another, off the stage, with so much time for it.

    Parameters
    ----------
    available_s : float, seconds
    clean, stumbled : int
    """

    available_s: float
    clean: int
    stumbled: int


@dataclass(frozen=True)
class Heard:
    """What was judged, read and counted of one fingering on one instrument."""

    judgements: tuple[Judgement, ...] = ()
    readings: tuple[Readings, ...] = ()
    hits: tuple[Hits, ...] = ()


NOTHING_HEARD = Heard()


@dataclass(frozen=True)
class Modelled:
    """What a model of the instrument's acoustics adds; None where it has nothing to say."""

    pitch: Estimate | None = None
    speaks: Estimate | None = None


NOTHING_MODELLED = Modelled()


# Worded scales on a line from 0 to 1, evenly spread. A word is no measurement, so it keeps a spread.
TONE_VALUE = {Tone.THIN: 0.1, Tone.LIGHT: 0.37, Tone.EVEN: 0.63, Tone.FULL: 0.9}
COLOUR_VALUE = {Colour.COVERED: 0.1, Colour.DARK: 0.37, Colour.CLEAR: 0.63, Colour.BRIGHT: 0.9}
SPEAKS_VALUE = {Speaks.UNSURE: 0.15, Speaks.NEEDS_CARE: 0.42, Speaks.READY: 0.7, Speaks.SURE: 0.95}
HANDLING_VALUE = {Handling.AWKWARD: 0.1, Handling.CAREFUL: 0.4, Handling.FAIR: 0.65, Handling.EASY: 0.9}
HANDLING_FACTOR = {Handling.AWKWARD: 1.35, Handling.CAREFUL: 1.15, Handling.FAIR: 1.0, Handling.EASY: 0.85}
TUNING_CENTS = {
    Tuning.VERY_FLAT: -30.0,
    Tuning.FLAT: -14.0,
    Tuning.IN_TUNE: 0.0,
    Tuning.SHARP: 14.0,
    Tuning.VERY_SHARP: 30.0,
}
WORD_SPREAD = {Confidence.HIGH: 0.05, Confidence.MEDIUM: 0.1, Confidence.LOW: 0.2, Confidence.LEAD: 0.29}
UNKNOWN_WORD = Estimate(0.5, 0.29, Basis.UNKNOWN)  # anywhere on the line alike
# One judgement by ear; several come closer, but never closer than the ear and the day allow.
JUDGED_WORD_SPREAD, JUDGED_WORD_FLOOR = 0.12, 0.05
JUDGED_CENTS_SPREAD, JUDGED_CENTS_FLOOR = 9.0, 5.0

# A range that is taught is read as about nine in ten instruments; a low confidence widens it.
RANGE_TO_SPREAD = 1 / 3.3
CONFIDENCE_FACTOR = {Confidence.HIGH: 1.0, Confidence.MEDIUM: 1.25, Confidence.LOW: 1.6, Confidence.LEAD: 2.0}
UNKNOWN_PITCH = Estimate(0.0, 18.0, Basis.UNKNOWN)

# Readings: spread of a single one, least spread of several, what another day changes.
ONE_READING_CENTS, STEADY_CENTS, DAY_CENTS = 12.0, 5.0, 3.0
WILD = 1.5  # deviations from which a reading counts less, Huber's usual choice
READING_LIMIT_CENTS = 100.0
READINGS_AT_ONCE = 50

T = TypeVar("T", bound=StrEnum)


def pitch_estimate(entry: Entry) -> Estimate:
    """Departure from equal temperament in cents, as the chart has it.

    Parameters
    ----------
    entry : Entry

    Returns
    -------
    Estimate
    """
    if entry.tendency is None:
        return UNKNOWN_PITCH
    spread = (entry.tendency.high - entry.tendency.low) * RANGE_TO_SPREAD
    return Estimate(entry.tendency.cents, spread * CONFIDENCE_FACTOR[entry.confidence], Basis.TAUGHT)


def _of_word(scale: Mapping[T, float], word: T | None, confidence: Confidence) -> Estimate:
    """What a word of a chart comes to."""
    return Estimate(scale[word], WORD_SPREAD[confidence], Basis.TAUGHT) if word else UNKNOWN_WORD


def tone_estimate(entry: Entry) -> Estimate:
    """Size of tone, 0 thin to 1 full, as the chart has it.

    Parameters
    ----------
    entry : Entry

    Returns
    -------
    Estimate
    """
    return _of_word(TONE_VALUE, entry.tone, entry.confidence)


def colour_estimate(entry: Entry) -> Estimate:
    """Colour of tone, 0 covered to 1 bright, as the chart has it.

    Parameters
    ----------
    entry : Entry

    Returns
    -------
    Estimate
    """
    return _of_word(COLOUR_VALUE, entry.colour, entry.confidence)


def speaks_estimate(entry: Entry) -> Estimate:
    """How surely it answers, 0 hardly to 1 always, as the chart has it.

    Parameters
    ----------
    entry : Entry

    Returns
    -------
    Estimate
    """
    return _of_word(SPEAKS_VALUE, entry.speaks, entry.confidence)


def parse_readings(text: str) -> tuple[float, ...]:
    """Read tuner readings typed in one line, sharp positive: ``12 -8 5,5``.

    Spaces or semicolons stand between readings; a comma within one is its decimal comma.

    Parameters
    ----------
    text : str

    Returns
    -------
    tuple of float, cents, -100 to 100, sharp positive

    Raises
    ------
    EvidenceError
        If there is none or more than 50, one is no number from -100 to 100, or it is open whether a
        comma parts two readings.

    Examples
    --------
    >>> parse_readings("12; −8,5 +5")
    (12.0, -8.5, 5.0)
    """
    words = text.replace(";", " ").replace(", ", " ").split()
    try:
        return check_readings([decimal(word) for word in words[: READINGS_AT_ONCE + 1]])
    except NumberError as error:
        raise EvidenceError(
            f"a reading cannot be read: {error}. Type readings with spaces between: 12 -8,5 5"
        ) from error


def check_readings(cents: Sequence[float]) -> tuple[float, ...]:
    """Return readings in cents, sharp positive, if they can be such.

    Parameters
    ----------
    cents : sequence of float, cents

    Returns
    -------
    tuple of float, cents, -100 to 100

    Raises
    ------
    EvidenceError
        If there is none or more than 50, or one is not from -100 to 100.
    """
    if not 1 <= len(cents) <= READINGS_AT_ONCE:
        raise EvidenceError(f"there must be from 1 to {READINGS_AT_ONCE} readings in cents at once")
    for value in cents:
        if not abs(value) <= READING_LIMIT_CENTS:
            limit = f"{READING_LIMIT_CENTS:.0f}"
            raise EvidenceError(
                f"a reading must be cents from -{limit} to {limit}, got {value:g}; "
                "type them with spaces between: 12 -8,5 5"
            )
    return tuple(cents)


def read_estimate(cents: Sequence[float]) -> Estimate:
    """What tuner readings come to.

    Parameters
    ----------
    cents : sequence of float, one or more

    Returns
    -------
    Estimate
        Huber's location and the spread of it, never below `DAY_CENTS`.

    Examples
    --------
    >>> read_estimate([4, 6, 5, 5, 60]).value < 8
    True
    """
    middle = median(cents)
    scale = max(1.4826 * median(abs(value - middle) for value in cents), STEADY_CENTS)
    centre = middle
    for _ in range(20):
        weights = [min(1.0, WILD * scale / max(abs(value - centre), 1e-9)) for value in cents]
        centre = sum(w * value for w, value in zip(weights, cents, strict=True)) / sum(weights)
    single = ONE_READING_CENTS if len(cents) == 1 else scale
    return Estimate(centre, math.hypot(single / math.sqrt(len(cents)), DAY_CENTS), Basis.MEASURED, len(cents))


def worth_of(asks: float, *, clean: bool) -> float:
    """How many tongued attempts one is worth that asks more of a fingering, or less.

    A soft one that came clean tells more for it, and one that was missed less against it; slurred ones the
    other way round.

    Parameters
    ----------
    asks : float, above 0
        `SOFT`, `SLURRED`, or 1 for tongued.
    clean : bool

    Returns
    -------
    float, above 0
    """
    return asks if clean else 1 / asks


def counted_estimate(clean: float, missed: float, count: int) -> Estimate:
    """How surely a fingering answers by attempts that were counted: the share that was clean.

    One clean and one missed attempt are added, so that a few tell little (Laplace's rule); the day allows no
    smaller spread than several judgements.

    Parameters
    ----------
    clean, missed : float
        As so many tongued ones.
    count : int
        How many there were.

    Returns
    -------
    Estimate
    """
    total = clean + missed
    share = (clean + 1) / (total + 2)
    spread = math.sqrt(share * (1 - share) / (total + 3))
    return Estimate(share, max(spread, JUDGED_WORD_FLOOR), Basis.COUNTED, count)


def nearest_word(scale: dict[T, float], value: float) -> T:
    """The word of a scale that lies nearest to a value.

    Parameters
    ----------
    scale : dict of T to float
        Value of each word.
    value : float
        On the line of the scale.

    Returns
    -------
    T
    """
    return min(scale, key=lambda word: abs(scale[word] - value))
