"""One row of a chart: a fingering for a written note, with its evidence."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from core.errors import CatalogueError
from core.instruments.fingering import Fingering, Kind
from core.music.pitch import Pitch

OWN = "teacher's own"


ARITHMETIC, MODEL = "overtone arithmetic", "acoustic model"
# What no chart says, but the keywork: see `core.charts.held` and `core.charts.one_finger`.
HELD, STAYS = "derived by rule: what may stay down, or up", "+"
ONE_FINGER = "derived by rule: one finger moves"
DERIVED = (HELD, ONE_FINGER)
MECHANISM = "derived from the mechanism"
SOURCES = ("general teaching practice", MECHANISM, ARITHMETIC, MODEL, OWN, *DERIVED)


CENTS_LIMIT = 100.0


class Tone(StrEnum):
    """Size of tone, thin to full."""

    THIN = "thin"
    LIGHT = "light"
    EVEN = "even"
    FULL = "full"


class Colour(StrEnum):
    """Colour of tone, covered to bright."""

    COVERED = "covered"
    DARK = "dark"
    CLEAR = "clear"
    BRIGHT = "bright"


class Speaks(StrEnum):
    """How surely a note answers."""

    UNSURE = "unsure"
    NEEDS_CARE = "needs care"
    READY = "ready"
    SURE = "sure"


class Confidence(StrEnum):
    """How far a row is to be trusted; a lead is not vouched for, but worth trying."""

    LEAD = "lead"
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
    tendency, tone, colour, speaks
        None is unknown.
    requires : frozenset of str
        Optional touches and fittings that must be there.
    only_from : frozenset of str
        Touches that the fingering before must hold; after any other it is not to be counted on.
    school : str
        Teaching position to which it belongs where teachers disagree (`core.charts.schools`), or empty.
    reason : str
        Why the mechanism reads otherwise; empty where it agrees.
    accounts : str
        How many independent accounts list it, and where they differ; empty where none were counted.
    form : str
        How it is built, as the instrument tells forms apart; empty for none.
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
    accounts: str = ""
    form: str = ""
    colour: Colour | None = None

    @property
    def kind_words(self) -> str:
        """Its kind, with the form where that says more."""
        more = self.form and self.form != self.kind.value
        return f"{self.kind.value}, {self.form}" if more else self.kind.value

    @property
    def rests_on(self) -> str:
        """What it rests on, in a teacher's words."""
        standing = "a lead, not vouched for" if self.is_lead else f"{self.confidence.value} confidence"
        return ", ".join(filter(None, (self.source, standing, self.accounts)))

    @property
    def is_lead(self) -> bool:
        """Whether it is to be tried only: no route takes it while anything better is known."""
        return self.confidence is Confidence.LEAD

    @property
    def is_truth(self) -> bool:
        """Whether a model may be tried on it: taught, neither a lead nor arithmetic alone."""
        return not self.is_lead and self.source not in (ARITHMETIC, MODEL, *DERIVED)

    @property
    def width_assumed(self) -> bool:
        """Whether it is taught as in tune and nothing more: then how far off it may be is our assumption."""
        if self.tendency is None or self.source == OWN:
            return False
        return self.tendency.cents == 0 == self.tendency.low + self.tendency.high

    @property
    def taught_cents(self) -> float:
        """Departure from equal temperament as the chart has it; none where it states no tendency."""
        return self.tendency.cents if self.tendency else 0.0
