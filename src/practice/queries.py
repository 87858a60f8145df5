"""Reads: what was counted on a student's instrument, and what that tells."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from datetime import timezone as tz

from django.db.models import Count, Q

from core.practice.attempt_format import Logged, write_csv, write_json
from core.practice.attempts import By, Result, Spot, SpotNote
from evidence.models import AttemptMade, SpotPlayed
from evidence.told import COLUMNS, attempt_of
from practice.models import Plan
from practice.portable import taken_away

MUSIC_MOST, CLIMB_MOST = 12, 2_000
# Forms in which attempts are taken away.
FORMS = {
    "csv": (write_csv, "text/csv; charset=utf-8"),
    "json": (write_json, "application/json; charset=utf-8"),
}


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


def counts_on(owned) -> dict[tuple[int, str], Counted]:
    """Attempts at every note, by note and place; a stumble of the hands is none at the note."""
    rows = AttemptMade.objects.filter(instrument=owned).exclude(result=Result.STUMBLED)
    rows = rows.values("note_midi", "place").order_by()
    found = rows.annotate(total=Count("pk"), clean=Count("pk", filter=Q(result=Result.CLEAN)))
    return {(row["note_midi"], row["place"]): Counted(row["clean"], row["total"]) for row in found}


def spots_in(passage) -> list[SpotPlaying]:
    """The last attempts at spots of a passage, in their order."""
    rows = AttemptMade.objects.filter(spot__passage=passage).order_by("-made", "-pk")
    columns = ("spot", "spot__first", "at", "result", "bpm", "place")
    played = list(rows.values_list(*columns)[:CLIMB_MOST])
    kept = SpotPlayed.objects.filter(passage=passage).values_list("pk", "notes") if played else ()
    midis = {key: tuple(note[0] for note in notes) for key, notes in kept}
    return [SpotPlaying(midis[spot], *more) for spot, *more in reversed(played)]


def logged_on(owned, only=None) -> list[Logged]:
    """Every attempt on an instrument, or only some of them, as it is taken away."""
    rows = AttemptMade.objects.filter(instrument=owned) if only is None else only
    rows = rows.order_by("made", "pk")
    kept = {
        key: Spot(tuple(SpotNote(*note) for note in notes), passage, first)
        for key, passage, first, notes in owned.spots.values_list("pk", "passage", "first", "notes")
    }
    more = ("key", "setup", "spot", "at", "bpm", "by", "made", "offset_min")
    return [
        Logged(
            replace(attempt_of(row), spot=kept.get(row.spot), at=row.at, bpm=row.bpm, by=By(row.by)),
            row.key,
            made=row.made.astimezone(tz(timedelta(minutes=row.offset_min))),
            setup=row.setup,
        )
        for row in rows.values_list(*COLUMNS, *more, named=True)
    ]


def taken_away_from(at) -> list[Logged]:
    """The same as it leaves this studio."""
    return taken_away(at.owned, at.in_hand, logged_on(at.owned))


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
    rows = AttemptMade.objects.filter(instrument=owned, note_midi=midi, day__gte=since)
    return rows.order_by().values("day").distinct().count()
