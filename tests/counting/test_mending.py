"""What stands under the wrong student, fingering or day is put where it belongs, with what it tells."""

from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone
from tests.counts import keep
from tests.pages import words_of
from tests.practice.test_spots import RUN, play, spot_of

from catalogue.queries import of_instrument
from core.music.pitch import parse_pitch
from counting.mending import days_of
from evidence.models import AttemptMade, SpotPlayed, Told

pytestmark = pytest.mark.django_db


@pytest.fixture
def other(teacher, make_instrument):
    return make_instrument(teacher)


def names_of(owned):
    return [row.name for row in days_of(owned, of_instrument(owned))]


def mend(client, owned, names, **fields):
    data = {"on": f"i{owned.pk}", "counted": names, "do": "move", **fields}
    return client.post(reverse("counting:counted"), data, follow=True)


def test_a_mornings_counts_go_to_the_student_who_played_them(signed_in, owned, other):
    keep(owned, "G6", times=3)
    keep(owned, "A6", "silent", times=2)
    keep(other, "G6")
    (a6, g6) = days_of(owned, of_instrument(owned))
    assert (a6.notes, a6.clean, a6.total, g6.clean, g6.total) == ("A6", 0, 2, 3, 3)
    keys = set(AttemptMade.objects.filter(instrument=owned, note_midi=91).values_list("key", "made", "day"))
    page = mend(signed_in, owned, [g6.name], to=other.pk)
    assert "3 attempts put right, to Wick, test alto-saxophone." in words_of(page)
    there = AttemptMade.objects.filter(instrument=other)
    assert keys < set(there.values_list("key", "made", "day"))
    assert there.count() == 4
    assert set(AttemptMade.objects.filter(instrument=owned).values_list("note_midi", flat=True)) == {93}
    assert dict(Told.objects.values_list("instrument", "count")) == {owned.pk: 2, other.pk: 4}


def test_a_spot_goes_with_its_notes_and_leaves_its_passage(signed_in, teacher, owned, other, make_passage):
    passage = make_passage(teacher, RUN, owned=owned)
    play(teacher, owned, spot_of(passage, 0, 3), times=4, at=2)
    before = SpotPlayed.objects.get().notes
    mend(signed_in, owned, names_of(owned), to=other.pk)
    spot = SpotPlayed.objects.get(instrument=other)
    assert (spot.notes, spot.passage) == (before, None)
    assert set(spot.attempts.values_list("at", "bpm")) == {(2, 160)}
    assert not AttemptMade.objects.filter(instrument=owned).exists()


def test_the_fingering_and_the_day_are_put_right(signed_in, owned):
    chart = of_instrument(owned)
    first, second = [e.id for e in chart.at_hand(parse_pitch("Bb5").midi)][:2]
    keep(owned, "Bb5", times=3, entry=first)
    wanted = timezone.localdate() - timedelta(days=3)
    mend(signed_in, owned, names_of(owned), entry=second, day=wanted.isoformat())
    rows = AttemptMade.objects.values_list("entry", "day", "made")
    assert {row[:2] for row in rows} == {(second, wanted)}
    assert {row[2].date() for row in rows} == {wanted}


def test_what_is_deleted_is_gone_and_its_telling_with_it(signed_in, owned):
    keep(owned, "G6", times=3)
    keep(owned, "A6", times=2)
    a6, _ = names_of(owned)
    assert "2 attempts deleted" in words_of(mend(signed_in, owned, [a6], do="delete"))
    assert AttemptMade.objects.count() == Told.objects.get().count == 3


def test_what_cannot_be_moved_stays(
    signed_in, teacher, owned, other, make_instrument, other_teacher, make_passage
):
    keep(owned, "G6", times=2)
    (name,) = names_of(owned)
    oboe, foreign = make_instrument(teacher, "oboe"), make_instrument(other_teacher)
    wrong = [
        ([name], {"to": oboe.pk}),
        ([name], {"to": foreign.pk}),
        ([name], {"entry": "Bb4-bis"}),
        ([name], {"entry": "nonsense"}),
        ([name], {"day": "soon"}),
        ([name], {"day": (timezone.localdate() + timedelta(days=3)).isoformat()}),
        ([], {"to": other.pk}),
        (["x"], {"to": other.pk}),
        (["2026-01-01~stage~teacher~9~s~more"], {"to": other.pk}),
        ([name.replace("91", "9" * 30)], {"to": other.pk}),
    ]
    for names, fields in wrong:
        assert mend(signed_in, owned, names, **fields).status_code == 422, fields
    passage = make_passage(teacher, RUN, owned=owned)
    play(teacher, owned, spot_of(passage))
    page = mend(signed_in, owned, names_of(owned), entry="G6-any")
    assert page.status_code == 422
    assert AttemptMade.objects.filter(instrument=owned).count() == 3
    signed_in.force_login(other_teacher)
    assert mend(signed_in, owned, [name], do="delete").status_code == 404
