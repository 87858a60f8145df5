"""One row of a chart: a fingering for a written note, with its evidence."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from core.errors import CatalogueError
from core.instruments.fingering import Fingering, Kind
from core.music.pitch import Pitch

OWN = "teacher's own"


SOURCES = ("general teaching practice", "derived from the mechanism", "overtone arithmetic", OWN)


CENTS_LIMIT = 100.0


class Tone(StrEnum):
    """Size of tone, thin to full."""

    THIN = "thin"
    LIGHT = "light"
    EVEN = "even"
    FULL = "full"


class Speaks(StrEnum):
    """How surely a note answers."""

    UNSURE = "unsure"
    NEEDS_CARE = "needs care"
    READY = "ready"
    SURE = "sure"


class Confidence(StrEnum):
    """How far a row is to be trusted."""

    LOW = "low"
    MEDIUM = "medium"
    HIGH = "high"


@dataclass(frozen=True)
class Tendency:
    """Usual departure from equal temperament in cents, sharp positive, with its range."""

    cents: float
    low: float
    high: float

    def __post_init__(self) -> None:
        if not -CENTS_LIMIT <= self.low <= self.cents <= self.high <= CENTS_LIMIT:
            raise CatalogueError(
                f"cents must lie within their range and that within ±{CENTS_LIMIT:.0f}, got "
                f"{self.cents:g} in {self.low:g} to {self.high:g}"
            )


@dataclass(frozen=True)
class Entry:
    """One row of a chart: a fingering for a written note, with its evidence.

    Parameters
    ----------
    partial : int or None
        Resonance used, counted from 1; None where it is not settled.
    tendency, tone, speaks
        None is unknown.
    requires : frozenset of str
        Optional touches and fittings that must be there.
    only_from : frozenset of str
        Touches that the fingering before must hold; after any other it is not to be counted on.
    school : str
        Teaching position to which it belongs where teachers disagree (`core.charts.schools`), or empty.
    reason : str
        Why the mechanism reads otherwise; empty where it agrees.
    """

    id: str
    note: Pitch
    kind: Kind
    fingering: Fingering
    requires: frozenset[str]
    partial: int | None
    tendency: Tendency | None
    tone: Tone | None
    speaks: Speaks | None
    good_for: str
    avoid_when: str
    only_from: frozenset[str]
    school: str
    confidence: Confidence
    source: str
    reason: str

    @property
    def taught_cents(self) -> float:
        """Departure from equal temperament as the chart has it; none where it states no tendency."""
        return self.tendency.cents if self.tendency else 0.0
