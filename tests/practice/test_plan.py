"""The plan: the note of the week, what is asked first, and what can be reached by when."""

import uuid
from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone
from tests.pages import words_of

from catalogue.queries import of_instrument
from core.practice.attempt_format import Logged
from core.practice.attempts import Attempt, Result
from evidence import services as evidence
from practice.models import Plan

pytestmark = pytest.mark.django_db


@pytest.fixture
def owned(teacher, make_instrument):
    owned = make_instrument(teacher)
    evidence.guess_reach(teacher, owned, of_instrument(owned), 86)
    return owned


def post(client, name, owned, **fields):
    usual = {"on": f"i{owned.pk}", "minutes": "30", "high_minutes": "6"}
    return client.post(reverse(f"practice:{name}"), usual | fields, follow=True)


def count(teacher, owned, midi, hits, days_ago):
    made = [timezone.now() - timedelta(days=days_ago, minutes=n) for n in range(hits)]
    logged = [Logged(Attempt(midi, Result.CLEAN, 1), uuid.uuid4(), moment) for moment in reversed(made)]
    evidence.log_attempts(teacher, owned, logged)


def test_a_plan_says_what_a_note_a_week_reaches_by_the_due_date(signed_in, owned):
    due = timezone.localdate() + timedelta(days=20)
    first = words_of(post(signed_in, "set-plan", owned, target="91", due=due.isoformat()))
    assert "too late, unless some hold sooner" in first
    assert "after the due date" in first
    later = timezone.localdate() + timedelta(days=100)
    assert "there is time for all of it" in words_of(
        post(signed_in, "set-plan", owned, target="91", due=later.isoformat())
    )
    off = f"{timezone.localdate()} to {timezone.localdate() + timedelta(days=90)}"
    with_days_off = post(signed_in, "set-plan", owned, target="91", due=later.isoformat(), days_off=off)
    assert "too late" in words_of(with_days_off)
    assert Plan.objects.get().target_midi == 91


def test_a_note_is_kept_until_it_holds_and_then_the_next_is_offered(signed_in, teacher, owned):
    post(signed_in, "set-plan", owned, target="91")
    page = post(signed_in, "begin", owned, midi="87")
    assert "stay with it until it holds" in words_of(page)
    plan = Plan.objects.get()
    plan.note_since = timezone.localdate() - timedelta(days=6)
    plan.save()
    for days_ago in (5, 3, 1):
        count(teacher, owned, 87, 14, days_ago)
    page = words_of(signed_in.get(reverse("practice:plan"), {"on": f"i{owned.pk}"}))
    assert "it likely holds. Go on to the next" in page
    assert "anyway" not in page


def test_after_two_weeks_something_else_is_offered_with_its_reason(signed_in, teacher, owned):
    post(signed_in, "set-plan", owned, target="91")
    post(signed_in, "begin", owned, midi="89")
    Plan.objects.update(note_since=timezone.localdate() - timedelta(days=15))
    words = words_of(signed_in.get(reverse("practice:plan"), {"on": f"i{owned.pk}"}))
    assert "it does not hold yet" in words
    assert "the voicing may be wanting" in words


def test_what_a_school_asks_first_is_never_skipped(signed_in, teacher, make_instrument):
    owned = make_instrument(teacher, positions={"what comes first": "voicing and overtones first"})
    in_hand = of_instrument(owned)
    assert in_hand.positions
    evidence.guess_reach(teacher, owned, in_hand, 89)
    post(signed_in, "set-plan", owned, target="95")
    page = post(signed_in, "begin", owned, midi="93")
    assert page.status_code == 422
    assert "First, as you teach it" in words_of(page)
    assert Plan.objects.get().note_midi is None
    evidence.log_prepared(teacher, owned, in_hand, "voicing and overtones first")
    assert post(signed_in, "begin", owned, midi="93").status_code == 200


@pytest.mark.parametrize(
    "wrong",
    [
        {"target": "5"},
        {"target": "x"},
        {"target": "91", "due": "2020-01-01"},
        {"target": "91", "due": "soon"},
        {"target": "91", "days_off": "Christmas"},
        {"target": "91", "days_off": "2026-12-24 to 2026-12-01"},
        {"target": "91", "days_off": "2026-12-24 to 2036-12-24"},
        {"target": "91", "days_off": "x" * 900},
        {"target": "91", "minutes": "9"},
        {"target": "91", "minutes": "1000"},
        {"target": "91", "high_minutes": "-1"},
        {"target": "91", "whole": "maybe"},
    ],
)
def test_a_plan_that_cannot_be_is_refused(signed_in, owned, wrong):
    assert post(signed_in, "set-plan", owned, **wrong).status_code == 422
    assert not Plan.objects.exists()


def test_days_off_without_end_are_said(signed_in, owned):
    day, spans = timezone.localdate(), []
    for n in range(5):
        first = day + timedelta(days=100 * n)
        spans.append(f"{first} to {first + timedelta(days=99)}")
    page = post(signed_in, "set-plan", owned, target="91", days_off=", ".join(spans))
    assert page.status_code == 422
    assert "days that are not off" in words_of(page)
    assert not Plan.objects.exists()


@pytest.mark.parametrize("midi", ["", "x", "5", "127", "92", "9" * 50])
def test_a_note_that_is_not_on_the_way_is_refused(signed_in, owned, midi):
    assert post(signed_in, "begin", owned, midi=midi).status_code == 422
    post(signed_in, "set-plan", owned, target="91")
    assert post(signed_in, "begin", owned, midi=midi).status_code == 422
    assert Plan.objects.get().note_midi is None


def test_a_plan_is_moved_by_hand_and_says_what_passages_ask(signed_in, teacher, owned, make_passage):
    make_passage(teacher, "L:1/4\nK:C\ng' c'|", title="Reeds in the Rain", owned=owned)
    page = post(signed_in, "set-plan", owned, target="91")
    assert "Reeds in the Rain goes up to G6" in words_of(page)
    assert 'value="91"' in page.content.decode()
    page = post(signed_in, "begin", owned, midi="84")
    assert Plan.objects.get().note_midi == 84
    assert "Another note" in words_of(page)
