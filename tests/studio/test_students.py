"""Students and their instruments: each teacher's own, set-ups kept apart."""

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse

from studio import services
from studio.models import OwnedInstrument, Setup, Student

pytestmark = pytest.mark.django_db
DETAILS = {"name": "band alto", "a4_hz": "442", "reed": "2½", "mouthpiece": "close", "notes": ""}


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher, reed="2½", mouthpiece="close")


def test_a_student_with_an_instrument_by_the_forms(signed_in, teacher):
    answer = signed_in.post(
        reverse("catalogue:student-new"), {"name": "Wick", "level": "beginning", "notes": ""}
    )
    assert answer["Location"] == reverse("catalogue:instruments")
    student = Student.objects.get(teacher=teacher)
    address = reverse("catalogue:instrument-new", args=[student.pk])
    assert b"High F-sharp" in signed_in.get(address).content
    assert b"Left F" in signed_in.get(address + "?model=oboe").content
    answer = signed_in.post(address, {**DETAILS, "model": "bassoon", "fitted": ["D"]})
    made = OwnedInstrument.objects.get()
    assert answer["Location"] == reverse("catalogue:instrument", args=[made.pk])
    assert (made.model, made.fitted, made.lacks, made.a4_hz) == ("bassoon", ["D"], ["high E"], 442.0)
    page = signed_in.get(reverse("catalogue:instruments")).content.decode()
    assert "lacks high E" in page
    assert "Wick" in page


def test_another_reed_begins_a_new_set_up_and_the_same_does_not(teacher, owned):
    same = {"name": "x", "fitted": [], "a4_hz": 440, "mouthpiece": "close"}
    services.change_instrument(teacher, owned, reed="2½", **same)
    assert (owned.setup, owned.setups.count()) == (1, 1)
    services.change_instrument(teacher, owned, reed="3", **same)
    assert (owned.setup, Setup.objects.get(instrument=owned, number=2).reed) == (2, "3")


def test_only_what_the_model_may_have_is_fitted(teacher, owned):
    services.change_instrument(teacher, owned, name="x", fitted=["highF#", "R1", "lowA"], a4_hz=440)
    assert owned.fitted == ["highF#"]


@pytest.mark.parametrize(
    ("changed", "message"),
    [
        ({"name": ""}, "needs a name"),
        ({"a4_hz": "500"}, "at most 450"),
        ({"a4_hz": "high"}, "must be a number of Hz"),
        ({"a4_hz": "nan"}, "must be a number of Hz"),
        ({"fitted": ["R1"]}, "not one of the available"),
        ({"reed": "x" * 101}, "at most 100 characters"),
    ],
)
def test_bad_details_keep_what_was_typed_and_change_nothing(signed_in, owned, changed, message):
    answer = signed_in.post(
        reverse("catalogue:instrument", args=[owned.pk]), {**DETAILS, "notes": "bright", **changed}
    )
    page = answer.content.decode()
    assert answer.status_code == 422
    assert message in page
    assert "bright" in page
    owned.refresh_from_db()
    assert owned.name == "test alto-saxophone"


@pytest.mark.parametrize(
    "name", ["student", "student-delete", "instrument-new", "instrument", "instrument-delete"]
)
def test_another_teachers_student_is_not_found(client, other_teacher, owned, name):
    client.force_login(other_teacher)
    pk = owned.student.pk if "student" in name or name == "instrument-new" else owned.pk
    address = reverse(f"catalogue:{name}", args=[pk])
    answer = client.post(address) if name.endswith("delete") else client.get(address)
    assert answer.status_code == 404
    assert OwnedInstrument.objects.filter(pk=owned.pk).exists()


def test_services_refuse_another_teachers_things(other_teacher, owned):
    with pytest.raises(ValidationError, match="another teacher"):
        services.delete_instrument(other_teacher, owned)
    with pytest.raises(ValidationError, match="another teacher"):
        services.save_student(other_teacher, name="x", level="beginning", student=owned.student)


def test_deleting_a_student_leaves_the_passages(signed_in, teacher, owned, make_passage):
    passage = make_passage(teacher, owned=owned)
    signed_in.post(reverse("catalogue:student-delete", args=[owned.student.pk]))
    passage.refresh_from_db()
    assert passage.owned is None
    assert signed_in.get(reverse("passages:bench", args=[passage.pk])).status_code == 200


@pytest.mark.parametrize("many", [1, 30])
def test_the_list_keeps_its_number_of_queries(
    signed_in, teacher, make_instrument, django_assert_num_queries, many
):
    for _ in range(many):
        make_instrument(teacher)
    with django_assert_num_queries(5):
        assert signed_in.get(reverse("catalogue:instruments")).status_code == 200
