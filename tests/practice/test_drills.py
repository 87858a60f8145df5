"""Drills on the page: asked for from the bench, kept as passages, fingered as the music they serve."""

import re

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse
from tests.pages import words_of

from bench import services
from bench.queries import opened
from passages.models import KeptPassage
from passages.services import delete_passage
from practice.background import drills_of_spot
from practice.services import keep_drills

pytestmark = pytest.mark.django_db
SCORE = "Q:1/4=132\nL:1/16\nK:D\nD2F2A2d2 f2a2^a2b2|"


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.fixture
def passage(teacher, owned, make_passage):
    return make_passage(teacher, SCORE, owned=owned, title="Weir Steps")


def address(passage, first, last):
    notes = [event.id for event in opened(passage, passage.current).solution().events]
    return f"{reverse('practice:drills', args=[passage.pk])}?from={notes[first]}&to={notes[last]}"


def names(page):
    return re.findall(r'name="drill"\s+value="([^"]+)"', page.content.decode())


def test_drills_are_kept_and_keep_the_pins_of_the_music(signed_in, teacher, passage):
    solution = opened(passage, passage.current).solution()
    rival = next(
        candidate.entry
        for candidate in solution.table.problem.given.offered[6].candidates
        if candidate.entry != solution.entries[6] and not candidate.bar
    )
    services.pin(teacher, passage, passage.current, solution.events[6].id, rival.id)
    passage.refresh_from_db()
    where = address(passage, 4, 7)
    page = signed_in.get(where)
    assert "Drills for F♯5 to B5, 4 notes" in words_of(page)
    assert len(names(page)) > 15
    chosen = [name for name in names(page) if name.startswith(("trill", "add-a-note"))]
    listed = signed_in.post(where, {"drill": chosen}, follow=True)
    assert f"{len(chosen)} drills kept" in words_of(listed)
    assert "Drill for Weir Steps: " in words_of(listed)
    kept = KeptPassage.objects.filter(serves=passage)
    assert kept.count() == len(chosen)
    for drill in kept:
        now = opened(drill, drill.current).solution()
        for event, entry in zip(now.events, now.entries, strict=True):
            if event.written_pitch == solution.events[6].written_pitch:
                assert entry.id == rival.id
    one = signed_in.post(where, {"drill": names(page)[0]})
    assert one.url == reverse("bench:bench", args=[KeptPassage.objects.latest("pk").pk])
    delete_passage(teacher, passage)
    assert KeptPassage.objects.filter(purpose__gt="", serves=None).count() == len(chosen) + 1


def test_a_spot_is_drilled_as_it_is_fingered_there_though_the_passage_mostly_has_it_otherwise(
    signed_in, teacher, owned, make_passage
):
    passage = make_passage(teacher, "L:1/4\nK:F\nA _B c _B|A _B c _B|", owned=owned)
    for note in ("n2", "n4", "n6"):
        passage.refresh_from_db()
        services.pin(teacher, passage, passage.current, note, "Bb4-side")
    passage.refresh_from_db()
    services.pin(teacher, passage, passage.current, "n8", "Bb4-bis")
    passage.refresh_from_db()
    where = address(passage, 6, 7)
    signed_in.post(where, {"drill": next(n for n in names(signed_in.get(where)) if n.startswith("scales"))})
    drill = KeptPassage.objects.latest("pk")
    now = opened(drill, drill.current).solution()
    found = {e.id for event, e in zip(now.events, now.entries, strict=True) if event.written_pitch.midi == 70}
    assert found == {"Bb4-bis"}


def test_drills_of_a_note_are_for_whoever_plays_the_instrument(signed_in, owned):
    for on, student in ((f"i{owned.pk}", owned), ("bassoon", None)):
        where = f"{reverse('practice:note-drills')}?on={on}&note=F4"
        page = signed_in.get(where)
        assert "Drills for F4" in words_of(page)
        signed_in.post(where, {"drill": names(page)[0]})
        assert KeptPassage.objects.latest("pk").owned == student


def test_one_kind_alone_is_shown_where_it_is_asked_for(signed_in, passage):
    page = signed_in.get(f"{address(passage, 4, 7)}&kind=trill")
    assert {name.split("-")[0] for name in names(page)} == {"trill"}
    assert len(names(signed_in.get(f"{address(passage, 4, 7)}&kind=great"))) > 15


@pytest.mark.parametrize("asked", ["?note=H9", "?on=oboe&note=C9", "?on=oboe", "?on=nothing&note=F4"])
def test_a_note_that_cannot_be_is_said(signed_in, owned, asked):
    page = signed_in.get(reverse("practice:note-drills") + asked)
    assert page.status_code == (404 if "nothing" in asked else 422)


def test_what_is_kept_must_be_among_what_is_offered(signed_in, teacher, passage, other_teacher, make_passage):
    before = KeptPassage.objects.count()
    assert signed_in.post(address(passage, 0, 1), {"drill": "great"}).status_code == 422
    assert signed_in.post(address(passage, 0, 1)).status_code == 422
    foreign = make_passage(other_teacher, SCORE)
    assert signed_in.get(address(foreign, 0, 1)).status_code == 404
    with pytest.raises(ValidationError, match="at most"):
        keep_drills(teacher, [None] * 41, model="oboe")
    assert KeptPassage.objects.count() == before + 1


def test_the_whole_of_a_kept_drill_is_counted(signed_in, passage):
    page = signed_in.get(address(passage, 4, 7))
    signed_in.post(address(passage, 4, 7), {"drill": next(n for n in names(page) if "first-on" in n)})
    drill = KeptPassage.objects.latest("pk")
    words = words_of(signed_in.get(reverse("counting:spot", args=[drill.pk]), follow=True))
    assert f"{drill.notes} notes, bar 1 to {drill.bars}" in words


def test_drills_of_a_passage_ask_as_often_whatever_there_is(
    signed_in, teacher, passage, make_passage, django_assert_num_queries
):
    where = address(passage, 0, 7)
    signed_in.get(where)
    for _ in range(5):
        make_passage(teacher, SCORE, owned=passage.owned)
    with django_assert_num_queries(17):
        signed_in.get(where)


def test_at_work_it_is_told_how_many_are_done(passage, monkeypatch):
    told = []
    monkeypatch.setattr("practice.background.progress", lambda *far: told.append(far))
    notes = [event.id for event in opened(passage, passage.current).solution().events]
    page = drills_of_spot(passage.teacher_id, passage.pk, "", notes[4], notes[7], "")
    assert len(told) >= len(page.drills) > 15
    assert told == [(done, len(told)) for done in range(1, len(told) + 1)]


def test_of_a_spot_that_is_too_long_it_is_said_that_it_is_cut(signed_in, teacher, owned, make_passage):
    long = make_passage(teacher, "L:1/8\nK:C\n" + "CDEF GABc|" * 20, owned=owned)
    page = signed_in.get(f"{reverse('practice:drills', args=[long.pk])}?from=n1&to=n160&kind=trill")
    assert "Only its first notes are taken" in words_of(page)
