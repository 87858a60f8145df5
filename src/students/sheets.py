"""What an address asks of a student's sheet, and the sheet made of it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from types import MappingProxyType

from django.utils import timezone

from bench.queries import Opened
from jobs import pool
from jobs.models import Job
from jobs.services import work
from passages.models import KeptPassage
from passages.settings import possible
from practice.queries import days_off
from students import queries
from students.paper import PAPERS
from students.queries import OnWith
from students.screens.sheet import NOTES_MOST, PARTS, StudentSheet, check_length, student_sheet
from students.screens.week import WeekPage, week_from, week_page
from studio.address import Address

# Drills on a sheet before any is chosen; so many notes of music are set here, more by another process.
DRILLS_AT_FIRST, NOTES_HERE = 4, 600
NO_PINS: Mapping[str, str] = MappingProxyType({})


@dataclass(frozen=True)
class AskedSheet:
    """What is asked of a sheet.

    Parameters
    ----------
    music : Opened or None
        The passage.
    drills : list of KeptPassage
        Those that may stand on it; `chosen` has the keys of those that do.
    parts : list of str
        Of `students.screens.sheet.PARTS`.
    query : str
        The address that asks for it.
    pins : dict of note id to entry id
        Fingerings of the passage that hold unless others are pinned.
    """

    on_with: OnWith
    music: Opened | None
    drills: list[KeptPassage]
    chosen: list[str]
    parts: list[str]
    paper: str
    query: str
    pins: Mapping[str, str]

    @cached_property
    def playings(self):
        """What was counted of spots of the passage."""
        return queries.playings_of(self.music)

    @cached_property
    def week(self) -> WeekPage:
        return week_of(replace(self.on_with, music=self.music))

    @property
    def route(self) -> dict[str, str]:
        """The fingerings of the passage, by note id."""
        chosen = self.music.solution().chosen_ids if self.music else {}
        return {note: entry for note, entry in chosen.items() if entry}

    @property
    def wanted(self) -> list[KeptPassage]:
        """The drills that stand on it."""
        return [row for row in self.drills if "drills" in self.parts and str(row.pk) in self.chosen]

    @property
    def notes(self) -> int:
        """Notes of all its music; a ValidationError if they are too many, before anything is worked out."""
        shown = [self.music.passage] if self.music and "passage" in self.parts else []
        count = sum(row.notes for row in (*shown, *self.wanted))
        check_length(count, NOTES_MOST, "notes")
        return count

    def made(self) -> StudentSheet:
        """The sheet; a long one by another process, which is waited for."""
        if self.notes <= NOTES_HERE:
            return self.made_here()
        return pool.call("sheet", *self.as_asked)

    def made_for(self, teacher, address) -> StudentSheet | Job:
        """The sheet, or the work that it is, where that takes longer than a page waits."""
        if self.notes <= NOTES_HERE:
            return self.made_here()
        title = f"The sheet of {self.on_with.at.owned.student.name}"
        return work(teacher, "sheet", *self.as_asked, title=title, address=address)

    @property
    def as_asked(self) -> tuple[int, str, dict[str, str]]:
        """How another process is asked for it."""
        return self.on_with.at.owned.teacher_id, self.query, dict(self.pins)

    def made_here(self, tell=None) -> StudentSheet:
        """The sheet, made in this process; `tell` is told how many of its drills are done, of how many."""
        opened = queries.drills_opened(self.on_with, self.wanted)
        asked = self.on_with.at, self.music, opened, self.playings, self.week, self.parts
        return student_sheet(*asked, tell=tell)


def asked_sheet(teacher, data, pins=NO_PINS) -> AskedSheet:
    """What is asked of a sheet: all of it where the address names no part.

    `pins` are fingerings of the passage, by note id, that hold unless others are pinned.
    """
    on_with = queries.on_with(teacher, Address.read(data).on)
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
        pins=pins,
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
