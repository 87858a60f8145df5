"""Presses are kept as they were drawn, each by itself, once, whatever has become of what they stood on."""

import json
import uuid
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from django.urls import reverse
from django.utils import timezone
from tests.counts import drawn_on, press, send

from bench.services import pin
from catalogue.models import OwnFingering
from catalogue.services import hide, save_own
from core.practice.attempts import Began, Place, SpotNote
from counting.drawn import Drawn
from evidence.models import AttemptMade, SpotPlayed
from passages.services import delete_passage
from practice.services import guess_reach
from students.services import make_page
from studio.services import change_instrument

pytestmark = pytest.mark.django_db


@pytest.fixture
def who(teacher):
    return f"t{teacher.pk}"


def note_drawn(owned, **more):
    return Drawn(owned.pk, owned.setup, (SpotNote(91, "", 0.0),), **more).signed()


def became(answer):
    assert answer.status_code == 200
    return [one["became"] for one in answer.json()["answers"]]


def test_what_is_sent_twice_is_kept_once_and_each_is_told(signed_in, owned, who):
    drawn = note_drawn(owned)
    some = [press(drawn), press(drawn, "cracked", cracked_to="G5"), press(drawn, "late", bpm="72")]
    assert became(send(signed_in, *some, who=who)) == ["kept"] * 3
    assert became(send(signed_in, *some, press(drawn), who=who)) == ["kept before"] * 3 + ["kept"]
    rows = AttemptMade.objects.order_by("pk").values_list("result", "cracked_to", "bpm")
    assert list(rows) == [
        ("clean", None, None),
        ("cracked", 79, None),
        ("late", None, 72),
        ("clean", None, None),
    ]


def test_one_that_cannot_be_kept_costs_no_other(
    signed_in, teacher, owned, other_teacher, make_instrument, who
):
    drawn, foreign = note_drawn(owned), note_drawn(make_instrument(other_teacher))
    gone = note_drawn(owned).replace("a", "b", 1)
    on_page = note_drawn(owned, page=make_page(teacher, owned, may_log=True).pk)
    deleted = make_instrument(teacher)
    away = note_drawn(deleted)
    deleted.delete()
    wrong = (
        *(press(text) for text in (foreign, gone, "", on_page, away)),
        *(press(drawn, result) for result in ("splendid", "")),
        press(drawn, cracked_to="900", result="cracked"),
        press(drawn, "clean", cracked_to="G5"),
        press(drawn) | {"key": "not a key"},
        press(drawn) | {"made": "yesterday"},
        press(drawn) | {"made": "2026-01-01T10:00:00"},
        press(drawn) | {"made": "0001-01-01T00:00:00+00:00"},
    )
    for one in wrong:
        answer = send(signed_in, press(drawn), one, press(drawn), who=who)
        assert became(answer) == ["kept", "refused", "kept"], one
        assert answer.json()["answers"][1]["why"]
    assert AttemptMade.objects.count() == 2 * len(wrong)
    assert set(AttemptMade.objects.values_list("instrument", flat=True)) == {owned.pk}


def test_a_press_is_kept_as_it_was_drawn_whatever_changed_meanwhile(signed_in, teacher, owned, passage, who):
    """Every row of the evidence is another when the press arrives."""
    save_own(teacher, "alto-saxophone", note="G6", touches="octave 1 3 | side Bb 1 2", reason="x")
    own = OwnFingering.objects.get()
    page = signed_in.get(
        reverse("counting:count"),
        {"on": f"i{owned.pk}", "note": "G6", "entry": f"own-{own.pk}", "place": "lesson", "by_heart": "no"},
        follow=True,
    )
    note = drawn_on(page)
    spot = drawn_on(
        signed_in.get(reverse("counting:spot", args=[passage.pk]) + "?from=n1&to=n4&miss=n3", follow=True)
    )
    was = send_and_read(signed_in, note, spot, who)
    assert was[0][1] == f"own-{own.pk}"
    AttemptMade.objects.all().delete()
    SpotPlayed.objects.all().delete()
    for _ in range(3):
        send(signed_in, *(press(spot, "stumbled") for _ in range(6)), who=who)
    AttemptMade.objects.all().delete()
    solution_entry = next(iter(passage_entries(passage)["n3"]))
    pin(teacher, passage, passage.current, "n3", solution_entry)
    hide(teacher, "alto-saxophone", solution_entry, owned)
    own.delete()
    guess_reach(teacher, owned, in_hand_of(owned), 80)
    change_instrument(teacher, owned, name="x", fitted=[], a4_hz=442, reed="another", positions={})
    assert send_and_read(signed_in, note, spot, who) == was
    delete_passage(teacher, passage)
    SpotPlayed.objects.all().delete()
    kept = send_and_read(signed_in, note, spot, who)
    assert [replace_passage(row) for row in kept] == [replace_passage(row) for row in was]


def in_hand_of(owned):
    from catalogue.queries import of_instrument

    return of_instrument(owned)


def passage_entries(passage):
    """Other fingerings of each note than that which is chosen, by note id."""
    from bench.queries import opened

    solution = opened(passage, passage.current).solution()
    by_midi = solution.in_hand.catalogue.by_midi
    return {
        event.id: [e.id for e in by_midi[event.written_pitch.midi] if e.id != entry.id] or [entry.id]
        for event, entry in zip(solution.events, solution.entries, strict=True)
    }


def send_and_read(client, note, spot, who):
    """What is stored of a press at a note and one at a spot, but for keys and moments."""
    AttemptMade.objects.all().delete()
    answer = send(client, press(note), press(spot, "cracked", cracked_to="C5"), who=who)
    assert became(answer) == ["kept", "kept"]
    names = (
        "note_midi",
        "entry",
        "result",
        "cracked_to",
        "place",
        "began",
        "by_heart",
        "at",
        "bpm",
        "setup",
        "by",
    )
    spots = ("spot__notes", "spot__first", "spot__passage")
    return list(AttemptMade.objects.order_by("pk").values_list(*names, *spots))


def replace_passage(row):
    """The spot of a passage that was deleted stands by itself."""
    return row[:-1]


def test_how_it_is_played_is_part_of_what_is_drawn(signed_in, owned, who):
    drawn = note_drawn(owned, place=Place.STAGE, began=Began.SOFT, by_heart=False)
    send(signed_in, press(drawn, "silent"), who=who)
    kept = AttemptMade.objects.get()
    assert (kept.place, kept.began, kept.by_heart, kept.by) == ("stage", "soft", False, "teacher")


@pytest.mark.parametrize(
    "ahead", [timedelta(minutes=11), timedelta(days=400), -timedelta(hours=5), timedelta(seconds=2)]
)
def test_a_clock_that_is_off_is_corrected_not_refused(signed_in, owned, who, ahead):
    """A press of a minute ago, by a clock that is wrong all along."""
    clock = timezone.now() + ahead
    one = press(note_drawn(owned), made=(clock - timedelta(minutes=1)).isoformat())
    assert became(send(signed_in, one, who=who, ahead=ahead)) == ["kept"]
    truly = timezone.now() - timedelta(minutes=1)
    assert abs(AttemptMade.objects.get().made - truly) < timedelta(seconds=5)


def test_a_press_belongs_to_the_day_of_the_clock_that_hung_there(signed_in, owned, who):
    """At twenty to seven and twenty past in New York it is one evening; by UTC it is two days."""
    drawn = note_drawn(owned)
    zone = "-05:00"
    for moment in ("2026-02-03T18:40:00", "2026-02-03T19:20:00"):
        send(signed_in, press(drawn, made=moment + zone), who=who)
    rows = AttemptMade.objects.order_by("pk").values_list("day", "offset_min", "made")
    evening = datetime(2026, 2, 3).date()
    assert [row[:2] for row in rows] == [(evening, -300)] * 2
    assert [row[2] for row in rows] == [
        datetime(2026, 2, 3, 23, 40, tzinfo=UTC),
        datetime(2026, 2, 4, 0, 20, tzinfo=UTC),
    ]


def test_nothing_was_played_in_the_future(signed_in, owned, who):
    """A clock that was put right between press and sending makes a press of tomorrow one of now."""
    one = press(note_drawn(owned), made=(timezone.now() + timedelta(days=1)).isoformat())
    assert became(send(signed_in, one, who=who)) == ["kept"]
    assert AttemptMade.objects.get().made <= timezone.now()


def test_what_was_pressed_with_one_reed_is_no_attempt_with_another_taken_up_since(
    signed_in, teacher, owned, who
):
    told = {"name": "x", "fitted": [], "a4_hz": 440}
    for reed in ("2", "3"):
        owned = change_instrument(teacher, owned, reed=reed, **told)
    one = press(note_drawn(owned))
    owned = change_instrument(teacher, owned, reed="2", **told)
    assert owned.setup == 1
    assert became(send(signed_in, one, who=who)) == ["kept"]
    assert AttemptMade.objects.get().setup == 2


def test_presses_are_taken_back_by_their_keys(signed_in, owned, who, other_teacher, make_instrument):
    drawn, foreign = note_drawn(owned), make_instrument(other_teacher)
    some = [press(drawn) for _ in range(3)]
    send(signed_in, *some, who=who)
    theirs = AttemptMade.objects.create(
        instrument=foreign,
        key=uuid.uuid4(),
        setup=1,
        note_midi=91,
        result="clean",
        made=timezone.now(),
        day=timezone.localdate(),
    )
    send(signed_in, who=who, back=[some[1], some[1], press(drawn) | {"key": str(theirs.key)}])
    assert {str(key) for key in AttemptMade.objects.values_list("key", flat=True)} == {
        some[0]["key"],
        some[2]["key"],
        str(theirs.key),
    }


def test_a_press_and_its_taking_back_may_come_together(signed_in, owned, who):
    one = press(note_drawn(owned))
    assert became(send(signed_in, one, who=who, back=[one])) == ["kept"]
    assert not AttemptMade.objects.exists()


def test_what_was_pressed_for_one_teacher_is_not_sent_as_anothers(client, teacher, other_teacher, owned, who):
    client.force_login(other_teacher)
    answer = send(client, press(note_drawn(owned)), who=who)
    assert answer.status_code == 403
    client.logout()
    assert send(client, press(note_drawn(owned)), who=who).status_code == 302
    assert not AttemptMade.objects.exists()


@pytest.mark.parametrize(
    "body",
    [
        *("", "{}", "[]", "[[[", '"x"', '{"who": 1, "sent": "x", "presses": [], "back": []}'),
        '{"who": "t1", "sent": "2026-01-01T00:00:00+00:00", "presses": 7, "back": []}',
        '{"who": "t1", "sent": "2026-01-01T00:00:00+00:00", "presses": [3], "back": []}',
        '{"who": "t1", "sent": "2026-01-01T00:00:00+00:00", "presses": [], "back": ["x"]}',
        json.dumps({"who": "t1", "sent": "2026-01-01T00:00:00+00:00", "presses": [{}] * 501, "back": []}),
        '{"who": "t1", "sent": "9999-12-31T23:59:59-23:59", "presses": [{}], "back": []}',
        pytest.param(" " * 4_000_001, id="4 MB"),
    ],
)
def test_a_body_that_cannot_be_read_is_refused_before_anything_is_kept(signed_in, owned, body):
    answer = signed_in.post(reverse("counting:presses"), body, content_type="application/json")
    assert answer.status_code == 400
    assert answer.json()["why"]


def test_drawn_again_as_it_was_signed(owned):
    from counting.drawn import drawn_of

    steps = (SpotNote(60, "a", 0.0), SpotNote(61, "", 0.25), SpotNote(62, "own-3", 1.5))
    drawn = Drawn(owned.pk, 3, steps, 2, 7, 11, Place.LESSON, Began.SLURRED, by_heart=False, page=5)
    assert drawn_of(drawn.signed()) == drawn
    assert drawn.signed() == drawn.signed()
    assert drawn_of(replace(drawn, passage=None, page=None).signed()).spot.passage is None
