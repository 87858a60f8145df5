"""Every change to fingerings and to what is known of them: one function a use case, for a stated teacher."""

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from catalogue import shipped
from catalogue.models import (
    HiddenFingering,
    JudgementMade,
    OwnFingering,
    Preference,
    ReadingsTaken,
)
from catalogue.queries import hand_of_model
from core.charts.audit import Finding, against_keywork, audit_chart, entry_of
from core.charts.catalogue import Entry
from core.charts.chart_format import read_chart, read_touches
from core.errors import CoreError
from core.evidence.sources import parse_readings
from core.instruments.fingering import format_fingering
from core.instruments.keywork import unholdable
from core.music.pitch import parse_pitch
from studio.services import refuse

OWN_LIMIT = 2_000
LOG_LIMIT = 500
OWN_FIELDS = ("kind", "tone", "speaks", "good_for", "avoid_when", "confidence", "reason")


@transaction.atomic
def save_own(teacher, model, *, note, touches, row=None, **fields):
    """Add a fingering of the teacher's own, or change one, after the checks that the shipped chart passes.

    A fingering that the keywork contradicts needs a reason.
    """
    if row is not None and (row.teacher_id != teacher.pk or row.model != model):
        raise ValidationError("That fingering belongs to another teacher.", code="teacher")
    catalogue = shipped.catalogue(model)
    try:
        pitch = parse_pitch(note)
        fingering = read_touches(touches, catalogue.instrument)
        entry = entry_of(
            {name: str(value or "") for name, value in fields.items()}, pitch, fingering, catalogue
        )
    except CoreError as error:
        raise refuse(error, "fingering") from error
    _check_own(entry, catalogue, fields.get("reason", ""))
    if row is None and OwnFingering.objects.filter(teacher=teacher).count() >= OWN_LIMIT:
        raise ValidationError(f"At most {OWN_LIMIT:,} fingerings of your own are kept.", code="limit")
    return _save_entry(teacher, model, entry, row)


def _check_own(entry, catalogue, reason):
    instrument = catalogue.instrument
    if not instrument.in_range(entry.note):
        raise ValidationError(
            f"The note must lie from {instrument.written_low} to {instrument.written_high}.", code="range"
        )
    if complaints := unholdable(instrument, entry.fingering):
        raise ValidationError([complaint[:1].upper() + complaint[1:] + "." for complaint in complaints])
    if catalogue.find(entry.note, entry.fingering):
        raise ValidationError("The catalogue has this fingering for this note already.", code="twice")
    if not reason and (why := against_keywork(entry.note, entry.fingering, catalogue)):
        raise ValidationError(f"{why[:1].upper()}{why[1:]}. Mend it, or say why you keep it.", code="keywork")


def _save_entry(teacher, model, entry: Entry, row=None):
    row = row or OwnFingering(teacher=teacher, model=model)
    row.note = entry.note.ascii
    row.touches = format_fingering(entry.fingering, shipped.instrument(model))
    for name in OWN_FIELDS:
        setattr(row, name, str(getattr(entry, name) or ""))
    tendency = entry.tendency
    row.cents, row.cents_low, row.cents_high = (
        (tendency.cents, tendency.low, tendency.high) if tendency else (None, None, None)
    )
    try:
        with transaction.atomic():
            row.save()
    except IntegrityError as error:
        raise ValidationError("You have this fingering for this note already.", code="twice") from error
    return row


@transaction.atomic
def delete_own(teacher, row):
    """Delete a fingering of the teacher's own; pins of it on a bench fall away."""
    OwnFingering.objects.filter(teacher=teacher, pk=row.pk).delete()


@transaction.atomic
def set_hidden(teacher, model, entry_id, *, hidden):
    """Hide a shipped fingering from this teacher's offers, or show it again."""
    if entry_id not in shipped.catalogue(model).by_id:
        raise ValidationError("That fingering is not in the catalogue.", code="unknown")
    row = {"teacher": teacher, "model": model, "entry": entry_id}
    if hidden:
        HiddenFingering.objects.get_or_create(**row)
    else:
        HiddenFingering.objects.filter(**row).delete()


@transaction.atomic
def judge(teacher, owned, hand, entry_id, *, remark="", **ratings):
    """Keep a rating of a fingering on a student's instrument; at least one strand or a remark."""
    _known(teacher, owned, hand, entry_id)
    if not any(ratings.values()) and not remark:
        raise ValidationError("Rate at least one strand, or write a remark.", code="empty")
    _room(JudgementMade, owned, entry_id)
    return JudgementMade.objects.create(
        instrument=owned, entry=entry_id, setup=owned.setup, remark=remark, **ratings
    )


@transaction.atomic
def take_readings(teacher, owned, hand, entry_id, text):
    """Keep tuner readings typed in one line."""
    _known(teacher, owned, hand, entry_id)
    try:
        cents = parse_readings(text)
    except CoreError as error:
        raise refuse(error, "readings") from error
    _room(ReadingsTaken, owned, entry_id)
    return ReadingsTaken.objects.create(
        instrument=owned, entry=entry_id, setup=owned.setup, cents=list(cents)
    )


def _room(kind, owned, entry_id):
    if kind.objects.filter(instrument=owned, entry=entry_id).count() >= LOG_LIMIT:
        raise ValidationError("So much is kept of this fingering already; take old entries away first.")


@transaction.atomic
def take_back(teacher, owned, kind, pk):
    """Take away one judgement or one set of readings."""
    rows = {"judged": JudgementMade, "measured": ReadingsTaken}.get(kind)
    if rows is None:
        raise ValidationError("That entry is not known here.", code="unknown")
    rows.objects.filter(instrument=owned, instrument__teacher=teacher, pk=pk).delete()


@transaction.atomic
def prefer(teacher, owned, hand, entry_id):
    """Prefer a fingering for its note on this instrument, or no longer."""
    entry = _known(teacher, owned, hand, entry_id)
    there = Preference.objects.filter(instrument=owned, note_midi=entry.note.midi)
    was = there.filter(entry=entry_id).exists()
    there.delete()
    if not was:
        Preference.objects.create(instrument=owned, note_midi=entry.note.midi, entry=entry_id)
    return not was


def _known(teacher, owned, hand, entry_id):
    entry = hand.catalogue.by_id.get(entry_id)
    if owned is None or owned.teacher_id != teacher.pk or entry is None:
        raise ValidationError("That fingering is not kept for this instrument.", code="unknown")
    return entry


def audit(hand, data):
    """Audit a chart; nothing is saved."""
    try:
        return audit_chart(read_chart(data), hand.catalogue, hand.fitted)
    except CoreError as error:
        raise refuse(error, "chart") from error


@transaction.atomic
def import_rows(teacher, model, fitted, data, lines):
    """Take the chosen rows of a chart over as fingerings of the teacher's own; all or none."""
    hand = hand_of_model(teacher, model, fitted)
    rows = [row for row in audit(hand, data).rows if row.row.line in lines and row.importable]
    if OwnFingering.objects.filter(teacher=teacher).count() + len(rows) > OWN_LIMIT:
        raise ValidationError(f"At most {OWN_LIMIT:,} fingerings of your own are kept.", code="limit")
    taken = 0
    for row in rows:
        if (
            row.known is not None
            and row.known.fingering == row.entry.fingering
            and row.finding is Finding.NOT_FITTED
        ):
            continue  # the catalogue has it; it only cannot be played on this instrument
        if (
            row.known is not None
            and row.known.fingering == row.entry.fingering
            and row.known.id.startswith("own-")
        ):
            continue
        _save_entry(teacher, model, row.entry)
        taken += 1
    return taken
