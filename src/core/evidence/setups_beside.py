"""Two set-ups of reed and mouthpiece side by side, and what such a change does on instruments of a kind.

Of what was read under both the differences are taken, register by register. A mean of them is told with the
bounds that hold nineteen times of twenty, from `ENOUGH` fingerings on; over several instruments, from as many
instruments on that changed alike. One instrument is one witness, however often it changed to and fro.

Notes
-----
Means are of random effects, with bounds by Student's t that are never narrower than the spreads by
themselves would make them; how far the spreads are known is our choice. All that was read under a set-up
may have been read on one day, so the days of both are added once more, for the mean as a whole.

References
----------
DerSimonian and Laird (1986), Meta-analysis in clinical trials, Controlled Clinical Trials 7.
Röver, Knapp and Friede (2015), Hartung-Knapp-Sidik-Jonkman approach and its modification, BMC Medical
Research Methodology 15.
"""

from __future__ import annotations

import math
import re
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.special import stdtrit

from core.evidence.sources import DAY_CENTS, Estimate

ENOUGH = 3
BOUND = 0.975
# That spreads are about what they are taken to be counts as much as so many differences more.
AS_GOOD_AS = 4
BOTH_DAYS_CENTS = math.sqrt(2) * DAY_CENTS
# A step in the strength of a reed; what lies outside is no strength but a model's number.
HALF = 0.5
WEAKEST, STRONGEST = 1.0, 6.0
FRACTIONS = {"½": 0.5, "¼": 0.25, "¾": 0.75, "1/2": 0.5, "1/4": 0.25, "3/4": 0.75}
NUMBER = re.compile(r"(\d+)(?:[.,](\d+)| ?(1/2|1/4|3/4|[½¼¾]))?")

# By the id of a fingering, what its readings under one set-up come to.
Read = Mapping[str, Estimate]


@dataclass(frozen=True)
class Shift:
    """By how much pitch differs, in cents, sharp positive.

    Parameters
    ----------
    low, high : float
        Bounds that hold nineteen times of twenty.
    spread : float
        Standard deviation of the mean.
    count : int
        Fingerings, or instruments, that it rests on.
    """

    cents: float
    low: float
    high: float
    spread: float
    count: int


def pooled(differences: Sequence[float], spreads: Sequence[float], shared: float = 0.0) -> Shift | None:
    """The mean of differences, each with its spread.

    Parameters
    ----------
    differences, spreads : sequence of float, cents
    shared : float, cents
        Spread that all have in common.

    Returns
    -------
    Shift or None
        None for fewer than two.

    Examples
    --------
    >>> found = pooled([5.0, 7.0, 6.0], [4.0, 4.0, 4.0])
    >>> round(found.cents), round(found.low, 1), round(found.high, 1)
    (6, 0.3, 11.7)
    """
    count = len(differences)
    if count < 2:
        return None
    values, variances = np.asarray(differences, float), np.square(np.asarray(spreads, float))
    weights = 1 / variances
    total, mean = weights.sum(), (weights * values).sum() / weights.sum()
    apart = (weights * np.square(values - mean)).sum() - (count - 1)
    between = max(0.0, apart / (total - np.square(weights).sum() / total))
    weights = 1 / (variances + between)
    mean = (weights * values).sum() / weights.sum()
    freedom = AS_GOOD_AS + count - 1
    stretched = (AS_GOOD_AS + (weights * np.square(values - mean)).sum()) / freedom
    spread = math.sqrt(max(1.0, stretched) / weights.sum() + shared**2)
    half = float(stdtrit(freedom, BOUND)) * spread
    return Shift(float(mean), float(mean - half), float(mean + half), spread, count)


def shifts(
    first: Read, second: Read, register_of: Callable[[str], str]
) -> dict[str, tuple[int, Shift | None]]:
    """How the second of two set-ups lies beside the first, register by register.

    Parameters
    ----------
    first, second : Read
    register_of : callable
        The register of a fingering; empty for one that is known no more.

    Returns
    -------
    dict of str to (int, Shift or None)
        Fingerings read under both, and the mean; None below `ENOUGH`.
    """
    return {
        register: (len(rows), _mean(rows) if len(rows) >= ENOUGH else None)
        for register, rows in _differences(first, second, register_of).items()
    }


def _differences(
    first: Read, second: Read, register_of: Callable[[str], str]
) -> dict[str, list[tuple[float, float]]]:
    """Differences with their spreads, by register."""
    found: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for name in sorted(first.keys() & second.keys()):
        one, other = first[name], second[name]
        if register := register_of(name):
            found[register].append((other.value - one.value, math.hypot(one.spread, other.spread)))
    return dict(found)


def _mean(rows: Sequence[tuple[float, float]], shared: float = BOTH_DAYS_CENTS) -> Shift | None:
    return pooled([difference for difference, _ in rows], [spread for _, spread in rows], shared)


@dataclass(frozen=True)
class Parts:
    """What is noted of a set-up: its reed, and what stands between reed and bore."""

    reed: str = ""
    between: str = ""


@dataclass(frozen=True)
class ChangedParts:
    """What a change of set-up consists of.

    Parameters
    ----------
    words : str
        What is done, the same however often.
    steps : float
        How many times; negative for the other way.
    """

    words: str
    steps: float


def strength(reed: str) -> tuple[float, str] | None:
    """The strength of a reed, and its words without it; None where none is told.

    Parameters
    ----------
    reed : str

    Returns
    -------
    (float, str) or None, 1 to 6

    Examples
    --------
    >>> strength("Cane 2½"), strength("medium, hand-made")
    ((2.5, 'cane'), None)
    """
    for match in NUMBER.finditer(reed):
        whole, decimals, fraction = match.groups()
        value = float(f"{whole}.{decimals or 0}") + FRACTIONS.get(fraction or "", 0.0)
        if WEAKEST <= value <= STRONGEST:
            return value, _plain(reed[: match.start()] + reed[match.end() :])
    return None


def _plain(words: str) -> str:
    return " ".join(words.casefold().split())


def change_between(before: Parts, after: Parts, between: str) -> ChangedParts | None:
    """What a change consists of; None where it cannot be told, since both changed, or one was not noted once.

    Parameters
    ----------
    before, after : Parts
    between : str
        How the instrument names what stands between reed and bore.

    Returns
    -------
    ChangedParts or None

    Examples
    --------
    >>> change_between(Parts("2½", "close"), Parts("3", "close"), "mouthpiece")
    ChangedParts(words='a reed half a strength harder', steps=1.0)
    """
    if bool(before.reed) != bool(after.reed) or bool(before.between) != bool(after.between):
        return None
    same_reed = _plain(before.reed) == _plain(after.reed)
    same_between = _plain(before.between) == _plain(after.between)
    if same_reed == same_between:
        return None
    if same_reed:
        return _named(between, before.between, after.between)
    one, other = strength(before.reed), strength(after.reed)
    if one and other and one[1] == other[1]:
        return ChangedParts("a reed half a strength harder", (other[0] - one[0]) / HALF)
    return _named("reed", before.reed, after.reed)


def _named(what: str, before: str, after: str) -> ChangedParts:
    """One named thing in place of another, in whichever order."""
    first, second = sorted((before, after), key=_plain)
    steps = 1.0 if _plain(before) == _plain(first) else -1.0
    return ChangedParts(f"{what} “{second}” instead of “{first}”", steps)


@dataclass(frozen=True)
class Learned:
    """What a change does in a register, over the instruments of a kind that made it.

    Parameters
    ----------
    instruments : int
        How many made it, with two fingerings or more of the register read before and after.
    shift : Shift or None
        Of one step; None below `ENOUGH` instruments.
    """

    change: str
    register: str
    instruments: int
    shift: Shift | None


def learned(
    read: Mapping[int, Mapping[int, Read]],
    noted: Mapping[int, Mapping[int, Parts]],
    register_of: Callable[[str], str],
    between: str,
) -> list[Learned]:
    """What changes do, learned from all instruments of a kind: set-up after set-up of each.

    Parameters
    ----------
    read : mapping
        By instrument and number of the set-up, what was read.
    noted : mapping
        By the same, what the set-up consists of.
    register_of : callable
        The register of a fingering; empty for one that is known no more.
    between : str
        How the instrument names what stands between reed and bore.

    Returns
    -------
    list of Learned
        By change, then in the order in which registers came up.
    """
    witnesses: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    for instrument, by_setup in read.items():
        told: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
        numbers, parts = sorted(by_setup), noted.get(instrument, {})
        for one, other in pairwise(numbers):
            change = change_between(parts.get(one, Parts()), parts.get(other, Parts()), between)
            if change is None or not change.steps:
                continue
            for register, rows in _differences(by_setup[one], by_setup[other], register_of).items():
                if len(rows) > 1 and (mean := _mean(rows)):
                    told[change.words, register].append(
                        (mean.cents / change.steps, mean.spread / abs(change.steps))
                    )
        for key, means in told.items():
            cents, spreads = zip(*means, strict=True)
            witnesses[key].append((float(np.mean(cents)), float(np.mean(spreads))))
    return [
        Learned(words, register, len(rows), _mean(rows, 0.0) if len(rows) >= ENOUGH else None)
        for (words, register), rows in sorted(witnesses.items(), key=lambda pair: pair[0][0])
    ]
