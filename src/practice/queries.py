"""Reads: what was counted on a student's instrument, and what that tells."""

from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import date
from threading import Lock

from django.db.models import Count, Q
from django.utils import timezone

from core.errors import PracticeError
from core.instruments.fingering import Kind
from core.practice.attempt_format import Logged, spot_key, write_csv, write_json
from core.practice.attempts import Attempt, Began, By, Place, Result, Spot, Step
from core.practice.learning import Learning, after, begin, on_day
from core.practice.learning_format import from_bytes
from core.practice.reach import reach
from evidence.models import AttemptMade, ReachGuessed, SpotPlayed
from practice.models import Plan, Told

COLUMNS = ("pk", "note_midi", "result", "made", "place", "entry", "cracked_to", "began", "by_heart")
# What was told of the instruments asked for last: more attempts go on from it.
KEPT = 128
MUSIC_MOST, CLIMB_MOST = 12, 2_000
# Forms in which attempts are taken away.
FORMS = {
    "csv": (write_csv, "text/csv; charset=utf-8"),
    "json": (write_json, "application/json; charset=utf-8"),
}
USUAL = {Kind.STANDARD, Kind.PALM, Kind.SIDE, Kind.LONG}
_told: OrderedDict[tuple, tuple] = OrderedDict()
_lock = Lock()


@dataclass(frozen=True)
class Counted:
    """Attempts at a note, or with a fingering: how many, and how many of them clean."""

    clean: int = 0
    total: int = 0


@dataclass(frozen=True)
class SpotPlaying:
    """An attempt at a spot of a passage: its notes, and the place of the first among those of the passage."""

    midis: tuple[int, ...]
    first: int
    at: int
    result: str
    bpm: int | None
    place: str

    def places(self):
        """The places in the passage that were played, and whether each was clean."""
        ends = len(self.midis) if self.result == Result.CLEAN else self.at + 1
        return [(self.first + n, self.result == Result.CLEAN or n < self.at) for n in range(ends)]


def guess_on(owned, in_hand):
    """How far the teacher thinks the student reaches; the top of the usual range if nobody said."""
    said = ReachGuessed.objects.filter(instrument=owned).values_list("note_midi", flat=True).first()
    return usual_top(in_hand) if said is None else said


def usual_top(in_hand):
    """The highest note with a usual fingering at hand."""
    standard = (e.note.midi for e in in_hand.catalogue.entries if e.kind in USUAL and not in_hand.lacking(e))
    return max(standard, default=in_hand.instrument.middle.midi)


def learning_on(owned, in_hand, guess) -> Learning:
    """What all attempts on an instrument tell, as of today: days off since the last have lost something."""
    *_, learning = told_on(owned, in_hand, guess)
    today = timezone.localdate().toordinal()
    return on_day(learning, today) if learning.day is not None and learning.day < today else learning


def told_on(owned, in_hand, guess) -> tuple[int, int, Learning]:
    """What all attempts on an instrument tell as of the last one: its key, their number, what they tell.

    What was told before is gone on from where attempts were only added, and none lies earlier.
    """
    notes = in_hand.instrument.accepted
    name = owned.pk, guess, notes[0], notes[-1]
    rows = AttemptMade.objects.filter(instrument=owned)
    with _lock:
        known = _told.get(name)
    last, count, learning = known or _stored(owned, guess, notes)
    if rows.filter(pk__lte=last).count() != count or learning is None:
        last, count, learning = 0, 0, begin(notes[0], notes[-1], guess)
    new = list(rows.filter(pk__gt=last).order_by("made", "pk").values_list(*COLUMNS))
    attempts = [attempt_of(*row) for row in new]
    if attempts and learning.day is not None and attempts[0].day < learning.day:
        learning = begin(notes[0], notes[-1], guess)
        new = list(rows.order_by("made", "pk").values_list(*COLUMNS))
        attempts, count = [attempt_of(*row) for row in new], 0
    learning = after(learning, attempts)
    last = max([last, *(row[0] for row in new)])
    with _lock:
        _told[name] = last, count + len(new), learning
        _told.move_to_end(name)
        while len(_told) > KEPT:
            _told.popitem(last=False)
    return last, count + len(new), learning


def _stored(owned, guess, notes):
    """What was told when the last attempt was kept; nothing where it began from another guess or range."""
    row = Told.objects.filter(instrument=owned, guess=guess).first()
    if row is not None:
        try:
            learning = from_bytes(row.state)
        except PracticeError:
            return 0, 0, None
        if (learning.low, learning.high) == (notes[0], notes[-1]):
            return row.last, row.count, learning
    return 0, 0, None


def forget():
    """Begin anew with what attempts tell: for tests, whose databases give the same keys to others."""
    with _lock:
        _told.clear()


def attempt_of(_pk, midi, result, made, place, entry, cracked_to, began, by_heart):
    """A stored attempt as the core knows it."""
    day = timezone.localtime(made).date().toordinal()
    return Attempt(midi, Result(result), day, Place(place), entry, cracked_to, Began(began), by_heart)


def counts_on(owned) -> dict[tuple[int, str], Counted]:
    """Attempts at every note, by note and place; a stumble of the hands is none at the note."""
    rows = AttemptMade.objects.filter(instrument=owned).exclude(result=Result.STUMBLED)
    rows = rows.values("note_midi", "place").order_by()
    found = rows.annotate(total=Count("pk"), clean=Count("pk", filter=Q(result=Result.CLEAN)))
    return {(row["note_midi"], row["place"]): Counted(row["clean"], row["total"]) for row in found}


def of_fingering(owned, midi, entry, since):
    """Attempts at a note alone with a fingering since a moment and in all, and to which notes it cracked, the
    most frequent first."""
    rows = _alone(owned, midi, entry).order_by()
    clean, late = Q(result=Result.CLEAN), Q(made__gte=since)
    whole = rows.aggregate(
        total=Count("pk"),
        clean=Count("pk", filter=clean),
        lately=Count("pk", filter=late),
        clean_lately=Count("pk", filter=clean & late),
    )
    cracked = (
        rows.exclude(cracked_to=None).values("cracked_to").annotate(times=Count("pk")).order_by("-times")
    )
    now, in_all = Counted(whole["clean_lately"], whole["lately"]), Counted(whole["clean"], whole["total"])
    return now, in_all, [row["cracked_to"] for row in cracked[:3]]


def _alone(owned, midi, entry):
    """Attempts at a note with a fingering that were not made in a spot."""
    return AttemptMade.objects.filter(instrument=owned, note_midi=midi, entry=entry, spot=None)


def latest_on(owned, midi, entry, since):
    """Attempts at a note with a fingering since a moment, the last first: (key, result, cracked to)."""
    rows = _alone(owned, midi, entry).filter(made__gte=since)
    return list(rows.order_by("-made", "-pk").values_list("key", "result", "cracked_to")[:50])


def of_spot(owned, spot, since):
    """Attempts at a spot since a moment and in all, and those since then, the last first: (key, result, note
    that it cracked to, place in the spot, tempo, moment)."""
    rows = AttemptMade.objects.filter(spot__instrument=owned, spot__name=spot_key(spot)).order_by()
    clean = Q(result=Result.CLEAN)
    whole = rows.aggregate(total=Count("pk"), clean=Count("pk", filter=clean))
    late = rows.filter(made__gte=since).order_by("-made", "-pk")
    last = list(late.values_list("key", "result", "cracked_to", "at", "bpm", "made")[:CLIMB_MOST])
    now = Counted(sum(result == Result.CLEAN for _, result, *_ in last), len(last))
    return now, Counted(whole["clean"], whole["total"]), last


def spots_in(passage) -> list[SpotPlaying]:
    """The last attempts at spots of a passage, in their order."""
    rows = AttemptMade.objects.filter(spot__passage=passage).order_by("-made", "-pk")
    columns = ("spot", "spot__first", "at", "result", "bpm", "place")
    played = list(rows.values_list(*columns)[:CLIMB_MOST])
    kept = SpotPlayed.objects.filter(passage=passage).values_list("pk", "notes") if played else ()
    midis = {key: tuple(note[0] for note in notes) for key, notes in kept}
    return [SpotPlaying(midis[spot], *more) for spot, *more in reversed(played)]


def began_named(text):
    """How a note begins as an address names it; tongued where it names none."""
    return Began(text) if text in set(Began) else Began.TONGUED


def results_since(owned, midi, entry, since) -> list[bool]:
    """Whether attempts at a note with a fingering since a moment were clean, in their order."""
    rows = _alone(owned, midi, entry).filter(made__gte=since)
    results = rows.order_by("made", "pk").values_list("result", flat=True)[:CLIMB_MOST]
    return [result == Result.CLEAN for result in results]


def place_named(text):
    """A place as an address names it; the practice room where it names none."""
    return Place(text) if text in set(Place) else Place.ROOM


def logged_on(owned) -> list[Logged]:
    """Every attempt on an instrument, as it is taken away."""
    rows = AttemptMade.objects.filter(instrument=owned).order_by("made", "pk")
    kept = {
        key: Spot(tuple(Step(*note) for note in notes), passage, first)
        for key, passage, first, notes in owned.spots.values_list("pk", "passage", "first", "notes")
    }
    more = ("key", "setup", "spot", "at", "bpm", "by")
    return [
        Logged(
            replace(attempt_of(*row), spot=kept.get(spot), at=at, bpm=bpm, by=By(by)),
            key,
            made=row[3],
            setup=setup,
        )
        for *row, key, setup, spot, at, bpm, by in rows.values_list(*COLUMNS, *more)
    ]


def plan_of(owned):
    """The plan of an instrument; None where there is none."""
    return Plan.objects.filter(instrument=owned).first()


def music_on(owned) -> list[tuple[str, str]]:
    """Titles and highest notes of the passages for an instrument, those changed last first."""
    return list(owned.passages.filter(purpose="").values_list("title", "highest")[:MUSIC_MOST])


def days_off(plan) -> set[int]:
    """Days off of a plan, counted as `datetime.date.toordinal` does."""
    pairs = [(date.fromisoformat(first), date.fromisoformat(last)) for first, last in plan.days_off]
    return {day for first, last in pairs for day in range(first.toordinal(), last.toordinal() + 1)}


def sessions_on(owned, midi, since) -> int:
    """On how many days a note was played since a day."""
    rows = AttemptMade.objects.filter(instrument=owned, note_midi=midi, made__date__gte=since)
    return rows.order_by().values("made__date").distinct().count()


def reach_counted(owned, in_hand):
    """The reach by what was counted; None where nothing was."""
    learning = learning_on(owned, in_hand, guess_on(owned, in_hand))
    return reach(learning) if learning.day is not None else None
