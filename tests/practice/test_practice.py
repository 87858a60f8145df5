"""Attempts counted, kept once and taken back; the reach that they tell; each teacher's own."""

import uuid
from dataclasses import replace
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from tests.counts import keep
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


def get(client, name, owned, **asked):
    return client.get(reverse(f"practice:{name}"), {"on": f"i{owned.pk}", **asked})


def test_the_reach_is_a_guess_until_something_is_counted_and_moves_with_it(signed_in, owned):
    assert "Nothing is counted yet" in words_of(get(signed_in, "reach", owned))
    answer = signed_in.post(reverse("practice:guess"), {"on": f"i{owned.pk}", "guess": "D6"})
    assert answer.status_code == 302
    for note in ("D6", "Eb6", "E6", "F6"):
        keep(owned, note, times=12)
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
        services.log_attempts(teacher, owned, rows)

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


def test_queries_and_pages_stay_as_they_are_with_many_attempts(signed_in, owned):
    def asked():
        with CaptureQueriesContext(connection) as caught:
            assert get(signed_in, "reach", owned, note="G6").status_code == 200
        return len(caught)

    keep(owned, times=10)
    asked()
    few = asked()
    for _ in range(4):
        for place in Place:
            keep(owned, "F6", times=150, place=place)
    asked()
    assert asked() == few


def test_nobody_sees_or_counts_on_anothers_instrument(signed_in, owned, other_teacher):
    keep(owned)
    signed_in.force_login(other_teacher)
    assert get(signed_in, "reach", owned).status_code == 404
    assert signed_in.get(reverse("practice:reach"), {"on": "oboe"}).status_code == 404
    assert AttemptMade.objects.count() == 1


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
    keep(owned, result="cracked", times=18, to="G5", entry=first)
    keep(owned, times=2, entry=first)
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
    told = {"name": owned.name, "fitted": owned.fitted, "a4_hz": 440}
    change_instrument(teacher, owned, reed="one", **told)
    keep(owned, times=6, entry=entry.id)
    keep(owned, entry=entry.id, place=Place.STAGE)
    known = of_instrument(owned).evidence([entry])[0]
    assert known.speaks.sources[-1].count == 6
    change_instrument(teacher, owned, reed="another", **told)
    again = of_instrument(owned).evidence([entry])[0]
    assert again.earlier == 6
    assert all(source.basis is not Basis.COUNTED for source in again.speaks.sources)


@pytest.mark.parametrize("form", ["csv", "json"])
def test_attempts_leave_and_come_back(signed_in, teacher, owned, make_instrument, form):
    entry = of_instrument(owned).plainest(parse_pitch("G6")).id
    keep(owned, entry=entry)
    keep(owned, result="cracked", to="G5")
    keep(owned, "A6")
    taken = signed_in.get(reverse("practice:download", args=[form]), {"on": f"i{owned.pk}"}).content
    assert f"passage{'' if form == 'json' else ','}" not in taken.decode()
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
    for note in ("D6", "E6"):
        keep(owned, note, times=20)
    for note in ("F#6", "G6", "A6"):
        keep(owned, note, "silent", times=6)
    words = words_of(signed_in.get(address))
    assert "3 beyond the reach" in words
    assert "What can be played meanwhile" in words
    ossia = words_of(signed_in.get(reverse("bench:ossia", args=[passage.pk])))
    assert "by what was counted" in ossia
    assert "notes beyond reach: F♯6, G6, A6" in ossia
