"""Changes of fingerings in words: which notes, from what, to what."""

from collections.abc import Iterable
from dataclasses import dataclass

from bench.systems import View
from core.charts.entry import Entry
from core.music.events import where
from core.music.pitch import Pitch


@dataclass(frozen=True)
class NoteChange:
    """One note that is fingered otherwise, in words."""

    note_id: str
    where: str
    note: Pitch
    before: str
    after: str
    query: str


@dataclass(frozen=True)
class Way:
    """Changes that go together.

    Parameters
    ----------
    pins : str
        The notes and entries to be pinned, as an action takes them.
    """

    notes: tuple[NoteChange, ...]
    pins: str


def way(view: View, notes: Iterable[int], before: Iterable[int], after: Iterable[int]) -> Way:
    """Say which notes change.

    Parameters
    ----------
    notes : iterable of int
        Counted from 0.
    before, after : iterable of int
        Entries as places in the chart.
    """
    entries, events = view.solution.table.problem.given.chart.entries, view.solution.events
    together = [
        (events[n], entries[old], entries[new]) for n, old, new in zip(notes, before, after, strict=True)
    ]
    return Way(
        notes=tuple(note_change(view, event, old, new) for event, old, new in together),
        pins=" ".join(f"{event.id}={new.id}" for event, _, new in together),
    )


def note_change(view: View, event, before: Entry | None, after: Entry | None) -> NoteChange:
    """Say how one note changes; None is no fingering."""
    return NoteChange(
        note_id=event.id,
        where=where(event),
        note=event.written_pitch,
        before=named(view, before),
        after=named(view, after),
        query=view.query(event.id),
    )


def named(view: View, entry: Entry | None) -> str:
    """Kind and touches, as the teacher names them."""
    return f"{entry.kind_words} ({view.opened.in_hand.said(entry.fingering)})" if entry else "no fingering"
