"""The trial at the stand, through its pages."""

import re

import pytest
from django.urls import reverse

from evidence.models import JudgementMade, Preference, ReadingsTaken, Trial
from pages import words_of

pytestmark = pytest.mark.django_db


def begun(client, owned, items=("G6-split", "G6-front"), **more):
    data = {"on": f"i{owned.pk}", "note": "G6", "item": list(items), **more}
    return client.post(reverse("catalogue:trial-begin"), data)


def tap(client, trial, word, **more):
    return client.post(reverse("catalogue:trial-answer", args=[trial.pk]), {"answer": word, **more})


@pytest.fixture
def owned(teacher, make_instrument):
    return make_instrument(teacher)


@pytest.fixture
def two(signed_in, owned):
    """Two fingerings of G6 of the alto."""
    return [entry.id for entry in in_hand(owned).at_hand(91)][:2]


def in_hand(owned):
    from catalogue.queries import of_instrument

    return of_instrument(owned)


def test_from_the_choice_to_what_is_kept(signed_in, owned, two):
    begun(signed_in, owned, two, colour="on")
    trial = Trial.objects.get()
    assert trial.items == two  # not shuffled
    shown = words_of(signed_in.get(reverse("catalogue:trial", args=[trial.pk])))
    assert "Does it speak?" in shown
    assert "1 of 2" in shown
    for word in ("speaks", "cents", "light", "dark", "cracks", "a note above"):
        assert tap(signed_in, trial, word, cents="-12").status_code == 302
    assert not JudgementMade.objects.exists()  # back is still possible
    assert "Keep what was heard" in words_of(signed_in.get(reverse("catalogue:trial", args=[trial.pk])))
    tap(signed_in, trial, "stop")
    judged = JudgementMade.objects.values_list("entry", "speaks", "tone", "colour", "remark")
    assert list(judged) == [
        (two[0], "ready", "light", "dark", "in a trial"),
        (two[1], "unsure", "", "", "in a trial: cracks to a note above"),
    ]
    assert [row.cents for row in ReadingsTaken.objects.all()] == [[-12.0]]
    shown = words_of(signed_in.get(reverse("catalogue:trial", args=[trial.pk])))
    assert shown.index("Speaks, −12 cents, light, dark") < shown.index("Cracks to a note above")
    assert re.search(r"Pitch: [^;]+ → [^;]+cents flat", shown)  # what it moved
    tap(signed_in, trial, "prefer", entry=two[0])
    assert Preference.objects.get().entry == two[0]


def test_stopped_half_way_it_keeps_what_was_answered(signed_in, owned, two):
    begun(signed_in, owned, two, shuffle="on", blind="on")
    trial = Trial.objects.get()
    assert sorted(trial.items) == sorted(two)
    shown = words_of(signed_in.get(reverse("catalogue:trial", args=[trial.pk])))
    assert "octave" not in shown.lower().split("does it speak")[0]  # blind: no touches, no kind
    tap(signed_in, trial, "silent")
    tap(signed_in, trial, "stop")
    assert JudgementMade.objects.get().remark == "in a trial: silent"
    assert "1 not tried" in words_of(signed_in.get(reverse("catalogue:trial", args=[trial.pk])))
    assert tap(signed_in, trial, "silent").status_code == 422  # it has ended


def test_untried_touches_are_tried_and_not_judged(signed_in, owned):
    page = signed_in.get(
        reverse("catalogue:trial-begin"),
        {"on": f"i{owned.pk}", "note": "G6", "also": ["octave L1 | R2", "zither"]},
    )
    assert page.content.decode().count('value="touches:') == 1
    begun(signed_in, owned, ["touches:octave L1 | R2"])
    trial = Trial.objects.get()
    tap(signed_in, trial, "speaks")
    tap(signed_in, trial, "in tune")
    tap(signed_in, trial, "stop")
    assert not JudgementMade.objects.exists()
    assert "Keep as your own" in words_of(signed_in.get(reverse("catalogue:trial", args=[trial.pk])))


def test_what_speaks_against_an_untried_one_is_said_before_it_is_tried(signed_in, owned):
    asked = {"on": f"i{owned.pk}", "note": "A5", "also": ["L1 L2", "octave L1 L2 | R2"]}
    page = words_of(signed_in.get(reverse("catalogue:trial-begin"), asked))
    assert page.count("is the octave touch missing?") == 1


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"items": ()}, "Choose at least one fingering"),
        ({"items": ["no such entry", "touches:zither"]}, "Choose at least one fingering"),
        ({"note": "H9"}, "is no note"),
    ],
)
def test_what_cannot_begin_says_why(signed_in, owned, change, says):
    answer = begun(signed_in, owned, **change)
    assert answer.status_code == 422
    assert says in words_of(answer)
    assert not Trial.objects.exists()


def test_no_instrument_in_a_students_hands_no_trial(signed_in):
    asked = {"on": "alto-saxophone", "note": "G6"}
    assert "Choose one above" in words_of(signed_in.get(reverse("catalogue:trial-begin"), asked))
    answer = signed_in.post(reverse("catalogue:trial-begin"), asked | {"item": ["x"]})
    assert answer.status_code == 422


@pytest.mark.parametrize("word", ["", "flat", "cents", "nonsense", "a" * 5000])
def test_a_tap_that_answers_nothing_is_refused(signed_in, owned, two, word):
    begun(signed_in, owned, two)
    trial = Trial.objects.get()
    assert tap(signed_in, trial, word).status_code == 422
    assert Trial.objects.get().answers == []


def test_trials_of_others_are_not_there(signed_in, client, owned, two, other_teacher):
    begun(signed_in, owned, two)
    trial = Trial.objects.get()
    client.force_login(other_teacher)
    assert client.get(reverse("catalogue:trial", args=[trial.pk])).status_code == 404
    assert tap(client, trial, "speaks").status_code == 404


def test_what_was_heard_counts_for_the_set_up_it_was_heard_under(signed_in, owned, two):
    begun(signed_in, owned, two)
    trial = Trial.objects.get()
    tap(signed_in, trial, "silent")
    owned.setup += 1
    owned.save(update_fields=["setup"])
    tap(signed_in, trial, "stop")
    assert JudgementMade.objects.get().setup == trial.setup == owned.setup - 1


def test_touches_of_the_chart_are_not_offered_a_second_time_as_untried(signed_in, owned, two):
    from core.instruments.fingering import format_fingering

    known = in_hand(owned)
    touches = format_fingering(known.catalogue.by_id[two[0]].fingering, known.instrument)
    asked = {"on": f"i{owned.pk}", "note": "G6", "also": [touches]}
    page = signed_in.get(reverse("catalogue:trial-begin"), asked).content.decode()
    assert "touches:" not in page
