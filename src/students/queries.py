"""Reads: what a student is on with, from all that is kept of them."""

from dataclasses import dataclass
from datetime import date

from django.core.exceptions import ValidationError
from django.core.paginator import Paginator
from django.db.models import Count, F, Prefetch, Q
from django.http import QueryDict
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.crypto import constant_time_compare

from bench.queries import Opened
from bench.queries import opened as opened_of
from catalogue.queries import Chosen, students_own
from core.practice.attempts import By, Result, SpotNote
from core.practice.learning import Learning
from counting.drawn import Drawn
from counting.spots import began_of, stands_in
from evidence import told
from evidence.models import AttemptMade, SpotPlayed, Told
from passages.models import KeptPassage
from practice import queries as practice
from practice.models import Plan
from students.models import StudentPage, digest
from studio.access import of
from studio.models import Student

A_PAGE, DRILLS_MOST, MOVE = 40, 40, 2
# How a page says that it is about no passage.
NO_PASSAGE = "none"
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


def on_with(teacher, on) -> OnWith:
    """What the student of an instrument is on with."""
    at = students_own(teacher, on)
    guess = told.guess_on(at.owned, at.in_hand)
    plan = practice.plan_of(at.owned) or Plan(instrument=at.owned, target_midi=guess)
    learning = told.learning_on(at.owned, at.in_hand, guess)
    music = _music_on(at.owned).filter(purpose="")  # what is due, not a drill for it
    current = Q(due=None) | Q(due__gte=timezone.localdate())
    first = music.filter(current).order_by(*DUE_FIRST).first() or music.first()
    return OnWith(at, plan, learning, _solvable(first, at.in_hand) if first else None)


def _solvable(passage, in_hand):
    """A passage under its current state; None where that asks for what cannot be: the bench says it."""
    opened = opened_of(passage, passage.current, in_hand)
    try:
        opened.solution()
    except ValidationError:
        return None
    return opened


def music_named(on_with: OnWith, key: str) -> Opened | None:
    """The passage of the instrument that an address names, where it can be solved; else the one practised."""
    if key == NO_PASSAGE:
        return None
    if not (key.isascii() and key.isdigit() and len(key) < 10):
        return on_with.music
    rows = _music_on(on_with.at.owned).filter(pk=int(key))
    found = [one for row in rows if (one := _solvable(row, on_with.at.in_hand))]
    return found[0] if found else on_with.music


def drills_on(on_with: OnWith, music: Opened | None) -> list[KeptPassage]:
    """Drills kept for a passage, or for no passage, on the instrument; the newest first."""
    serves = Q(serves=music.passage.pk) | Q(serves=None) if music else Q(serves=None)
    return list(_music_on(on_with.at.owned).filter(serves, purpose__gt="").order_by("-pk")[:DRILLS_MOST])


def drills_opened(on_with: OnWith, drills) -> list[Opened]:
    """Those of them that can be solved, in their order."""
    return [one for row in drills if (one := _solvable(row, on_with.at.in_hand))]


def _music_on(owned):
    return KeptPassage.objects.select_related("current__parent", "owned__student").filter(owned=owned)


def playings_of(music):
    """What was counted of spots of a passage; nothing where there is none."""
    return practice.spots_in(music.passage) if music else []


def students_of(teacher):
    """A teacher's students with their instruments, plans, and what was told of them but for its state."""
    return of(teacher, Student).prefetch_related(
        "instruments__plan",
        Prefetch("instruments__told", Told.objects.defer("state")),
    )


def student_of(teacher, pk):
    """One of them; another teacher's is not found."""
    return get_object_or_404(students_of(teacher), pk=pk)


def music_of(teacher, **only) -> dict[int, list[tuple[int, str, date | None]]]:
    """Key, title and due date of passages by the instrument they are for, in the order of `DUE_FIRST`."""
    found: dict[int, list[tuple[int, str, date | None]]] = {}
    rows = of(teacher, KeptPassage).filter(owned__isnull=False, purpose="", **only).order_by(*DUE_FIRST)
    for owned, *passage in rows.values_list("owned", "pk", "title", "due"):
        found.setdefault(owned, []).append(tuple(passage))
    return found


def page_of(students, asked):
    """A page of them; the nearest one where the address names none."""
    return Paginator(students, A_PAGE).get_page(asked)


def weekly_on(instruments, since) -> dict[int, list[tuple[date, str, str]]]:
    """Day, place and result of every attempt since a day, by key of the instrument."""
    rows = AttemptMade.objects.filter(instrument__in=instruments, day__gte=since).order_by()
    found: dict[int, list[tuple[date, str, str]]] = {}
    for key, *played in rows.values_list("instrument", "day", "place", "result"):
        found.setdefault(key, []).append(tuple(played))
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


def pages_on(owned) -> list[StudentPage]:
    """The pages of an instrument that are open, the newest first."""
    return list(StudentPage.objects.filter(instrument=owned, revoked=None, expires__gt=timezone.now()))


def page_for(pages, music: Opened | None) -> StudentPage | None:
    """Of the pages of an instrument the newest that was made for a passage, or for none."""
    passage = str(music.passage.pk) if music else NO_PASSAGE
    return next((page for page in pages if _passage_of(page) == passage), None)


def student_page_of(teacher, pk) -> StudentPage:
    """One of a teacher's pages; another teacher's is not found."""
    return get_object_or_404(of(teacher, StudentPage).select_related("instrument"), pk=pk)


def open_page(token) -> StudentPage | None:
    """The page that an address names; None where there is none, or it is open no more."""
    found = StudentPage.objects.select_related("instrument__teacher", "instrument__student")
    found = found.filter(instrument__teacher__is_active=True)
    key = token.partition("-")[0]
    page = found.filter(pk=int(key)).first() if key.isascii() and key.isdigit() and len(key) < 10 else None
    if page is None or not constant_time_compare(page.token, token):
        page = found.filter(before=digest(token[:64])).first()
    return page if page is not None and page.is_open else None


def asked_of(page) -> QueryDict:
    """What a page asks of the sheet: its own instrument and its own passage, or none where that is gone."""
    asked = QueryDict(page.asked, mutable=True)
    asked["on"] = f"i{page.instrument_id}"
    key = asked.get("passage", "")
    there = key.isascii() and key.isdigit() and len(key) < 10
    if not (there and _music_on(page.instrument).filter(pk=int(key)).exists()):
        asked["passage"] = NO_PASSAGE
    return asked


def passage_gone(page, asked) -> bool:
    """Whether a page was made for a passage that is there no more; `asked` is what it asks."""
    return asked["passage"] == NO_PASSAGE != _passage_of(page)


def _passage_of(page):
    return QueryDict(page.asked).get("passage", NO_PASSAGE)


def counted_today(page, music: Opened) -> list[Drawn]:
    """Moves of a passage that a student counted today on a page, as they were drawn."""
    rows = SpotPlayed.objects.filter(passage=music.passage.pk, instrument=page.instrument_id)
    rows = rows.filter(attempts__day=timezone.localdate(), attempts__by=By.STUDENT).distinct().order_by("pk")
    owned, found = page.instrument, []
    for first, notes in rows.values_list("first", "notes")[:DRILLS_MOST]:
        steps = tuple(SpotNote(*note) for note in notes)
        if len(steps) == MOVE and stands_in(music, steps, first):
            began = began_of(music.solution().events[first + 1])
            drawn = Drawn(owned.pk, owned.setup, steps, 1, music.passage.pk, first, began=began, page=page.pk)
            found.append(drawn)
    return found


def by_student(owned) -> int:
    """How many attempts the student logged."""
    return AttemptMade.objects.filter(instrument=owned, by=By.STUDENT).count()
