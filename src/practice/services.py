"""Every change to plans and to what attempts tell: one function a use case, whole or not at all."""

from datetime import date

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from catalogue.high_notes import taught_first
from core.music.pitch import spell
from core.practice.attempts import Place
from core.practice.learning_format import to_bytes
from core.practice.reach import holding, reach
from evidence import services as evidence
from evidence.models import AttemptMade, Told
from evidence.told import guess_on, told_on
from passages.services import add_passage
from practice.models import Plan
from practice.portable import brought
from practice.queries import plan_of, sessions_on
from studio.access import own

# Days off that a plan may have in all; drills that are kept at once.
DAYS_OFF_MOST, DRILLS_AT_ONCE, SAID_MOST = 300, 40, 5


@transaction.atomic
def set_plan(teacher, owned, in_hand, *, target_midi, due=None, days_off=(), **more):
    """Say how high a student is to play, and by when; the note that is worked on stays.

    Parameters
    ----------
    more
        `minutes` of a day's routine, `high_minutes` of them at most on high notes; `whole`, whether the whole
        chart is played by turns.
    """
    owned = own(teacher, owned)
    if target_midi not in in_hand.instrument.accepted:
        raise ValidationError("That note lies outside the range kept here.", code="note")
    if due is not None and due < timezone.localdate():
        raise ValidationError("The due date has passed; choose one to come, or none.", code="due")
    if sum((last - first).days + 1 for first, last in days_off) > DAYS_OFF_MOST:
        raise ValidationError("A plan needs days that are not off; take some of them away.", code="days")
    days = [[first.isoformat(), last.isoformat()] for first, last in days_off]
    values = {"target_midi": target_midi, "due": due, "days_off": days} | more
    return Plan.objects.update_or_create(instrument=owned, defaults=values)[0]


@transaction.atomic
def begin_note(teacher, owned, in_hand, midi):
    """Make a note the one that is worked on from today; what a school asks first is asked first."""
    owned = own(teacher, owned)
    plan = Plan.objects.filter(instrument=owned).first()
    if plan is None:
        raise ValidationError("Say first how high the plan goes.", code="plan")
    if midi not in in_hand.instrument.accepted or midi > plan.target_midi:
        raise ValidationError("That note is not on the way of this plan.", code="note")
    if before := taught_first(in_hand, spell(midi)):
        raise ValidationError(f"First, as you teach it: {'; '.join(before)}", code="before")
    plan.note_midi, plan.note_since = midi, timezone.localdate()
    plan.save(update_fields=["note_midi", "note_since"])
    tell(teacher, owned, in_hand)
    return plan


@transaction.atomic
def log_attempts(teacher, owned, in_hand, attempts, origin=AttemptMade.Origin.PRESSED) -> int:
    """Keep attempts that an instrument can have, all or none, and what they tell."""
    evidence.check_attempts(in_hand, attempts)
    new = evidence.log_attempts(teacher, owned, attempts, origin)
    tell(teacher, owned, in_hand)
    return new


@transaction.atomic
def bring_attempts(teacher, owned, in_hand, attempts) -> tuple[int, list[str]]:
    """Keep attempts of a file, all or none; gives back how many are new, and what there is to say of them."""
    owned = own(teacher, owned)
    found = brought(owned, in_hand, attempts)
    new = log_attempts(teacher, owned, in_hand, found.logged, AttemptMade.Origin.BROUGHT)
    said = [
        f"{title[:60]} is not here: {times:,} stand by themselves."
        for title, times in found.alone[:SAID_MOST]
    ]
    if found.strangers:
        said.append(f"{found.strangers:,} had a fingering that is not kept here, and are kept without it.")
    return new, said


@transaction.atomic
def take_back_attempts(teacher, owned, in_hand, keys) -> None:
    """Take attempts away, and what they told."""
    evidence.take_back_attempts(teacher, owned, keys)
    tell(teacher, owned, in_hand)


@transaction.atomic
def guess_reach(teacher, owned, in_hand, midi) -> None:
    """Begin from another guess of the reach."""
    evidence.guess_reach(teacher, owned, in_hand, midi)
    tell(teacher, owned, in_hand)


@transaction.atomic
def tell(teacher, owned, in_hand):
    """Keep what all attempts on an instrument tell, for the pages that show many students at once."""
    owned, guess = own(teacher, owned), guess_on(owned, in_hand)
    last, count, learning = told_on(owned, in_hand, guess)
    lessons = AttemptMade.objects.filter(instrument=owned, place=Place.LESSON)
    plan = plan_of(owned)
    latest, found = lessons.aggregate(Max("day"))["day__max"], reach(learning)
    values = {
        "guess": guess,
        "last": last,
        "count": count,
        "state": to_bytes(learning),
        "day": date.fromordinal(learning.day) if learning.day is not None else None,
        "lesson": latest,
        "low": learning.low,
        "holding": [round(float(chance), 3) for chance in holding(learning)],
        "top": found.top,
        "missing": found.missing,
        "sessions": sessions_on(owned, plan.note_midi, plan.note_since) if plan and plan.note_midi else 0,
    }
    return Told.objects.update_or_create(instrument=owned, defaults=values)[0]


@transaction.atomic
def keep_drills(teacher, drills, *, model, owned=None, serves=None):
    """Keep drills as passages, fingered as the music that they serve.

    Parameters
    ----------
    drills : sequence of core.drills.material.Drill
    serves : bench.queries.Opened or None
        The passage that they are for; its evidence and weights hold for them, too.
    """
    if len(drills) > DRILLS_AT_ONCE:
        raise ValidationError(f"Keep at most {DRILLS_AT_ONCE} drills at once.", code="many")
    return [
        add_passage(
            teacher,
            title=drill.name,
            instrument=model,
            passage=drill.passage,
            notices=[],
            owned=owned,
            serves=serves and serves.passage,
            like=serves and serves.settings,
            purpose=drill.purpose,
        )
        for drill in drills
    ]
