"""Under which set-ups of reed and mouthpiece what was heard counts now.

Another reed or mouthpiece begins a new set-up: what was heard before is kept, and counts no more, but for
what the teacher says that the change left as it was. Hands know no reed: how they were judged counts always.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from core.evidence.sources import Heard, Judgement


class Keeps(StrEnum):
    """What a change of reed or mouthpiece may leave as it was."""

    PITCH = "pitch"
    TONE = "tone"
    SPEAKS = "speaks"


@dataclass(frozen=True)
class InForce:
    """Numbers of the set-ups under which what was heard counts now.

    Parameters
    ----------
    pitch, tone, speaks : frozenset of int
        By what is told; the colour goes with the tone, attempts with how it speaks.
    """

    pitch: frozenset[int]
    tone: frozenset[int]
    speaks: frozenset[int]

    def counting(self, heard: Heard) -> Heard:
        """What counts of all that was heard of a fingering.

        Parameters
        ----------
        heard : Heard

        Returns
        -------
        Heard
        """
        return Heard(
            tuple(self._judgement(judgement) for judgement in heard.judgements),
            tuple(readings for readings in heard.readings if readings.setup in self.pitch),
            tuple(hits for hits in heard.hits if hits.setup in self.speaks),
        )

    def _judgement(self, made: Judgement) -> Judgement:
        if made.setup not in self.pitch:
            made = replace(made, pitch=None)
        if made.setup not in self.tone:
            made = replace(made, tone=None, colour=None)
        return made if made.setup in self.speaks else replace(made, speaks=None)

    def without(self, setup: int, said: Collection[str]) -> list[str]:
        """What of something heard under a set-up does not count.

        Parameters
        ----------
        setup : int
            Number of the set-up.
        said : collection of str
            What it tells of, in words of `Keeps`; others, such as hands, count always.

        Returns
        -------
        list of str
            Of these words, in the order of `Keeps`.
        """
        counts = {Keeps.PITCH: self.pitch, Keeps.TONE: self.tone, Keeps.SPEAKS: self.speaks}
        return [word.value for word in Keeps if word in said and setup not in counts[word]]

    def left_out(self, heard: Heard) -> int:
        """How many judgements, readings and attempts do not count, or not all that they say.

        Parameters
        ----------
        heard : Heard

        Returns
        -------
        int
        """
        return (
            sum(self._judgement(judgement) != judgement for judgement in heard.judgements)
            + sum(len(readings.cents) for readings in heard.readings if readings.setup not in self.pitch)
            + sum(hits.total for hits in heard.hits if hits.setup not in self.speaks)
        )


def only(number: int) -> InForce:
    """One set-up alone.

    Parameters
    ----------
    number : int, from 1

    Returns
    -------
    InForce
    """
    return InForce(*[frozenset({number})] * len(Keeps))


FIRST = only(1)


def in_force(number: int, kept: Mapping[int, tuple[int | None, Collection[str]]]) -> InForce:
    """The present set-up, and those before it as far back as each change kept something.

    Parameters
    ----------
    number : int, from 1
        Of the present set-up.
    kept : mapping of int to (int or None, collection of str)
        By the number of each set-up the one that it followed, and what it kept of that, in words of `Keeps`.

    Returns
    -------
    InForce

    Examples
    --------
    >>> sorted(in_force(3, {1: (None, []), 2: (1, []), 3: (1, ["pitch"])}).pitch)
    [1, 3]
    """

    def back(strand: Keeps) -> frozenset[int]:
        found, at = {number}, number
        while True:
            before, keeps = kept.get(at, (None, ()))
            if before is None or before in found or strand not in keeps:
                return frozenset(found)
            found.add(before)
            at = before

    return InForce(*(back(strand) for strand in Keeps))
