"""Instruments read from TOML text; ``data/instruments`` shows the form.

Siblings name the instrument that they extend and say only what differs.
"""

import tomllib
from collections.abc import Callable
from dataclasses import fields
from typing import Any, TypeVar

from core.errors import CoreError, InstrumentError
from core.instruments.instrument import Instrument
from core.instruments.parts import Added, Finger, Fitting, Form, Outline, Register, Rest, ToneHole, Touch
from core.music.pitch import Interval, parse_pitch

T = TypeVar("T")


def parse_instrument(text: str, sibling: Callable[[str], str] | None = None) -> Instrument:
    """Read an instrument from TOML text.

    Parameters
    ----------
    text : str
    sibling : callable, optional
        Gives the TOML text of the instrument named in ``extends``. What both say, the text at
        hand decides: a touch, hole, finger or fitting of the same name is altered field by
        field, a new one is put after the one named in ``after`` (first if empty, last if not
        given), those named in ``without`` are taken away.

    Returns
    -------
    Instrument

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
            registers=tuple(_made(Register, row) for row in raw.pop("register")),
            rests=tuple(_made(Rest, row) for row in raw.pop("rest", ())),
            forms=tuple(_made(Form, row) for row in raw.pop("form", ())),
            loud_above=parse_pitch(raw.pop("loud_above")) if "loud_above" in raw else None,
            between=raw.pop("between", "mouthpiece"),
            in_text=raw.pop("in_text", ""),
            outline=_made(Outline, raw.pop("outline", {})),
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
    whole["rest"] = [row for row in whole.get("rest", ()) if away.isdisjoint(row["touches"])]
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
    names = [other["name"] for other in rows]
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
            group_of = frozenset if field.name == "together" else tuple
            values[field.name] = tuple(map(group_of, values[field.name]))
        elif field.name in ("sounds", "low", "high") and field.name in values:
            values[field.name] = parse_pitch(values[field.name])
        elif field.name == "added" and field.name in values:
            values[field.name] = tuple(_made(Added, added) for added in values[field.name])
        elif isinstance(values.get(field.name), list):
            values[field.name] = tuple(values[field.name])
    return kind(**values)
