"""What is known of a fingering on the instrument in hand: every source, and all of them together.

The chart is the prior. A teacher's judgements and tuner readings, made under the present set-up of
reed and mouthpiece, move it; those made under an earlier one are kept apart and do not count.

Notes
-----
Each source gives a value with its standard deviation. They are combined by inverse variance, and
where they disagree more than their spreads allow, the spread of the result is widened by the Birge
ratio. Readings enter by a location that one wild reading cannot rule, with a floor under their
spread: the same player on another day differs by some cents. The sizes below are our choice.

References
----------
Birge (1932), The calculation of errors by the method of least squares, Physical Review 40.
Huber (1964), Robust estimation of a location parameter, Annals of Mathematical Statistics 35.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from statistics import median
from typing import TypeVar

from core.charts.catalogue import Confidence, Entry, Speaks, Tone
from core.errors import EvidenceError


class Basis(StrEnum):
    """What an estimate rests on; each has a mark of its own on screen."""

    TAUGHT = "taught"
    MODELLED = "modelled"
    JUDGED = "judged"
    MEASURED = "measured"
    UNKNOWN = "unknown"


class Hands(StrEnum):
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


ALL_SOURCES = frozenset({Basis.TAUGHT, Basis.MODELLED, Basis.JUDGED, Basis.MEASURED})


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
class Strand:
    """One strand: its sources, each on its own, and what they come to."""

    sources: tuple[Estimate, ...]
    combined: Estimate


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
    hands: Hands | None = None


@dataclass(frozen=True)
class Readings:
    """Tuner readings of a fingering in cents, taken one after the other under one set-up."""

    setup: int
    cents: tuple[float, ...]


@dataclass(frozen=True)
class Heard:
    """What was judged and read of one fingering on one instrument."""

    judgements: tuple[Judgement, ...] = ()
    readings: tuple[Readings, ...] = ()


@dataclass(frozen=True)
class Modelled:
    """What a model of the instrument's acoustics adds; None where it has nothing to say."""

    pitch: Estimate | None = None
    speaks: Estimate | None = None


NOTHING_MODELLED = Modelled()


@dataclass(frozen=True)
class Evidence:
    """The strands of a fingering on the instrument in hand.

    Parameters
    ----------
    hands_factor : float
        By how much the judged hands lengthen, or shorten, the time that its moves need.
    earlier : int
        Judgements and readings made under another set-up, which do not count.
    """

    pitch: Strand
    tone: Strand
    speaks: Strand
    hands: Strand
    hands_factor: float = 1.0
    earlier: int = 0


# Worded scales on a line from 0 to 1, evenly spread. A word is no measurement, so it keeps a spread.
TONE_VALUE = {Tone.THIN: 0.1, Tone.LIGHT: 0.37, Tone.EVEN: 0.63, Tone.FULL: 0.9}
SPEAKS_VALUE = {Speaks.UNSURE: 0.15, Speaks.NEEDS_CARE: 0.42, Speaks.READY: 0.7, Speaks.SURE: 0.95}
HANDS_VALUE = {Hands.AWKWARD: 0.1, Hands.CAREFUL: 0.4, Hands.FAIR: 0.65, Hands.EASY: 0.9}
HANDS_FACTOR = {Hands.AWKWARD: 1.35, Hands.CAREFUL: 1.15, Hands.FAIR: 1.0, Hands.EASY: 0.85}
TUNING_CENTS = {
    Tuning.VERY_FLAT: -30.0,
    Tuning.FLAT: -14.0,
    Tuning.IN_TUNE: 0.0,
    Tuning.SHARP: 14.0,
    Tuning.VERY_SHARP: 30.0,
}
WORD_SPREAD = {Confidence.HIGH: 0.05, Confidence.MEDIUM: 0.1, Confidence.LOW: 0.2}
UNKNOWN_WORD = Estimate(0.5, 0.29, Basis.UNKNOWN)  # anywhere on the line alike
# One judgement by ear; several come closer, but never closer than the ear and the day allow.
JUDGED_WORD_SPREAD, JUDGED_WORD_FLOOR = 0.12, 0.05
JUDGED_CENTS_SPREAD, JUDGED_CENTS_FLOOR = 9.0, 5.0

# A range that is taught is read as about nine in ten instruments; a low confidence widens it.
RANGE_TO_SPREAD = 1 / 3.3
CONFIDENCE_FACTOR = {Confidence.HIGH: 1.0, Confidence.MEDIUM: 1.25, Confidence.LOW: 1.6}
UNKNOWN_PITCH = Estimate(0.0, 18.0, Basis.UNKNOWN)

# Readings: spread of a single one, least spread of several, what another day changes.
ONE_READING_CENTS, STEADY_CENTS, DAY_CENTS = 12.0, 5.0, 3.0
WILD = 1.5  # deviations from which a reading counts less, Huber's usual choice
READING_LIMIT_CENTS = 100.0
READINGS_AT_ONCE = 50

T = TypeVar("T", bound=StrEnum)


def pitch_estimate(entry: Entry) -> Estimate:
    """Departure from equal temperament in cents, as the chart has it."""
    if entry.tendency is None:
        return UNKNOWN_PITCH
    spread = (entry.tendency.high - entry.tendency.low) * RANGE_TO_SPREAD
    return Estimate(entry.tendency.cents, spread * CONFIDENCE_FACTOR[entry.confidence], Basis.TAUGHT)


def tone_estimate(entry: Entry) -> Estimate:
    """Size of tone, 0 thin to 1 full, as the chart has it."""
    if entry.tone is None:
        return UNKNOWN_WORD
    return Estimate(TONE_VALUE[entry.tone], WORD_SPREAD[entry.confidence], Basis.TAUGHT)


def speaks_estimate(entry: Entry) -> Estimate:
    """How surely it answers, 0 hardly to 1 always, as the chart has it."""
    if entry.speaks is None:
        return UNKNOWN_WORD
    return Estimate(SPEAKS_VALUE[entry.speaks], WORD_SPREAD[entry.confidence], Basis.TAUGHT)


def parse_readings(text: str) -> tuple[float, ...]:
    """Read tuner readings typed in one line, sharp positive: ``12 -8 5``.

    Raises
    ------
    EvidenceError
        If there is none or more than 50, or one is no number from -100 to 100.

    Examples
    --------
    >>> parse_readings("12, −8 +5")
    (12.0, -8.0, 5.0)
    """
    words = text.replace("−", "-").replace(";", " ").replace(",", " ").split()
    if not 1 <= len(words) <= READINGS_AT_ONCE:
        raise EvidenceError(f"type from 1 to {READINGS_AT_ONCE} readings in cents, got {len(words)}")
    found = []
    for word in words:
        try:
            cents = float(word)
        except ValueError:
            cents = math.nan
        if not abs(cents) <= READING_LIMIT_CENTS:
            raise EvidenceError(
                f"a reading must be cents from -{READING_LIMIT_CENTS:.0f} to {READING_LIMIT_CENTS:.0f}, "
                f"got {word[:20]!r}; type them with spaces between: 12 -8 5"
            )
        found.append(cents)
    return tuple(found)


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


def combine(sources: Iterable[Estimate], unknown: Estimate) -> Strand:
    """Put the sources of a strand together by inverse variance.

    Parameters
    ----------
    unknown : Estimate
        What the strand is worth without any source. With one it does not count, but for a model alone:
        that is held back by what any fingering of a chart may be expected to do.
    """
    known = tuple(source for source in sources if source.basis is not Basis.UNKNOWN)
    if not known:
        return Strand((), unknown)
    if all(source.basis is Basis.MODELLED for source in known):
        return Strand(known, Estimate(*_weighed((*known, unknown)), Basis.MODELLED))
    if len(known) == 1:
        return Strand(known, known[0])
    value, spread = _weighed(known)
    chi2 = sum(((source.value - value) / source.spread) ** 2 for source in known)
    birge = math.sqrt(max(1.0, chi2 / (len(known) - 1)))
    strongest = min(known, key=lambda source: source.spread)
    count = sum(source.count for source in known)
    return Strand(known, Estimate(value, birge * spread, strongest.basis, count))


def _weighed(sources: Sequence[Estimate]) -> tuple[float, float]:
    """Mean by inverse variance, and its spread."""
    weights = [source.spread**-2 for source in sources]
    value = sum(w * source.value for w, source in zip(weights, sources, strict=True)) / sum(weights)
    return value, sum(weights) ** -0.5


def evidence(
    entry: Entry,
    heard: Heard = Heard(),
    setup: int = 1,
    use: Collection[Basis] = ALL_SOURCES,
    modelled: Modelled = NOTHING_MODELLED,
) -> Evidence:
    """Weigh what is known of a fingering.

    Parameters
    ----------
    heard : Heard
        What was judged and read on the instrument in hand.
    setup : int
        Number of its present set-up; what was heard under another does not count.
    use : collection of Basis
        Sources switched on.
    modelled : Modelled
        What an acoustic model says of the fingering.
    """
    judged = [j for j in heard.judgements if j.setup == setup and Basis.JUDGED in use]
    cents = [c for r in heard.readings if r.setup == setup and Basis.MEASURED in use for c in r.cents]
    taught = [pitch_estimate(entry), tone_estimate(entry), speaks_estimate(entry)]
    if Basis.TAUGHT not in use:
        taught = [UNKNOWN_PITCH, UNKNOWN_WORD, UNKNOWN_WORD]
    pitches, answers = (
        [said] if said and Basis.MODELLED in use else [] for said in (modelled.pitch, modelled.speaks)
    )
    by_ear = _judged(
        [TUNING_CENTS[j.pitch] for j in judged if j.pitch], JUDGED_CENTS_SPREAD, JUDGED_CENTS_FLOOR
    )
    measured = [read_estimate(cents)] if cents else []
    tone = _judged([TONE_VALUE[j.tone] for j in judged if j.tone])
    speaks = _judged([SPEAKS_VALUE[j.speaks] for j in judged if j.speaks])
    handled = [j.hands for j in judged if j.hands]
    return Evidence(
        pitch=combine([taught[0], *pitches, *by_ear, *measured], UNKNOWN_PITCH),
        tone=combine([taught[1], *tone], UNKNOWN_WORD),
        speaks=combine([taught[2], *answers, *speaks], UNKNOWN_WORD),
        hands=combine(_judged([HANDS_VALUE[hands] for hands in handled]), UNKNOWN_WORD),
        hands_factor=_hands_factor(handled),
        earlier=sum(j.setup != setup for j in heard.judgements)
        + sum(len(r.cents) for r in heard.readings if r.setup != setup),
    )


def _judged(
    values: list[float], spread: float = JUDGED_WORD_SPREAD, floor: float = JUDGED_WORD_FLOOR
) -> list[Estimate]:
    if not values:
        return []
    mean = sum(values) / len(values)
    return [Estimate(mean, max(spread / math.sqrt(len(values)), floor), Basis.JUDGED, len(values))]


def _hands_factor(handled: list[Hands]) -> float:
    """One judgement is believed half, two two thirds, and so on."""
    if not handled:
        return 1.0
    mean = sum(math.log(HANDS_FACTOR[hands]) for hands in handled) / len(handled)
    return math.exp(mean * len(handled) / (len(handled) + 1))


def nearest_word(scale: dict[T, float], value: float) -> T:
    """The word of a scale that lies nearest to a value."""
    return min(scale, key=lambda word: abs(scale[word] - value))
