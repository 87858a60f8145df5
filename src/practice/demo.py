"""Weeks of practice for the students of the demo, from simulated players: no real student was heard."""

import tomllib
import uuid
from datetime import datetime, time, timedelta
from functools import lru_cache

import numpy as np
from django.conf import settings
from django.db import transaction
from django.db.models import DateField, F, Func, Min, Value
from django.utils import timezone

from catalogue.queries import of_instrument
from core.music.pitch import parse_pitch
from core.practice.attempt_format import Logged
from core.practice.learning import begin
from core.practice.player import even_player, odd_player
from core.practice.weeks import WEEK, Weeks
from evidence.models import AttemptMade
from practice.models import Plan
from practice.services import guess_reach, log_attempts, set_plan
from studio.access import of
from studio.models import OwnedInstrument

PLAYERS = {"even": even_player, "odd": odd_player}
BEGINS = time(16, 30)
WEEKS_MOST = 60


def desks():
    """What each student of the demo practises, by name of student and instrument."""
    band = tomllib.loads((settings.DATA / "demo" / "band.toml").read_text("utf-8"))
    return {(desk["name"], desk["instrument"]["name"]): desk["practice"] for desk in band["student"]}


def load(teacher, owned, practice):
    """Eight weeks that end yesterday, a plan, and how far the teacher thought the student reaches."""
    in_hand, today = of_instrument(owned), timezone.localdate()
    guess_reach(teacher, owned, in_hand, parse_pitch(practice["guess"]).midi)
    due = today + timedelta(days=practice["due_in_days"])
    target = parse_pitch(practice["target"]).midi
    set_plan(teacher, owned, in_hand, target_midi=target, due=due, minutes=practice["minutes"])
    _live(teacher, owned, in_hand, practice, practice["weeks"], practice["weeks"])


@transaction.atomic
def next_week(teacher):
    """Let a week pass for every student of the demo that is left: all that was becomes a week older."""
    known, week = desks(), timedelta(days=WEEK)
    for owned in of(teacher, OwnedInstrument).select_related("student"):
        practice = known.get((owned.student.name, owned.name))
        first = AttemptMade.objects.filter(instrument=owned).aggregate(Min("made"))["made__min"]
        plan = Plan.objects.filter(instrument=owned).first()
        if practice is None or first is None or plan is None:
            continue
        weeks = (timezone.localdate() - timezone.localtime(first).date()).days // WEEK
        if not 0 < weeks < WEEKS_MOST:
            continue
        AttemptMade.objects.filter(instrument=owned).update(made=F("made") - week, day=_earlier(week))
        if plan.due:
            plan.due -= week
        plan.save(update_fields=["due"])
        for passage in owned.passages.exclude(due=None).only("due"):
            passage.due -= week
            passage.save(update_fields=["due"])
        _live(teacher, owned, of_instrument(owned), practice, weeks + 1, 1)


def _earlier(time):
    """The day so long before that of an attempt; SQLite's own `date` reckons it."""
    return Func(F("day"), Value(f"-{time.days} days"), function="date", output_field=DateField())


def _live(teacher, owned, in_hand, practice, weeks, new):
    """Let so many weeks pass that end yesterday, and keep the attempts of the last, new ones of them."""
    notes, guess = in_hand.instrument.accepted, parse_pitch(practice["guess"]).midi
    first_day = timezone.localdate() - timedelta(days=WEEK * weeks)
    # Of a note long known nobody says which fingering it was.
    fingerings = tuple((midi, _two_of(in_hand, midi)) for midi in notes if midi > guess)
    player = practice["player"], practice["seed"], guess + practice["truly"]
    target = parse_pitch(practice["target"]).midi
    days = tuple(practice["stages"]), practice["lesson"]
    lived = _lived(player, (notes[0], notes[-1], guess, target), fingerings, first_day, weeks, days)
    since = first_day.toordinal() + WEEK * (weeks - new)
    logged = _logged(owned, lived.attempts, since)
    if lived.note is not None:
        begun = datetime.fromordinal(lived.since).date()
        Plan.objects.filter(instrument=owned).update(note_midi=lived.note, note_since=begun)
    log_attempts(teacher, owned, in_hand, [one for one in logged if _in_range(one, notes)])


def _two_of(in_hand, midi):
    """Fingerings of a note that a student would try, the usual one first."""
    entries = in_hand.catalogue.by_midi.get(midi, ())
    fit = sorted((e for e in entries if not in_hand.lacking(e) and not e.is_lead), key=in_hand.rank)
    return tuple(entry.id for entry in fit[:2])


@lru_cache(maxsize=16)
def _lived(player, notes, fingerings, first_day, weeks, days):
    """The weeks of a simulated player; see `core.practice.weeks.Weeks`."""
    (kind, seed, truly), (low, high, guess, target) = player, notes
    made = PLAYERS[kind](np.random.default_rng(seed), low, high, truly)
    names = dict(fingerings)
    lived = Weeks(made, begin(low, high, guess), target, lambda midi: names.get(midi, ()))
    lived.live(first_day.toordinal(), weeks, *days)
    return lived


def _in_range(logged, notes):
    cracked = logged.attempt.cracked_to
    return cracked is None or notes[0] <= cracked <= notes[-1]


def _logged(owned, attempts, since):
    """Attempts as they are kept since a day, those of a day a minute apart."""
    found, minute = [], 0
    for n, attempt in enumerate(attempts):
        begins = timezone.make_aware(datetime.combine(datetime.fromordinal(attempt.day), BEGINS))
        minute = minute + 1 if n and attempts[n - 1].day == attempt.day else 0
        if attempt.day >= since:
            key = uuid.uuid5(uuid.NAMESPACE_OID, f"{owned.pk}-{n}")
            found.append(Logged(attempt, key, begins + timedelta(minutes=minute)))
    return found
