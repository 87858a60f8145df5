"""What a reader of a route is told besides: the same touches for two notes, and levers set for a while."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from core.charts.entry import Entry
from core.instruments.fingering import Fingering
from core.instruments.instrument import Instrument
from core.instruments.parts import LEVER, Touch
from core.music.aims import Aim
from core.music.events import Event
from core.music.pitch import Pitch


@dataclass(frozen=True)
class SameTouches:
    """Written notes of one route that are played with the same touches: the player makes the difference."""

    fingering: Fingering
    notes: tuple[Pitch, ...]


@dataclass(frozen=True)
class AimedOver:
    """An aim that holds over notes, the first and the last of them counted from 0."""

    aim: Aim
    first: int
    last: int


@dataclass(frozen=True)
class LeverSet:
    """A lever set over notes, the first and the last of them counted from 0."""

    touch: Touch
    first: int
    last: int


def same_touches(entries: Sequence[Entry | None]) -> list[SameTouches]:
    """Find notes of a route that share their touches, where one of them is a lead or of no settled partial.

    Registers that a chart vouches for share touches as a matter of course, and are left out.

    Parameters
    ----------
    entries : sequence of Entry or None
        Of the route, note by note; None for a gap.

    Returns
    -------
    list of SameTouches
        In the order of the music.
    """
    found: dict[Fingering, dict[int, Entry]] = defaultdict(dict)
    for entry in entries:
        if entry is not None:
            found[entry.fingering].setdefault(entry.note.midi, entry)
    return [
        SameTouches(fingering, tuple(entry.note for entry in by_note.values()))
        for fingering, by_note in found.items()
        if len(by_note) > 1 and any(e.is_lead or e.partial is None for e in by_note.values())
    ]


def aimed_over(events: Sequence[Event]) -> list[AimedOver]:
    """Find the stretches of a passage over which something is aimed at, in the order of the music.

    Parameters
    ----------
    events : sequence of Event

    Returns
    -------
    list of AimedOver
    """
    runs = [(aim, list(run)) for aim, run in groupby(range(len(events)), key=lambda n: events[n].aim)]
    return [AimedOver(aim, places[0], places[-1]) for aim, places in runs if aim is not None]


def levers_set(entries: Sequence[Entry | None], instrument: Instrument) -> list[LeverSet]:
    """Find the stretches of a route over which a lever is set.

    Parameters
    ----------
    entries : sequence of Entry or None
        Of the route, note by note; None for a gap.
    instrument : Instrument

    Returns
    -------
    list of LeverSet
        By lever, in the order of the music; a gap ends a stretch.
    """
    levers = [touch for touch in instrument.touches if instrument.finger(touch.finger).digit == LEVER]
    found = []
    for touch in levers:
        held = [entry is not None and touch.name in entry.fingering.full for entry in entries]
        for on, run in groupby(range(len(held)), key=held.__getitem__):
            places = list(run)
            if on:
                found.append(LeverSet(touch, places[0], places[-1]))
    return found
