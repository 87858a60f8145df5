"""In what order bars are played: repeats, endings, da capo, dal segno, coda and fine played out."""

from __future__ import annotations

from bisect import bisect_right
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

    Parameters
    ----------
    signs : sequence of Signs

    Returns
    -------
    list of int, from 0

    Examples
    --------
    >>> playing_order([Signs(), Signs(endings=frozenset({1}), repeat_to=True), Signs(endings=frozenset({2}))])
    [0, 1, 0, 2]
    """
    order: list[int] = []
    at, start, time, jumped = 0, 0, 1, False
    last_time, codas = _last_times(signs), [n for n, one in enumerate(signs) if one.coda]
    while at < len(signs) and len(order) < PLAYED_LIMIT:
        here = signs[at]
        if here.repeat_from and at != start:
            start, time = at, 1
        # after a jump the last ending is played
        if here.endings and (last_time[at] if jumped else time) not in here.endings:
            at += 1
            continue
        order.append(at)
        if jumped and here.fine:
            break
        if jumped and here.to_coda and (following := bisect_right(codas, at)) < len(codas):
            at = start = codas[following]
            continue
        if not jumped and here.repeat_to and time < (last_time[at] if here.endings else here.times):
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


def _last_times(signs: Sequence[Signs]) -> list[int]:
    """For every bar of an ending the last time through of all endings that stand beside it; 0 for others."""
    found = [0] * len(signs)
    begins = 0
    for at, here in enumerate(signs):
        if not here.endings or here.repeat_from or not (at and signs[at - 1].endings):
            begins = at
        following = signs[at + 1] if at + 1 < len(signs) else None
        if here.endings and not (following and following.endings and not following.repeat_from):
            last = max(max(one.endings) for one in signs[begins : at + 1])
            found[begins : at + 1] = [last] * (at + 1 - begins)
    return found
