"""Fingering charts as files: rows read from CSV or JSON, entries written in the same formats.

Reading is tolerant: only a note and its touches must be there, columns may stand in any order, and
touches may be spelled the ways charts spell them (`read_touches`). What a row means, and whether it
can be right, is for `core.charts.audit` to say.

::

    {"instrument": "alto-saxophone", "fingerings": [{"note": "Bb4", "touches": "L1 bis"}]}
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from difflib import get_close_matches
from functools import lru_cache
from typing import Any

from core.archive.document import strict_json
from core.charts.catalogue import COLUMNS, format_catalogue
from core.charts.entry import Entry
from core.errors import ArchiveError, CatalogueError, FingeringError
from core.instruments.fingering import OPEN, Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.naming import numbered

CHART_BYTES_LIMIT = 1_000_000
CHART_ROWS_LIMIT = 2_000
FIELD_LIMIT = 300
NEEDED = ("note", "touches")
NO_TOUCH = {OPEN, "none", "-", "0", "no fingers", "all off"}
TEMPLATE_ROWS = 5


@dataclass(frozen=True)
class ChartRow:
    """One row as it stands in the file; `line` counts from 1, in JSON the fingerings."""

    line: int
    values: Mapping[str, str]


def read_chart(data: bytes) -> list[ChartRow]:
    """Read the rows of a chart, CSV or JSON, told apart by content.

    Parameters
    ----------
    data : bytes

    Returns
    -------
    list of ChartRow

    Raises
    ------
    CatalogueError
        If it is neither, too large, has no rows, or no columns for note and touches.
    """
    if len(data) > CHART_BYTES_LIMIT:
        raise CatalogueError(f"a chart must have at most 1 MB, got {len(data) / 1e6:.1f} MB; split it")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise CatalogueError(
            "the chart must be text in UTF-8; save it again as CSV (UTF-8) or JSON"
        ) from error
    if "\x00" in text:
        raise CatalogueError("the chart must be text, got binary data; save it as CSV or JSON")
    rows = _json_rows(text) if text.lstrip()[:1] in ("{", "[") else _csv_rows(text)
    if not rows:
        raise CatalogueError("the chart has no rows; it needs a heading and at least one fingering")
    return rows


def _csv_rows(text: str) -> list[ChartRow]:
    lines = text.splitlines()
    kept = [(n, line) for n, line in enumerate(lines, 1) if line.strip() and not line.startswith("#")]
    if not kept:
        return []
    heading = kept[0][1]
    delimiter = max(",;\t", key=heading.count)
    try:
        table = list(csv.reader([line for _, line in kept], delimiter=delimiter, strict=True))
    except csv.Error as error:
        raise CatalogueError(f"the chart is not whole CSV: {error}; check its quotation marks") from error
    if len(table) != len(kept):
        raise CatalogueError("a field of the chart runs over several lines; check its quotation marks")
    names = [_column(name) for name in table[0]]
    _check_columns(names)
    return _bounded(
        [
            ChartRow(line, {name: cell.strip() for name, cell in zip(names, cells, strict=False)})
            for (line, _), cells in zip(kept[1:], table[1:], strict=True)
        ]
    )


def _json_rows(text: str) -> list[ChartRow]:
    try:
        whole = strict_json(text)
    except ArchiveError as error:
        raise CatalogueError(f"the chart cannot be read: {error}") from error
    listed = whole.get("fingerings") if isinstance(whole, dict) else whole
    if not isinstance(listed, list) or not all(isinstance(row, dict) for row in listed):
        raise CatalogueError('the chart must be a list of fingerings, or {"fingerings": [...]}')
    for row in listed[:1]:
        _check_columns([_column(name) for name in row])
    return _bounded(
        [
            ChartRow(place, {_column(name): _cell(value) for name, value in row.items()})
            for place, row in enumerate(listed, 1)
        ]
    )


def _cell(value: Any) -> str:
    if isinstance(value, list):
        return " ".join(_cell(part) for part in value) or OPEN
    return "" if value is None else str(value).strip()


def _column(name: str) -> str:
    return name.strip().lower().replace(" ", "_").replace("fingering", "touches").replace("pitch", "note")


def _check_columns(names: list[str]) -> None:
    lacking = [name for name in NEEDED if name not in names]
    if lacking:
        raise CatalogueError(
            f"a chart must have the columns note and touches; {' and '.join(lacking)} is not there"
        )


def _bounded(rows: list[ChartRow]) -> list[ChartRow]:
    if len(rows) > CHART_ROWS_LIMIT:
        raise CatalogueError(
            f"a chart must have at most {CHART_ROWS_LIMIT:,} rows, got {len(rows):,}; split it"
        )
    for row in rows:
        if any(len(value) > FIELD_LIMIT for value in row.values.values()):
            raise CatalogueError(f"row {row.line}: a field must have at most {FIELD_LIMIT} characters")
    return rows


def read_touches(text: str, instrument: Instrument) -> Fingering:
    """Read touches the way charts spell them, tolerantly.

    ``1 2 3 | 1 2 3``, ``LH1, side B-flat``, ``octave + palm D``; a bar parts the hands, ``/2`` or ``½``
    half-holes, ``!`` is touched at the attack, ``open`` is no touch.

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
        Naming the word that is no touch of this instrument, and what may have been meant.
    """
    if text.strip().lower() in NO_TOUCH:
        return Fingering()
    groups: dict[Held, set[str]] = {held: set() for held in Held}
    sides = text.replace("·", "|").replace("–", " ").split("|")
    if len(sides) > 2:
        raise FingeringError("one bar parts left hand and right hand, got several")
    for place, side in enumerate(sides):
        hand = ("left", "right")[place] if len(sides) == 2 else ""
        for touch, held in _touches(side, hand, instrument):
            if any(touch in group for group in groups.values()):
                raise FingeringError(f"touch {touch!r} must be named once")
            groups[held].add(touch)
    if not any(groups.values()):
        raise FingeringError(f"a fingering must name its touches, or {OPEN!r} for none")
    return Fingering(*(frozenset(groups[held]) for held in Held))


def _touches(side: str, hand: str, instrument: Instrument) -> Iterable[tuple[str, Held]]:
    words = re.sub(r"[,+;]|\band\b", " ", side).replace("½", "/2").split()
    spellings = _spellings(instrument)
    place = 0
    while place < len(words):
        for length in (5, 4, 3, 2, 1):
            raw = " ".join(words[place : place + length])
            flicked = raw.endswith("!") or raw.startswith("flick ")
            held = Held.HALF if raw.endswith("/2") else Held.MOMENTARY if flicked else Held.FULL
            name = raw.removesuffix("/2").removesuffix("!").removeprefix("flick ")
            found = _found(name, hand, spellings, instrument)
            if found and place + length <= len(words):
                yield found, held
                place += length
                break
        else:
            near = get_close_matches(_plain(words[place]), [spelling for _, spelling in spellings], 1)
            meant = [touch for (_, spelling), touch in spellings.items() if spelling in near]
            hint = f"; {instrument.touch_by_name[meant[0]].label!r} may be meant" if meant else ""
            raise FingeringError(f"{words[place][:40]!r} is no touch of the {instrument.noun}{hint}")


def _found(name: str, hand: str, spellings: Mapping[tuple[str, str], str], instrument: Instrument) -> str:
    own = instrument.touch_by_name.get(name)
    if own and (not hand or instrument.finger(own.finger).hand == hand):
        return own.name
    for side in (hand,) if hand else ("left", "right"):
        if (side, _plain(name)) in spellings:
            return spellings[side, _plain(name)]
    return own.name if own else ""


@lru_cache(maxsize=32)
def _spellings(instrument: Instrument) -> Mapping[tuple[str, str], str]:
    """Every plain spelling of a touch, by hand: names first, then labels, other spellings, short ones."""
    found: dict[tuple[str, str], str] = {}
    for rank in range(5):
        for touch in instrument.touches:
            hand = instrument.finger(touch.finger).hand
            bare = touch.label.removesuffix(" hole")
            ranks = ((touch.name,), (touch.label, bare), touch.spelled, (touch.short,))
            for spelling in (*ranks, (numbered(touch, instrument),))[rank]:
                if spelling:
                    found.setdefault((hand, _plain(spelling)), touch.name)
    return found


def _plain(text: str) -> str:
    """A spelling without capitals, hyphens and the word for a key; signs in plain letters."""
    plain = text.lower().replace("♭", "b").replace("♯", "#").replace("_", " ")
    plain = re.sub(r"[\s-]?flat\b", "b", plain)
    plain = re.sub(r"[\s-]?sharp\b", "#", plain)
    return re.sub(r"\b(key|touch|lever)\b|[-\s]", "", plain)


def write_csv(entries: Iterable[Entry], instrument: Instrument) -> str:
    """Write entries as CSV with all columns.

    Parameters
    ----------
    entries : iterable of Entry
    instrument : Instrument

    Returns
    -------
    str
    """
    return format_catalogue(entries, instrument)


def write_json(entries: Iterable[Entry], instrument: Instrument) -> str:
    """Write entries as JSON; empty fields are left out.

    Parameters
    ----------
    entries : iterable of Entry
    instrument : Instrument

    Returns
    -------
    str
    """
    rows = csv.DictReader(io.StringIO(format_catalogue(entries, instrument)))
    listed = [{name: value for name, value in row.items() if value} for row in rows]
    return (
        json.dumps({"instrument": instrument.name, "fingerings": listed}, ensure_ascii=False, indent=1) + "\n"
    )


def template_csv(entries: Iterable[Entry], instrument: Instrument) -> str:
    """A chart to fill in: comments that explain it, the columns, and a few rows as examples.

    Parameters
    ----------
    entries : iterable of Entry
    instrument : Instrument

    Returns
    -------
    str
    """
    names = " ".join(instrument.touch_by_name)
    rows = format_catalogue(list(entries)[:TEMPLATE_ROWS], instrument)
    return (
        f"# Fingering chart, {instrument.label}.\n"
        "# Needed: note (written pitch, such as F#4 or Bb3) and touches.\n"
        f"# Touches: {names}\n"
        "# A bar parts the hands; /2 half-holes; ! is touched at the attack; open is no touch.\n"
        f"# Columns: {', '.join(COLUMNS)}\n{rows}"
    )
