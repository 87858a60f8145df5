"""What a school asks of a student before the top register is begun: shown until it is logged."""

import pytest
from django.urls import reverse

from evidence.models import Prepared
from pages import words_of

pytestmark = pytest.mark.django_db

VOICING_FIRST = "voicing and overtones first"
ASKED = "Octave, twelfth and double octave"


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


def log(client, owned, position=VOICING_FIRST, **more):
    data = {"on": f"i{owned.pk}", "note": "G6", "action": "prepared", "position": position, **more}
    return client.post(reverse("catalogue:change"), data)


def said(client, view, **asked):
    return words_of(client.get(reverse(view), asked))


@pytest.mark.parametrize("view", ["catalogue:note", "catalogue:trial-begin", "overtones:overtones"])
def test_it_is_shown_until_it_is_logged_on_the_instrument_and_again_when_that_is_taken_back(
    signed_in, teacher, make_instrument, owned, view
):
    other = make_instrument(teacher, "alto-saxophone")
    here, there = ({"on": f"i{one.pk}", "note": "G6"} for one in (owned, other))
    assert ASKED in said(signed_in, view, **here)
    assert ASKED not in said(signed_in, view, **here | {"note": "C5"})
    assert log(signed_in, owned).status_code == 302
    assert ASKED not in said(signed_in, view, **here)
    assert "Done, as logged" in said(signed_in, view, **here)
    assert ASKED in said(signed_in, view, **there)
    log(signed_in, owned)
    assert ASKED in said(signed_in, view, **here)


def test_the_log_leads_back_to_where_it_was_pressed(signed_in, owned):
    for back, view in {
        "": "catalogue:note",
        "trial": "catalogue:trial-begin",
        "//x": "catalogue:note",
    }.items():
        assert log(signed_in, owned, back=back).url.split("?")[0] == reverse(view)


@pytest.mark.parametrize("position", ["", "lift", "fingerings first", "x" * 300])
def test_what_asks_nothing_cannot_be_logged(signed_in, owned, position):
    assert log(signed_in, owned, position).status_code == 422
    assert not Prepared.objects.exists()


def test_nothing_is_logged_for_a_plain_model_nor_for_another_teacher(
    signed_in, owned, client, django_user_model
):
    data = {"on": "alto-saxophone", "note": "G6", "action": "prepared", "position": VOICING_FIRST}
    assert signed_in.post(reverse("catalogue:change"), data).status_code == 422
    client.force_login(django_user_model.objects.create_user("weir", password="a lock and a mill"))
    assert log(client, owned).status_code == 404
    assert not Prepared.objects.exists()


def test_the_bench_says_it_where_the_position_is_followed(signed_in, teacher, make_instrument, make_passage):
    plain = make_instrument(teacher, "alto-saxophone")
    follows = make_instrument(teacher, "alto-saxophone", positions={"what comes first": VOICING_FIRST})

    def bench(one):
        passage = make_passage(teacher, "L:1/4\nK:C\ng' c d e|", owned=one)
        return words_of(signed_in.get(reverse("bench:bench", args=[passage.pk])))

    assert ASKED not in bench(plain)
    assert "First, as you teach it: " + ASKED in bench(follows)
    log(signed_in, follows)
    assert ASKED not in bench(follows)
