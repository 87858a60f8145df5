"""Schools: questions as data, positions followed and set aside, and what a position carries."""

import pytest

from core.charts.schools import parse_schools
from core.errors import CatalogueError
from core_shapes import DATA, in_hand_of
from studio.shipped import INSTRUMENTS, instrument, schools

TEXT = (DATA / "schools.toml").read_text()


@pytest.mark.parametrize(
    "text",
    [
        "question = 1",
        "[[question]]\nname = 'x'\ntext = 'y'\n",
        TEXT + TEXT,
        TEXT.replace('name = "lift"', 'name = "half-hole"'),
        TEXT.replace('kinds = ["front"]', 'kinds = ["odd"]'),
        TEXT.replace("costs = ", "price = ", 1),
        "[[question",
    ],
)
def test_schools_that_cannot_be_read_are_refused(text):
    with pytest.raises(CatalogueError):
        parse_schools(text)


@pytest.mark.parametrize("name", INSTRUMENTS)
def test_every_instrument_is_asked_what_matters_on_it(name):
    family = instrument(name).family
    asked = {question.name for question in schools().for_family(family)}
    assert {"tongue", "mouthpiece"} <= asked
    assert ("bassoon vents" in asked) == (family == "bassoon")
    assert ("clarinet first finger" in asked) == (family == "clarinet")


def test_only_positions_that_are_taught_on_the_instrument_are_followed():
    answers = {"bassoon vents": "hold the vent", "tongue": "high to C6, then slightly rounder above E-flat 6"}
    assert schools().followed(answers, "bassoon") == {"hold the vent"}
    assert schools().followed(answers, "clarinet") == {answers["tongue"]}
    assert schools().followed({"bassoon vents": "lift", "odd": "x"}, "bassoon") == frozenset()


def test_another_position_on_the_same_question_is_set_aside_and_no_other():
    assert schools().set_aside("hold the vent", {"flick the vent"})
    assert not schools().set_aside("flick the vent", {"flick the vent"})
    assert not schools().set_aside("hold the vent", {"lift"})
    assert not schools().set_aside("", {"lift"})


def test_a_position_may_prefer_kinds_and_single_fingerings():
    alto = in_hand_of("alto-saxophone", positions=frozenset({"front F throughout", "right hand down"}))
    by_id = alto.catalogue.by_id
    assert alto.head_starts["F6-front"] == alto.head_starts["A6-hand-down"] == 0.3
    assert "F6-palm" not in alto.head_starts
    assert alto.position_for(by_id["A6-hand-down"]) == "right hand down"
    assert alto.position_for(by_id["F6-palm"]) == ""


def test_weights_of_positions_multiply():
    text = TEXT.replace('kinds = ["front"]', "weights = { pitch = 0.5, hands = 2 }").replace(
        'entries = ["A6-hand-down"]', "weights = { pitch = 0.5 }"
    )
    changed = parse_schools(text)
    assert changed.weights({"front F throughout", "right hand down"}) == {"pitch": 0.25, "hands": 2}
    assert changed.weights(()) == {}


def test_a_position_may_play_the_rows_of_others_some_of_them_only_for_some_notes():
    mixed = "half-hole only for slurs and soft entries"
    assert not schools().set_aside("lift", {mixed})
    assert not schools().set_aside("half-hole", {mixed})
    assert schools().set_aside(mixed, {"lift"})
    clarinet = in_hand_of("b-flat-clarinet", positions=frozenset({mixed}))
    assert clarinet.position_for(clarinet.catalogue.by_id["D6-half"]) == mixed
    assert not clarinet.aside & {"D6-half", "D6-lift"}
