"""Where teachers disagree: questions, the positions they take, and what a position carries.

A teacher takes at most one position on a question. Rows of charts and cues of voicing belong to a
position by its name; besides, it may prefer fingerings and count strands otherwise.
"""

from __future__ import annotations

import tomllib
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from core.charts.entry import Entry
from core.errors import CatalogueError
from core.instruments.fingering import Kind


@dataclass(frozen=True)
class Position:
    """One answer to a question.

    Parameters
    ----------
    name : str
        As rows of charts and cues name it; no two positions share one.
    costs : str
        What it asks and gives, in a teacher's words.
    families : tuple of str
        Families of instruments for which it is taught; all if empty.
    kinds, entries, forms : tuple of str
        Kinds of fingering, ids of entries, and forms, that it prefers.
    also : tuple of str
        Other positions whose rows it plays as well.
    only : mapping of position to str
        Other positions whose rows it plays too, and what in the music they are for, as a row says it.
    before : str
        What it asks of a student before the top of the range is begun; empty for nothing.
    before_on : mapping of family to str
        What it asks instead on a family of instruments.
    weights : mapping of strand to number
        How much strands count on a new bench; 1 where not named.
    """

    name: str
    costs: str
    families: tuple[str, ...] = ()
    kinds: tuple[Kind, ...] = ()
    entries: tuple[str, ...] = ()
    forms: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    only: Mapping[str, str] = field(default_factory=dict, hash=False)
    before: str = ""
    before_on: Mapping[str, str] = field(default_factory=dict, hash=False)
    weights: Mapping[str, float] = field(default_factory=dict, hash=False)

    def plays(self, school: str) -> bool:
        """Whether rows of a position are its own, or played by it as well, always or for some notes.

        Parameters
        ----------
        school : str
            Name of the position that a row is of.

        Returns
        -------
        bool
        """
        return school == self.name or school in self.also or school in self.only

    def prefers(self, entry: Entry) -> bool:
        """Whether the position gives an entry a head start.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        bool
        """
        return entry.id in self.entries or entry.kind in self.kinds or entry.form in self.forms


@dataclass(frozen=True)
class Question:
    """What teachers disagree about, and the families of instruments it is about; all if empty."""

    name: str
    text: str
    positions: tuple[Position, ...]
    families: tuple[str, ...] = ()

    def positions_for(self, family: str) -> tuple[Position, ...]:
        """The positions that are taught for a family of instruments.

        Parameters
        ----------
        family : str
            Family of instruments, as ``saxophone``.

        Returns
        -------
        tuple of Position
        """
        if self.families and family not in self.families:
            return ()
        return tuple(p for p in self.positions if not p.families or family in p.families)


@dataclass(frozen=True)
class Schools:
    """Every question."""

    questions: tuple[Question, ...] = ()

    @cached_property
    def position(self) -> Mapping[str, Position]:
        """Every position by its name."""
        return {position.name: position for question in self.questions for position in question.positions}

    @cached_property
    def question_of(self) -> Mapping[str, Question]:
        """The question that each position answers, by the position's name."""
        return {p.name: question for question in self.questions for p in question.positions}

    def for_family(self, family: str) -> list[Question]:
        """The questions that matter on a family of instruments: those with several positions there.

        Parameters
        ----------
        family : str
            Family of instruments, as ``saxophone``.

        Returns
        -------
        list of Question
        """
        return [question for question in self.questions if len(question.positions_for(family)) > 1]

    def followed(self, answers: Mapping[str, str], family: str) -> frozenset[str]:
        """Names of the positions that answers by question come to; what cannot be is left out.

        Parameters
        ----------
        answers : mapping of str to str
            Names of positions by the name of their question.
        family : str
            Family of instruments, as ``saxophone``.

        Returns
        -------
        frozenset of str
        """
        return frozenset(
            answers[question.name]
            for question in self.for_family(family)
            if answers.get(question.name) in {position.name for position in question.positions_for(family)}
        )

    def set_aside(self, position: str, followed: Collection[str]) -> bool:
        """Whether another position on the same question is followed that does not play this one's rows.

        Parameters
        ----------
        position : str
            Name of the position that a row is of; empty for none.
        followed : collection of str
            Names of positions.

        Returns
        -------
        bool
        """
        question = self.question_of.get(position)
        taught = [other for other in question.positions if other.name in followed] if question else []
        return bool(taught) and not any(one.plays(position) for one in taught)

    def weights(self, followed: Iterable[str]) -> dict[str, float]:
        """How much strands count under the positions followed; each weight multiplies the others.

        Parameters
        ----------
        followed : iterable of str
            Names of positions.

        Returns
        -------
        dict of str to float, above 0
            By strand.
        """
        found: dict[str, float] = {}
        for name in sorted(followed):
            for strand, weight in self.position[name].weights.items():
                found[strand] = found.get(strand, 1.0) * weight
        return found


NO_SCHOOLS = Schools()


def parse_schools(text: str) -> Schools:
    """Read questions and positions from TOML; ``data/schools.toml`` shows the form.

    Parameters
    ----------
    text : str

    Returns
    -------
    Schools

    Raises
    ------
    CatalogueError
        If it cannot be read, or two questions or positions share a name.
    """
    try:
        rows = tomllib.loads(text).get("question", [])
        questions = tuple(_question(dict(row)) for row in rows)
    except (tomllib.TOMLDecodeError, KeyError, TypeError, ValueError) as error:
        raise CatalogueError(f"the schools cannot be read: {error}") from error
    for names in (
        [question.name for question in questions],
        [position.name for question in questions for position in question.positions],
    ):
        if len(set(names)) != len(names):
            raise CatalogueError(f"each question and each position must have a name of its own, got {names}")
    return Schools(questions)


def _question(row: dict[str, Any]) -> Question:
    positions = tuple(_position(dict(position)) for position in row.pop("position"))
    return Question(positions=positions, families=tuple(row.pop("families", ())), **row)


def _position(row: dict[str, Any]) -> Position:
    kinds = tuple(Kind(kind) for kind in row.pop("kinds", ()))
    families, entries, forms, also = (
        tuple(row.pop(name, ())) for name in ("families", "entries", "forms", "also")
    )
    return Position(kinds=kinds, families=families, entries=entries, forms=forms, also=also, **row)
