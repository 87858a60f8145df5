"""Attempts as they are sent: from a page with a script, as a list; from one without, one at a time."""

import json
import uuid
from datetime import datetime

from django.core.exceptions import ValidationError
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from core.errors import CoreError
from core.music.pitch import parse_pitch
from core.practice.attempts import Attempt, Began, Place, Result
from studio.refusals import refuse

BODY_BYTES = 1_000_000
UNREADABLE = "The attempts that were sent cannot be read; reload the page."


def attempts_sent(body: bytes):
    """The instrument and the attempts in a body of JSON: pairs of Attempt and (key, moment).

    Raises
    ------
    ValidationError
        If it is none of ours, or an attempt cannot be.
    """
    if len(body) > BODY_BYTES:
        raise ValidationError("Send fewer attempts at once.", code="many")
    try:
        data = json.loads(body)
        on, rows = str(data["on"])[:12], list(data["attempts"])
    except (ValueError, TypeError, KeyError, RecursionError) as error:
        raise ValidationError(UNREADABLE, code="body") from error
    return on, [attempt_from(row) for row in rows]


def attempt_from(row):
    """One attempt, of its fields by name."""
    if not hasattr(row, "get"):
        raise ValidationError(UNREADABLE, code="attempt")
    try:
        made = _moment(row.get("made"))
        attempt = Attempt(
            midi=parse_pitch(str(row.get("note", ""))[:8]).midi,
            result=Result(str(row.get("result") or (Result.CRACKED if row.get("cracked_to") else ""))),
            day=timezone.localtime(made).date().toordinal(),
            place=Place(str(row.get("place") or Place.ROOM)),
            fingering=str(row.get("entry") or "")[:60],
            cracked_to=int(row["cracked_to"]) if row.get("cracked_to") else None,
            began=Began(str(row.get("began") or Began.TONGUED)),
            by_heart=row.get("by_heart", True) not in (False, "", "off"),
        )
        return attempt, (uuid.UUID(str(row.get("key") or uuid.uuid4())), made)
    except CoreError as error:
        raise refuse(error, "attempt") from error
    except (ValueError, TypeError, OverflowError) as error:
        raise ValidationError(UNREADABLE, code="attempt") from error


def _moment(text):
    """When it was; now, where nobody says. A moment long ago or without a zone is none of ours."""
    if not text:
        return timezone.now()
    made = parse_datetime(str(text)[:40])
    if made is None or timezone.is_naive(made) or made.year < datetime.min.year + 1900:
        raise ValueError(text)
    return made
