"""A trial at the stand: fingerings of one note one at a time, what each did, and how they come out.

Each is asked whether it speaks, and then where it lies, how full it is and, where that is listened for, of
what colour; or what it cracks to. Answers are a tap each, so that the instrument stays in the hands. What was
answered becomes a judgement, or a reading.
"""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from enum import StrEnum
from typing import Any

from core.charts.entry import Colour, Tone
from core.errors import EvidenceError
from core.evidence.sources import READING_LIMIT_CENTS, TUNING_CENTS, Tuning, check_readings
from core.numbers import decimal

ITEMS_LIMIT = 24
CRACKS_TO = ("the octave or twelfth below", "another note below", "a note above")


class TrialResponse(StrEnum):
    """What a fingering does when it is blown."""

    SPEAKS = "speaks"
    CRACKS = "cracks"
    SILENT = "silent"


class TrialQuestion(StrEnum):
    """What is asked of the fingering at hand."""

    RESPONSE = "response"
    CRACKS_TO = "cracks to"
    TUNING = "tuning"
    TONE = "tone"
    COLOUR = "colour"


NOT_HEARD = "not heard"
# What is asked after the response, one after the other; of colour only where it is listened for.
THEN = {
    TrialResponse.SPEAKS: (TrialQuestion.TUNING, TrialQuestion.TONE, TrialQuestion.COLOUR),
    TrialResponse.CRACKS: (TrialQuestion.CRACKS_TO,),
    TrialResponse.SILENT: (),
}


@dataclass(frozen=True)
class Answer:
    """What one fingering did; nothing of it if it was skipped.

    Parameters
    ----------
    to : str
        What it cracked to, one of `CRACKS_TO`.
    tuning, cents
        Where it lay, by ear or by a tuner (sharp positive); at most one of the two.
    tone, colour
        How full it was, and of what colour.
    unheard : tuple of TrialQuestion
        What nobody listened for.
    """

    response: TrialResponse | None = None
    to: str = ""
    tuning: Tuning | None = None
    cents: float | None = None
    tone: Tone | None = None
    colour: Colour | None = None
    unheard: tuple[TrialQuestion, ...] = ()

    @classmethod
    def from_json(cls, data: Mapping[str, Any]) -> Answer:
        """An answer from its JSON form.

        Parameters
        ----------
        data : mapping of str to Any
            As `as_json` gives it.

        Returns
        -------
        Answer
        """
        scales = {"response": TrialResponse, "tuning": Tuning, "tone": Tone, "colour": Colour}
        words: dict[str, Any] = {name: scale(data[name]) for name, scale in scales.items() if data.get(name)}
        unheard = [TrialQuestion(one) for one in data.get("unheard", ())]
        if data.get("heard") is False:  # as it was kept when only pitch was listened for
            unheard.append(TrialQuestion.TUNING)
        return cls(**words, to=data.get("to", ""), cents=data.get("cents"), unheard=tuple(unheard))

    @property
    def as_json(self) -> dict[str, Any]:
        """Its JSON form: what was answered, and nothing else."""
        return {name: value for name, value in asdict(self).items() if value not in (None, "", ())}

    def told(self, question: TrialQuestion) -> bool:
        """Whether a question after the response is answered, or passed over.

        Parameters
        ----------
        question : TrialQuestion

        Returns
        -------
        bool
        """
        said = {
            TrialQuestion.CRACKS_TO: self.to,
            TrialQuestion.TUNING: self.tuning or self.cents is not None,
            TrialQuestion.TONE: self.tone,
            TrialQuestion.COLOUR: self.colour,
        }
        return bool(said[question]) or question in self.unheard

    def open_question(self, *, colour: bool = False) -> TrialQuestion | None:
        """What is still to be asked of it.

        Parameters
        ----------
        colour : bool
            Whether colour is listened for.

        Returns
        -------
        TrialQuestion or None
        """
        asks = THEN[self.response] if self.response else ()
        return next((q for q in asks if not self.told(q) and (colour or q is not TrialQuestion.COLOUR)), None)

    def back(self) -> Answer | None:
        """The answer without the last of what was asked after the response.

        Returns
        -------
        Answer or None
            None if the response was all.
        """
        told = [
            question for question in (THEN[self.response] if self.response else ()) if self.told(question)
        ]
        if not told:
            return None
        if told[-1] in self.unheard:
            return replace(self, unheard=self.unheard[:-1])
        nothing: dict[TrialQuestion, dict[str, Any]] = {
            TrialQuestion.CRACKS_TO: {"to": ""},
            TrialQuestion.TUNING: {"tuning": None, "cents": None},
            TrialQuestion.TONE: {"tone": None},
            TrialQuestion.COLOUR: {"colour": None},
        }
        return replace(self, **nothing[told[-1]])

    @property
    def off(self) -> float | None:
        """How far from in tune it lay, in cents; None if that is not known."""
        if self.cents is not None:
            return abs(self.cents)
        return None if self.tuning is None else abs(TUNING_CENTS[self.tuning])

    @property
    def words(self) -> str:
        """What it did, in a teacher's words."""
        if self.response is None:
            return "skipped"
        if self.response is TrialResponse.CRACKS:
            return f"cracks to {self.to}" if self.to else "cracks"
        if self.response is TrialResponse.SILENT:
            return "silent"
        where = f"{self.cents:+g} cents".replace("-", "−") if self.cents is not None else self.tuning
        return ", ".join(filter(None, ("speaks", where, self.tone, self.colour)))


def asked(answers: Sequence[Answer], count: int, *, colour: bool = False) -> tuple[int, TrialQuestion] | None:
    """Which of so many fingerings is at hand, and what is asked of it; None when all are through.

    Parameters
    ----------
    answers : sequence of Answer
    count : int, from 1
        How many there are.
    colour : bool
        Whether colour is listened for.

    Returns
    -------
    (int, TrialQuestion) or None
        Place of the fingering at hand, and the question.
    """
    if answers and (question := answers[-1].open_question(colour=colour)):
        return len(answers) - 1, question
    return (len(answers), TrialQuestion.RESPONSE) if len(answers) < count else None


def answered(answers: Sequence[Answer], count: int, word: str, *, colour: bool = False) -> list[Answer]:
    """The answers with one more tap.

    Parameters
    ----------
    answers : sequence of Answer
    count : int, from 1
        How many fingerings there are.
    word : str
        A response, what it cracks to, a tuning, cents, a tone, a colour, ``skip``, ``not heard`` or ``back``.
    colour : bool
        Whether colour is listened for.

    Returns
    -------
    list of Answer

    Raises
    ------
    EvidenceError
        If the word does not answer what is asked.
    """
    found = list(answers)
    if word == "back":
        before = found[-1].back() if found else None
        return [*found[:-1], *([before] if before else [])]
    at = asked(found, count, colour=colour)
    if at is None:
        raise EvidenceError("all fingerings of this trial have been tried")
    place, question = at
    if word == "skip":
        return [*found[:place], Answer()]
    if question is TrialQuestion.RESPONSE:
        if word not in set(TrialResponse):
            raise EvidenceError("the answer must be speaks, cracks or silent")
        return [*found, Answer(TrialResponse(word))]
    return [*found[:place], _with_answer(found[place], question, word)]


def _with_answer(answer: Answer, question: TrialQuestion, word: str) -> Answer:
    """An answer with one more of what is asked after the response."""
    if question is TrialQuestion.CRACKS_TO:
        if word not in CRACKS_TO:
            raise EvidenceError("the answer must be one of what a note can crack to")
        return replace(answer, to=word)
    if word == NOT_HEARD:
        return replace(answer, unheard=(*answer.unheard, question))
    if question is TrialQuestion.TUNING and word not in set(Tuning):
        return replace(answer, cents=check_readings([decimal(word)])[0])
    scale: type[StrEnum] = SCALE[question]
    if word not in set(scale):
        raise EvidenceError(f"the {question} must be one of {', '.join(scale)}")
    said: dict[str, Any] = {question.value: scale(word)}
    return replace(answer, **said)


SCALE: Mapping[TrialQuestion, type[StrEnum]] = {
    TrialQuestion.TUNING: Tuning,
    TrialQuestion.TONE: Tone,
    TrialQuestion.COLOUR: Colour,
}


def shuffled(items: Sequence[str], seed: int) -> list[str]:
    """The items in an order that tells nothing of them.

    Parameters
    ----------
    items : sequence of str
        Ids of entries, or touches.
    seed : int
        Of the order, so that it comes again.

    Returns
    -------
    list of str
    """
    order = list(items)
    random.Random(seed).shuffle(order)  # noqa: S311 -- no secret
    return order


def outcome(items: Sequence[str], answers: Sequence[Answer]) -> list[tuple[str, Answer]]:
    """What was tried, the best first: what speaks before what cracks, then the nearest to in tune.

    Parameters
    ----------
    items : sequence of str
        Ids of entries, or touches, in the order of the answers.
    answers : sequence of Answer

    Returns
    -------
    list of (str, Answer)

    Examples
    --------
    >>> two = [Answer(TrialResponse.SPEAKS, tuning=Tuning.FLAT), Answer(TrialResponse.SPEAKS, cents=3.0)]
    >>> [name for name, _ in outcome(["one", "other", "not yet"], two)]
    ['other', 'one']
    """
    order = [TrialResponse.SPEAKS, TrialResponse.CRACKS, TrialResponse.SILENT, None]
    pairs = zip(items, answers, strict=False)
    unknown = READING_LIMIT_CENTS  # what was not listened to stands behind what was
    return sorted(
        pairs,
        key=lambda pair: (order.index(pair[1].response), unknown if pair[1].off is None else pair[1].off),
    )
