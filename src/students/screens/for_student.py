"""What a student sees on the page made for them: today, the note of the week, ladders, and the sheet."""

import uuid
from dataclasses import dataclass

from django.utils import timezone
from django.utils.safestring import SafeString

from core.practice.attempt_format import Logged
from core.practice.attempts import Attempt, By, Result
from drawing.compact import large_symbol
from practice.spots import SpotAsked, spot_asked
from students.screens.ladders import MoveDue, moves_due
from students.screens.sheet import StudentSheet
from students.screens.week import WeekPage

NOTE = "note"
RESULTS = {Result.CLEAN: "Clean", Result.STUMBLED: "Stumbled", Result.CRACKED: "Cracked"}


@dataclass(frozen=True)
class ToLog:
    """Something of which a student may log attempts.

    Parameters
    ----------
    name : str
        By which a form asks for it.
    drawings : tuple of str
        The fingerings, in order.
    presses : tuple of (str, str)
        Values and words of what may come of it.
    counted : str
        How many were clean today.
    """

    name: str
    title: str
    says: str
    drawings: tuple[SafeString, ...]
    presses: tuple[tuple[str, str], ...]
    counted: str


@dataclass(frozen=True)
class ForStudent:
    """The page."""

    sheet: StudentSheet
    week: WeekPage
    to_log: tuple[ToLog, ...]


def for_student(asked, today, *, may_log) -> ForStudent:
    """Build the page.

    Parameters
    ----------
    asked : students.sheets.AskedSheet
    today : mapping of (int, int or None) to (int, int)
        Clean attempts of today and all, by note, and by place in the passage for moves.
    """
    in_hand, week, music = asked.on_with.at.in_hand, asked.week, asked.music
    found = []
    if may_log and week.note is not None:
        clean, total = today.get((week.note.midi, None), (0, 0))
        presses = tuple((r, w) for r, w in RESULTS.items() if r is not Result.STUMBLED)
        says = "by heart, nothing looked up"
        entry = in_hand.plainest(week.note)
        drawings = (large_symbol(entry.fingering, in_hand),) if entry else ()
        found.append(ToLog(NOTE, str(week.note), says, drawings, presses, _counted(clean, total)))
    for n, move in enumerate(moves_due(music, asked.playings) if may_log and music else ()):
        solution = music.solution()
        place = solution.note_at[move.after_id]
        midi = solution.events[place].written_pitch.midi
        counted = _counted(*today.get((midi, place), (0, 0)))
        presses = tuple((r, w) for r, w in RESULTS.items() if r is not Result.CRACKED)
        pair = solution.entries[place - 1 : place + 1]
        drawings = tuple(large_symbol(entry.fingering, in_hand) for entry in pair if entry)
        says = f"{move.where}, {move.step}"
        found.append(ToLog(f"move{n}", move.notes, says, drawings, presses, counted))
    return ForStudent(asked.made(), week, tuple(found))


def _counted(clean, total):
    return f"{clean} of {total} clean today" if total else "not played today"


def attempt_named(asked, name, result):
    """The attempt that a form of the page sends; None where it names nothing of it."""
    if result not in set(RESULTS):
        return None
    in_hand, week, music, now = asked.on_with.at.in_hand, asked.week, asked.music, timezone.now()
    made = {"result": Result(result), "day": now.date().toordinal(), "by": By.STUDENT}
    if name == NOTE and week.note is not None:
        entry = in_hand.plainest(week.note)
        attempt = Attempt(week.note.midi, fingering=entry.id if entry else "", **made)
        return Logged(attempt, uuid.uuid4(), now)
    moves: dict[str, MoveDue] = {
        f"move{n}": move for n, move in enumerate(moves_due(music, asked.playings) if music else ())
    }
    if name not in moves:
        return None
    move = moves[name]
    spot, _, at = spot_asked(music, SpotAsked(move.before_id, move.after_id))
    step = spot.steps[at]
    bpm = move.target if move.done else move.bpm
    attempt = Attempt(step.midi, fingering=step.fingering, spot=spot, at=at, bpm=bpm, **made)
    return Logged(attempt, uuid.uuid4(), now)
