"""Attempts as a table (CSV) or as data (JSON), out and in without loss.

Columns: key, made (with its zone), instrument (its model), note, fingering, result, cracked_to, place, began,
by_heart, setup, bpm, by; of a spot its notes as ``G5:0:id A5:0.5:id`` (note, quarters since the one
before, fingering), the number of the note of which the result is said, from 1, and of music that it is from
the title, bar and beat of its first note, and the place of that among its notes. Only made, note and result
must be there; of a spot note and fingering may be left out. Nothing in it is a number of some database.
"""

from __future__ import annotations

import csv
import io
import re
import uuid
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from core.archive.document import FORM, read_document, strict_json, write_document
from core.errors import ArchiveError, CoreError, PracticeError
from core.music.pitch import parse_pitch, spell
from core.practice.attempts import SPOT_MOST, Attempt, Began, By, Place, Result, Spot, SpotNote

COLUMNS = (
    *("key", "made", "instrument", "note", "fingering", "result", "cracked_to", "place", "began", "by_heart"),
    *("setup", "bpm", "by", "spot", "at", "title", "bar", "beat", "first"),
)
BYTES_LIMIT, ROWS_LIMIT, FIELD_LIMIT, YEAR_MIN = 10_000_000, 20_000, 240, 1950
SPOT_LIMIT = FIELD_LIMIT * SPOT_MOST
# By which a file of data is known again, and how its fields are to be read; before the third it had no form.
ATTEMPTS, VERSION = "attempts", 3
NUMBER_MAX = 10**9
YES, NO = "yes", "no"


@dataclass(frozen=True)
class Whence:
    """The music that a spot is from.

    Parameters
    ----------
    title : str
    bar : int, from 0
        Of its first note.
    beat : str
        Of its first note, as a number like ``1`` or ``5/2``.
    """

    title: str
    bar: int = 0
    beat: str = "1"


@dataclass(frozen=True)
class Logged:
    """An attempt as it is kept.

    Parameters
    ----------
    key : UUID
        By which it is known again.
    made : datetime
        With its zone.
    setup : int or None
        Number of the set-up of reed and mouthpiece; None is the present one.
    instrument : str
        Model on which it was made; empty where nobody said.
    whence : Whence or None
        The music that its spot is from.
    """

    attempt: Attempt
    key: uuid.UUID
    made: datetime
    setup: int | None = None
    instrument: str = ""
    whence: Whence | None = None


def read_row(row: Mapping[str, Any]) -> Logged:
    """One attempt of its fields by name; a key that is not there is made of what is.

    Parameters
    ----------
    row : mapping of str to Any
        Values by the names of the columns.

    Returns
    -------
    Logged

    Raises
    ------
    PracticeError
        If a field cannot be read; it says which, and what is wanted.
    """
    made = _moment(_text(row, "made"))
    cracked = _text(row, "cracked_to")
    spot, at, note, fingering = (
        _spot(row),
        _number(row, "at") or 1,
        _text(row, "note"),
        _text(row, "fingering"),
    )
    if spot is not None and not 1 <= at <= len(spot.steps):
        raise PracticeError(f"at must be from 1 to {len(spot.steps)}, got {at}")
    step = spot.steps[at - 1] if spot else None
    attempt = Attempt(
        midi=step.midi if step and not note else _note(note, "note"),
        result=_word(Result, _text(row, "result") or (Result.CRACKED if cracked else ""), "result"),
        day=made.date().toordinal(),
        place=_word(Place, _text(row, "place") or Place.ROOM, "place"),
        fingering=fingering or (step.fingering if step else ""),
        cracked_to=_note(cracked, "cracked_to") if cracked else None,
        began=_word(Began, _text(row, "began") or Began.TONGUED, "began"),
        by_heart=_text(row, "by_heart").lower() not in (NO, "false", "off", "0"),
        spot=spot,
        at=at - 1 if spot else 0,
        bpm=_number(row, "bpm"),
        by=_word(By, _text(row, "by") or By.TEACHER, "by"),
    )
    key = _text(row, "key")
    try:
        name = uuid.UUID(key) if key else uuid.uuid5(uuid.NAMESPACE_OID, f"{attempt} {made.isoformat()}")
    except ValueError as error:
        raise PracticeError(f"key must be a UUID, got “{key[:40]}”") from error
    title = _text(row, "title")
    whence = Whence(title, _number(row, "bar") or 0, _beat(_text(row, "beat") or "1")) if title else None
    return Logged(attempt, name, made, _number(row, "setup", 1), _text(row, "instrument"), whence)


def read_attempts(data: bytes) -> list[Logged]:
    """Attempts of a file, CSV or JSON by what is in it.

    Parameters
    ----------
    data : bytes

    Returns
    -------
    list of Logged

    Raises
    ------
    PracticeError
        If it is too large or neither, or a row cannot be; it says which.
    """
    if len(data) > BYTES_LIMIT:
        raise PracticeError(f"a file of attempts must have at most {BYTES_LIMIT // 1_000_000} MB")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise PracticeError("a file of attempts must be text in UTF-8; save it as CSV (UTF-8)") from error
    rows = _json_rows(text) if text.lstrip()[:1] in ("[", "{") else _csv_rows(text)
    found = []
    for number, row in enumerate(rows, start=1):
        if number > ROWS_LIMIT:
            raise PracticeError(f"a file may hold at most {ROWS_LIMIT:,} attempts; part it")
        try:
            found.append(read_row(row))
        except CoreError as error:
            raise PracticeError(f"attempt {number}: {error}") from error
    if not found:
        raise PracticeError("no attempt was found; the first line names the columns: made, note, result")
    return found


def write_csv(logged: Iterable[Logged]) -> str:
    """A table that `read_attempts` reads as the same.

    Parameters
    ----------
    logged : iterable of Logged

    Returns
    -------
    str
    """
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    writer.writerows(map(_row, logged))
    return out.getvalue()


def write_json(logged: Iterable[Logged]) -> str:
    """Data that `read_attempts` reads as the same.

    Parameters
    ----------
    logged : iterable of Logged

    Returns
    -------
    str
    """
    return write_document(ATTEMPTS, VERSION, {"attempts": list(map(_row, logged))})


def _row(one: Logged) -> dict[str, str]:
    attempt = one.attempt
    spot = attempt.spot
    values = (
        str(one.key),
        one.made.isoformat(),
        one.instrument,
        spell(attempt.midi).ascii,
        attempt.fingering,
        str(attempt.result),
        "" if attempt.cracked_to is None else spell(attempt.cracked_to).ascii,
        str(attempt.place),
        str(attempt.began),
        YES if attempt.by_heart else NO,
        "" if one.setup is None else str(one.setup),
        "" if attempt.bpm is None else str(attempt.bpm),
        str(attempt.by),
        spot_text(spot) if spot else "",
        str(attempt.at + 1) if spot else "",
        one.whence.title if one.whence else "",
        str(one.whence.bar) if one.whence else "",
        one.whence.beat if one.whence else "",
        str(spot.first) if spot else "",
    )
    return dict(zip(COLUMNS, values, strict=True))


def spot_text(spot: Spot) -> str:
    """The notes of a spot as one text.

    Parameters
    ----------
    spot : Spot

    Returns
    -------
    str
    """
    return steps_text(spot.steps)


def steps_text(steps: Iterable[SpotNote]) -> str:
    """Notes with their fingerings as one text, like ``G5:0.0:id A5:0.5:id``.

    Parameters
    ----------
    steps : iterable of SpotNote

    Returns
    -------
    str
    """
    return " ".join(f"{spell(s.midi).ascii}:{s.quarters!r}:{s.fingering}" for s in steps)


def steps_from(text: str) -> tuple[SpotNote, ...]:
    """Notes of a text as `steps_text` writes it.

    Parameters
    ----------
    text : str

    Returns
    -------
    tuple of SpotNote
        From 1 to 64.

    Raises
    ------
    PracticeError
        If it names none, too many, or one that cannot be.
    """
    steps = tuple(map(_step, text.split())) if len(text) <= SPOT_LIMIT else ()
    if not 1 <= len(steps) <= SPOT_MOST:
        raise PracticeError(f"a spot has from 1 to {SPOT_MOST} notes, got {len(steps)}")
    return steps


def spot_key(spot: Spot) -> uuid.UUID:
    """By which a spot is known again: the same notes, fingered alike, at the same place of a passage.

    Parameters
    ----------
    spot : Spot

    Returns
    -------
    uuid.UUID
    """
    return uuid.uuid5(uuid.NAMESPACE_OID, f"{spot.passage} {spot.first} {spot_text(spot)}")


def _spot(row: Mapping[str, Any]) -> Spot | None:
    text = _text(row, "spot", SPOT_LIMIT)
    if not text:
        return None
    return Spot(steps_from(text), first=_number(row, "first") or 0)


def _step(text: str) -> SpotNote:
    parts = text.split(":", 2)
    try:
        quarters = float(parts[1])
    except (ValueError, IndexError) as error:
        raise PracticeError(f"a note of a spot must read like A5:0.5:fingering, got “{text[:40]}”") from error
    return SpotNote(_note(parts[0], "a note of a spot"), "".join(parts[2:]), quarters)


def _number(row: Mapping[str, Any], name: str, least: int = 0) -> int | None:
    """A whole number of a field; None where it is empty."""
    text = _text(row, name)
    if not text:
        return None
    if not (text.isascii() and text.isdigit() and len(text) <= 10 and least <= int(text) <= NUMBER_MAX):
        raise PracticeError(f"{name} must be a whole number from {least}, got “{text[:20]}”")
    return int(text)


def _beat(text: str) -> str:
    if not re.fullmatch(r"\d{1,4}(/[1-9]\d{0,3})?", text):
        raise PracticeError(f"beat must be a number like 1 or 5/2, got “{text[:20]}”")
    return text


def _csv_rows(text: str) -> Iterable[Mapping[str, Any]]:
    first = text.partition("\n")[0]
    reader = csv.DictReader(io.StringIO(text), delimiter=";" if first.count(";") > first.count(",") else ",")
    if missing := {"made", "note", "result"} - {str(name).strip() for name in reader.fieldnames or ()}:
        named = ", ".join(sorted(missing))
        raise PracticeError(f"the first line names the columns made, note and result; {named} is missing")
    try:
        yield from reader
    except csv.Error as error:
        raise PracticeError(f"the table cannot be read: {error}") from error


def _json_rows(text: str) -> Iterable[Mapping[str, Any]]:
    try:
        data = strict_json(text)
        if isinstance(data, dict) and FORM in data:
            _, data = read_document(data, ATTEMPTS, VERSION)
    except ArchiveError as error:
        raise PracticeError(f"the file cannot be read: {error}") from error
    rows = data.get("attempts") if isinstance(data, dict) else data
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise PracticeError("the file must hold a list of attempts, or one under “attempts”")
    return rows


def _text(row: Mapping[str, Any], name: str, limit: int = FIELD_LIMIT) -> str:
    value = row.get(name)
    if value is None:
        return ""
    if isinstance(value, bool):
        return YES if value else NO
    if not isinstance(value, (str, int)):
        raise PracticeError(f"{name} must be text")
    text = str(value).strip()
    if len(text) > limit:
        raise PracticeError(f"{name} must have at most {limit} signs")
    return text


def _note(text: str, name: str) -> int:
    try:
        return parse_pitch(text).midi
    except CoreError as error:
        raise PracticeError(f"{name} must be a written note like F#6, got “{text[:20]}”") from error


def _word(words: Any, text: str, name: str) -> Any:
    try:
        return words(text.lower())
    except ValueError as error:
        raise PracticeError(f"{name} must be one of {', '.join(words)}, got “{text[:20]}”") from error


def _moment(text: str) -> datetime:
    try:
        made = datetime.fromisoformat(text)
    except ValueError as error:
        raise PracticeError(f"made must read like 2026-11-26T16:30:00+00:00, got “{text[:40]}”") from error
    if made.tzinfo is None or not YEAR_MIN <= made.year < 9000:
        raise PracticeError(f"made must have its zone, and a year from {YEAR_MIN}, got “{text[:40]}”")
    return made
