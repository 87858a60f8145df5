"""In what order bars are played: repeats, endings, da capo, dal segno, coda and fine played out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

# Bars that playing out may come to.
PLAYED_LIMIT = 10_000


@dataclass
class Signs:
    """What stands at a bar for the order of playing.

    Parameters
    ----------
    repeat_from, repeat_to : bool
        A repeat begins at its start; one ends at its end.
    times : int
        How often a repeat that ends here is played in all.
    endings : frozenset of int
        In which times through it is played; every time if empty.
    segno, coda : bool
        The sign stands at its start.
    to_coda, fine, da_capo, dal_segno : bool
        What is asked at its end.
    """

    repeat_from: bool = False
    repeat_to: bool = False
    times: int = 2
    endings: frozenset[int] = frozenset()
    segno: bool = False
    coda: bool = False
    to_coda: bool = False
    fine: bool = False
    da_capo: bool = False
    dal_segno: bool = False

    @property
    def any(self) -> bool:
        """Whether anything but the order of the page is asked."""
        return bool(self.repeat_to or self.endings or self.da_capo or self.dal_segno)


def playing_order(signs: Sequence[Signs]) -> list[int]:
    """Places of the bars in the order in which they are played, at most `PLAYED_LIMIT`.

    After a jump back repeats are not taken again, and of endings the last is played.

    Examples
    --------
    >>> playing_order([Signs(), Signs(endings=frozenset({1}), repeat_to=True), Signs(endings=frozenset({2}))])
    [0, 1, 0, 2]
    """
    order: list[int] = []
    at, start, time, jumped = 0, 0, 1, False
    while at < len(signs) and len(order) < PLAYED_LIMIT:
        here = signs[at]
        if here.repeat_from and at != start:
            start, time = at, 1
        if here.endings and not _is_played(signs, at, start, time, jumped):
            at += 1
            continue
        order.append(at)
        if jumped and here.fine:
            break
        if jumped and here.to_coda and (coda := _next(signs, at, "coda")) is not None:
            at = start = coda
            continue
        if not jumped and here.repeat_to and _goes_back(signs, at, time):
            at, time = start, time + 1
            continue
        if not jumped and (here.da_capo or here.dal_segno):
            back = next((n for n, one in enumerate(signs[: at + 1]) if one.segno), 0) if here.dal_segno else 0
            at, start, time, jumped = back, back, 1, True
            continue
        over = here.repeat_to or (here.endings and not (at + 1 < len(signs) and signs[at + 1].endings))
        at += 1
        if over:
            start, time = at, 1
    return order


def _next(signs: Sequence[Signs], at: int, what: str) -> int | None:
    return next((n for n in range(at + 1, len(signs)) if getattr(signs[n], what)), None)


def _group(signs: Sequence[Signs], at: int) -> list[Signs]:
    """The bars of endings that stand beside each other about a bar, from it on."""
    end = at
    while end < len(signs) and signs[end].endings and (end == at or not signs[end].repeat_from):
        end += 1
    return list(signs[at:end])


def _is_played(signs: Sequence[Signs], at: int, start: int, time: int, jumped: bool) -> bool:
    """Whether an ending is the one of this time through."""
    if not jumped:
        return time in signs[at].endings
    group = [one for one in signs[start:at] if one.endings] + _group(signs, at)
    last = max(max(one.endings) for one in group)
    return last in signs[at].endings


def _goes_back(signs: Sequence[Signs], at: int, time: int) -> bool:
    """Whether the end of a repeat leads back once more."""
    here = signs[at]
    if not here.endings:
        return time < here.times
    more = [n for one in _group(signs, at) for n in one.endings]
    return time < max(more)
