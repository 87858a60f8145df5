"""Who is signed in without asking, and who is not; the content security policy."""

import pytest
from django.urls import reverse

from studio.demo import make_demo_teacher

pytestmark = pytest.mark.django_db
LIST = "/passages/"


@pytest.fixture
def demo(settings):
    settings.DEMO = True
    return make_demo_teacher()[0]


@pytest.mark.parametrize("address", ["127.0.0.1", "::1", "127.8.8.8"])
def test_demo_teacher_is_signed_in_on_the_loopback_address(client, demo, address):
    assert client.get(LIST, REMOTE_ADDR=address).status_code == 200


@pytest.mark.parametrize(
    "meta",
    [
        {"REMOTE_ADDR": "192.0.2.7"},
        {"REMOTE_ADDR": ""},
        {"REMOTE_ADDR": "127.0.0.1", "HTTP_X_FORWARDED_FOR": "192.0.2.7"},
        {"REMOTE_ADDR": "127.0.0.1", "HTTP_FORWARDED": "for=192.0.2.7"},
    ],
)
def test_nobody_else_is(client, demo, meta):
    assert client.get(LIST, **meta).status_code == 302


def test_in_no_other_mode(client, settings):
    make_demo_teacher()
    assert settings.DEMO is False
    assert client.get(LIST, REMOTE_ADDR="127.0.0.1").status_code == 302


def test_sign_in_and_out(client, teacher):
    answer = client.post(
        reverse("studio:sign-in"), {"username": teacher.username, "password": "nine weirs and a sluice"}
    )
    assert answer["Location"] == LIST
    assert client.get(reverse("studio:sign-in"))["Location"] == LIST
    client.post(reverse("studio:sign-out"))
    assert client.get(LIST).status_code == 302
    wrong = client.post(reverse("studio:sign-in"), {"username": teacher.username, "password": "no"})
    assert b"do not go together" in wrong.content


def test_the_policy_allows_nothing_inline(client):
    policy = client.get(reverse("studio:sign-in"))["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy


def test_problems_are_said_in_a_teachers_words(signed_in):
    missing = signed_in.get("/passages/999/")
    assert missing.status_code == 404
    assert b"Nothing here" in missing.content


def test_the_database_waits_and_keeps_its_keys(db):
    from django.db import connection

    with connection.cursor() as cursor:
        values = [cursor.execute(f"PRAGMA {name}").fetchone()[0] for name in ("foreign_keys", "busy_timeout")]
    assert values == [1, 20_000]


def test_signing_in_leads_nobody_round_in_a_circle(client, teacher):
    client.force_login(teacher)
    for address in ("/sign-in/", "/sign-in/?next=/", "//elsewhere.invalid/"):
        answer = client.get("/sign-in/", {"next": address})
        assert answer.status_code == 302
        assert answer["Location"] == LIST


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("referer", "to"),
    [
        ("http://testserver/fingerings/note/?note=Bb4", "/fingerings/note/%3Fnote%3DBb4"),
        ("https://elsewhere.invalid/phish/", "/fingerings/note/change/"),
        ("", "/fingerings/note/change/"),
    ],
)
def test_after_a_sign_in_that_a_form_met_its_own_page_comes_again(client, referer, to):
    answer = client.post(reverse("catalogue:change"), {"x": "y"}, headers={"Referer": referer})
    assert answer.status_code == 302
    assert answer["Location"] == f"/sign-in/?next={to}"
