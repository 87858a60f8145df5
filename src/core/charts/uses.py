"""What a row of a chart says it is good for, or to be avoided for, where the music decides it.

The texts are a teacher's; of their words only those are read that say when in the music a fingering serves:
on long notes, fast ones, soft or loud, as an attack, under a slur from below or above, as the first note
after a rest; and beside which notes it is to be avoided.
"""

from __future__ import annotations

import re
from enum import StrEnum
from functools import lru_cache
from itertools import combinations


class Use(StrEnum):
    """When in the music a fingering serves."""

    LONG = "long"
    FAST = "fast"
    SOFT = "soft"
    LOUD = "loud"
    ATTACK = "attack"
    FROM_BELOW = "slurred from below"
    FROM_ABOVE = "slurred from above"
    FIRST = "first"


Together = frozenset[Use]
# Uses that may stand together in a text; each is a column of arrays.
TOGETHER: tuple[Together, ...] = tuple(frozenset(some) for n in (1, 2) for some in combinations(Use, n))
WORDS = {
    r"\b(long|held)( and \w+)? notes\b": Use.LONG,
    r"\bfast (notes|turns)\b": Use.FAST,
    r"\bsoft( \w+)? (notes|attacks?)\b": Use.SOFT,
    r"\bloud notes\b": Use.LOUD,
    r"\battacks?\b": Use.ATTACK,
    r"\bslurs from below\b": Use.FROM_BELOW,
    r"\bslurs from above\b": Use.FROM_ABOVE,
    r"\bfirst notes?\b": Use.FIRST,
}
PARTS = re.compile(r"[;,]|(?<!long) and ")
# A note named beside a fingering: as it is spoken, "low" for the lowest of its name on the instrument.
BESIDE = re.compile(r"(?:(?:moves )?to or from|beside) (.+)")
NAMED = re.compile(r"(low )?([A-G])(-flat|-sharp|b|#)?")
CLASSES = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
ALTERED = {"-flat": -1, "b": -1, "-sharp": 1, "#": 1, None: 0}


@lru_cache(maxsize=1024)
def good_uses(text: str) -> tuple[Together, ...]:
    """Uses of which one must be met where a row is good for nothing else; none where it is for more.

    Parameters
    ----------
    text : str
        What a chart says of it, as ``fast; from below``.

    Returns
    -------
    tuple of Together

    Examples
    --------
    >>> [sorted(use.value for use in one) for one in good_uses("slurs from below, soft attacks")]
    [['slurred from below'], ['attack', 'soft']]
    >>> good_uses("long notes; trill with A")
    ()
    """
    parts = _parts(text)
    return tuple(parts) if all(parts) else ()


@lru_cache(maxsize=1024)
def avoided_uses(text: str) -> tuple[Together, ...]:
    """Uses of which each is to be avoided.

    Parameters
    ----------
    text : str
        What a chart says of it, as ``long; soft``.

    Returns
    -------
    tuple of Together

    Examples
    --------
    >>> [sorted(use.value for use in one) for one in avoided_uses("long notes: it runs flat")]
    [['long']]
    """
    return tuple(filter(None, _parts(text)))


@lru_cache(maxsize=1024)
def avoided_beside(text: str) -> frozenset[tuple[int, bool]]:
    """Notes beside which a row is to be avoided; none where its text names touches, or more than notes.

    Parameters
    ----------
    text : str
        What a chart says of it, as ``moves to or from D, E-flat: the finger would slide``.

    Returns
    -------
    frozenset of (int, bool)
        Semitones above C, from 0 to 11, and whether only the lowest note of that name is meant.

    Examples
    --------
    >>> sorted(avoided_beside("beside F or low B-flat")), sorted(avoided_beside("to or from right F/C"))
    ([(5, False), (10, True)], [])
    """
    found: set[tuple[int, bool]] = set()
    for clause in text.split(";"):
        beside = BESIDE.fullmatch(clause.split(":")[0].strip())
        named = [NAMED.fullmatch(word) for word in re.split(r", | or ", beside.group(1))] if beside else []
        if all(named):
            found |= {((CLASSES[note[2]] + ALTERED[note[3]]) % 12, bool(note[1])) for note in named if note}
    return frozenset(found)


def _parts(text: str) -> list[Together]:
    """What each part of a text names; what stands behind a colon is the reason, and names nothing."""
    parts = [part for part in PARTS.split(text.split(":")[0]) if part.strip()]
    return [frozenset(use for words, use in WORDS.items() if re.search(words, part)) for part in parts]
