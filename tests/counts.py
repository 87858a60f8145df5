"""Attempts for tests: kept at once, or pressed on a page as its script sends them."""

import json
import re
import uuid
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from catalogue.queries import of_instrument
from core.music.pitch import parse_pitch
from core.practice.attempt_format import Logged
from core.practice.attempts import Attempt, Place, Result
from practice import services


def attempts(owned, note="G6", result="clean", times=1, *, entry="", place=Place.ROOM, to="", made=None):
    """Attempts at a note, as they are kept."""
    made = made or timezone.now()
    cracked = parse_pitch(to).midi if to else None
    one = Attempt(
        parse_pitch(note).midi, Result(result), 1, Place(place), fingering=entry, cracked_to=cracked
    )
    return [Logged(one, uuid.uuid4(), made) for _ in range(times)]


def keep(owned, *args, **more):
    """Attempts at a note, kept for the teacher whose instrument it is."""
    logged = attempts(owned, *args, **more)
    return services.log_attempts(owned.teacher, owned, of_instrument(owned), logged)


def drawn_on(page, card=0):
    """What a page draws, as its presses carry it."""
    return re.findall(r'name="drawn"\s+value="([^"]+)"', page.content.decode())[card]


def press(drawn, result="clean", **more):
    """A press as a script sends it."""
    made = timezone.now().isoformat()
    return {"key": str(uuid.uuid4()), "drawn": drawn, "result": result, "made": made, **more}


def send(client, *presses, who, back=(), to="", ahead=timedelta()):
    """Send presses as a page does; `back` are presses taken back, `ahead` how much its clock is wrong."""
    body = {
        "who": who,
        "sent": (timezone.now() + ahead).isoformat(),
        "presses": presses,
        "back": [{"key": one["key"], "drawn": one["drawn"]} for one in back],
    }
    return client.post(to or reverse("counting:presses"), json.dumps(body), content_type="application/json")
