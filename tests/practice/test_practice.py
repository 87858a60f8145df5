"""Attempts counted, kept once and taken back; the reach that they tell; each teacher's own."""

import json
import uuid
from dataclasses import replace
from datetime import timedelta

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from tests.pages import words_of

from bench.queries import opened
from bench.screens.bench import note_of_bench
from catalogue.queries import of_instrument
from core.evidence.sources import Basis
from core.music.pitch import parse_pitch
from core.practice.attempt_format import Logged
from core.practice.attempts import Attempt, Place, Result
from core.practice.learning import after, begin, on_day
from evidence import services, told
from evidence.models import AttemptMade
from studio.services import change_instrument

pytestmark = pytest.mark.django_db


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


def row(note="G6", result="clean", **more):
    made = timezone.now().isoformat()
    return {"key": str(uuid.uuid4()), "note": note, "result": result, "made": made, **more}


def send(client, owned, *rows):
    body = json.dumps({"on": f"i{owned.pk}", "attempts": rows})
    return client.post(reverse("practice:log"), body, content_type="application/json")


def get(client, name, owned, **asked):
    return client.get(reverse(f"practice:{name}"), {"on": f"i{owned.pk}", **asked})


def tap(client, owned, **fields):
    data = {"on": f"i{owned.pk}", "note": "G6", **fields}
    return client.post(reverse("practice:log"), data, follow=True)


def test_what_is_sent_twice_is_kept_once(signed_in, owned):
    rows = [row(), row(result="cracked", cracked_to="G5"), row(place="stage", by_heart=False)]
    assert send(signed_in, owned, *rows).json() == {"kept": 3, "new": 3}
    assert send(signed_in, owned, *rows, row()).json() == {"kept": 4, "new": 1}
    assert AttemptMade.objects.count() == 4
    assert list(AttemptMade.objects.values_list("cracked_to", flat=True)).count(79) == 1


def test_count_mode_works_without_script_and_takes_back(signed_in, owned):
    entry = of_instrument(owned).plainest(parse_pitch("G6")).id
    page = tap(signed_in, owned, result="clean", place="stage", fingering=entry)
    assert "1 of 1 clean" in words_of(page)
    assert "Last: clean" in words_of(page)
    page = tap(signed_in, owned, cracked_to="G5", fingering=entry)
    assert "1 of 2 clean" in words_of(page)
    assert "cracked to G5" in words_of(page)
    data = {"on": f"i{owned.pk}", "note": "G6", "fingering": entry}
    page = signed_in.post(reverse("practice:back"), data, follow=True)
    assert "1 of 1 clean" in words_of(page)


def test_the_reach_is_a_guess_until_something_is_counted_and_moves_with_it(signed_in, owned):
    assert "Nothing is counted yet" in words_of(get(signed_in, "reach", owned))
    answer = signed_in.post(reverse("practice:guess"), {"on": f"i{owned.pk}", "guess": "D6"})
    assert answer.status_code == 302
    send(signed_in, owned, *(row(note) for note in ("D6", "Eb6", "E6", "F6") for _ in range(12)))
    words = words_of(get(signed_in, "reach", owned))
    assert "48 attempts" in words
    assert "12 of 12" in words
    assert "The reach is" in words
    assert "D6." not in words


def test_learning_goes_on_from_what_was_told_and_begins_anew_for_what_came_late(teacher, owned):
    in_hand, day = of_instrument(owned), timezone.now() - timedelta(days=9)
    notes = in_hand.instrument.accepted

    def log(*made):
        rows = [Logged(Attempt(90, Result.CLEAN, 1), uuid.uuid4(), moment) for moment in made]
        services.log_attempts(teacher, owned, in_hand, rows)

    def as_told():
        return told.learning_on(owned, in_hand, 88)

    def anew():
        rows = AttemptMade.objects.filter(instrument=owned).values_list(*told.COLUMNS, named=True)
        found = after(begin(notes[0], notes[-1], 88), [told.attempt_of(one) for one in rows])
        return on_day(found, timezone.localdate().toordinal())

    for moments in ((day,), (day + timedelta(days=1), day + timedelta(days=4)), (day - timedelta(days=2),)):
        log(*moments)
        assert as_told().odds == pytest.approx(anew().odds, abs=1e-12)
    AttemptMade.objects.first().delete()
    assert as_told().odds == pytest.approx(anew().odds, abs=1e-12)


def test_queries_and_pages_stay_as_they_are_with_many_attempts(signed_in, teacher, owned):
    def asked():
        found = []
        for name in ("reach", "count"):
            with CaptureQueriesContext(
                connection,
            ) as caught:
                assert get(signed_in, name, owned, note="G6").status_code == 200
            found.append(len(caught))
        return found

    send(signed_in, owned, *(row() for _ in range(10)))
    asked()
    few = asked()
    for _ in range(4):
        send(signed_in, owned, *(row("F6", place=place) for place in Place for _ in range(150)))
    asked()
    assert asked() == few


@pytest.mark.parametrize(
    "wrong",
    [
        {"note": "C2"},
        {"note": "nonsense"},
        {"result": "splendid"},
        {"fingering": "no-such-fingering"},
        {"made": (timezone.now() + timedelta(days=2)).isoformat()},
        {"made": "yesterday"},
        {"made": "2026-01-01T10:00:00"},
        {"made": "0001-01-01T00:00:00+00:00"},
        {"place": "bath"},
        {"cracked_to": "900"},
        {"cracked_to": "x"},
        {"result": "clean", "cracked_to": "C5"},
        {"key": "not a key"},
    ],
)
def test_an_attempt_that_cannot_be_is_refused_with_all_that_came_with_it(signed_in, owned, wrong):
    answer = send(signed_in, owned, row(), row() | wrong)
    assert answer.status_code == 422
    assert answer.json()["errors"]
    assert AttemptMade.objects.count() == 0


@pytest.mark.parametrize(
    "body", ["", "{}", "[]", "[[[", '{"on": 5, "attempts": 7}', '{"on": "i1", "attempts": [3]}']
)
def test_a_body_that_cannot_be_read_is_refused(signed_in, owned, body):
    answer = signed_in.post(reverse("practice:log"), body, content_type="application/json")
    assert answer.status_code in (404, 422)


def test_too_many_at_once_are_refused(signed_in, teacher, owned):
    assert send(signed_in, owned, *(row() for _ in range(2_001))).status_code == 422
    assert send(signed_in, owned, row(fingering="x" * 1_100_000)).status_code == 422
    assert AttemptMade.objects.count() == 0
    with pytest.raises(ValidationError, match="student's instrument"):
        services.log_attempts(teacher, None, of_instrument(owned), [])


def test_nobody_sees_or_counts_on_anothers_instrument(signed_in, owned, other_teacher):
    send(signed_in, owned, row())
    signed_in.force_login(other_teacher)
    for name in ("reach", "count"):
        assert get(signed_in, name, owned).status_code == 404
    assert send(signed_in, owned, row()).status_code == 404
    assert signed_in.get(reverse("practice:reach"), {"on": "oboe"}).status_code == 404
    assert AttemptMade.objects.count() == 1


@pytest.mark.parametrize(
    "asked", [{"note": "x" * 300}, {"note": "C2"}, {"entry": "Bb4-bis"}, {"place": "bath"}, {}]
)
def test_any_address_of_count_mode_is_answered(signed_in, owned, asked):
    assert get(signed_in, "count", owned, **asked).status_code in (200, 422)


def test_a_guess_that_is_no_note_is_refused(signed_in, owned):
    for guess in ("", "C2", "x" * 99):
        answer = signed_in.post(reverse("practice:guess"), {"on": f"i{owned.pk}", "guess": guess})
        assert answer.status_code == 422


def test_a_fingering_that_cracks_loses_the_route_to_one_that_does_not(
    signed_in, teacher, owned, make_passage
):
    passage = make_passage(teacher, "Q:1/4=80\nL:1/4\nK:C\nc' e' g' e' |", owned=owned)

    def at():
        passage.refresh_from_db()
        return opened(passage, passage.current)

    first = at().solution().entries[2].id
    missed = [row(result="cracked", cracked_to="G5", fingering=first) for _ in range(18)]
    send(signed_in, owned, *missed, *(row(fingering=first) for _ in range(2)))
    now = at()
    other = now.solution().entries[2].id
    assert other != first
    choice = next(c for c in note_of_bench(now, "n3").inspector.choices if c.entry.id == first)
    assert choice.missed == "Counted: missed 18 of 20 times, 18 of them to G5."
    known = now.in_hand.evidence([choice.entry])[0].speaks
    assert [source.basis for source in known.sources][-1] is Basis.COUNTED
    without = replace(now.settings, sources=("taught", "judged", "measured", "modelled"))
    assert now.solution_of(without).entries[2].id == first


def test_attempts_under_another_set_up_and_on_stage_count_no_longer(signed_in, teacher, owned):
    entry = of_instrument(owned).plainest(parse_pitch("G6"))
    send(
        signed_in, owned, *(row(fingering=entry.id) for _ in range(6)), row(fingering=entry.id, place="stage")
    )
    known = of_instrument(owned).evidence([entry])[0]
    assert known.speaks.sources[-1].count == 6
    change_instrument(teacher, owned, name=owned.name, fitted=owned.fitted, a4_hz=440, reed="another")
    again = of_instrument(owned).evidence([entry])[0]
    assert again.earlier == 6
    assert all(source.basis is not Basis.COUNTED for source in again.speaks.sources)


@pytest.mark.parametrize("form", ["csv", "json"])
def test_attempts_leave_and_come_back(signed_in, teacher, owned, make_instrument, form):
    entry = of_instrument(owned).plainest(parse_pitch("G6")).id
    send(
        signed_in,
        owned,
        row(fingering=entry),
        row(result="cracked", cracked_to="G5", by_heart=False),
        row("A6"),
    )
    taken = signed_in.get(reverse("practice:download", args=[form]), {"on": f"i{owned.pk}"}).content
    other = make_instrument(teacher)
    for kept in (3, 0):
        file = SimpleUploadedFile(f"attempts.{form}", taken)
        answer = signed_in.post(reverse("practice:bring"), {"on": f"i{other.pk}", "file": file}, follow=True)
        assert f"{kept} new attempt" in words_of(answer)
    again = signed_in.get(reverse("practice:download", args=[form]), {"on": f"i{other.pk}"}).content
    assert again == taken


@pytest.mark.parametrize(
    "data", [b"", b"made,note\n", b"made,note,result\nnow,G6,clean", b"{", b"\xff\xfe", b"[1]"]
)
def test_a_file_that_cannot_be_read_is_refused_as_a_whole(signed_in, owned, data):
    file = SimpleUploadedFile("attempts.csv", data)
    answer = signed_in.post(reverse("practice:bring"), {"on": f"i{owned.pk}", "file": file})
    assert answer.status_code == 422
    assert AttemptMade.objects.count() == 0
    assert (
        signed_in.get(reverse("practice:download", args=["xml"]), {"on": f"i{owned.pk}"}).status_code == 404
    )


def test_a_passage_says_what_lies_beyond_the_reach_and_offers_an_ossia(
    signed_in, teacher, owned, make_passage
):
    passage = make_passage(teacher, "L:1/4\nK:D\nd f a d' | e' f' g' a' |", owned=owned)
    address = reverse("bench:bench", args=[passage.pk])
    assert "beyond the reach" not in words_of(signed_in.get(address))
    services.guess_reach(teacher, owned, of_instrument(owned), 86)
    send(signed_in, owned, *(row(note) for note in ("D6", "E6") for _ in range(20)))
    send(signed_in, owned, *(row(note, "silent") for note in ("F#6", "G6", "A6") for _ in range(6)))
    words = words_of(signed_in.get(address))
    assert "3 beyond the reach" in words
    assert "What can be played meanwhile" in words
    ossia = words_of(signed_in.get(reverse("bench:ossia", args=[passage.pk])))
    assert "by what was counted" in ossia
    assert "notes beyond reach: F♯6, G6, A6" in ossia


def test_a_ladder_of_tempi_goes_up_after_three_clean_ones_and_back_on_a_miss(signed_in, owned):
    asked = {"on": f"i{owned.pk}", "note": "C6", "entry": "C6-plain", "start": "60", "target": "80"}
    begun = signed_in.get(reverse("practice:count"), asked)
    assert begun.status_code == 302
    words = words_of(signed_in.get(begun["Location"]))
    assert "♩ = 60 of 80: 0 of 3 clean in a row, then it goes up" in words
    climb = begun["Location"].split("climb=")[1]
    what = {"on": f"i{owned.pk}", "note": "C6", "fingering": "C6-plain", "climb": climb}
    for _ in range(4):
        page = signed_in.post(reverse("practice:log"), what | {"result": "clean"})
        assert "climb=" in page["Location"]
    kept = f"{reverse('practice:count')}?on=i{owned.pk}&note=C6&entry=C6-plain&climb={climb}"
    assert "♩ = 70 of 80: 1 of 3" in words_of(signed_in.get(kept))
    signed_in.post(reverse("practice:log"), what | {"result": "silent"})
    assert "♩ = 60 of 80: 0 of 3" in words_of(signed_in.get(kept))
    assert 'data-step-bpm="60"' in signed_in.get(kept).content.decode()


@pytest.mark.parametrize(
    ("start", "target"), [("90", "60"), ("5", "60"), ("60", "900"), ("x", "60"), ("", "")]
)
def test_a_ladder_that_cannot_be_is_refused(signed_in, owned, start, target):
    asked = {"on": f"i{owned.pk}", "note": "C6", "start": start, "target": target}
    assert signed_in.get(reverse("practice:count"), asked).status_code == 422
    for climb in ("60-80-99999999999", "60-9000-1", "1-2", "x-y-z", "60-80-"):
        assert signed_in.get(reverse("practice:count"), asked | {"climb": climb}).status_code == 422
        del_target = {"on": f"i{owned.pk}", "note": "C6", "climb": climb}
        assert signed_in.get(reverse("practice:count"), del_target).status_code == 200


def test_what_is_all_but_sure_is_not_said_to_be_sure(signed_in, teacher, owned):
    def words(note, midi):
        services.guess_reach(teacher, owned, of_instrument(owned), midi)
        return words_of(signed_in.get(reverse("practice:count"), {"on": f"i{owned.pk}", "note": note}))

    assert "nearly none may be expected clean" in words("G6", 70)
    assert "of 10 may be expected clean" in words("G6", 91)
    send(signed_in, owned, *(row() for _ in range(80)))
    assert "nearly every one may be expected clean" in words("G6", 91)


def test_how_a_note_begins_and_whether_it_is_known_are_kept_with_each_attempt(signed_in, owned):
    what = {"on": f"i{owned.pk}", "note": "C6", "entry": "C6-plain", "began": "soft", "by_heart": "no"}
    page = signed_in.get(reverse("practice:count"), what).content.decode()
    assert 'name="began" value="soft"' in page
    assert 'name="by_heart" value="no"' in page
    again = signed_in.post(reverse("practice:log"), what | {"fingering": "C6-plain", "result": "clean"})
    kept = AttemptMade.objects.get()
    assert (kept.began, kept.by_heart) == ("soft", False)
    assert "began=soft" in again["Location"]
    assert "by_heart=no" in again["Location"]
    odd = signed_in.get(reverse("practice:count"), what | {"began": "kicked"})
    assert 'name="began" value="tongued"' in odd.content.decode()
