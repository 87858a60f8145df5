"""What was counted, day by day and spot by spot, to be put right where it stands under the wrong name."""

from dataclasses import dataclass
from datetime import date

from django.core.exceptions import ValidationError
from django.db.models import Count, Max, Q

from core.music.pitch import spell
from core.practice.attempts import Result
from evidence.models import AttemptMade

SHOWN_MOST, PARTS = 60, 5


@dataclass(frozen=True)
class DayOfSpot:
    """What was counted of a spot on a day, at a place, by one or the other.

    Parameters
    ----------
    name : str
        By which a form names it: made of all that it is.
    """

    name: str
    day: date
    notes: str
    fingering: str
    place: str
    by: str
    clean: int
    total: int


def days_of(owned, in_hand) -> list[DayOfSpot]:
    """The last that was counted on an instrument, the last first."""
    rows = AttemptMade.objects.filter(instrument=owned).order_by()
    told = {"total": Count("pk"), "clean": Count("pk", filter=Q(result=Result.CLEAN)), "last": Max("made")}
    alone = rows.filter(spot=None).values("day", "place", "by", "note_midi", "entry").annotate(**told)
    spots = rows.exclude(spot=None).values("day", "place", "by", "spot").annotate(**told)
    found = [*alone.order_by("-last")[:SHOWN_MOST], *spots.order_by("-last")[:SHOWN_MOST]]
    found = sorted(found, key=lambda row: row["last"], reverse=True)[:SHOWN_MOST]
    wanted = [row["spot"] for row in found if "spot" in row]
    notes = dict(owned.spots.filter(pk__in=wanted).values_list("pk", "notes"))
    return [_day(row, notes, in_hand.catalogue.by_id, in_hand) for row in found]


def _day(row, notes, by_id, in_hand):
    steps = notes[row["spot"]] if "spot" in row else [(row["note_midi"], row["entry"], 0)]
    what = row.get("spot") or f"{row['note_midi']}:{row['entry']}"
    entry = by_id.get(steps[0][1]) if len(steps) == 1 else None
    many = f", {len(steps)} notes" if len(steps) > 2 else ""
    ends = [str(spell(step[0])) for step in (steps[0], steps[-1])][: len(steps)]
    return DayOfSpot(
        name="~".join(
            (row["day"].isoformat(), row["place"], row["by"], str(what), "s" if "spot" in row else "n")
        ),
        day=row["day"],
        notes=" to ".join(ends) + many,
        fingering=f"{entry.kind_words} ({in_hand.said(entry.fingering)})" if entry else "",
        place=row["place"],
        by=row["by"],
        clean=row["clean"],
        total=row["total"],
    )


def attempts_named(owned, names):
    """The attempts on an instrument that a form names.

    Raises
    ------
    ValidationError
        If one of the names is none of ours, or there is none.
    """
    wanted = Q()
    for name in names:
        parts = name.split("~")
        try:
            day, place, by, what, kind = parts
            here = Q(day=date.fromisoformat(day), place=place, by=by)
            if kind == "s":
                wanted |= here & Q(spot=int(what))
            else:
                midi, _, entry = what.partition(":")
                wanted |= here & Q(spot=None, note_midi=int(midi), entry=entry)
        except (ValueError, OverflowError) as error:
            raise ValidationError("Reload the page: that is not counted here.", code="name") from error
    if not wanted:
        raise ValidationError("Mark what is to be put right.", code="none")
    rows = AttemptMade.objects.filter(wanted, instrument=owned)
    if not rows.exists():
        raise ValidationError("That was moved or deleted meanwhile; reload the page.", code="gone")
    return rows
