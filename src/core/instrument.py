"""Instruments as data: fingers, the touches each can reach, tone holes and what moves them.

The data is TOML text (`parse_instrument`); every object checks itself when made, so that an
`Instrument` in hand is one that does not contradict itself. Siblings name the instrument that
they extend and say only what differs.
"""

from __future__ import annotations

import tomllib
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, fields
from functools import cached_property
from typing import Any, TypeVar

from core.errors import CoreError, InstrumentError
from core.pitch import Interval, Pitch, parse_pitch

HANDS = ("left", "right")
CLEFS = ("treble", "tenor", "bass")
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
    rolls : tuple of frozenset of str
        Touches between which it rolls without breaking a slur; between others it has to jump.
    """

    name: str
    hand: str
    digit: str
    together: tuple[frozenset[str], ...] = ()
    rolls: tuple[frozenset[str], ...] = ()

    def __post_init__(self) -> None:
        if self.hand not in HANDS or self.digit not in DIGITS:
            raise InstrumentError(f"finger {self.name!r} must have a hand and a digit, got {self}")

    def jumps(self, one: str, other: str) -> bool:
        """Whether the way from one of its touches to another breaks a slur."""
        return not any({one, other} <= group for group in (*self.together, *self.rolls))

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
    row : int, 0 or 1
        Second row of the lane, for a thumb with more touches than one row holds.
    at : (float, float)
        Place on the drawing of the instrument: 0 at the reed to 100 at the bell, and across from
        -2 (left hand's side) to 2 (right hand's side); 3 is the back, where the thumbs are.
    optional : bool
        Not fitted on every instrument of this model.
    usual : bool
        Whether an optional touch is fitted more often than not.
    half : bool
        Whether it can be half-holed.
    spelled : tuple of str
        Other ways in which charts name it.
    """

    name: str
    finger: str
    label: str
    short: str
    column: int
    row: int = 0
    at: tuple[float, float] = (0.0, 0.0)
    optional: bool = False
    usual: bool = True
    half: bool = False
    spelled: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.name or set(self.name) & set(" |/!"):
            raise InstrumentError(f"a touch's name must have no space, bar or mark, got {self.name!r}")
        if not -2 <= self.column <= 3:
            raise InstrumentError(f"column of touch {self.name!r} must be from -2 to 3, got {self.column}")
        if self.row not in (0, 1):
            raise InstrumentError(f"row of touch {self.name!r} must be 0 or 1, got {self.row}")
        if len(self.at) != 2 or not (0 <= self.at[0] <= 100 and -2 <= self.at[1] <= 3):
            raise InstrumentError(f"touch {self.name!r} must lie on the instrument, got {self.at}")


@dataclass(frozen=True)
class Fitting:
    """A mechanism without a touch of its own that not every instrument has."""

    name: str
    label: str
    usual: bool = True


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
    half : tuple of str
        Touches that leave it half open when they are half-holed.
    vents : bool
        Open above closed holes it may serve as a vent for the third partial and higher.
    fitting : str
        Fitting without which it stays at rest; empty for none.
    """

    name: str
    rest: str
    moved_by: tuple[str, ...]
    only_with: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()
    sounds: Pitch | None = None
    half: tuple[str, ...] = ()
    vents: bool = False
    fitting: str = ""

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
    family : str
        Name of the instrument's family, such as ``saxophone``.
    partials : {'all', 'odd'}
        Which partials its tube has: a cone all, a cylinder closed at one end the odd ones.
    clefs : tuple of str
        Clefs in which it is written, the usual one first.
    charts : tuple of str
        Names of the charts that make up its catalogue, from the general to the particular.
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
    family: str
    written_low: Pitch
    written_high: Pitch
    to_sounding: Interval
    bell: Pitch
    partials: str
    clefs: tuple[str, ...]
    charts: tuple[str, ...]
    fingers: tuple[Finger, ...]
    touches: tuple[Touch, ...]
    holes: tuple[ToneHole, ...]
    fittings: tuple[Fitting, ...] = ()

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
            named = {*hole.moved_by, *hole.only_with, *hole.unless, *hole.half}
            self._check_known(hole.name, named, known)
            if hole.fitting and hole.fitting not in self.optional:
                raise InstrumentError(f"{hole.name!r} names a fitting it does not have: {hole.fitting!r}")
        for finger in self.fingers:
            reach = {touch.name for touch in self.touches if touch.finger == finger.name}
            for group in (*finger.together, *finger.rolls):
                self._check_known(finger.name, group, reach)
        if self.written_low.midi >= self.written_high.midi:
            raise InstrumentError(f"{self.name}: written_low must lie below written_high")
        if self.partials not in ("all", "odd"):
            raise InstrumentError(f"{self.name}: partials must be all or odd, got {self.partials!r}")
        if not self.clefs or not set(self.clefs) <= set(CLEFS):
            raise InstrumentError(f"{self.name}: clefs must be of {', '.join(CLEFS)}, got {self.clefs}")

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

    def reach(self, finger: Finger) -> tuple[Touch, ...]:
        """The touches of one finger, in the order of the data."""
        return tuple(touch for touch in self.touches if touch.finger == finger.name)

    @cached_property
    def optional_touches(self) -> frozenset[str]:
        return frozenset(touch.name for touch in self.touches if touch.optional)

    @cached_property
    def optional(self) -> Mapping[str, str]:
        """What may be missing, touches and fittings: its label by its name."""
        touches = {touch.name: touch.label for touch in self.touches if touch.optional}
        return touches | {fitting.name: fitting.label for fitting in self.fittings}

    @cached_property
    def usually_fitted(self) -> frozenset[str]:
        """What of it is fitted more often than not."""
        touches = {touch.name for touch in self.touches if touch.optional and touch.usual}
        return frozenset(touches | {fitting.name for fitting in self.fittings if fitting.usual})

    def in_range(self, written_pitch: Pitch) -> bool:
        return self.written_low.midi <= written_pitch.midi <= self.written_high.midi


def parse_instrument(text: str, sibling: Callable[[str], str] | None = None) -> Instrument:
    """Read an instrument from TOML text; ``data/instruments`` shows the form.

    Parameters
    ----------
    sibling : callable, optional
        Gives the TOML text of the instrument named in ``extends``. What both say, the text at
        hand decides: a touch, hole, finger or fitting of the same name is altered field by
        field, a new one is put after the one named in ``after`` (first if empty, last if not
        given), those named in ``without`` are taken away.

    Raises
    ------
    InstrumentError
        If the text is not TOML, a field is missing or unknown, or the data contradicts itself.
    """
    try:
        raw = _merged(text, sibling)
        sounding = raw.pop("to_sounding")
        made = Instrument(
            name=raw.pop("name"),
            label=raw.pop("label"),
            family=raw.pop("family"),
            written_low=parse_pitch(raw.pop("written_low")),
            written_high=parse_pitch(raw.pop("written_high")),
            to_sounding=Interval(sounding["steps"], sounding["semitones"]),
            bell=parse_pitch(raw.pop("bell")),
            partials=raw.pop("partials"),
            clefs=tuple(raw.pop("clefs")),
            charts=tuple(raw.pop("charts")),
            fingers=tuple(_made(Finger, row) for row in raw.pop("finger")),
            touches=tuple(_made(Touch, row) for row in raw.pop("touch")),
            holes=tuple(_made(ToneHole, row) for row in raw.pop("hole")),
            fittings=tuple(_made(Fitting, row) for row in raw.pop("fitting", ())),
        )
        if raw:
            raise InstrumentError(f"an instrument has a field that is not known: {', '.join(raw)}")
        return made
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


def _merged(text: str, sibling: Callable[[str], str] | None) -> dict[str, Any]:
    """The data with what it extends put beneath it."""
    own = tomllib.loads(text)
    if "extends" not in own:
        return own
    name = own.pop("extends")
    if sibling is None:
        raise InstrumentError(f"an instrument that extends {name!r} must be read beside it")
    whole = _merged(sibling(name), sibling)
    away = set(own.pop("without", ()))
    for table in ("finger", "touch", "hole", "fitting"):
        rows = [_parted(row, away) for row in whole.get(table, ()) if row["name"] not in away]
        for row in own.pop(table, ()):
            _put(rows, row)
        whole[table] = rows
    return whole | own


def _parted(row: dict[str, Any], away: set[str]) -> dict[str, Any]:
    """A row without mention of the touches taken away."""
    lists = {
        key: [name for name in value if name not in away]
        for key, value in row.items()
        if isinstance(value, list) and key in ("moved_by", "only_with", "unless", "half")
    }
    for key in ("together", "rolls"):
        if key in row:
            lists[key] = [[name for name in group if name not in away] for group in row[key]]
    return row | lists


def _put(rows: list[dict[str, Any]], row: dict[str, Any]) -> None:
    """Alter the row of the same name, or put a new one in its place."""
    names = [there["name"] for there in rows]
    after = row.pop("after", None)
    if row["name"] in names:
        rows[names.index(row["name"])] |= row
    elif after is None:
        rows.append(row)
    elif not after:
        rows.insert(0, row)
    elif after in names:
        rows.insert(names.index(after) + 1, row)
    else:
        raise InstrumentError(f"{row['name']!r} must stand after a row that is there, got {after!r}")


def _made(kind: type[T], row: dict[str, Any]) -> T:
    values: dict[str, Any] = dict(row)
    for field in fields(kind):  # type: ignore[arg-type]  # only dataclasses are passed
        if field.name in ("together", "rolls") and field.name in values:
            values[field.name] = tuple(frozenset(group) for group in values[field.name])
        elif field.name == "sounds" and "sounds" in values:
            values["sounds"] = parse_pitch(values["sounds"])
        elif isinstance(values.get(field.name), list):
            values[field.name] = tuple(values[field.name])
    return kind(**values)
