"""What is deleted lies in the bin with all that went with it, and comes back as it was."""

import json
from datetime import datetime, timedelta
from importlib import import_module

import pytest
from django.apps import apps
from django.core import serializers
from django.core.exceptions import ValidationError
from django.core.serializers.json import DjangoJSONEncoder
from django.urls import reverse
from django.utils import timezone
from tests.counts import keep
from tests.pages import words_of

from catalogue.models import OwnFingering
from catalogue.services import delete_own, save_own
from evidence.models import AttemptMade, SpotPlayed
from passages.models import KeptPassage
from passages.services import delete_passage
from studio import bin as bins
from studio.models import Binned, OwnedInstrument, Student
from studio.services import delete_instrument, delete_student


def stored():
    """Every row of every table of ours but the bin, as it is stored."""
    ours = (
        model
        for model in apps.get_models()
        if model._meta.app_label not in ("auth", "contenttypes", "sessions")
    )
    return {model: list(model.objects.order_by("pk").values()) for model in ours if model is not Binned}


@pytest.mark.django_db(transaction=True)
def test_all_that_is_deleted_comes_back_as_it_was(demo):
    """Of the demo: students, an instrument, music with drills and what was counted in it, each by itself."""
    alto = OwnedInstrument.objects.get(model="alto-saxophone")
    teacher, before = alto.teacher, stored()
    music = KeptPassage.objects.get(owned=alto, purpose="")
    assert music.spots.exists()
    assert music.drills.exists()
    for delete, thing, model in (
        (delete_passage, music, KeptPassage),
        (delete_instrument, alto, OwnedInstrument),
        *((delete_student, student, Student) for student in Student.objects.all()),
    ):
        key = thing.pk
        binned = delete(teacher, thing)
        assert not model.objects.filter(pk=key).exists()
        bins.bring_back(teacher, binned)
        assert stored() == before
        assert not Binned.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_what_lay_in_the_bin_of_an_earlier_version_comes_back(demo):
    """It was written by Django's own serialiser then, moments to the microsecond."""
    migration = import_module("studio.migrations.0006_bin_of_records")
    alto = OwnedInstrument.objects.get(model="alto-saxophone")
    before, rows = stored(), bins.goes_with(alto.student).rows

    class Exactly(DjangoJSONEncoder):
        def default(self, o):
            return o.isoformat() if isinstance(o, datetime) else super().default(o)

    written = serializers.serialize("json", rows, cls=Exactly)
    binned = bins.put(alto.teacher, alto.student)
    Binned.objects.update(document=written, keys={})
    migration.rewrite(apps, None)
    binned.refresh_from_db()
    bins.bring_back(binned.teacher, binned)
    assert stored() == before


@pytest.mark.django_db
def test_no_number_of_the_database_stands_in_what_is_kept(teacher, owned):
    keep(owned, times=2)
    document = delete_instrument(teacher, OwnedInstrument.objects.get(pk=owned.pk)).document
    first, *_ = json.loads(document)["records"]
    assert first["name"] == "ownedinstrument-1"
    assert first["refs"] == {"teacher": "user-1", "student": "student-1"}
    assert '"pk"' not in document


@pytest.mark.django_db
def test_what_this_version_cannot_read_stays_in_the_bin_and_says_why(signed_in, teacher, owned):
    binned = delete_instrument(teacher, OwnedInstrument.objects.get(pk=owned.pk))
    for was, becomes, said in (
        ('"a4_hz"', '"tuning_fork"', "“tuning_fork” of ownedinstrument-1 is kept no more"),
        ('"form": "records"', '"form": "rows"', "no document of records"),
        ('"kind": "ownedinstrument"', '"kind": "lute"', "lute"),
    ):
        Binned.objects.update(document=binned.document.replace(was, becomes))
        page = signed_in.post(reverse("studio:bin-back", args=[binned.pk]))
        assert page.status_code == 422
        assert said in words_of(page)
    assert Binned.objects.exists()
    assert not OwnedInstrument.objects.exists()


@pytest.mark.django_db(transaction=True)
def test_what_goes_with_it_is_told_in_numbers_before_anything_is_deleted(demo, client):
    from django.contrib.auth import get_user_model

    client.force_login(get_user_model().objects.get(username="demo"))
    alto = OwnedInstrument.objects.get(model="alto-saxophone")
    attempts, before = AttemptMade.objects.filter(instrument=alto).count(), stored()
    page = words_of(client.get(reverse("studio:bin-ask", args=["student", alto.student_id])))
    assert attempts > 500
    for words in (f"{attempts:,} attempts", "1 instrument", "1 plan", "comes back whole", "Passages stay"):
        assert words in page
    assert stored() == before
    page = client.post(reverse("catalogue:student-delete", args=[alto.student_id]), follow=True)
    assert f"{attempts:,} attempts" in words_of(page)
    assert AttemptMade.objects.filter(instrument=alto).count() == 0
    (row,) = Binned.objects.all()
    client.post(reverse("studio:bin-back", args=[row.pk]))
    assert stored() == before


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.mark.django_db
def test_an_own_fingering_comes_back_unless_its_place_is_taken(teacher):
    def save():
        return save_own(teacher, "alto-saxophone", note="G6", touches="octave 1 3 | side Bb 1 2", reason="x")

    row = save()
    key = row.pk
    binned = delete_own(teacher, row)
    other = save()
    with pytest.raises(ValidationError, match="taken its place"):
        bins.bring_back(teacher, binned)
    assert Binned.objects.get().what.startswith("your fingering of G6")
    OwnFingering.objects.filter(pk=other.pk).delete()
    bins.bring_back(teacher, Binned.objects.get())
    assert OwnFingering.objects.get().pk == key


@pytest.mark.django_db
def test_what_belongs_to_something_deleted_waits_for_it(signed_in, teacher, owned):
    keep(owned, times=3)
    first = delete_instrument(teacher, OwnedInstrument.objects.get(pk=owned.pk))
    then = delete_student(teacher, owned.student)
    page = signed_in.post(reverse("studio:bin-back", args=[first.pk]))
    assert page.status_code == 422
    assert "bring back first what it belonged to" in words_of(page)
    for binned in (then, first):
        assert signed_in.post(reverse("studio:bin-back", args=[binned.pk])).status_code == 302
    assert OwnedInstrument.objects.get().attempts.count() == 3


@pytest.mark.django_db
def test_a_passage_leaves_what_was_counted_and_takes_its_place_again(teacher, owned, make_passage):
    from tests.practice.test_spots import play, spot_of

    passage = make_passage(teacher, "L:1/16\nK:C\nB,^CB,^C|", owned=owned)
    play(teacher, owned, spot_of(passage), times=4)
    binned = delete_passage(teacher, KeptPassage.objects.get())
    assert SpotPlayed.objects.get().passage is None
    assert AttemptMade.objects.count() == 4
    bins.bring_back(teacher, binned)
    assert SpotPlayed.objects.get().passage == KeptPassage.objects.get()


@pytest.mark.django_db
def test_after_thirty_days_it_is_gone_and_for_good_at_once(signed_in, teacher, make_instrument):
    old, new = (delete_instrument(teacher, make_instrument(teacher)) for _ in range(2))
    Binned.objects.filter(pk=old.pk).update(deleted=timezone.now() - timedelta(days=30, seconds=1))
    assert signed_in.post(reverse("studio:bin-back", args=[old.pk])).status_code == 404
    assert "gone on" in words_of(signed_in.get(reverse("studio:bin")))
    assert signed_in.post(reverse("studio:bin-forget", args=[new.pk])).status_code == 302
    delete_instrument(teacher, make_instrument(teacher))
    assert Binned.objects.count() == 1
    assert not OwnedInstrument.objects.exists()


@pytest.mark.django_db
def test_a_bin_is_its_teachers_alone(client, teacher, other_teacher, owned):
    binned = delete_instrument(teacher, OwnedInstrument.objects.get(pk=owned.pk))
    client.force_login(other_teacher)
    assert "Wick" not in words_of(client.get(reverse("studio:bin")))
    for name in ("bin-back", "bin-forget"):
        assert client.post(reverse(f"studio:{name}", args=[binned.pk])).status_code == 404
    assert client.get(reverse("studio:bin-ask", args=["student", owned.student_id])).status_code == 404
    assert client.get(reverse("studio:bin-ask", args=["teacher", 1])).status_code == 404
    for act in (bins.bring_back, bins.forget):
        with pytest.raises(ValidationError, match="another teacher"):
            act(other_teacher, Binned.objects.get())
