"""Instruments as data: fingers, the touches each can reach, tone holes and what moves them.

The data is TOML text (`parse_instrument`); every object checks itself when made, so that an
`Instrument` in hand is one that does not contradict itself.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any, TypeVar

from core.errors import CoreError, InstrumentError
from core.pitch import Interval, Pitch, parse_pitch

HANDS = ("left", "right")
DIGITS = ("thumb", "palm", "index", "middle", "ring", "little", "side")
T = TypeVar("T")


@dataclass(frozen=True)
class Finger:
    """A finger, thumb, palm or side of a hand, in the order the drawing shows them.

    Parameters
    ----------
    name : str
        Short name, such as ``L1``'s finger ``left index``.
    hand : {'left', 'right'}
    digit : one of `DIGITS`
    together : tuple of frozenset of str
        Touches that it can hold at once; of any two touches not in one of these it holds one.
    """

    name: str
    hand: str
    digit: str
    together: tuple[frozenset[str], ...] = ()

    def __post_init__(self) -> None:
        if self.hand not in HANDS or self.digit not in DIGITS:
            raise InstrumentError(f"finger {self.name!r} must have a hand and a digit, got {self}")

    def can_hold(self, touches: frozenset[str]) -> bool:
        """Whether it can hold these of its touches at the same time."""
        return len(touches) <= 1 or any(touches <= group for group in self.together)


@dataclass(frozen=True)
class Touch:
    """What a finger presses.

    Parameters
    ----------
    name : str
        Name used in fingerings; no spaces.
    finger : str
        Name of the finger that holds it.
    label : str
        How a teacher says it: "side B-flat".
    short : str
        At most three characters, for the drawing.
    column : int, -2 to 3
        Place along the finger's lane in the order the finger meets them; 0 is its home.
    optional : bool
        Not fitted on every instrument of this model.
    """

    name: str
    finger: str
    label: str
    short: str
    column: int
    optional: bool = False

    def __post_init__(self) -> None:
        if not self.name or set(self.name) & set(" |/!"):
            raise InstrumentError(f"a touch's name must have no space, bar or mark, got {self.name!r}")
        if not -2 <= self.column <= 3:
            raise InstrumentError(f"column of touch {self.name!r} must be from -2 to 3, got {self.column}")


@dataclass(frozen=True)
class ToneHole:
    """A tone hole or vent and the keywork that moves its pad.

    Parameters
    ----------
    name : str
    rest : {'open', 'closed'}
        Its state when no touch is pressed.
    moved_by : tuple of str
        Any of these touches moves it from rest.
    only_with, unless : tuple of str
        The move happens only with, or not with, any of these touches pressed.
    sounds : Pitch or None
        Written pitch of the first register when this is the first open tone hole; None for a vent.
    """

    name: str
    rest: str
    moved_by: tuple[str, ...]
    only_with: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()
    sounds: Pitch | None = None

    def __post_init__(self) -> None:
        if self.rest not in ("open", "closed"):
            raise InstrumentError(f"tone hole {self.name!r} must rest open or closed, got {self.rest!r}")

    def is_open(self, touches: frozenset[str]) -> bool:
        """Whether the hole is open with these touches pressed."""
        moved = not touches.isdisjoint(self.moved_by)
        if self.only_with and touches.isdisjoint(self.only_with):
            moved = False
        if not touches.isdisjoint(self.unless):
            moved = False
        return moved != (self.rest == "open")


@dataclass(frozen=True)
class Instrument:
    """One model of instrument: what hands reach, what opens, how it transposes.

    Parameters
    ----------
    written_low, written_high : Pitch
        Range of written pitches that the catalogue means to cover.
    to_sounding : Interval
        From written to sounding pitch.
    bell : Pitch
        Written pitch with every tone hole closed.
    holes : tuple of ToneHole
        From the reed downward; the order decides which open hole is the first.
    """

    name: str
    label: str
    written_low: Pitch
    written_high: Pitch
    to_sounding: Interval
    bell: Pitch
    fingers: tuple[Finger, ...]
    touches: tuple[Touch, ...]
    holes: tuple[ToneHole, ...]

    def __post_init__(self) -> None:
        for kind, names in {
            "finger": [finger.name for finger in self.fingers],
            "touch": [touch.name for touch in self.touches],
            "tone hole": [hole.name for hole in self.holes],
        }.items():
            if len(set(names)) != len(names) or not names:
                raise InstrumentError(f"{self.name}: each {kind} must be named once, got {names}")
        finger_names = {finger.name for finger in self.fingers}
        for touch in self.touches:
            if touch.finger not in finger_names:
                raise InstrumentError(f"touch {touch.name!r} must have a finger, got {touch.finger!r}")
        known = set(self.touch_by_name)
        for hole in self.holes:
            self._check_known(hole.name, {*hole.moved_by, *hole.only_with, *hole.unless}, known)
        for finger in self.fingers:
            reach = {touch.name for touch in self.touches if touch.finger == finger.name}
            for group in finger.together:
                self._check_known(finger.name, group, reach)
        if self.written_low.midi >= self.written_high.midi:
            raise InstrumentError(f"{self.name}: written_low must lie below written_high")

    @staticmethod
    def _check_known(where: str, names: Iterable[str], known: set[str]) -> None:
        unknown = sorted(set(names) - known)
        if unknown:
            raise InstrumentError(f"{where!r} names touches it does not have: {unknown}")

    @cached_property
    def touch_by_name(self) -> Mapping[str, Touch]:
        return {touch.name: touch for touch in self.touches}

    @cached_property
    def _finger_by_name(self) -> Mapping[str, Finger]:
        return {finger.name: finger for finger in self.fingers}

    def finger(self, name: str) -> Finger:
        return self._finger_by_name[name]

    @cached_property
    def optional_touches(self) -> frozenset[str]:
        return frozenset(touch.name for touch in self.touches if touch.optional)

    def in_range(self, written_pitch: Pitch) -> bool:
        return self.written_low.midi <= written_pitch.midi <= self.written_high.midi


def parse_instrument(text: str) -> Instrument:
    """Read an instrument from TOML text; ``data/instruments`` shows the form.

    Raises
    ------
    InstrumentError
        If the text is not TOML, a field is missing or unknown, or the data contradicts itself.
    """
    try:
        raw = tomllib.loads(text)
        sounding = raw.pop("to_sounding")
        return Instrument(
            name=raw.pop("name"),
            label=raw.pop("label"),
            written_low=parse_pitch(raw.pop("written_low")),
            written_high=parse_pitch(raw.pop("written_high")),
            to_sounding=Interval(sounding["steps"], sounding["semitones"]),
            bell=parse_pitch(raw.pop("bell")),
            fingers=tuple(_made(Finger, row) for row in raw.pop("finger")),
            touches=tuple(_made(Touch, row) for row in raw.pop("touch")),
            holes=tuple(_made(ToneHole, row) for row in raw.pop("hole")),
        )
    except tomllib.TOMLDecodeError as error:
        raise InstrumentError(f"an instrument must be TOML text: {error}") from error
    except KeyError as error:
        raise InstrumentError(f"an instrument must have the field {error}") from error
    except TypeError as error:
        raise InstrumentError(f"an instrument has a field that is not known: {error}") from error
    except InstrumentError:
        raise
    except CoreError as error:
        raise InstrumentError(str(error)) from error


def _made(kind: type[T], row: dict[str, Any]) -> T:
    values: dict[str, Any] = dict(row)
    for field in fields(kind):  # type: ignore[arg-type]  # only dataclasses are passed
        if field.name == "together" and "together" in values:
            values["together"] = tuple(frozenset(group) for group in values["together"])
        elif field.name == "sounds" and "sounds" in values:
            values["sounds"] = parse_pitch(values["sounds"])
        elif isinstance(values.get(field.name), list):
            values[field.name] = tuple(values[field.name])
    return kind(**values)
