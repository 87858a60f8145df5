"""Students and their instruments: each teacher's own, set-ups kept apart."""

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse
from tests.pages import words_of

from catalogue.queries import of_instrument
from core.charts.schools import parse_schools
from core_shapes import DATA
from studio import services
from studio.models import OwnedInstrument, Setup, Student
from studio.shipped import instrument

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
    assert (made.model, made.fitted, made.a4_hz) == ("bassoon", ["D"], 442.0)
    assert made.lacks == []  # what few bassoons have is not lacking
    page = signed_in.get(reverse("students:list"))
    assert "lacks" not in words_of(page)
    assert "Wick" in words_of(page)


def test_another_reed_begins_a_new_set_up_and_the_same_does_not(teacher, owned):
    same = {"name": "x", "fitted": [], "a4_hz": 440, "mouthpiece": "close"}
    services.change_instrument(teacher, owned, reed="2½", **same)
    assert (owned.setup, owned.setups.count()) == (1, 1)
    services.change_instrument(teacher, owned, reed="3", **same)
    assert (owned.setup, Setup.objects.get(instrument=owned, number=2).reed) == (2, "3")


def test_to_name_a_reed_that_was_not_noted_throws_nothing_away(teacher, make_instrument):
    unnamed = make_instrument(teacher)
    told = {"name": "x", "fitted": [], "a4_hz": 440}
    services.change_instrument(teacher, unnamed, reed="3", **told)
    assert (unnamed.setup, unnamed.setups.get().reed) == (1, "3")
    services.change_instrument(teacher, unnamed, reed="3", mouthpiece="open", **told)
    assert (unnamed.setup, unnamed.setups.get().mouthpiece) == (1, "open")
    services.change_instrument(teacher, unnamed, reed="", mouthpiece="open", **told)
    assert unnamed.setup == 2


def test_to_name_a_reed_by_the_name_of_an_earlier_one_throws_nothing_away(teacher, make_instrument):
    unnamed = make_instrument(teacher, reed="3")
    told = {"name": "x", "fitted": [], "a4_hz": 440}
    for reed in ("", "3"):
        services.change_instrument(teacher, unnamed, reed=reed, **told)
    assert (unnamed.setup, unnamed.setups.get(number=2).reed) == (2, "3")


def test_what_stands_behind_the_reed_is_called_by_the_instrument(signed_in, teacher, make_instrument):
    for model, word in (("bassoon", "Crook"), ("oboe", "Staple"), ("alto-saxophone", "Mouthpiece")):
        page = signed_in.get(reverse("catalogue:instrument", args=[make_instrument(teacher, model=model).pk]))
        assert word in words_of(page)
        assert f"{word.lower()} not noted" in words_of(page)


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
    assert signed_in.get(reverse("bench:bench", args=[passage.pk])).status_code == 200


@pytest.mark.parametrize("many", [1, 30])
def test_the_list_keeps_its_number_of_queries(
    signed_in, teacher, make_instrument, django_assert_num_queries, many
):
    for _ in range(many):
        make_instrument(teacher)
    # who it is, twice; students, instruments, plans, what was told, passages
    with django_assert_num_queries(8):
        assert signed_in.get(reverse("students:list")).status_code == 200


def test_a_new_instrument_is_usually_fitted_and_tuned_as_the_studio(signed_in, teacher, make_instrument):
    one = make_instrument(teacher, lacks=["highF#"], a4_hz=443.5)
    address = reverse("catalogue:instrument-new", args=[one.student_id])
    for model in ("alto-saxophone", "oboe"):
        form = signed_in.get(address + f"?model={model}").context["form"]
        usual = sorted(instrument(model).usually_fitted)
        assert (form.initial["fitted"], form.initial["a4_hz"]) == (usual, "443.5")
    make_instrument(teacher, a4_hz=442)  # the studio is of one mind no more
    assert signed_in.get(address).context["form"].initial["a4_hz"] == "440"


def test_how_a_teacher_teaches_holds_where_an_instrument_does_not_depart(
    signed_in, teacher, other_teacher, make_instrument
):
    bassoon = make_instrument(teacher, "bassoon")
    departs = make_instrument(teacher, "bassoon", positions={"bassoon vents": "flick the vent"})
    none_here = make_instrument(teacher, "bassoon", positions={"bassoon vents": ""})
    theirs = make_instrument(other_teacher, "bassoon")
    address = reverse("catalogue:teaching")
    assert b"Sure attacks with less timing" in signed_in.get(address).content
    answer = signed_in.post(address, {"school_bassoon_vents": "hold the vent", "school_tongue": ""})
    assert answer.status_code == 302
    followed = {one.pk: of_instrument(one).positions for one in (bassoon, departs, none_here, theirs)}
    assert followed == {
        bassoon.pk: {"hold the vent"},
        departs.pk: {"flick the vent"},
        none_here.pk: frozenset(),
        theirs.pk: frozenset(),
    }
    page = signed_in.get(reverse("catalogue:instrument", args=[bassoon.pk])).content.decode()
    assert "as I teach it: hold the vent" in page
    signed_in.post(address, {"school_bassoon_vents": ""})
    assert of_instrument(bassoon).positions == frozenset()


def test_touches_are_named_as_the_teacher_names_them(signed_in, teacher, make_instrument):
    alto = make_instrument(teacher)
    address = reverse("catalogue:teaching")
    note = reverse("catalogue:note"), {"on": f"i{alto.pk}", "note": "F4"}
    assert "1 2 3 · 1" in words_of(signed_in.get(*note))
    assert signed_in.post(address, {"naming": "1 to 6, straight through"}).status_code == 302
    assert "1 2 3 · 4" in words_of(signed_in.get(*note))
    assert signed_in.post(address, {"naming": "by colours"}).status_code == 422
    assert "1 2 3 · 4" in words_of(signed_in.get(*note))


@pytest.mark.parametrize("answers", [{"odd": "x"}, {"tongue": "hold the vent"}])
def test_positions_that_are_none_are_refused(teacher, signed_in, answers):
    with pytest.raises(ValidationError, match="not one on this question"):
        services.take_positions(teacher, answers)
    posted = {f"school_{question}": position for question, position in answers.items()}
    address = reverse("catalogue:teaching")
    assert signed_in.post(address, posted).status_code == (422 if "tongue" in answers else 302)


def test_a_passage_begins_with_the_weights_of_the_positions(
    teacher, make_instrument, make_passage, monkeypatch
):
    text = (DATA / "schools.toml").read_text().replace('kinds = ["front"]', "weights = { tone = 0.5 }")
    monkeypatch.setattr("catalogue.in_hand.schools", lambda: parse_schools(text))
    owned = make_instrument(teacher, positions={"saxophone altissimo": "front F throughout"})
    settings = make_passage(teacher, owned=owned).current.settings
    assert settings["weights"] == {"pitch": 1.0, "tone": 0.5, "speaks": 1.0, "hands": 1.0}


@pytest.mark.parametrize(
    ("typed", "answer"), [("442,5", 442.5), ("442.5", 442.5), ("1,440", "two ways"), ("a", "a number of Hz")]
)
def test_a_decimal_comma_is_one(signed_in, owned, typed, answer):
    data = {**DETAILS, "a4_hz": typed}
    page = signed_in.post(reverse("catalogue:instrument", args=[owned.pk]), data)
    owned.refresh_from_db()
    if isinstance(answer, str):
        assert page.status_code == 422
        assert answer in page.content.decode()
    else:
        assert owned.a4_hz == answer


def test_another_model_leaves_what_was_typed_and_saves_nothing(signed_in, teacher, make_instrument):
    owned = make_instrument(teacher)
    address = reverse("catalogue:instrument-new", args=[owned.student_id])
    typed = {
        "name": "old oboe",
        "notes": "stuffy",
        "reed": "",
        "mouthpiece": "",
        "a4_hz": "441",
        "do": "model",
    }
    page = signed_in.post(address, typed | {"model": "oboe"}).content.decode()
    for words in ('value="old oboe"', "stuffy", 'value="441"', '<option value="oboe" selected>'):
        assert words in page
    assert teacher.instruments.count() == 1
