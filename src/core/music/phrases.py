"""Phrases of a passage: what is played in one breath, or thought in one."""

from __future__ import annotations

from collections.abc import Sequence

from core.music.events import BREATHS, Event

# A phrase ends at a rest or a breath; a long one also where a bar begins, rather where no slur goes over it.
LONG, TOO_LONG = 12, 24


def phrases(events: Sequence[Event]) -> list[range]:
    """The phrases of a passage, as ranges of events.

    Parameters
    ----------
    events : sequence of Event

    Returns
    -------
    list of range
    """
    starts = [0]
    for n in range(1, len(events)):
        event, before = events[n], events[n - 1].notes[-1]
        long = n - starts[-1]
        new_bar = event.notes[0].bar != before.bar
        divided = new_bar and long >= (TOO_LONG if event.slurred else LONG)
        if event.after_rest or before.note.articulations & BREATHS or (divided and not event.grace):
            starts.append(n)
    return [range(start, end) for start, end in zip(starts, [*starts[1:], len(events)], strict=True)]
