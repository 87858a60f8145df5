"""A fingering of one's own that is good only from certain others: typed, shown, and obeyed by routes."""

import pytest
from django.urls import reverse

from bench.queries import opened
from catalogue.models import OwnFingering
from pages import words_of

pytestmark = pytest.mark.django_db
OWN = {"on": "alto-saxophone", "note": "G6", "touches": "octave, front F, 3 · 1 2", "kind": "altissimo"}


def keep(client, only_from):
    data = {**OWN, "confidence": "high", "only_from": only_from, "tone": "full", "speaks": "sure"}
    return client.post(
        reverse("catalogue:own-new"), data | {"cents": "0", "cents_low": "-3", "cents_high": "3"}
    )


@pytest.fixture
def kept(signed_in):
    answer = keep(signed_in, "front F")
    assert answer.status_code == 302, words_of(answer)
    return OwnFingering.objects.get()


def test_it_is_kept_in_the_notation_and_shown_in_words(signed_in, kept):
    assert kept.only_from == "frontF"
    own = signed_in.get(reverse("catalogue:own", args=[kept.pk])).content.decode()
    assert 'value="front F"' in own
    note = signed_in.get(reverse("catalogue:note"), {"on": "alto-saxophone", "note": "G6"})
    assert "Only after front F" in words_of(note)


def test_touches_that_cannot_be_read_are_refused(signed_in):
    answer = keep(signed_in, "zither")
    assert answer.status_code == 422
    assert "zither" in words_of(answer)
    assert not OwnFingering.objects.exists()


def chosen_before(teacher, make_passage, line):
    passage = make_passage(teacher, f"L:1/4\nQ:1/4=72\nK:C\n({line})|")
    return list(opened(passage, passage.current).solution().chosen_ids.values())


def test_routes_take_it_from_there_only(teacher, make_passage, kept):
    assert chosen_before(teacher, make_passage, "f' g'")[1] == kept.entry_id  # F6 is fingered in front
    assert chosen_before(teacher, make_passage, "a g'")[1] != kept.entry_id
