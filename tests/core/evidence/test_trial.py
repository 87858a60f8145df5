"""Trials at the stand: what is asked, what answers say, and how they come out."""

import json

import pytest

from core.charts.entry import Colour, Tone
from core.errors import CoreError
from core.evidence.sources import Tuning
from core.evidence.trial import (
    CRACKS_TO,
    Answer,
    TrialQuestion,
    TrialResponse,
    answered,
    asked,
    outcome,
    shuffled,
)


def taps(*words, count=3, colour=False):
    answers = []
    for word in words:
        answers = answered(answers, count, word, colour=colour)
    return answers


@pytest.mark.parametrize(
    ("words", "at"),
    [
        ([], (0, TrialQuestion.RESPONSE)),
        (["speaks"], (0, TrialQuestion.TUNING)),
        (["speaks", "flat"], (0, TrialQuestion.TONE)),
        (["speaks", "not heard"], (0, TrialQuestion.TONE)),
        (["speaks", "flat", "thin"], (1, TrialQuestion.RESPONSE)),
        (["speaks", "flat", "not heard"], (1, TrialQuestion.RESPONSE)),
        (["cracks"], (0, TrialQuestion.CRACKS_TO)),
        (["cracks", CRACKS_TO[0]], (1, TrialQuestion.RESPONSE)),
        (["silent", "skip", "speaks"], (2, TrialQuestion.TUNING)),
        (["silent", "skip", "silent"], None),
        (["speaks", "back"], (0, TrialQuestion.RESPONSE)),
        (["speaks", "flat", "back"], (0, TrialQuestion.TUNING)),
        (["speaks", "flat", "thin", "back"], (0, TrialQuestion.TONE)),
        (["speaks", "flat", "not heard", "back", "back"], (0, TrialQuestion.TUNING)),
        (["speaks", "not heard", "not heard", "back", "back"], (0, TrialQuestion.TUNING)),
        (["cracks", CRACKS_TO[1], "back"], (0, TrialQuestion.CRACKS_TO)),
        (["silent", "back"], (0, TrialQuestion.RESPONSE)),
        (["skip", "back"], (0, TrialQuestion.RESPONSE)),
        (["speaks", "skip"], (1, TrialQuestion.RESPONSE)),
        (["back"], (0, TrialQuestion.RESPONSE)),
    ],
)
def test_what_is_asked_next(words, at):
    assert asked(taps(*words), 3) == at


@pytest.mark.parametrize(
    ("words", "at"),
    [
        (["speaks", "flat", "thin"], (0, TrialQuestion.COLOUR)),
        (["speaks", "flat", "thin", "dark"], (1, TrialQuestion.RESPONSE)),
        (["speaks", "flat", "thin", "dark", "back"], (0, TrialQuestion.COLOUR)),
        (["cracks", CRACKS_TO[0]], (1, TrialQuestion.RESPONSE)),
    ],
)
def test_colour_is_asked_where_it_is_listened_for(words, at):
    assert asked(taps(*words, colour=True), 3, colour=True) == at


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["speaks", "sharp"], "speaks, sharp"),
        (["speaks", "-8,5"], "speaks, −8.5 cents"),
        (["speaks", "not heard"], "speaks"),
        (["speaks", "sharp", "thin"], "speaks, sharp, thin"),
        (["cracks", CRACKS_TO[2]], "cracks to a note above"),
        (["silent"], "silent"),
        (["skip"], "skipped"),
    ],
)
def test_what_an_answer_says(words, said):
    assert taps(*words)[0].words == said


@pytest.mark.parametrize(
    ("before", "word"),
    [
        ([], "flat"),
        ([], ""),
        (["speaks"], "speaks"),
        (["speaks"], "400"),
        (["speaks"], "nan"),
        (["speaks", "flat"], "bright"),
        (["cracks"], "the moon"),
        (["silent"] * 3, "silent"),
    ],
)
def test_what_does_not_answer_is_refused(before, word):
    with pytest.raises(CoreError):
        answered(taps(*before), 3, word)


def test_an_answer_survives_being_kept():
    for one in (
        Answer(),
        Answer(TrialResponse.SPEAKS, tuning=Tuning.FLAT),
        Answer(TrialResponse.SPEAKS, cents=-8.5, tone=Tone.THIN, unheard=(TrialQuestion.COLOUR,)),
        Answer(TrialResponse.SPEAKS, tuning=Tuning.SHARP, tone=Tone.EVEN, colour=Colour.DARK),
        Answer(TrialResponse.CRACKS, to=CRACKS_TO[1]),
    ):
        assert Answer.from_json(json.loads(json.dumps(one.as_json))) == one


def test_an_answer_of_before_tone_was_asked_is_read():
    old = Answer.from_json({"response": "speaks", "heard": False})
    assert old.told(TrialQuestion.TUNING)
    assert old.open_question() is TrialQuestion.TONE


def test_what_speaks_stands_first_then_what_lies_nearest():
    answers = taps(
        "silent",
        *("speaks", "flat", "full"),
        *("cracks", CRACKS_TO[0]),
        *("speaks", "5", "thin"),
        *("speaks", "not heard", "not heard"),
        "skip",
        count=6,
    )
    assert [name for name, _ in outcome("abcdef", answers)] == ["d", "b", "e", "c", "a", "f"]


def test_a_shuffled_order_is_the_same_again_and_loses_nothing():
    items = [f"e{n}" for n in range(12)]
    assert shuffled(items, 3) == shuffled(items, 3) != items
    assert sorted(shuffled(items, 3)) == sorted(items)
