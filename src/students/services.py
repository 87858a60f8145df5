"""Every change to students' pages: one function a use case; and what is logged on them."""

import logging
from datetime import timedelta

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from core.practice.attempts import By
from counting.services import REFUSED, PressAnswer, keep_presses, take_back
from evidence.models import AttemptMade
from students.models import StudentPage
from studio.access import own

security = logging.getLogger("security.pages")
DAYS, PAGES_OPEN, ASKED_MOST = range(1, 181), 20, 2_000
# Attempts that a student may log on pages, in an hour and in a day, on one instrument.
A_HOUR, A_DAY = 200, 600
ENOUGH = "Enough for now: rest, and go on later."


@transaction.atomic
def make_page(teacher, owned, *, asked="", pins=None, days=14, may_log=False):
    """Make an address for a student; what stands on it is as the sheet's address says."""
    owned = own(teacher, owned)
    if days not in DAYS:
        raise ValidationError(f"A link holds from {DAYS[0]} to {DAYS[-1]} days.", code="days")
    if len(asked) > ASKED_MOST:
        raise ValidationError("So much cannot be asked of a link; leave out drills.", code="long")
    now = timezone.now()
    if StudentPage.objects.filter(instrument=owned, revoked=None, expires__gt=now).count() >= PAGES_OPEN:
        raise ValidationError("So many links are open already; revoke those that are not used.", code="many")
    page = StudentPage.objects.create(
        instrument=owned,
        asked=asked,
        pins=pins or {},
        may_log=may_log,
        expires=now + timedelta(days=days),
    )
    security.info("teacher %s opened student's page %s", teacher.pk, page.pk)
    return page


@transaction.atomic
def revoke_page(teacher, page):
    """Close a page for good."""
    owned = own(teacher, page.instrument)
    StudentPage.objects.filter(pk=page.pk, instrument=owned, revoked=None).update(revoked=timezone.now())
    security.info("teacher %s closed student's page %s", teacher.pk, page.pk)


@transaction.atomic
def log_on_page(page, presses):
    """Keep presses of the student's own, if the teacher allows it and there are not too many of them.

    Whoever has the address acts for the teacher who made it, in this alone. `presses` are as
    `counting.services.keep_presses` takes them; those beyond the limit are refused.
    """
    page = _that_may_log(page)
    now, own_attempts = timezone.now(), AttemptMade.objects.filter(instrument=page.instrument, by=By.STUDENT)
    room = min(
        most - own_attempts.filter(made__gt=now - since).count()
        for most, since in ((A_HOUR, timedelta(hours=1)), (A_DAY, timedelta(days=1)))
    )
    keys = [press.logged.key for _, press, _ in presses if press]
    before = set(own_attempts.filter(key__in=keys).values_list("key", flat=True))
    few, more = [], []
    for row in presses:
        new = row[1] is not None and row[1].logged.key not in before
        (more if new and room <= 0 else few).append(row)
        room -= new
    answers = keep_presses(page.instrument.teacher, few, page=page.pk)
    return [*answers, *(PressAnswer(key, REFUSED, ENOUGH) for key, *_ in more)]


@transaction.atomic
def take_back_on_page(page, keys):
    """Take presses back that were made by a student, on the instrument of a page."""
    page = _that_may_log(page)
    take_back(page.instrument.teacher, keys, page=page)


def _that_may_log(page):
    page = StudentPage.objects.select_related("instrument__teacher").filter(pk=page.pk).first()
    if page is None or not page.is_open or not page.may_log or not page.instrument.teacher.is_active:
        raise ValidationError("Attempts are not logged through this page.", code="closed")
    return page
