"""Syllables of a w: line put under the notes of the line of music before it."""

from __future__ import annotations

import re
from dataclasses import replace

from core.music.notation.abc_notes import AbcState
from core.music.passage import WORDS_LIMIT, Note

SYLLABLE = re.compile(r"\||\*|_|[^\s|*_-]+-?|-")


def put_under(text: str, state: AbcState, since: tuple[int, int]) -> None:
    """Put syllables under notes; `since` is the bar, and the note in it, where the line of music began.

    Parameters
    ----------
    text : str
        What stands behind ``w:``.
    state : AbcState
    since : (int, int)
        Places from 0.
    """
    bar, note = since
    # the bars closed since, and the one that is being read
    lines = [list(one.notes) for one in state.bars[bar:]] + [state.notes]
    earlier = state.bars[bar - 1].notes[-1] if bar else None
    places = [
        (n, place)
        for n, notes in enumerate(lines)
        for place, one in enumerate(notes)
        if not one.is_rest and not (n == 0 and place < note) and not _is_tied_to(lines, n, place, earlier)
    ]
    at = 0
    for syllable in SYLLABLE.findall(text)[:5_000]:
        if at >= len(places):
            break
        if syllable == "|":
            here = places[at][0]
            begun = at > 0 and places[at - 1][0] == here
            at = (
                next((k for k in range(at, len(places)) if places[k][0] > here), len(places)) if begun else at
            )
            continue
        if syllable not in ("*", "_", "-"):
            n, place = places[at]
            words = syllable.replace("~", " ").replace("\\", "")[:WORDS_LIMIT]
            lines[n][place] = replace(lines[n][place], lyric=words)
        at += 1
    for n, one in enumerate(state.bars[bar:]):
        state.bars[bar + n] = replace(one, notes=tuple(lines[n]))
    state.notes = lines[-1]


def _is_tied_to(lines: list[list[Note]], n: int, place: int, earlier: Note | None) -> bool:
    """Whether a note goes on from the one before it; `earlier` stands before all of them."""
    before = lines[n][place - 1] if place else lines[n - 1][-1] if n else earlier
    return bool(before and before.tied)
