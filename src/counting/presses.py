"""Presses as they are sent: each is read by itself, so that one that cannot be kept costs no other."""

import json
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.core.exceptions import ValidationError
from django.utils import timezone

from core.errors import CoreError, PracticeError
from core.music.pitch import parse_pitch
from core.practice.attempt_format import Logged
from core.practice.attempts import TEMPO_LEAST, TEMPO_MOST, Result
from counting.drawn import Drawn, drawn_of
from studio.refusals import refuse

BODY_BYTES, AT_ONCE, KEY_MOST = 4_000_000, 500, 60
UNREADABLE = "What was sent cannot be read; reload the page."
# A clock that is off by less is taken as it is: so long may an answer be on its way.
CLOCK_OFF = timedelta(seconds=30)
OLDEST_YEAR = 2000


@dataclass(frozen=True)
class Press:
    """A press: what was drawn, and the attempt as it is kept."""

    drawn: Drawn
    logged: Logged


@dataclass(frozen=True)
class Sent:
    """What a browser sends at once.

    Parameters
    ----------
    who : str
        For whom the browser kept it, see `counting.views`.
    presses : list of (str, Press or None, str)
        Key of each, as it was sent; what it says, or why it says nothing.
    back : list of UUID
        Keys of presses that are taken back.
    drawn : list of str
        What all of them say was drawn, each once.
    """

    who: str
    presses: list[tuple[str, Press | None, str]]
    back: list[uuid.UUID]
    drawn: list[str]


def sent_in(body: bytes) -> Sent:
    """What stands in a body of JSON.

    Raises
    ------
    ValidationError
        If it is none of ours; nothing of it was looked at then.
    """
    if len(body) > BODY_BYTES:
        raise ValidationError("Send fewer presses at once.", code="many")
    try:
        data = json.loads(body)
        who, rows, back = str(data["who"])[:KEY_MOST], list(data["presses"]), list(data["back"])
        ahead = _ahead(data["sent"])
    except (ValueError, TypeError, KeyError, OverflowError, RecursionError) as error:
        raise ValidationError(UNREADABLE, code="body") from error
    if len(rows) + len(back) > AT_ONCE or not all(isinstance(row, dict) for row in (*rows, *back)):
        raise ValidationError(UNREADABLE, code="rows")
    drawn = dict.fromkeys(str(row.get("drawn", "")) for row in (*rows, *back))
    keys = sent_keys(row.get("key") for row in back)
    return Sent(who, [_read(row, ahead) for row in rows], keys, list(drawn))


def sent_keys(texts) -> list[uuid.UUID]:
    """Keys among what was sent as keys."""
    return [key for one in texts if (key := _key(one))]


def _ahead(sent) -> timedelta:
    """How far the clock of a browser is ahead of ours, measured by when it says that it sent."""
    ahead = _moment(sent) - timezone.now()
    return ahead if abs(ahead) > CLOCK_OFF else timedelta()


def _read(row, ahead):
    named = str(row.get("key", ""))[:KEY_MOST]
    try:
        return named, press_of(row, ahead), ""
    except ValidationError as error:
        return named, None, " ".join(error.messages)


def press_of(row, ahead=timedelta()) -> Press:
    """A press of its fields by name; without a moment it is now.

    Raises
    ------
    ValidationError
        If it cannot be; it says why.
    """
    drawn, key = drawn_of(row.get("drawn", "")), _key(row.get("key"))
    if key is None:
        raise ValidationError("This press has no key of its own.", code="key")
    try:
        made = _moment(row["made"]) - ahead if row.get("made") else timezone.localtime()
        made = min(made, timezone.now().astimezone(made.tzinfo))
        cracked = str(row.get("cracked_to") or "")
        result = Result(str(row.get("result") or (Result.CRACKED if cracked else "")))
        to = parse_pitch(cracked).midi if cracked else None
        day = made.date().toordinal()
        attempt = drawn.attempt(result, day=day, cracked_to=to, bpm=_tempo(row.get("bpm")))
    except PracticeError as error:
        raise refuse(error, "press") from error
    except (CoreError, ValueError, OverflowError, TypeError) as error:
        raise ValidationError("This press cannot be read.", code="press") from error
    return Press(drawn, Logged(attempt, key, made, drawn.setup))


def _moment(text) -> datetime:
    """A moment with its zone, in a year that can be."""
    made = datetime.fromisoformat(str(text)[:40])
    if made.tzinfo is None or not OLDEST_YEAR <= made.year < 9000:
        raise ValueError("a moment has its zone, and a year that can be")
    return made


def _tempo(text):
    """A tempo within what one may be; None where there is none."""
    text = str(text or "")
    if not (text.isascii() and text.isdigit() and len(text) < 5):
        return None
    return min(max(int(text), TEMPO_LEAST), TEMPO_MOST)


def _key(text):
    try:
        return uuid.UUID(str(text)[:KEY_MOST])
    except ValueError:
        return None
