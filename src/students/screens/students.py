"""Students as the way in: who is next, the note of the week, what did not hold, what is due."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from types import MappingProxyType

from django.utils.safestring import SafeString

from core.music.pitch import Pitch, spell
from core.practice.learning import FREE_DAYS
from core.practice.plan import STUCK_DAYS, OnNote, is_kept
from core.words import counted
from studio.models import OwnedInstrument, Student

PASSAGES_SHOWN = 3
NO_HITS: Mapping = MappingProxyType({})


@dataclass(frozen=True)
class PassageDue:
    """A passage of a student, and by when it is to be played."""

    key: int
    title: str
    due: date | None
    says: str


@dataclass(frozen=True)
class OnInstrument:
    """How it stands with one instrument of a student.

    Parameters
    ----------
    reach : str
        How far it reaches by what was counted; empty where nothing was.
    note : Pitch or None
        The note of the week.
    says : str
        How it stands with it.
    trouble : bool
        Whether it has not held for two weeks.
    due : date or None
    passages : tuple of PassageDue
        Those due next, then those changed last; `more` are not named.
    """

    owned: OwnedInstrument
    reach: str
    note: Pitch | None
    says: str
    trouble: bool
    due: date | None
    due_says: str
    passages: tuple[PassageDue, ...]
    more: int
    played: str
    hits: SafeString | str

    @property
    def on(self) -> str:
        return f"i{self.owned.pk}"


@dataclass(frozen=True)
class OneStudent:
    """A student with what is on each instrument."""

    student: Student
    instruments: tuple[OnInstrument, ...]
    lesson: str


def in_order(students: Iterable[Student]) -> list[Student]:
    """Students, those whose lesson is longest ago first; of these, those with the nearest due date."""

    def order(student):
        plans = (getattr(owned, "plan", None) for owned in student.instruments.all())
        due = min((plan.due for plan in plans if plan and plan.due), default=date.max)
        return _last_lesson(student) or date.min, due, student.name, student.pk

    return sorted(students, key=order)


def one_student(student: Student, music: Mapping, today: date, hits: Mapping = NO_HITS) -> OneStudent:
    """How it stands with a student.

    Parameters
    ----------
    student
        With instruments, their plans and what was told of them.
    music : mapping of int to list of (int, str, date)
        Passages by key of the instrument.
    hits : mapping of int to str
        Drawings by key of the instrument.
    """
    lesson = _last_lesson(student)
    return OneStudent(
        student=student,
        instruments=tuple(_on(owned, music, today, hits) for owned in student.instruments.all()),
        lesson=f"last lesson {_ago(lesson, today)}" if lesson else "",
    )


def _last_lesson(student):
    told = (getattr(owned, "told", None) for owned in student.instruments.all())
    return max((one.lesson for one in told if one and one.lesson), default=None)


def _on(owned, music, today, hits):
    plan, told = getattr(owned, "plan", None), getattr(owned, "told", None)
    on = None
    if plan and plan.note_midi is not None and not plan.whole:
        on = OnNote(plan.note_midi, (today - plan.note_since).days, told.sessions if told else 0)
    holds = 0.0
    if on and told and 0 <= on.midi - told.low < len(told.holding):
        holds = told.holding[on.midi - told.low]
    kept = on is not None and is_kept(holds, on)
    trouble = on is not None and not kept and on.days >= STUCK_DAYS
    passages = music.get(owned.pk, [])
    return OnInstrument(
        owned=owned,
        reach=_reach(told),
        note=spell(on.midi) if on else None,
        says=_says(on, kept, trouble, told, today) if on else "",
        trouble=trouble,
        due=plan.due if plan else None,
        due_says=_due(plan.due, today) if plan and plan.due else "",
        passages=tuple(
            PassageDue(key, title, due, _due(due, today) if due else "")
            for key, title, due in passages[:PASSAGES_SHOWN]
        ),
        more=max(0, len(passages) - PASSAGES_SHOWN),
        hits=hits.get(owned.pk, ""),
        played=f"played {_ago(told.day, today)}" if told and told.day else "",
    )


def _reach(told):
    if told is None or told.day is None:
        return ""
    if told.top is None:
        return "nothing likely holds yet"
    but = f", but for {spell(told.missing)}" if told.missing is not None else ""
    return f"likely {spell(told.top)}{but}"


def _says(on, kept, trouble, told, today):
    if kept:
        # what was told is as of the last attempt; a break since may have lost it
        fresh = (today - told.day).days <= FREE_DAYS
        return "likely holds: go on to the next" if fresh else "likely held when it was last played"
    if trouble:
        return f"begun {counted(on.days, 'day')} ago, does not hold yet"
    return f"begun {counted(on.days, 'day')} ago" if on.days else "begun today"


def _due(due, today):
    days = (due - today).days
    if days < 0:
        return f"was due {counted(-days, 'day')} ago"
    return f"due in {counted(days, 'day')}" if days else "due today"


def _ago(day, today):
    days = (today - day).days
    if days <= 0:
        return "today"
    return "yesterday" if days == 1 else f"{counted(days, 'day')} ago"
