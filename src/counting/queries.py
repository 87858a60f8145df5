"""Reads: what was counted of a spot, on one student's instrument."""

from dataclasses import dataclass

from django.db.models import Count, Q
from django.utils import timezone

from core.practice.attempt_format import spot_key
from core.practice.attempts import By, Result
from counting.drawn import Drawn
from evidence.models import AttemptMade

CLIMB_MOST, CRACKS_MOST = 2_000, 3


@dataclass(frozen=True)
class Tally:
    """Attempts at a spot: how many, and how many of them clean."""

    clean: int = 0
    total: int = 0


@dataclass(frozen=True)
class SpotCounted:
    """What was counted of a spot.

    Parameters
    ----------
    lately, in_all : Tally
    last : tuple
        Of the attempts lately, the last first: key, result, note that it cracked to, place in the spot,
        tempo, moment.
    cracks : tuple of int
        Notes to which it cracked where it is looked at, the most frequent first.
    """

    lately: Tally
    in_all: Tally
    last: tuple[tuple, ...]
    cracks: tuple[int, ...]


def attempts_at(drawn: Drawn):
    """Attempts at a spot, as it is fingered."""
    rows = AttemptMade.objects.filter(instrument=drawn.owned).order_by()
    if drawn.spot is None:
        return rows.filter(note_midi=drawn.step.midi, entry=drawn.step.fingering, spot=None)
    return rows.filter(spot__name=spot_key(drawn.spot))


def counted_of(drawn: Drawn, since) -> SpotCounted:
    """What was counted of a spot since a moment and in all."""
    rows = attempts_at(drawn)
    whole = rows.aggregate(total=Count("pk"), clean=Count("pk", filter=Q(result=Result.CLEAN)))
    late = rows.filter(made__gte=since).order_by("-made", "-pk")
    last = tuple(late.values_list("key", "result", "cracked_to", "at", "bpm", "made")[:CLIMB_MOST])
    cracked = rows.exclude(cracked_to=None).filter(at=drawn.at if drawn.spot else 0)
    cracks = cracked.values("cracked_to").annotate(times=Count("pk")).order_by("-times", "cracked_to")
    return SpotCounted(
        lately=Tally(sum(result == Result.CLEAN for _, result, *_ in last), len(last)),
        in_all=Tally(whole["clean"], whole["total"]),
        last=last,
        cracks=tuple(row["cracked_to"] for row in cracks[:CRACKS_MOST]),
    )


def today_of(owned, spots) -> list[tuple[Tally, str]]:
    """What was counted today of each spot on an instrument, and the key of a student's last press, if any."""
    rows = AttemptMade.objects.filter(instrument=owned, day=timezone.localdate()).order_by("made", "pk")
    found: dict[tuple, list[tuple[str, str, str]]] = {}
    for name, midi, entry, *row in rows.values_list(
        "spot__name", "note_midi", "entry", "key", "result", "by"
    )[:CLIMB_MOST]:
        found.setdefault((name,) if name else (midi, entry), []).append(tuple(row))
    told = []
    for drawn in spots:
        name = (spot_key(drawn.spot),) if drawn.spot else (drawn.step.midi, drawn.step.fingering)
        some = found.get(name, [])
        last = next((str(key) for key, _, by in reversed(some) if by == By.STUDENT), "")
        told.append((Tally(sum(result == Result.CLEAN for _, result, _ in some), len(some)), last))
    return told
