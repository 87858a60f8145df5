"""What a teacher aims at in a note, a phrase or a passage, set on the bench."""

from dataclasses import replace

import pytest
from django.urls import reverse

from bench.queries import opened
from bench.screens.bench import bench_page, note_of_bench
from core.instruments.fingering import Kind
from core.music.phrases import phrases
from core_shapes import DATA
from passages.services import change_notes

pytestmark = pytest.mark.django_db


@pytest.fixture
def passage(make_passage, teacher, make_instrument):
    score = (DATA / "demo" / "over-the-top-sluice.musicxml").read_text("utf-8")
    return make_passage(teacher, score, owned=make_instrument(teacher))


def set_aim(client, passage, note="n1", aim="covered", over="this note"):
    passage.refresh_from_db()
    data = {"action": "aim", "state": passage.current.number, "note": note, "aim": aim, "over": over}
    answer = client.post(reverse("bench:change", args=[passage.pk]), data)
    passage.refresh_from_db()
    return answer


def aims(passage):
    return passage.current.settings["aims"]


def test_an_aim_is_set_over_a_note_its_phrase_or_all_and_taken_away_again(signed_in, passage):
    events = opened(passage, passage.current).solution().events
    phrase = next(one for one in phrases(events) if 0 in one)
    assert 1 < len(phrase) < len(events)
    set_aim(signed_in, passage)
    assert aims(passage) == {"n1": "covered"}
    set_aim(signed_in, passage, aim="darker", over="its phrase")
    assert aims(passage) == {events[n].id: "darker" for n in phrase}
    set_aim(signed_in, passage, aim="", over="this note")
    assert set(aims(passage)) == {events[n].id for n in phrase[1:]}
    set_aim(signed_in, passage, aim="easiest", over="the whole passage")
    assert set(aims(passage).values()) == {"easiest"}
    assert len(aims(passage)) == len(events)
    signed_in.post(
        reverse("bench:change", args=[passage.pk]), {"action": "undo", "state": passage.current.number}
    )
    passage.refresh_from_db()
    assert set(aims(passage)) == {events[n].id for n in phrase[1:]}


@pytest.mark.parametrize(
    ("wrong", "says"),
    [
        ({"aim": "golden"}, "one of the aims"),
        ({"over": "the hall"}, "for this note, its phrase or all"),
        ({"note": "n9999"}, "not in this passage"),
    ],
)
def test_what_is_no_aim_is_refused_and_nothing_is_kept(signed_in, passage, wrong, says):
    states = passage.states.count()
    answer = set_aim(signed_in, passage, **wrong)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert passage.states.count() == states


def test_the_bench_tells_what_is_aimed_at_and_what_is_known_for_it(signed_in, passage):
    set_aim(signed_in, passage, over="the whole passage")
    at = opened(passage, passage.current)
    solution = at.solution()
    assert "Covered: Bar 1, beat 1 to bar 20, beat 1." in bench_page(at).remarks
    false = [
        e for e, chosen in zip(solution.events, solution.entries, strict=True) if chosen.kind is Kind.FALSE
    ]
    assert any("more covered" in note_of_bench(at, event.id).inspector.why for event in false)
    low = next(e.id for e in solution.events if e.written_pitch.ascii in ("D4", "E4", "F4"))
    set_aim(signed_in, passage, low, aim="brighter")
    said = bench_page(opened(passage, passage.current), low).inspector.why
    assert "None here is known to be brighter: try them at the stand" in said


def test_an_aim_goes_along_with_notes_that_stay(signed_in, teacher, passage):
    set_aim(signed_in, passage, "n2")
    music = opened(passage, passage.current).solution().passage
    first, *bars = music.bars
    change_notes(teacher, passage, replace(music, bars=(replace(first, notes=first.notes[1:]), *bars)))
    passage.refresh_from_db()
    assert aims(passage) == {"n1": "covered"}


def test_aims_in_more_places_than_are_told_are_counted(signed_in, passage):
    events = opened(passage, passage.current).solution().events
    passage.current.settings["aims"] = {event.id: "fuller" for event in events[:24:2]}
    passage.current.save()
    told = bench_page(opened(passage, passage.current)).remarks
    assert sum(remark.startswith("Fuller: ") for remark in told) == 8
    assert "Aims in 4 places more." in told
