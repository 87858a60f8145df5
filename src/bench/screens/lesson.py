"""The lesson view: one note large, how the hands come to it, and what comes next."""

import json
from dataclasses import dataclass

from django.utils.safestring import SafeString

from bench.queries import Opened
from bench.screens.bench import At, note_at
from bench.screens.changes import named
from bench.solution import asked, ossia_pitches
from bench.systems import View
from core.music.events import where
from core.routes.ossia import kept
from drawing.compact import large_symbol


@dataclass(frozen=True)
class LessonNote:
    """A note with its fingering, drawn."""

    note: str
    where: str
    name: str
    drawing: SafeString


@dataclass(frozen=True)
class LessonPage(At):
    """One note of a passage and the next.

    Parameters
    ----------
    ossia : LessonNote or None
        What is played until the note is within reach.
    previous_query, next_query : str
        Addresses of the notes beside it; empty at either end.
    times : str
        Every note with the second at which it begins, and the second at which the last ends, as JSON.
    beat_s : str
        Seconds from one beat to the next.
    """

    now: LessonNote
    ossia: LessonNote | None
    move: str
    then: LessonNote | None
    place: str
    previous_query: str
    next_query: str
    first_query: str
    times: str
    beat_s: str


def lesson_page(opened: Opened, note_id: str = "") -> LessonPage:
    """Build the page."""
    solution = opened.solution()
    view = View(opened, solution, None, frozenset())
    at = note_at(opened, note_id)
    n = solution.note_at[at.note_id]
    last = len(solution.events) - 1
    before, here = solution.entries[n - 1] if n else None, solution.entries[n]
    move = opened.in_hand.move(before.fingering, here.fingering).sentence if before and here else ""
    return LessonPage(
        **vars(at),
        now=_note(view, n),
        ossia=_ossia(view, n),
        move=move,
        then=_note(view, n + 1) if n < last else None,
        place=f"{n + 1} of {last + 1}",
        previous_query=view.query(solution.events[n - 1].id) if n else "",
        next_query=view.query(solution.events[n + 1].id) if n < last else "",
        first_query=view.query(solution.events[0].id),
        times=json.dumps(_times(opened)),
        beat_s=f"{60 / opened.settings.tempo_bpm:.4f}",
    )


def _ossia(view, n):
    """What is kept to be played in place of a note."""
    event, settings = view.solution.events[n], view.opened.settings
    if event.id not in settings.ossia:
        return None
    for one in kept(asked(view.solution, settings), ossia_pitches(settings)):
        for played, entry in zip(one.events, one.entries, strict=True):
            if played.id == event.id:
                return _drawn(view, played, entry)
    return None


def _note(view, n):
    return _drawn(view, view.solution.events[n], view.solution.entries[n])


def _drawn(view, event, entry):
    return LessonNote(
        note=str(event.written_pitch),
        where=where(event),
        name=named(view, entry),
        drawing=large_symbol(entry.fingering, view.opened.in_hand) if entry else SafeString(""),
    )


def _times(opened):
    """When each note begins, rests counted, in seconds from the beginning."""
    begins, clock = [], 0.0
    solution = opened.solution()
    bpm = solution.passage.tempo_bpm
    factor = opened.settings.tempo_bpm / bpm
    firsts = {event.id for event in solution.events}
    for note in solution.passage:
        bpm = note.tempo_bpm if note.tempo_bpm is not None else bpm
        if note.id in firsts:
            begins.append([note.id, round(clock, 4)])
        clock += float(note.quarters) * 60 / (bpm * factor)
    return [*begins, ["", round(clock, 4)]]
