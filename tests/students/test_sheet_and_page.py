"""What a student takes home: the sheet on screen and as PDF; their page, what it shows and lets do."""

import re
from datetime import timedelta

import pytest
from django.core.exceptions import ValidationError
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from tests.pages import words_of

from bench.services import keep_ossia
from catalogue.queries import of_instrument
from core.practice.attempts import By
from evidence.models import AttemptMade
from practice import services as practice
from students import services
from students.models import StudentPage
from students.screens import sheet as sheets

pytestmark = pytest.mark.django_db
SCORE = "Q:1/4=152\nL:1/16\nK:C\nB,^CB,^C DEFG f2a2c'2b2|"


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.fixture
def passage(teacher, owned, make_passage):
    return make_passage(teacher, SCORE, owned=owned, title="Weir Steps")


@pytest.fixture
def student_page(teacher, owned, passage):
    in_hand = of_instrument(owned)
    practice.set_plan(teacher, owned, in_hand, target_midi=90)
    practice.begin_note(teacher, owned, in_hand, 86)
    return services.make_page(teacher, owned, asked="part=passage&part=ladder", may_log=True)


def address(name, owned, **asked):
    query = "&".join(f"{key}={value}" for key, values in asked.items() for value in values)
    return f"{reverse(f'students:{name}')}?on=i{owned.pk}&{query}"


def for_student(student_page, log=False):
    return reverse("students:for-student-log" if log else "students:for-student", args=[student_page.token])


def test_a_sheet_has_what_is_wanted_and_no_more(signed_in, teacher, owned, passage):
    keep_ossia(teacher, passage, passage.current, {"n9": "F4"})
    words = words_of(signed_in.get(address("sheet", owned)))
    for part in ("Weir Steps", "Moves to work on", "Ladders of tempi", "The week", "Tongue, vowel, air"):
        assert part in words
    assert "Until the high notes are there" in words
    little = signed_in.get(address("sheet", owned, part=["ladder"]))
    assert "Ladders of tempi ♩" not in words_of(little)
    article = little.content.decode().split("<article")[1]
    assert "Moves to work on" not in article
    assert re.search(r"♩ = \d+", article)


def test_a_drill_that_is_kept_stands_on_the_sheet_of_the_passage(signed_in, owned, passage):
    drills = f"{reverse('practice:drills', args=[passage.pk])}?from=n1&to=n4"
    page = signed_in.get(drills).content.decode()
    names = re.findall(r'name="drill"\s+value="([^"]+)"', page)
    attack, scale = (next(n for n in names if n.startswith(kind)) for kind in ("attacks", "scales"))
    signed_in.post(drills, {"drill": [attack, scale]})
    first, second = passage.drills.order_by("pk")
    words = words_of(signed_in.get(address("sheet", owned, part=["drills"], drill=[second.pk])))
    assert second.purpose in words
    assert first.purpose not in words


@pytest.mark.parametrize("paper", ["a4", "us-letter", "papyrus"])
def test_the_sheet_is_a_pdf(signed_in, owned, passage, paper):
    page = signed_in.get(address("sheet-pdf", owned, paper=[paper]))
    assert page["Content-Type"] == "application/pdf"
    assert page.content.startswith(b"%PDF")


def test_words_of_a_sheet_are_never_read_as_a_program(signed_in, teacher, owned, make_passage):
    title = '#read("/etc/passwd") $x$ *b* <script>alert(1)</script>'
    make_passage(teacher, SCORE, owned=owned, title=title)
    assert signed_in.get(address("sheet-pdf", owned)).content.startswith(b"%PDF")
    assert "<script>alert" not in signed_in.get(address("sheet", owned)).content.decode()


def test_a_sheet_that_is_too_long_is_refused_in_words(signed_in, owned, passage, monkeypatch):
    monkeypatch.setattr(sheets, "LINES_MOST", 0)
    assert signed_in.get(address("sheet-pdf", owned)).status_code == 422
    assert signed_in.get(address("sheet", owned, part=["week"])).status_code == 200
    page = signed_in.get(address("sheet", owned))
    assert page.status_code == 422
    assert "Leave out drills" in words_of(page)


def test_a_student_reads_and_counts_without_signing_in(
    client, signed_in, teacher, owned, passage, student_page
):
    stranger = Client(enforce_csrf_checks=True)
    page = stranger.get(for_student(student_page))
    assert page.status_code == 200
    assert not page.cookies
    assert page["X-Robots-Tag"] == "noindex, nofollow"
    assert page["Referrer-Policy"] == "no-referrer"
    words = words_of(page)
    assert owned.student.name in words
    assert "D6 by heart" in words
    for what, result in (("note", "clean"), ("note", "cracked"), ("move0", "stumbled")):
        assert (
            stranger.post(for_student(student_page, log=True), {"what": what, "result": result}).status_code
            == 302
        )
    assert "1 of 2 clean today" in words_of(stranger.get(for_student(student_page)))
    rows = AttemptMade.objects.order_by("pk")
    assert [row.by for row in rows] == [By.STUDENT] * 3
    assert rows[2].spot.passage == passage
    assert rows[2].bpm
    log = words_of(signed_in.get(f"{reverse('students:log')}?on=i{owned.pk}"))
    assert "3 attempts · 3 of them counted by the student" in log


def test_fingerings_on_a_page_stay_as_they_were_when_it_was_made(signed_in, owned, passage):
    signed_in.post(
        reverse("students:make-page"),
        {"on": f"i{owned.pk}", "days": "7", "may_log": "on", "asked": f"on=i{owned.pk}&part=passage"},
    )
    student_page = StudentPage.objects.get()
    assert len(student_page.pins) == passage.notes
    assert student_page.is_open
    before = Client().get(for_student(student_page)).content.decode().split("<article")[1]
    for _ in range(8):
        Client().post(for_student(student_page, log=True), {"what": "move0", "result": "stumbled"})
    assert AttemptMade.objects.count() == 8
    after = Client().get(for_student(student_page)).content.decode().split("<article")[1]
    assert re.findall(r'href="#(f-[^"]+)"', after) == re.findall(r'href="#(f-[^"]+)"', before)


def test_a_page_that_is_closed_is_not_found(signed_in, teacher, owned, student_page):
    shown = signed_in.get(address("sheet", owned)).content.decode()
    assert student_page.token in shown
    signed_in.post(reverse("students:revoke-page", args=[student_page.pk]))
    expired = services.make_page(teacher, owned)
    StudentPage.objects.filter(pk=expired.pk).update(expires=timezone.now() - timedelta(seconds=1))
    for one in (student_page, expired):
        assert Client().get(for_student(one)).status_code == 404
        done = Client().post(for_student(one, log=True), {"what": "note", "result": "clean"})
        assert done.status_code == 404
        with pytest.raises(ValidationError, match="not logged"):
            services.log_on_page(one, None)
    for token in ("x", "x" * 500, student_page.token[:-1], student_page.token.swapcase()):
        assert Client().get(reverse("students:for-student", args=[token])).status_code == 404
    assert not AttemptMade.objects.exists()


def test_a_page_shows_its_own_student_whatever_its_address_asks(
    teacher, make_instrument, make_passage, student_page
):
    other = make_instrument(teacher)
    foreign = make_passage(teacher, SCORE, owned=other, title="Another's Steps")
    StudentPage.objects.filter(pk=student_page.pk).update(
        asked=f"on=i{other.pk}&passage={foreign.pk}&drill={foreign.pk}"
    )
    words = words_of(Client().get(for_student(student_page) + f"?on=i{other.pk}"))
    assert "Another's Steps" not in words
    assert "Weir Steps" in words


@pytest.mark.parametrize(
    "sent",
    [{}, {"what": "note", "result": "great"}, {"what": "move99", "result": "clean"}, {"what": "x" * 9999}],
)
def test_what_is_not_on_the_page_is_not_logged(student_page, sent):
    assert Client().post(for_student(student_page, log=True), sent).status_code == 422
    assert not AttemptMade.objects.exists()


def test_a_page_that_only_reads_logs_nothing_and_one_that_logs_has_a_limit(
    student_page, teacher, owned, monkeypatch
):
    monkeypatch.setattr(services, "A_HOUR", 3)
    sent = [
        Client().post(for_student(student_page, log=True), {"what": "note", "result": "clean"}).status_code
        for _ in range(5)
    ]
    assert sent == [302, 302, 302, 429, 429]
    StudentPage.objects.update(may_log=False)
    assert "Count what you play" not in words_of(Client().get(for_student(student_page)))
    assert (
        Client().post(for_student(student_page, log=True), {"what": "note", "result": "clean"}).status_code
        == 422
    )
    assert AttemptMade.objects.count() == 3


def test_pages_are_made_within_bounds_and_by_their_teacher_alone(
    signed_in, teacher, owned, other_teacher, student_page
):
    for days in ("0", "999", "x", ""):
        sent = {"on": f"i{owned.pk}", "days": days}
        assert signed_in.post(reverse("students:make-page"), sent).status_code == 422
    with pytest.raises(ValidationError, match="So much"):
        services.make_page(teacher, owned, asked="x" * 3000)
    for _ in range(services.PAGES_OPEN - 1):
        services.make_page(teacher, owned)
    with pytest.raises(ValidationError, match="So many links"):
        services.make_page(teacher, owned)
    stranger = Client()
    stranger.force_login(other_teacher)
    assert stranger.post(reverse("students:revoke-page", args=[student_page.pk])).status_code == 404
    assert stranger.get(address("sheet", owned)).status_code == 404


@pytest.mark.parametrize("much", [1, 12])
def test_sheet_and_page_ask_as_often_whatever_there_is(
    signed_in, teacher, owned, passage, student_page, make_passage, django_assert_num_queries, much
):
    drills = f"{reverse('practice:drills', args=[passage.pk])}?from=n1&to=n4&kind=trill"
    names = re.findall(r'name="drill"\s+value="([^"]+)"', signed_in.get(drills).content.decode())
    for _ in range(much):
        make_passage(teacher, SCORE, owned=owned)
        signed_in.post(drills, {"drill": names[0]})
        Client().post(for_student(student_page, log=True), {"what": "move0", "result": "clean"})
    for client, where, queries in (
        (signed_in, address("sheet", owned), 28),
        (Client(), for_student(student_page), 26),
    ):
        client.get(where)
        with django_assert_num_queries(queries):
            assert client.get(where).status_code == 200
