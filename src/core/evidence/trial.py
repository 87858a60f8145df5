"""A trial at the stand: fingerings of one note one at a time, what each did, and how they come out.

Each is asked two things at most: whether it speaks, and then where it lies, or what it cracks to. Answers are
a tap each, so that the instrument stays in the hands. What was answered becomes a judgement, or a reading.
"""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from core.errors import EvidenceError
from core.evidence.sources import READING_LIMIT_CENTS, TUNING_CENTS, Tuning
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


@dataclass(frozen=True)
class Answer:
    """What one fingering did; nothing of it if it was skipped.

    Parameters
    ----------
    to : str
        What it cracked to, one of `CRACKS_TO`.
    tuning, cents
        Where it lay, by ear or by a tuner (sharp positive); at most one of the two.
    heard : bool
        False where it spoke and nobody listened for its pitch.
    """

    response: TrialResponse | None = None
    to: str = ""
    tuning: Tuning | None = None
    cents: float | None = None
    heard: bool = True

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
        response, tuning = data.get("response"), data.get("tuning")
        return cls(
            response=TrialResponse(response) if response else None,
            to=data.get("to", ""),
            tuning=Tuning(tuning) if tuning else None,
            cents=data.get("cents"),
            heard=data.get("heard", True),
        )

    @property
    def open_question(self) -> TrialQuestion | None:
        """What is still to be asked of it."""
        if (
            self.response is TrialResponse.SPEAKS
            and self.heard
            and self.tuning is None
            and self.cents is None
        ):
            return TrialQuestion.TUNING
        if self.response is TrialResponse.CRACKS and not self.to:
            return TrialQuestion.CRACKS_TO
        return None

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
        return f"speaks, {where}" if where else "speaks"


def asked(answers: Sequence[Answer], count: int) -> tuple[int, TrialQuestion] | None:
    """Which of so many fingerings is at hand, and what is asked of it; None when all are through.

    Parameters
    ----------
    answers : sequence of Answer
    count : int, from 1
        How many there are.

    Returns
    -------
    (int, TrialQuestion) or None
        Place of the fingering at hand, and the question.
    """
    if answers and (question := answers[-1].open_question):
        return len(answers) - 1, question
    return (len(answers), TrialQuestion.RESPONSE) if len(answers) < count else None


def answered(answers: Sequence[Answer], count: int, word: str) -> list[Answer]:
    """The answers with one more tap.

    Parameters
    ----------
    answers : sequence of Answer
    count : int, from 1
        How many fingerings there are.
    word : str
        A response, what it cracks to, a tuning, cents, ``skip``, ``not heard`` or ``back``.

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
        if found and found[-1].response in (TrialResponse.SPEAKS, TrialResponse.CRACKS):
            closed = found[-1].open_question is None
            return [*found[:-1], Answer(found[-1].response)] if closed else found[:-1]
        return found[:-1]
    at = asked(found, count)
    if at is None:
        raise EvidenceError("all fingerings of this trial have been tried")
    place, question = at
    if word == "skip":
        return [*found[:place], Answer()]
    if question is TrialQuestion.RESPONSE:
        if word not in set(TrialResponse):
            raise EvidenceError("the answer must be speaks, cracks or silent")
        return [*found, Answer(TrialResponse(word))]
    if question is TrialQuestion.CRACKS_TO:
        if word not in CRACKS_TO:
            raise EvidenceError("the answer must be one of what a note can crack to")
        return [*found[:place], Answer(TrialResponse.CRACKS, to=word)]
    return [*found[:place], _where(word)]


def _where(word: str) -> Answer:
    if word == "not heard":
        return Answer(TrialResponse.SPEAKS, heard=False)
    if word in set(Tuning):
        return Answer(TrialResponse.SPEAKS, tuning=Tuning(word))
    cents = decimal(word)
    if not abs(cents) <= READING_LIMIT_CENTS:
        limit = f"{READING_LIMIT_CENTS:.0f}"
        raise EvidenceError(f"a reading must be cents from -{limit} to {limit}, got {cents:g}")
    return Answer(TrialResponse.SPEAKS, cents=cents)


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
