"""What an address asks of a student's sheet, and the sheet made of it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from types import MappingProxyType

from django.utils import timezone

from bench.queries import Opened
from passages.models import Passage
from passages.settings import possible
from practice.queries import days_off
from students import queries
from students.paper import PAPERS
from students.queries import OnWith
from students.screens.sheet import NOTES_MOST, PARTS, StudentSheet, check_length, student_sheet
from students.screens.week import WeekPage, week_from, week_page

# Drills on a sheet before any is chosen.
DRILLS_AT_FIRST = 4
NO_PINS: Mapping[str, str] = MappingProxyType({})


@dataclass(frozen=True)
class AskedSheet:
    """What is asked of a sheet.

    Parameters
    ----------
    music : Opened or None
        The passage.
    drills : list of Passage
        Those that may stand on it; `chosen` has the keys of those that do.
    parts : list of str
        Of `students.screens.sheet.PARTS`.
    query : str
        The address that asks for it.
    """

    on_with: OnWith
    music: Opened | None
    drills: list[Passage]
    chosen: list[str]
    parts: list[str]
    paper: str
    query: str

    @cached_property
    def playings(self):
        """What was counted of spots of the passage."""
        return queries.playings_of(self.music)

    @cached_property
    def week(self) -> WeekPage:
        return week_of(self.on_with)

    @property
    def route(self) -> dict[str, str]:
        """The fingerings of the passage, by note id."""
        chosen = self.music.solution().chosen_ids if self.music else {}
        return {note: entry for note, entry in chosen.items() if entry}

    def made(self) -> StudentSheet:
        """The sheet; a ValidationError if it would be too long, before anything is worked out for it."""
        wanted = [row for row in self.drills if "drills" in self.parts and str(row.pk) in self.chosen]
        shown = [self.music.passage] if self.music and "passage" in self.parts else []
        check_length(sum(row.notes for row in (*shown, *wanted)), NOTES_MOST, "notes")
        opened = queries.drills_opened(self.on_with, wanted)
        return student_sheet(self.on_with.at, self.music, opened, self.playings, self.week, self.parts)


def asked_sheet(teacher, data, pins=NO_PINS) -> AskedSheet:
    """What is asked of a sheet: all of it where the address names no part.

    `pins` are fingerings of the passage, by note id, that hold unless others are pinned.
    """
    on_with = queries.on_with(teacher, data.get("on", ""))
    music = queries.music_named(on_with, data.get("passage", ""))
    music = _pinned(music, pins) if music and pins else music
    drills, paper = queries.drills_on(on_with, music), data.get("paper", "")
    return AskedSheet(
        on_with=on_with,
        music=music,
        drills=drills,
        chosen=data.getlist("drill") if "part" in data else [str(row.pk) for row in drills[:DRILLS_AT_FIRST]],
        parts=[part for part in data.getlist("part") if part in PARTS] or list(PARTS),
        paper=paper if paper in PAPERS else next(iter(PAPERS)),
        query=data.urlencode(),
    )


def _pinned(music: Opened, pins: Mapping[str, str]) -> Opened:
    """The passage with more pins, as far as they go with its notes and its chart."""
    pitch = {event.id: event.written_pitch.midi for event in music.solution().events}
    by_id = music.in_hand.catalogue.by_id
    fit = {n: e for n, e in pins.items() if e in by_id and pitch.get(n) == by_id[e].note.midi}
    settings = possible(music.in_hand, replace(music.settings, pins=fit | music.settings.pins))
    return replace(music, settings=settings)


def week_of(on_with: OnWith) -> WeekPage:
    """The week of a student, from today."""
    days, off = week_from(timezone.localdate()), days_off(on_with.plan)
    playings = queries.playings_of(on_with.music)
    return week_page(on_with.at.in_hand, on_with.plan, on_with.learning, on_with.music, playings, days, off)
