"""Days are told by the teacher's clock: on both sides of midnight, of daylight saving, of the date line."""

from datetime import UTC, date, datetime, timedelta

import pytest
from django.core.exceptions import ValidationError
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from tests.counts import attempts, drawn_on
from tests.pages import words_of

from catalogue.queries import of_instrument
from core.music.pitch import spell
from counting.drawn import drawn_of
from evidence.models import AttemptMade
from practice import queries
from practice.services import begin_note, log_attempts, set_plan
from students.screens.log import weeks_of
from students.services import make_page
from studio.models import ZONE, Teaching
from studio.services import keep_zone, take_positions

pytestmark = pytest.mark.django_db


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


def at(monkeypatch, *moment):
    now = datetime(*moment, tzinfo=UTC)
    monkeypatch.setattr(timezone, "now", lambda: now)
    return now


def zone_in(teacher):
    return Teaching.objects.filter(teacher=teacher, question=ZONE).values_list("position", flat=True).first()


def test_the_zone_of_the_browser_holds_until_the_teacher_chooses_one(signed_in, teacher):
    for odd in ("", "Atlantis/Sunken", "../etc/passwd", "x" * 999):
        signed_in.cookies["zone"] = odd
        signed_in.get(reverse("students:list"))
        assert zone_in(teacher) is None
    signed_in.cookies["zone"] = "America/New_York"
    signed_in.get(reverse("students:list"))
    assert zone_in(teacher) == "America/New_York"
    page = signed_in.get(reverse("catalogue:teaching"))
    assert '<option value="America/New_York" selected>' in page.content.decode()
    signed_in.post(reverse("catalogue:teaching"), {"zone": "Asia/Kathmandu", "week": "Sunday"})
    signed_in.get(reverse("students:list"))
    assert zone_in(teacher) == "Asia/Kathmandu"
    for wrong in ({"zone": "Atlantis/Sunken"}, {"week": "Doomsday"}):
        assert signed_in.post(reverse("catalogue:teaching"), wrong).status_code == 422
    for question, position in ((ZONE, "Atlantis/Sunken"), ("week begins", "Doomsday")):
        with pytest.raises(ValidationError):
            take_positions(teacher, {question: position})
    with pytest.raises(ValidationError):
        keep_zone(teacher, "Atlantis/Sunken")


def test_the_zone_that_was_chosen_holds_in_another_browser(
    signed_in, teacher, owned, make_passage, monkeypatch
):
    keep_zone(teacher, "Asia/Kathmandu")
    at(monkeypatch, 2026, 3, 4, 20)
    signed_in.cookies["zone"] = "America/New_York"
    passage = make_passage(teacher, owned=owned, title="Sluice Run")
    passage.due = date(2026, 3, 5)
    passage.save()
    where = reverse("students:student", args=[owned.student_id])
    assert "Sluice Run · due today" in words_of(signed_in.get(where))


@pytest.mark.parametrize(
    ("zone", "moment", "day"),
    [
        ("America/New_York", (2026, 3, 4, 4, 59), 3),
        ("America/New_York", (2026, 3, 4, 5, 1), 4),
        ("America/New_York", (2026, 3, 9, 3, 59), 8),  # the night after its clocks went forward
        ("America/New_York", (2026, 3, 9, 4, 1), 9),
        ("Europe/Lisbon", (2026, 10, 24, 22, 59), 24),
        ("Europe/Lisbon", (2026, 10, 24, 23, 1), 25),
        ("Europe/Lisbon", (2026, 10, 25, 23, 59), 25),  # and after they went back
        ("Pacific/Kiritimati", (2026, 3, 4, 9, 59), 4),
        ("Pacific/Kiritimati", (2026, 3, 4, 10, 1), 5),
        ("Pacific/Niue", (2026, 3, 4, 10, 59), 3),
        ("Pacific/Niue", (2026, 3, 4, 11, 1), 4),
    ],
)
def test_what_is_due_today_is_due_by_the_teachers_clock(
    signed_in, teacher, owned, make_passage, monkeypatch, zone, moment, day
):
    passage = make_passage(teacher, owned=owned, title="Sluice Run")
    keep_zone(teacher, zone)
    now = at(monkeypatch, *moment)
    passage.due = date(now.year, now.month, day)
    passage.save()
    where = reverse("students:student", args=[owned.student_id])
    assert "Sluice Run · due today" in words_of(signed_in.get(where))
    passage.due += timedelta(days=1)
    passage.save()
    assert "due today" not in words_of(signed_in.get(where))


def test_an_evening_is_one_session_and_a_night_between_makes_two(teacher, owned):
    in_hand, hour = of_instrument(owned), timedelta(hours=1)
    new_york = timezone.get_fixed_timezone(-5 * hour)
    evening = datetime(2026, 2, 3, 18, 40, tzinfo=new_york)
    for made in (evening, evening + hour * 2 / 3, evening + 14 * hour):
        log_attempts(teacher, owned, in_hand, attempts(owned, "G5", made=made))
    rows = AttemptMade.objects.order_by("made")
    assert [row.made.astimezone(UTC).day for row in rows] == [3, 4, 4]
    assert [row.day.day for row in rows] == [3, 3, 4]
    assert queries.sessions_on(owned, 79, date(2026, 2, 1)) == 2


def test_who_flies_over_the_date_line_keeps_the_days_of_each_place(teacher, owned):
    """Later by the hour, earlier by the day: nothing is lost of it, and nothing told wrongly."""
    in_hand = of_instrument(owned)
    there = timezone.get_fixed_timezone(timedelta(hours=14))
    here = timezone.get_fixed_timezone(-timedelta(hours=11))
    first = datetime(2026, 2, 3, 9, tzinfo=there)
    then = (first + timedelta(hours=10)).astimezone(here)
    for made in (first, then):
        log_attempts(teacher, owned, in_hand, attempts(owned, "G5", made=made))
    assert list(AttemptMade.objects.order_by("made").values_list("day", flat=True)) == [
        date(2026, 2, 3), date(2026, 2, 2),
    ]  # fmt: skip
    left = [one.made for one in queries.logged_on(owned)]
    assert left == [first, then]
    assert [made.utcoffset() for made in left] == [timedelta(hours=14), -timedelta(hours=11)]


def test_a_students_page_is_told_by_its_teachers_clock(teacher, owned, monkeypatch):
    """Half past seven in the evening in New York is the next day by UTC: what was counted is today's."""
    keep_zone(teacher, "America/New_York")
    set_plan(teacher, owned, of_instrument(owned), target_midi=90)
    begin_note(teacher, owned, of_instrument(owned), 86)
    page = make_page(teacher, owned, may_log=True)
    now = at(monkeypatch, 2026, 3, 4, 0, 30)
    page.expires = now + timedelta(days=3)
    page.save()
    new_york = timezone.get_fixed_timezone(-timedelta(hours=5))
    where = reverse("students:for-student", args=[page.token])
    shown = Client().get(where)
    step = drawn_of(drawn_on(shown)).step
    made = (now - timedelta(hours=2)).astimezone(new_york)
    log_attempts(
        teacher,
        owned,
        of_instrument(owned),
        attempts(owned, spell(step.midi).ascii, entry=step.fingering, made=made),
    )
    assert "1 of 1 clean today" in words_of(Client().get(where))
    at(monkeypatch, 2026, 3, 4, 5, 30)
    assert "not played today" in words_of(Client().get(where))


@pytest.mark.parametrize(("begins", "first"), [(0, "30 Nov"), (6, "29 Nov"), (2, "2 Dec"), (3, "26 Nov")])
def test_weeks_begin_on_the_day_that_was_chosen(begins, first):
    """Wednesday 2 December 2026."""
    today = date(2026, 12, 2)
    weeks = weeks_of([(today, "practice room", "clean")], today, begins)
    assert [(week.label, week.room) for week in weeks] == [(first, (1, 1))]
