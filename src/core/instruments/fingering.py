"""A fingering: which touches are pressed, half-holed or touched only at the attack.

Written with the names of the instrument's touches, left and right hand apart::

    octave L1 L2 | R1        pressed
    L1/2                     half-holed: the name with /2
    vent!                    momentary: the name with !
    open                     no touch at all, a valid fingering
"""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from core.errors import FingeringError
from core.instruments.instrument import Instrument

OPEN = "open"


class Kind(StrEnum):
    """What a fingering is used for, in the words of the field."""

    STANDARD = "standard"
    ALTERNATE = "alternate"
    TRILL = "trill"
    PALM = "palm"
    FRONT = "front"
    SIDE = "side"
    LONG = "long"
    FORKED = "forked"
    HALF_HOLE = "half-hole"
    VENTED = "vented"
    ALTISSIMO = "altissimo"
    HARMONIC = "harmonic"
    FALSE = "false"


# Used on purpose, for colour or for practice: never taken without being asked for, unless there is
# nothing else.
ON_PURPOSE = frozenset({Kind.FALSE, Kind.HARMONIC})


class Held(StrEnum):
    """How a touch is held."""

    FULL = "full"
    HALF = "half"
    MOMENTARY = "momentary"


_MARKS = {Held.FULL: "", Held.HALF: "/2", Held.MOMENTARY: "!"}


@dataclass(frozen=True)
class Fingering:
    """A set of touches and how each is held; equal whatever the order they were named in.

    Parameters
    ----------
    full, half, momentary : frozenset of str
        Names of touches; no touch may stand in two of them.
    """

    full: frozenset[str] = field(default_factory=frozenset)
    half: frozenset[str] = field(default_factory=frozenset)
    momentary: frozenset[str] = field(default_factory=frozenset)

    def __post_init__(self) -> None:
        twice = (self.full & self.half) | (self.full & self.momentary) | (self.half & self.momentary)
        if twice:
            raise FingeringError(f"a touch must be held in one way only, got {sorted(twice)} in two")

    @property
    def touches(self) -> frozenset[str]:
        """Every touch that a finger needs, however it is held."""
        return self.full | self.half | self.momentary

    def held(self, touch: str) -> Held | None:
        """How a touch is held, or None if it is not.

        Parameters
        ----------
        touch : str
            Name of a touch.

        Returns
        -------
        Held or None
        """
        if touch in self.full:
            return Held.FULL
        if touch in self.half:
            return Held.HALF
        return Held.MOMENTARY if touch in self.momentary else None

    @property
    def steady(self) -> Fingering:
        """Without what is only touched at the attack."""
        return Fingering(self.full, self.half)

    @property
    def attack(self) -> Fingering:
        """As it is at the attack: what is only touched then is pressed."""
        return Fingering(self.full | self.momentary, self.half)

    def with_touch(self, touch: str, held: Held | None) -> Fingering:
        """The same with one touch held another way, or let go.

        Parameters
        ----------
        touch : str
            Name of a touch.
        held : Held or None

        Returns
        -------
        Fingering
        """
        groups = {kind: set(getattr(self, kind.value)) - {touch} for kind in Held}
        if held is not None:
            groups[held].add(touch)
        return Fingering(*(frozenset(groups[kind]) for kind in Held))


def parse_fingering(text: str, instrument: Instrument) -> Fingering:
    """Read a fingering in the notation above.

    Parameters
    ----------
    text : str
    instrument : Instrument

    Returns
    -------
    Fingering

    Raises
    ------
    FingeringError
        If a touch is unknown to the instrument, named twice, or the text is empty.
    """
    words = text.replace("|", " ").split()
    if not words:
        raise FingeringError(f"a fingering must name its touches, or {OPEN!r} for none")
    groups: dict[Held, set[str]] = {held: set() for held in Held}
    seen: set[str] = set()
    for word in words if words != [OPEN] else []:
        held = Held.HALF if word.endswith("/2") else Held.MOMENTARY if word.endswith("!") else Held.FULL
        name = word.removesuffix(_MARKS[held])
        if name not in instrument.touch_by_name:
            known = " ".join(instrument.touch_by_name)
            raise FingeringError(f"touch {name!r} is not one of this instrument's: {known}")
        if name in seen:
            raise FingeringError(f"touch {name!r} must be named once")
        seen.add(name)
        groups[held].add(name)
    return Fingering(*(frozenset(groups[held]) for held in Held))


def format_fingering(fingering: Fingering, instrument: Instrument) -> str:
    """Write a fingering in canonical order, the instrument's own.

    Parameters
    ----------
    fingering : Fingering
    instrument : Instrument

    Returns
    -------
    str
    """
    hands: dict[str, list[str]] = {"left": [], "right": []}
    for touch in instrument.touches:
        held = fingering.held(touch.name)
        if held is not None:
            hands[instrument.finger(touch.finger).hand].append(touch.name + _MARKS[held])
    if not fingering.touches:
        return OPEN
    return " ".join([*hands["left"], *(["|"] if hands["right"] else []), *hands["right"]])
