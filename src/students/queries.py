"""Reads: what a student is on with, from all that is kept of them."""

from dataclasses import dataclass
from datetime import date

from django.core.exceptions import ValidationError
from django.core.paginator import Paginator
from django.db.models import Count, F, Prefetch, Q
from django.http import Http404
from django.shortcuts import get_object_or_404
from django.utils import timezone

from catalogue.queries import Chosen, chosen
from core.practice.attempts import Result
from core.practice.learning import Learning
from evidence.models import AttemptMade
from passages import queries as passages
from passages.models import Passage
from passages.queries import Opened
from practice import queries as practice
from practice.models import Plan, Told
from studio.models import Student

A_PAGE = 40
# Passages as they are practised: what is due comes first, then what was changed last.
DUE_FIRST = (F("due").asc(nulls_last=True), "-changed", "-pk")


@dataclass(frozen=True)
class OnWith:
    """A student's instrument with its plan, what was learned on it, and the passage that is practised.

    Parameters
    ----------
    plan : Plan
        As it was set; one that aims at the guessed reach where none was.
    music : Opened or None
        The passage that is due next, else the one changed last, where it can be solved.
    """

    at: Chosen
    plan: Plan
    learning: Learning
    music: Opened | None


def instrument_named(teacher, on) -> Chosen:
    """A student's instrument that an address names; 404 for a model at large."""
    at = chosen(teacher, on)
    if at.owned is None:
        raise Http404("a week belongs to a student's instrument")
    return at


def on_with(teacher, on) -> OnWith:
    """What the student of an instrument is on with."""
    at = instrument_named(teacher, on)
    guess = practice.guess_on(at.owned, at.in_hand)
    plan = practice.plan_of(at.owned) or Plan(instrument=at.owned, target_midi=guess)
    learning = practice.learning_on(at.owned, at.in_hand, guess)
    music = Passage.objects.select_related("current__parent", "owned__student").filter(owned=at.owned)
    current = Q(due=None) | Q(due__gte=timezone.localdate())
    first = music.filter(current).order_by(*DUE_FIRST).first() or music.first()
    return OnWith(at, plan, learning, _solvable(first, at.in_hand) if first else None)


def _solvable(passage, in_hand):
    """A passage under its current state; None where that asks for what cannot be: the bench says it."""
    opened = passages.opened(passage, passage.current, in_hand)
    try:
        opened.solution()
    except ValidationError:
        return None
    return opened


def playings_of(music):
    """What was counted of spots of a passage; nothing where there is none."""
    return practice.spots_in(music.passage) if music else []


def students_of(teacher):
    """A teacher's students with their instruments, plans, and what was told of them but for its state."""
    return Student.objects.filter(teacher=teacher).prefetch_related(
        "instruments__plan",
        Prefetch("instruments__told", Told.objects.defer("state")),
    )


def student_of(teacher, pk):
    """One of them; another teacher's is not found."""
    return get_object_or_404(students_of(teacher), pk=pk)


def music_of(teacher, **only) -> dict[int, list[tuple[int, str, date | None]]]:
    """Key, title and due date of passages by the instrument they are for, in the order of `DUE_FIRST`."""
    found: dict[int, list[tuple[int, str, date | None]]] = {}
    rows = Passage.objects.filter(teacher=teacher, owned__isnull=False, **only).order_by(*DUE_FIRST)
    for owned, *passage in rows.values_list("owned", "pk", "title", "due"):
        found.setdefault(owned, []).append(tuple(passage))
    return found


def page_of(students, asked):
    """A page of them; the nearest one where the address names none."""
    return Paginator(students, A_PAGE).get_page(asked)


def weekly_on(instruments, since) -> dict[int, list[tuple[date, str, str]]]:
    """Day, place and result of every attempt since a day, by key of the instrument."""
    rows = AttemptMade.objects.filter(instrument__in=instruments, made__gte=since).order_by()
    found: dict[int, list[tuple[date, str, str]]] = {}
    for key, made, place, result in rows.values_list("instrument", "made", "place", "result"):
        found.setdefault(key, []).append((timezone.localtime(made).date(), place, result))
    return found


def fingered_on(owned) -> list[tuple[int, str, int, int]]:
    """Note, fingering, clean attempts and all, by note from the top, of each the most tried first.

    Stumbles of the hands are left out: they tell nothing of a fingering.
    """
    rows = AttemptMade.objects.filter(instrument=owned).exclude(result=Result.STUMBLED).order_by()
    rows = rows.values_list("note_midi", "entry")
    found = rows.annotate(clean=Count("pk", filter=Q(result=Result.CLEAN)), total=Count("pk"))
    return sorted(found, key=lambda row: (-row[0], -row[3], row[1]))


def stumbles_on(owned) -> int:
    """How often the hands stumbled."""
    return AttemptMade.objects.filter(instrument=owned, result=Result.STUMBLED).count()


def cracks_on(owned) -> dict[tuple[int, str], tuple[int, int]]:
    """For each note and fingering the note that it cracked to most, and how often."""
    rows = AttemptMade.objects.filter(instrument=owned, cracked_to__isnull=False).order_by()
    found = rows.values_list("note_midi", "entry", "cracked_to").annotate(times=Count("pk"))
    return {
        (midi, entry): (to, times) for midi, entry, to, times in sorted(found, key=lambda r: (r[3], r[2]))
    }
