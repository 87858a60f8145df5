"""What a student takes home: the sheet on screen and as PDF; their page, what it shows and lets do."""

import re
from datetime import timedelta

import numpy as np
import pytest
import zxingcpp
from django.core.exceptions import ValidationError
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from tests.counts import drawn_on, keep, press, send
from tests.pages import words_of

from bench.queries import opened
from bench.services import keep_ossia
from catalogue.queries import of_instrument
from core.practice.attempts import By
from counting.asked import spot_asked
from counting.drawn import drawn_of
from evidence.models import AttemptMade
from passages.services import delete_passage
from practice import services as practice
from students import queries, services
from students.models import StudentPage, digest
from students.screens import sheet as sheets
from students.screens.ladders import moves_due

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
    asked = f"part=passage&part=ladder&passage={passage.pk}"
    return services.make_page(teacher, owned, asked=asked, may_log=True)


def address(name, owned, **asked):
    query = "&".join(f"{key}={value}" for key, values in asked.items() for value in values)
    return f"{reverse(f'students:{name}')}?on=i{owned.pk}&{query}"


def for_student(student_page, log=False):
    return reverse("students:for-student-log" if log else "students:for-student", args=[student_page.token])


def tap(client, student_page, card=0, result="clean", **more):
    """A press on a card of the page, as a telephone without a script sends it."""
    page = client.get(for_student(student_page)).content.decode()
    forms = [form for form in page.split("<form")[1:] if 'name="drawn"' in form]
    fields = dict(re.findall(r'name="(drawn|key|bpm)"\s+value="([^"]*)"', forms[card]))
    return client.post(for_student(student_page, log=True), fields | {"result": result} | more)


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


def read_code(response):
    """What a telephone reads of the code on a sheet; empty where there is none."""
    drawn = re.search(
        r'<svg[^>]*viewBox="0 0 (\d+) \1"[^>]*role="img".*?</svg>', response.content.decode(), re.S
    )
    if not drawn:
        return ""
    modules = np.full((int(drawn[1]),) * 2, 255, np.uint8)
    for x, y in re.findall(r"M(\d+) (\d+)h1v1h-1z", drawn[0]):
        modules[int(y), int(x)] = 0
    (code,) = zxingcpp.read_barcodes(np.kron(modules, np.ones((6, 6), np.uint8)))
    return code.text


def test_a_code_on_the_sheet_leads_to_the_page_of_the_same_music(
    signed_in, teacher, owned, passage, make_passage
):
    other = make_passage(teacher, SCORE, owned=owned, title="Mill Race")
    assert not read_code(signed_in.get(address("sheet", owned)))
    older, newer, of_other = (
        services.make_page(teacher, owned, asked=f"passage={music.pk}", may_log=music is passage)
        for music in (passage, passage, other)
    )
    for music, its in ((passage, newer), (other, of_other)):
        page = signed_in.get(address("sheet", owned, passage=[music.pk]))
        assert read_code(page) == f"http://testserver{for_student(its)}"
        assert ("To count on a telephone" in words_of(page)) == its.may_log
        assert "this machine only" not in words_of(page)
        assert Client().get(read_code(page)).status_code == 200
        assert not read_code(Client().get(for_student(its)))
    services.revoke_page(teacher, newer)
    here = signed_in.get(address("sheet", owned, passage=[passage.pk]), SERVER_NAME="127.0.0.1")
    assert read_code(here) == f"http://127.0.0.1{for_student(older)}"
    assert "this machine only" in words_of(here)
    long = len(signed_in.get(address("sheet-pdf", owned, passage=[passage.pk])).content)
    services.revoke_page(teacher, older)
    assert len(signed_in.get(address("sheet-pdf", owned, passage=[passage.pk])).content) < long - 500


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
    for card, result in ((0, "clean"), (0, "cracked"), (1, "stumbled")):
        assert tap(stranger, student_page, card, result).status_code == 302
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
        tap(Client(), student_page, 0, "stumbled")
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
            services.log_on_page(one, [])
        with pytest.raises(ValidationError, match="not logged"):
            services.take_back_on_page(one, [])
    for token in ("x", "x" * 500, student_page.token[:-1], student_page.token.upper(), "1-", "-", "9" * 30):
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
    assert student_page.instrument.name in words


@pytest.mark.parametrize(
    "sent",
    [{}, {"result": "great"}, {"drawn": "x", "result": "clean"}, {"drawn": "x" * 9999}, {"key": "x"}],
)
def test_what_is_not_on_the_page_is_not_logged(student_page, sent):
    assert Client().post(for_student(student_page, log=True), sent).status_code == 422
    assert not AttemptMade.objects.exists()


def test_a_page_that_only_reads_logs_nothing_and_one_that_logs_has_a_limit(
    student_page, teacher, owned, monkeypatch
):
    monkeypatch.setattr(services, "A_HOUR", 3)
    assert [tap(Client(), student_page).status_code for _ in range(5)] == [302, 302, 302, 429, 429]
    page = Client().get(for_student(student_page))
    drawn, to = drawn_on(page), reverse("students:for-student-presses", args=[student_page.token])
    some = [press(drawn) for _ in range(2)]
    answer = send(Client(), *some, who=f"p{student_page.pk}", to=to)
    assert [one["became"] for one in answer.json()["answers"]] == ["refused"] * 2
    monkeypatch.setattr(services, "A_HOUR", 4)
    three = [*some, press(drawn, "late")]
    answer = send(Client(), *three, who=f"p{student_page.pk}", to=to)
    assert [one["became"] for one in answer.json()["answers"]] == ["kept", "refused", "refused"]
    answer = send(Client(), *some, who=f"p{student_page.pk}", to=to)  # the first answer was lost on its way
    assert {one["key"]: one["became"] for one in answer.json()["answers"]} == {
        some[0]["key"]: "kept before",
        some[1]["key"]: "refused",
    }
    StudentPage.objects.update(may_log=False)
    assert "Count what you play" not in words_of(Client().get(for_student(student_page)))
    assert Client().post(for_student(student_page, log=True), some[0]).status_code == 422
    assert send(Client(), *some, who=f"p{student_page.pk}", to=to).status_code == 404
    assert AttemptMade.objects.count() == 4


def test_what_stays_on_a_page_is_what_was_counted_there_today(
    teacher, owned, passage, student_page, make_passage
):
    def kept():
        return [one.first for one in queries.counted_today(student_page, opened(passage, passage.current))]

    twin = make_passage(teacher, SCORE, owned=owned, title="The same notes")
    elsewhere = services.make_page(teacher, owned, asked=f"passage={twin.pk}", may_log=True)
    tap(Client(), elsewhere, 1)
    assert kept() == []
    tap(Client(), student_page, 1)
    assert len(kept()) == 1
    AttemptMade.objects.update(day=timezone.localdate() - timedelta(days=1))
    assert kept() == []
    AttemptMade.objects.update(day=timezone.localdate(), by=By.TEACHER)
    assert kept() == []


def test_a_day_has_a_limit_of_its_own(student_page, owned, monkeypatch):
    monkeypatch.setattr(services, "A_DAY", 3)
    for _ in range(2):
        assert tap(Client(), student_page).status_code == 302
    AttemptMade.objects.update(made=timezone.now() - timedelta(hours=5))
    assert [tap(Client(), student_page).status_code for _ in range(2)] == [302, 429]
    AttemptMade.objects.update(made=timezone.now() - timedelta(hours=25))
    assert tap(Client(), student_page).status_code == 302


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
        tap(Client(), student_page, 1)
    for client, where, number in (
        (signed_in, address("sheet", owned), 27),
        (Client(), for_student(student_page), 30),
    ):
        client.get(where)
        with django_assert_num_queries(number):
            assert client.get(where).status_code == 200


def cards_of(page):
    """Title of each card and the words of its count, in their order."""
    forms = [form for form in page.content.decode().split("<form")[1:] if 'name="drawn"' in form]
    return [
        (re.search(r'class="pitch[^>]*>([^<]+)<', form)[1], re.search(r'role="status">([^<]+)<', form)[1])
        for form in forms
    ]


def test_a_press_is_credited_to_what_was_drawn_however_moves_are_ranked_by_then(
    teacher, owned, passage, student_page
):
    """One button pressed again and again, while the ranking turns: all of it is of one move."""
    page = Client().get(for_student(student_page))
    drawn, to = drawn_on(page, 1), reverse("students:for-student-presses", args=[student_page.token])
    who, before = f"p{student_page.pk}", cards_of(page)
    for n in range(12):
        answer = send(Client(), press(drawn, "clean" if n % 3 else "stumbled", bpm="60"), who=who, to=to)
        assert answer.json()["counted"][drawn]["words"] == f"{n - n // 3} of {n + 1} clean today"
        now = cards_of(Client().get(for_student(student_page)))
        assert [title for title, _ in now][:2] == [title for title, _ in before][:2]
    spots = set(AttemptMade.objects.values_list("spot", "spot__first", "at"))
    assert len(spots) == 1
    assert dict(now)[before[1][0]] == "8 of 12 clean today"


def test_cards_stand_in_the_order_of_the_music_and_are_no_more_for_being_counted(
    teacher, owned, passage, student_page
):
    def places():
        forms = Client().get(for_student(student_page)).content.decode().split("<form")[1:]
        found = [re.search(r'name="drawn"\s+value="([^"]*)"', form) for form in forms]
        return [drawn.first for one in found if one and len((drawn := drawn_of(one[1])).steps) == 2]

    music = opened(passage, passage.current)
    due = [music.solution().note_at[move.before_id] for move in moves_due(music, [])]
    assert due != sorted(due)
    assert places() == sorted(due)
    easy = next(n for n in range(len(music.solution().events) - 1) if n not in due and n + 1 not in due)
    ids = [music.solution().events[n].id for n in (easy, easy + 1)]
    drawn = spot_asked(music, *ids, page=student_page.pk).drawn
    to = reverse("students:for-student-presses", args=[student_page.token])
    send(Client(), press(drawn.signed(), bpm="60"), who=f"p{student_page.pk}", to=to)
    now = places()
    assert easy in now
    assert now == sorted(now)
    assert len(now) == len(due)


def test_a_student_takes_back_what_a_student_pressed_and_no_more(teacher, owned, student_page):
    keep(owned, "D6")
    theirs = AttemptMade.objects.get()
    page = Client().get(for_student(student_page))
    drawn, to = drawn_on(page), reverse("students:for-student-presses", args=[student_page.token])
    mine = press(drawn)
    send(Client(), mine, who=f"p{student_page.pk}", to=to)
    for key in (mine["key"], str(theirs.key)):
        send(Client(), who=f"p{student_page.pk}", to=to, back=[{"key": key, "drawn": drawn}])
    assert AttemptMade.objects.get() == theirs


def test_what_is_drawn_on_one_page_is_not_kept_through_another(teacher, owned, student_page, passage):
    other = services.make_page(teacher, owned, asked=student_page.asked, may_log=True)
    drawn = drawn_on(Client().get(for_student(student_page)))
    to = reverse("students:for-student-presses", args=[other.token])
    answer = send(Client(), press(drawn), who=f"p{other.pk}", to=to)
    assert [one["became"] for one in answer.json()["answers"]] == ["refused"]
    assert send(Client(), press(drawn), who=f"p{student_page.pk}", to=to).status_code == 403
    assert not AttemptMade.objects.exists()


def test_a_page_is_about_what_it_was_made_for(signed_in, teacher, owned, passage, make_passage, student_page):
    """Newer music does not take its place; what is gone is said to be gone; what is about none shows none."""
    make_passage(teacher, SCORE, owned=owned, title="Newer Steps")
    none = services.make_page(teacher, owned, asked="part=passage", may_log=True)
    words = words_of(Client().get(for_student(none)))
    assert "Newer Steps" not in words
    assert "not there any more" not in words
    assert "Weir Steps" in words_of(Client().get(for_student(student_page)))
    delete_passage(teacher, passage)
    words = words_of(Client().get(for_student(student_page)))
    assert "not there any more" in words
    assert "Newer Steps" not in words


def test_a_page_whose_music_grew_too_long_says_so(student_page, monkeypatch):
    monkeypatch.setattr("students.sheets.NOTES_MOST", 1)
    assert Client().get(for_student(student_page)).status_code == 422


def test_the_pages_of_a_teacher_who_left_are_shut(teacher, student_page):
    teacher.is_active = False
    teacher.save()
    assert Client().get(for_student(student_page)).status_code == 404


def test_who_reads_the_database_has_no_addresses(student_page):
    row = StudentPage.objects.filter(pk=student_page.pk).values().get()
    secret = student_page.token.partition("-")[2]
    assert len(secret) == 64
    assert secret not in str(row)
    StudentPage.objects.update(nonce="another")
    assert Client().get(for_student(student_page)).status_code == 404


def test_an_address_from_before_goes_on_by_its_digest(student_page):
    StudentPage.objects.update(before=digest("an-address-of-the-time-before"))
    where = reverse("students:for-student", args=["an-address-of-the-time-before"])
    assert Client().get(where).status_code == 200
