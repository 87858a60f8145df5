"""What is known of a fingering, with its spread and what it rests on."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from core.catalogue import Confidence, Entry, Speaks, Tone


class Basis(StrEnum):
    """What an estimate rests on; each has a mark of its own on screen."""

    TAUGHT = "taught"
    MODELLED = "modelled"
    JUDGED = "judged"
    MEASURED = "measured"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Estimate:
    """A value with its standard deviation, in cents for pitch and from 0 to 1 for tone and speaks."""

    value: float
    spread: float
    basis: Basis


# Worded scales on a line from 0 to 1, evenly spread. A word is no measurement, so it keeps a spread.
TONE_VALUE = {Tone.THIN: 0.1, Tone.LIGHT: 0.37, Tone.EVEN: 0.63, Tone.FULL: 0.9}
SPEAKS_VALUE = {Speaks.UNSURE: 0.15, Speaks.NEEDS_CARE: 0.42, Speaks.READY: 0.7, Speaks.SURE: 0.95}
WORD_SPREAD = {Confidence.HIGH: 0.05, Confidence.MEDIUM: 0.1, Confidence.LOW: 0.2}
UNKNOWN_WORD = Estimate(0.5, 0.29, Basis.UNKNOWN)  # anywhere on the line alike

# A range that is taught is read as about nine in ten instruments; a low confidence widens it.
RANGE_TO_SPREAD = 1 / 3.3
CONFIDENCE_FACTOR = {Confidence.HIGH: 1.0, Confidence.MEDIUM: 1.25, Confidence.LOW: 1.6}
UNKNOWN_PITCH = Estimate(0.0, 18.0, Basis.UNKNOWN)


def pitch_estimate(entry: Entry) -> Estimate:
    """Departure from equal temperament in cents."""
    if entry.tendency is None:
        return UNKNOWN_PITCH
    spread = (entry.tendency.high - entry.tendency.low) * RANGE_TO_SPREAD
    return Estimate(entry.tendency.cents, spread * CONFIDENCE_FACTOR[entry.confidence], Basis.TAUGHT)


def tone_estimate(entry: Entry) -> Estimate:
    """Size of tone, 0 thin to 1 full."""
    if entry.tone is None:
        return UNKNOWN_WORD
    return Estimate(TONE_VALUE[entry.tone], WORD_SPREAD[entry.confidence], Basis.TAUGHT)


def speaks_estimate(entry: Entry) -> Estimate:
    """How surely it answers, 0 hardly to 1 always."""
    if entry.speaks is None:
        return UNKNOWN_WORD
    return Estimate(SPEAKS_VALUE[entry.speaks], WORD_SPREAD[entry.confidence], Basis.TAUGHT)
