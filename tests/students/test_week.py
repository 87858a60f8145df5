"""The week: the routine of each day, on screen and as a calendar."""

import re
from datetime import timedelta

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar
from tests.pages import words_of

from bench.queries import Opened
from catalogue.queries import of_instrument
from evidence import services as evidence
from practice import services
from practice.services import set_plan

pytestmark = pytest.mark.django_db


@pytest.fixture
def owned(teacher, make_instrument):
    owned = make_instrument(teacher)
    evidence.guess_reach(teacher, owned, of_instrument(owned), 86)
    return owned


def plan(teacher, owned, **more):
    usual = {"target_midi": 91, "minutes": 40, "high_minutes": 4}
    return set_plan(teacher, owned, of_instrument(owned), **usual | more)


def address(name, owned):
    return f"{reverse(f'students:{name}')}?on=i{owned.pk}"


def test_a_day_has_its_minutes_its_cap_and_says_when_to_stop(signed_in, teacher, owned):
    assert "No plan yet" in words_of(signed_in.get(address("week", owned)))
    plan(teacher, owned)
    words = words_of(signed_in.get(address("week", owned)))
    assert "Today, 40 minutes" in words
    assert "at most 4 of them high" in words
    note = re.search(r"The note of the week: (\S+)", words)[1]
    assert f"Scale and arpeggio up to {note}, slowly" in words
    assert "ask the teacher and a physician" in words
    assert "Mouthpiece alone" in words


def test_days_off_are_off_and_a_calendar_holds_the_others(signed_in, teacher, owned):
    today = timezone.localdate()
    due = today + timedelta(days=30)
    plan(teacher, owned, due=due, days_off=[(today, today + timedelta(days=1))])
    assert "A day off." in words_of(signed_in.get(address("week", owned)))
    answer = signed_in.get(address("week-calendar", owned))
    assert answer["Content-Type"].startswith("text/calendar")
    events = Calendar.from_ical(answer.content).walk("VEVENT")
    days = [event.decoded("dtstart") for event in events]
    assert days == [*(today + timedelta(days=n) for n in range(2, 7)), due]
    assert "40 min" in str(events[0]["summary"])
    minutes = [
        int(line.split()[0]) for line in str(events[0]["description"]).splitlines() if "minute" in line
    ]
    assert sum(minutes) == 40
    again = Calendar.from_ical(signed_in.get(address("week-calendar", owned)).content).walk("VEVENT")
    assert [str(event["uid"]) for event in again] == [str(event["uid"]) for event in events]


def test_the_whole_chart_goes_by_turns_and_says_what_it_costs(signed_in, teacher, owned):
    plan(teacher, owned, whole=True)
    words = words_of(signed_in.get(address("week", owned)))
    notes = re.findall(r"The note of the day: (\S+)", words)
    assert len(set(notes)) == 6  # from the first that does not hold to the target
    told = words_of(signed_in.get(f"{reverse('practice:plan')}?on=i{owned.pk}"))
    assert "it took about twice as long" in told
    assert "At about two weeks a note" in told
    assert "Begin " not in told


def test_a_passage_of_the_instrument_brings_its_links(signed_in, teacher, owned, make_passage):
    passage = make_passage(teacher, "Q:1/4=160\nL:1/16\nK:C\nB,^CB,^CB,^CB,^C|", owned=owned)
    words = words_of(signed_in.get(address("week", owned)))
    assert passage.title in words
    assert words.split("Three clean in a row, then faster: ")[1].count("B3 to C♯4") == 1


@pytest.mark.parametrize("whole", [False, True])
def test_what_is_taught_to_come_first_is_not_skipped_by_the_week(signed_in, teacher, make_instrument, whole):
    owned = make_instrument(teacher, positions={"what comes first": "voicing and overtones first"})
    services.guess_reach(teacher, owned, of_instrument(owned), 92)
    plan(teacher, owned, target_midi=95, whole=whole)
    words = words_of(signed_in.get(address("week", owned)))
    assert re.search(r"Before \S+ .*First, as you teach it: ", words)
    other = make_instrument(teacher)
    services.guess_reach(teacher, other, of_instrument(other), 92)
    plan(teacher, other, target_midi=95, whole=whole)
    assert "as you teach it" not in words_of(signed_in.get(address("week", other)))
    begun = signed_in.post(reverse("practice:begin"), {"on": f"i{other.pk}", "midi": "91"})
    assert begun.status_code == 302


def test_days_off_alone_and_a_passage_that_cannot_be_solved_leave_a_week(
    signed_in, teacher, owned, make_passage, monkeypatch
):
    passage = make_passage(teacher, owned=owned)
    today = timezone.localdate()
    plan(teacher, owned, days_off=[(today, today + timedelta(days=20))])
    words = words_of(signed_in.get(address("week", owned)))
    assert "A day off." in words
    assert not Calendar.from_ical(signed_in.get(address("week-calendar", owned)).content).walk("VEVENT")

    def refuse(opened):
        raise ValidationError("The pins ask for what cannot be.")

    plan(teacher, owned)
    monkeypatch.setattr(Opened, "solution", refuse)
    words = words_of(signed_in.get(address("week", owned)))
    assert "Long tones" in words
    assert passage.title not in words


@pytest.mark.parametrize("name", ["week", "week-calendar"])
def test_a_week_belongs_to_an_instrument_of_the_teachers(signed_in, other_teacher, make_instrument, name):
    for on in ("alto-saxophone", "i999999", f"i{make_instrument(other_teacher).pk}"):
        assert signed_in.get(reverse(f"students:{name}"), {"on": on}).status_code == 404
