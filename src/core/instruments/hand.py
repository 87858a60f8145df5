"""What is particular about a student's hands, as far as it bears on fingerings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from core.errors import InstrumentError
from core.instruments.parts import HANDS, STACK_DIGITS

# Fingers that may be stiff, by hand and digit.
FINGERS = tuple(f"{hand} {digit}" for hand in HANDS for digit in ("thumb", *sorted(STACK_DIGITS), "little"))


class PlayerLevel(StrEnum):
    """How far a player is."""

    BEGINNING = "beginning"
    MOVING_ON = "moving on"
    ADVANCED = "advanced"


WHOSE = {
    PlayerLevel.BEGINNING: "a beginner's hands",
    PlayerLevel.MOVING_ON: "hands that are moving on",
    PlayerLevel.ADVANCED: "an advanced player's hands",
}


@dataclass(frozen=True)
class Hand:
    """A student's hands.

    Parameters
    ----------
    small : bool
        Palm and side touches, and the tables of the little fingers, are further away than for others.
    stiff : frozenset of str
        Fingers, of `FINGERS`, that move slowly, for a time or for good.
    half_holes : bool
        Whether rolling to a half hole is learned.
    rollers : bool
        Whether the touches on which a finger rolls have rollers.
    level : PlayerLevel
        How quick and how sure they are in general; what was counted of single moves comes on top.

    Raises
    ------
    InstrumentError
        If a finger is not one of `FINGERS`.
    """

    small: bool = False
    stiff: frozenset[str] = field(default_factory=frozenset)
    half_holes: bool = True
    rollers: bool = True
    level: PlayerLevel = PlayerLevel.MOVING_ON

    def __post_init__(self) -> None:
        if unknown := sorted(self.stiff - set(FINGERS)):
            raise InstrumentError(f"a stiff finger must be one of {', '.join(FINGERS)}, got {unknown[0]!r}")

    @classmethod
    def from_json(cls, data: Mapping[str, Any], level: str = PlayerLevel.MOVING_ON) -> Hand:
        """Made from stored values; what is left out is as for anybody.

        Parameters
        ----------
        data : mapping of str to Any
            As `to_json` gives it.
        level : str
            How far the player is; kept beside what is particular of the hands.

        Returns
        -------
        Hand
        """
        particular = {**data, "stiff": frozenset(data.get("stiff", ()))}
        return cls(**particular, level=PlayerLevel(level))

    def to_json(self) -> dict[str, Any]:
        """As `from_json` takes it; only what is particular.

        Returns
        -------
        dict of str to Any
        """
        named: dict[str, Any] = {"small": True} if self.small else {}
        named |= {"stiff": sorted(self.stiff)} if self.stiff else {}
        named |= {} if self.half_holes else {"half_holes": False}
        return named | ({} if self.rollers else {"rollers": False})

    @property
    def whose(self) -> str:
        """Of whose hands times are told, in a teacher's words.

        Examples
        --------
        >>> Hand(level=PlayerLevel.ADVANCED).whose
        "an advanced player's hands"
        """
        return WHOSE[self.level]

    @property
    def said(self) -> tuple[str, ...]:
        """What is particular, in a teacher's words.

        Examples
        --------
        >>> Hand(small=True, stiff=frozenset({"left ring"}), half_holes=False).said
        ('small hand', 'stiff left ring finger', 'half-hole not learned')
        """
        thumbs = [f"stiff {one}{'' if one.endswith('thumb') else ' finger'}" for one in sorted(self.stiff)]
        return (
            *(["small hand"] if self.small else []),
            *thumbs,
            *([] if self.half_holes else ["half-hole not learned"]),
            *([] if self.rollers else ["no rollers"]),
        )


ANY_HAND = Hand()
