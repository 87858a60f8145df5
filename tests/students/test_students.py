"""The way in: who is next, how it stands with each; a student's page, the log; a week of the demo passes."""

import uuid
from datetime import timedelta

import pytest
from django.core.management import call_command
from django.urls import reverse
from django.utils import timezone
from tests.pages import words_of

from catalogue.queries import of_instrument
from core.practice.attempt_format import Logged
from core.practice.attempts import Attempt, Place, Result
from evidence import told
from evidence.models import AttemptMade, Told
from practice import services
from practice.models import Plan

pytestmark = pytest.mark.django_db


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


def count(teacher, owned, midi=84, days_ago=0, clean=6, missed=0, place=Place.ROOM, entry=""):
    now = timezone.now() - timedelta(days=days_ago, minutes=clean + missed + 1)
    results = [Result.CLEAN] * clean + [Result.CRACKED] * missed
    logged = [
        Logged(
            Attempt(midi, result, 1, place, entry, cracked_to=None if result is Result.CLEAN else midi - 7),
            uuid.uuid4(),
            now + timedelta(minutes=n),
        )
        for n, result in enumerate(results)
    ]
    services.log_attempts(teacher, owned, of_instrument(owned), logged)


def begun(teacher, owned, midi, days_ago):
    in_hand = of_instrument(owned)
    services.set_plan(teacher, owned, in_hand, target_midi=90, due=timezone.localdate() + timedelta(days=9))
    plan = services.begin_note(teacher, owned, in_hand, midi)
    plan.note_since -= timedelta(days=days_ago)
    plan.save()


def test_who_had_a_lesson_longest_ago_is_next(signed_in, teacher, make_instrument):
    for name, days_ago in (("Ash", 2), ("Birch", 9), ("Cedar", 5)):
        one = make_instrument(teacher)
        one.student.name = name
        one.student.save()
        count(teacher, one, days_ago=days_ago, place=Place.LESSON)
    words = words_of(signed_in.get(reverse("students:list")))
    assert words.index("Birch") < words.index("Cedar") < words.index("Ash")
    assert "last lesson 9 days ago next" in words


def test_a_note_that_does_not_hold_for_two_weeks_is_said_and_one_that_does(signed_in, teacher, owned):
    begun(teacher, owned, 84, 15)
    count(teacher, owned, days_ago=3, clean=1, missed=9)
    words = words_of(signed_in.get(reverse("students:list")))
    assert "begun 15 days ago, does not hold yet" in words
    assert "due in 9 days" in words
    for days_ago in (2, 1):
        count(teacher, owned, days_ago=days_ago, clean=40)
    assert "likely holds: go on to the next" in words_of(signed_in.get(reverse("students:list")))
    Told.objects.update(day=timezone.localdate() - timedelta(days=30))
    assert "likely held when it was last played" in words_of(signed_in.get(reverse("students:list")))


def test_a_student_has_everything_on_one_page_and_is_the_teachers_own(
    signed_in, teacher, other_teacher, owned, make_instrument, make_passage
):
    passage = make_passage(teacher, owned=owned, title="Reeds in the Rain")
    words = words_of(signed_in.get(reverse("students:student", args=[owned.student.pk])))
    assert passage.title in words
    assert "not counted yet" in words
    foreign = make_instrument(other_teacher).student.pk
    assert signed_in.get(reverse("students:student", args=[foreign])).status_code == 404


def test_a_passage_above_the_reach_is_said_in_the_list_and_on_the_sheet(
    signed_in, teacher, owned, make_passage
):
    passage = make_passage(teacher, "L:1/4\nK:C\nc' b a g|", owned=owned)
    services.guess_reach(teacher, owned, of_instrument(owned), 82)
    count(teacher, owned, midi=78, clean=40)
    top = Told.objects.get().top
    assert top < 84
    assert "above the reach, likely" in words_of(signed_in.get(reverse("passages:list")))
    sheet = words_of(signed_in.get(reverse("bench:sheet", args=[passage.pk])))
    assert "Beyond the reach so far, by what was counted: C6" in sheet.replace("B5, ", "")


def test_the_log_counts_by_week_by_fingering_and_under_the_staff(signed_in, teacher, owned, make_passage):
    address = f"{reverse('students:log')}?on=i{owned.pk}"
    assert "Count a first note" in words_of(signed_in.get(address))
    make_passage(teacher, "L:1/4\nK:C\nc' b a g|", owned=owned)
    count(teacher, owned, clean=3, missed=2, entry="C6-plain")
    count(teacher, owned, clean=1, missed=4, place=Place.STAGE, days_ago=8)
    page = signed_in.get(address)
    words = words_of(page)
    assert "10 attempts" in words
    assert "3 of 5" in words
    assert "1 of 5" in words
    assert "2 times to F5" in words
    assert page.content.decode().count("hits-missed") == 2  # the one line that holds it, at two widths


@pytest.mark.parametrize("many", [10, 3_000])
def test_pages_keep_their_number_of_queries(
    signed_in, teacher, owned, make_passage, django_assert_num_queries, many
):
    make_passage(teacher, owned=owned)
    begun(teacher, owned, 84, 3)
    count(teacher, owned, clean=many // 2, missed=many // 2)
    on = f"?on=i{owned.pk}"
    for name, queries in (("list", 8), ("week", 22), ("log", 28)):
        with django_assert_num_queries(queries):
            assert signed_in.get(reverse(f"students:{name}") + on).status_code == 200


def test_what_attempts_tell_is_kept_and_gone_on_from(signed_in, teacher, owned, monkeypatch):
    count(teacher, owned, clean=20)
    monkeypatch.setattr(told, "begin", None)  # nothing is worked out anew
    before = Told.objects.get()
    count(teacher, owned, clean=5)
    after = Told.objects.get()
    assert (before.count, after.count) == (20, 25)
    assert bytes(after.state) != bytes(before.state)
    after.state = b"torn"
    after.save()
    monkeypatch.undo()
    assert signed_in.get(f"{reverse('practice:reach')}?on=i{owned.pk}").status_code == 200


def test_a_week_of_the_demo_passes_and_only_of_the_demo(signed_in, settings, client, django_user_model):
    settings.DEMO = False
    assert signed_in.post(reverse("students:next-week")).status_code == 404
    settings.DEMO = True
    call_command("load_demo", verbosity=0)
    client.force_login(django_user_model.objects.get(username="demo"))
    before = {plan.instrument_id: plan for plan in Plan.objects.all()}
    first = AttemptMade.objects.earliest("made").made
    words = words_of(client.post(reverse("students:next-week"), follow=True))
    assert "A week has passed" in words
    assert AttemptMade.objects.earliest("made").made == first - timedelta(days=7)
    assert AttemptMade.objects.latest("made").made < timezone.now()
    for plan in Plan.objects.all():
        assert plan.due == before[plan.instrument_id].due - timedelta(days=7)
        told = Told.objects.get(instrument=plan.instrument)
        assert told.count == AttemptMade.objects.filter(instrument=plan.instrument).count()
        assert told.day >= timezone.localdate() - timedelta(days=7)
