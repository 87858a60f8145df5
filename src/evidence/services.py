"""Every change to what is known of fingerings: one function a use case, for the acting teacher.

`in_hand` is the student's instrument as the core knows it: only what its chart has can be judged or read.
"""

from datetime import timedelta

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from core.errors import CoreError
from core.evidence.sources import check_readings, parse_readings
from core.music.pitch import spell
from core.practice.attempt_format import spot_key
from evidence.models import (
    AttemptMade,
    JudgementMade,
    Preference,
    Prepared,
    ReachGuessed,
    ReadingsTaken,
    SpotPlayed,
)
from studio.access import own
from studio.refusals import refuse

LOG_LIMIT = 500
# Attempts that are taken at once, and kept of an instrument; how far clocks may lie apart.
ATTEMPTS_AT_ONCE, ATTEMPTS_KEPT, CLOCKS_APART = 20_000, 100_000, timedelta(minutes=10)
SPOTS_KEPT = 2_000
NO_OFFSET, A_MINUTE = timedelta(), timedelta(minutes=1)


@transaction.atomic
def judge(teacher, owned, in_hand, entry_id, *, remark="", trial=None, **ratings):
    """Keep a rating of a fingering on a student's instrument; at least one strand or a remark."""
    owned, _ = _known(teacher, owned, in_hand, entry_id)
    if not any(ratings.values()) and not remark:
        raise ValidationError("Rate at least one strand, or write a remark.", code="empty")
    _check_room(JudgementMade, owned, entry_id)
    return JudgementMade.objects.create(
        instrument=owned, entry=entry_id, setup=_setup(owned, trial), remark=remark, trial=trial, **ratings
    )


def type_readings(teacher, owned, in_hand, entry_id, text):
    """Keep tuner readings typed in one line."""
    try:
        cents = parse_readings(text)
    except CoreError as error:
        raise refuse(error, "readings") from error
    return take_readings(teacher, owned, in_hand, entry_id, cents, origin=ReadingsTaken.Origin.TYPED)


@transaction.atomic
def take_readings(
    teacher, owned, in_hand, entry_id, cents, *, origin, kind=ReadingsTaken.Played.NOTE, trial=None
):
    """Keep readings, wherever they come from: the one way in for all of them."""
    owned, _ = _known(teacher, owned, in_hand, entry_id)
    try:
        check_readings(cents)
    except CoreError as error:
        raise refuse(error, "readings") from error
    _check_room(ReadingsTaken, owned, entry_id)
    return ReadingsTaken.objects.create(
        instrument=owned,
        entry=entry_id,
        setup=_setup(owned, trial),
        cents=list(cents),
        origin=origin,
        kind=kind,
        trial=trial,
    )


@transaction.atomic
def take_back(teacher, owned, kind, pk):
    """Take away one judgement or one set of readings of this instrument."""
    rows = {"judged": JudgementMade, "measured": ReadingsTaken}.get(kind)
    if rows is None or owned is None:
        raise ValidationError("That entry is not known here.", code="unknown")
    rows.objects.filter(instrument=own(teacher, owned), pk=pk).delete()


@transaction.atomic
def prefer(teacher, owned, in_hand, entry_id):
    """Prefer a fingering for its note on this instrument, or no longer; says which it is now."""
    owned, entry = _known(teacher, owned, in_hand, entry_id)
    stored = Preference.objects.filter(instrument=owned, note_midi=entry.note.midi)
    was = stored.filter(entry=entry_id).exists()
    stored.delete()
    if not was:
        Preference.objects.create(instrument=owned, note_midi=entry.note.midi, entry=entry_id)
    return not was


@transaction.atomic
def log_prepared(teacher, owned, in_hand, position):
    """Log that what a position asks first is done on this instrument, or no longer; says which it is now."""
    asked = in_hand.schools.position.get(position)
    if owned is None:
        raise ValidationError("It is logged for a student's instrument. Choose one.", code="unknown")
    if asked is None or not asked.before:
        raise ValidationError("Nothing is asked first there.", code="unknown")
    _, made = Prepared.objects.get_or_create(instrument=own(teacher, owned), position=position)
    if not made:
        Prepared.objects.filter(instrument=owned, position=position).delete()
    return made


def check_attempts(in_hand, logged):
    """Refuse attempts at notes and fingerings that an instrument has not."""
    for one in logged:
        steps = one.attempt.spot.steps if one.attempt.spot else ()
        pairs = {(step.midi, step.fingering) for step in steps} | {(one.attempt.midi, one.attempt.fingering)}
        for midi, fingering in sorted(pairs):
            _check_note(in_hand, midi, fingering)
        if one.attempt.cracked_to is not None:
            _check_note(in_hand, one.attempt.cracked_to, "")


@transaction.atomic
def log_attempts(teacher, owned, logged, origin=AttemptMade.Origin.PRESSED):
    """Keep attempts at notes and spots; those that are kept already are passed over.

    `logged` are `core.practice.attempt_format.Logged`. They are kept as they are said to have been: see
    `check_attempts` for what nobody vouches for. Gives back how many are new.
    """
    if owned is None:
        raise ValidationError("Attempts are counted on a student's instrument. Choose one.", code="unknown")
    owned = own(teacher, owned)
    if len(logged) > ATTEMPTS_AT_ONCE:
        raise ValidationError(f"Send at most {ATTEMPTS_AT_ONCE:,} attempts at once.", code="many")
    latest = timezone.now() + CLOCKS_APART
    spots = _spots(owned, [one.attempt.spot for one in logged if one.attempt.spot])
    setups = set(owned.setups.values_list("number", flat=True))
    rows = [_attempt_row(owned, one, latest, spots, setups, origin) for one in logged]
    before = AttemptMade.objects.filter(instrument=owned).count()
    if before + len(rows) > ATTEMPTS_KEPT:
        raise ValidationError("So much is counted on this instrument already.", code="full")
    AttemptMade.objects.bulk_create(rows, batch_size=500, ignore_conflicts=True)
    return AttemptMade.objects.filter(instrument=owned).count() - before


def _spots(owned, spots):
    """Spots as they are stored, by what they are; those that are new are kept."""
    named = {spot: spot_key(spot) for spot in dict.fromkeys(spots)}
    if not named:
        return {}
    passages = set(owned.passages.values_list("pk", flat=True))
    stored = SpotPlayed.objects.filter(instrument=owned)
    rows = [
        SpotPlayed(
            instrument=owned,
            name=name,
            passage_id=spot.passage if spot.passage in passages else None,
            first=spot.first,
            notes=[[step.midi, step.fingering, step.quarters] for step in spot.steps],
        )
        for spot, name in named.items()
    ]
    SpotPlayed.objects.bulk_create(rows, batch_size=500, ignore_conflicts=True)
    kept = dict(stored.values_list("name", "pk"))
    if len(kept) > SPOTS_KEPT:
        raise ValidationError("So many spots are kept on this instrument already.", code="full")
    return {spot: kept[name] for spot, name in named.items()}


def _check_note(in_hand, midi, fingering):
    """Refuse a note, or a fingering of it, that the instrument has not."""
    note, entry = spell(midi), in_hand.catalogue.by_id.get(fingering)
    if midi not in in_hand.instrument.accepted:
        raise ValidationError(f"Written {note} lies outside the range kept here.", code="note")
    if fingering and (entry is None or entry.note.midi != midi):
        raise ValidationError(f"“{fingering}” is no fingering for written {note} here.", code="fingering")


def _attempt_row(owned, logged, latest, spots, setups, origin):
    """An attempt as it is stored; under the present set-up where its own is not here."""
    attempt = logged.attempt
    if logged.made > latest:
        raise ValidationError("An attempt cannot lie in the future; look at the clock.", code="future")
    return AttemptMade(
        instrument=owned,
        key=logged.key,
        setup=logged.setup if logged.setup in setups else owned.setup,
        note_midi=attempt.midi,
        entry=attempt.fingering,
        result=attempt.result,
        cracked_to=attempt.cracked_to,
        place=attempt.place,
        began=attempt.began,
        by_heart=attempt.by_heart,
        spot_id=spots[attempt.spot] if attempt.spot else None,
        at=attempt.at,
        bpm=attempt.bpm,
        by=attempt.by,
        made=logged.made,
        day=logged.made.date(),
        offset_min=round((logged.made.utcoffset() or NO_OFFSET) / A_MINUTE),
        origin=origin,
    )


@transaction.atomic
def take_back_attempts(teacher, owned, keys):
    """Take attempts away by their keys; those that are not there are as good as gone."""
    AttemptMade.objects.filter(instrument=own(teacher, owned), key__in=keys[:ATTEMPTS_AT_ONCE]).delete()


@transaction.atomic
def guess_reach(teacher, owned, in_hand, midi):
    """Say how far a student is thought to reach, before anything is counted."""
    if midi not in in_hand.instrument.accepted:
        raise ValidationError("That note lies outside the range kept here.", code="note")
    ReachGuessed.objects.update_or_create(instrument=own(teacher, owned), defaults={"note_midi": midi})


def _known(teacher, owned, in_hand, entry_id):
    """The stored instrument and the entry, where the teacher may keep something of them."""
    if owned is None:
        raise ValidationError("Only a student's instrument can be judged and measured.", code="unknown")
    entry = in_hand.catalogue.by_id.get(entry_id)
    if entry is None:
        raise ValidationError("That fingering is not kept for this instrument.", code="unknown")
    return own(teacher, owned), entry


def _setup(owned, trial):
    """The set-up under which something was heard: that of the trial, though it be kept later."""
    return trial.setup if trial else owned.setup


def _check_room(kind, owned, entry_id):
    if kind.objects.filter(instrument=owned, entry=entry_id).count() >= LOG_LIMIT:
        raise ValidationError("So much is kept of this fingering already; take old entries away first.")
