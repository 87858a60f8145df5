"""The clock by which a teacher's days are told, and the day on which their weeks begin."""

from functools import cache
from zoneinfo import ZoneInfo, available_timezones

from django.conf import settings
from django.utils import timezone

from studio.access import of
from studio.models import WEEK_BEGINS, WEEKDAYS, ZONE, Teaching
from studio.services import keep_zone

# In which a script of every page tells the zone of the browser.
COOKIE = "zone"


@cache
def names():
    """Every zone that may be chosen."""
    return sorted(name for name in available_timezones() if "/" in name and not name.startswith("Etc/"))


def zone_of(teacher) -> ZoneInfo:
    """A teacher's own zone; that of the settings where none is known."""
    return ZoneInfo(_said(teacher, ZONE) or settings.TIME_ZONE)


def week_begins(teacher) -> int:
    """The day on which a teacher's weeks begin, 0 for Monday."""
    said = _said(teacher, WEEK_BEGINS)
    return WEEKDAYS.index(said) if said in WEEKDAYS else 0


def _said(teacher, question):
    return of(teacher, Teaching).filter(question=question).values_list("position", flat=True).first()


class ZoneMiddleware:
    """Every page of a teacher is told by their clock; by that of the browser until they choose one."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        if not request.user.is_authenticated:
            return self.get_response(request)
        zone, here = _said(request.user, ZONE), request.COOKIES.get(COOKIE, "")
        if not zone and here in names():
            keep_zone(request.user, here)
            zone = here
        with timezone.override(ZoneInfo(zone or settings.TIME_ZONE)):
            return self.get_response(request)
