"""What runs on while a part of a MusicXML document is read, and the numbers in it."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

from core.errors import NotationError
from core.music.pitch import Interval


@dataclass
class PartState:
    """What runs on from bar to bar while a part is read."""

    divisions: Fraction = Fraction(1)
    bar: int = 1
    beat_type: int = 4
    into: Fraction = Fraction(0)
    slurs: set[str] = field(default_factory=set)
    voice: str | None = None
    second_pass: bool = False
    dynamic: str = ""
    tempo_bpm: float | None = None
    to_sounding: Interval | None = None
    count: int = 0
    notices: dict[str, int] = field(default_factory=dict)

    @property
    def beat(self) -> Fraction:
        return 1 + self.into * self.beat_type / 4

    def fail(self, message: str) -> NotationError:
        return NotationError(message, self.bar, self.beat)

    def notice(self, message: str) -> None:
        self.notices[message] = self.notices.get(message, 0) + 1


def integer(text: str, what: str, state: PartState) -> int:
    value = fraction(text, what, state)
    if value.denominator != 1:
        raise state.fail(f"{what} must be a whole number, got {text.strip()[:20]}")
    return value.numerator


def fraction(text: str, what: str, state: PartState) -> Fraction:
    try:
        if len(text) > 40 or "e" in text.lower():  # 1e999999999 would fill the memory
            raise ValueError
        return Fraction(text.strip())
    except (ValueError, ZeroDivisionError) as error:
        raise state.fail(f"{what} must be a number, got {text.strip()[:20]!r}") from error
