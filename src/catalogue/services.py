"""Every change to a teacher's own chart: one function a use case, for the acting teacher."""

from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from catalogue import queries, shipped
from catalogue.in_hand import of_usual
from catalogue.models import OWN_FIELDS, HiddenFingering, OwnFingering
from core.charts.audit import audit_chart
from core.charts.chart_format import read_chart, read_touches
from core.charts.entry import Entry
from core.charts.own_entry import entry_of
from core.charts.verdict import Verdict, judge
from core.errors import CoreError
from core.instruments.fingering import format_fingering
from core.instruments.keywork import unholdable
from core.music.pitch import parse_pitch
from core.words import sentence
from studio.access import of
from studio.access import own as stored
from studio.bin import put
from studio.refusals import refuse

OWN_LIMIT = 2_000


@transaction.atomic
def save_own(teacher, model, *, note, touches, row=None, **fields):
    """Add a fingering of the teacher's own, or change one, after the checks that the shipped chart passes.

    A fingering that the keywork contradicts needs a reason.
    """
    if row is not None:
        row = stored(teacher, row)
        if row.model != model:
            raise ValidationError("That fingering is one of another instrument.", code="model")
    catalogue = shipped.catalogue(model)
    try:
        pitch = parse_pitch(note)
        fingering = read_touches(touches, catalogue.instrument)
        values = {name: "" if value is None else str(value) for name, value in fields.items()}
        entry = entry_of(values, pitch, fingering, catalogue.instrument)
    except CoreError as error:
        raise refuse(error, "fingering") from error
    _check_own(entry, catalogue, fields.get("reason", ""))
    if row is None:
        _check_room(teacher, 1)
    return _save_entry(teacher, model, entry, row)


def _check_room(teacher, more):
    if of(teacher, OwnFingering).count() + more > OWN_LIMIT:
        raise ValidationError(f"At most {OWN_LIMIT:,} fingerings of your own are kept.", code="limit")


def _check_own(entry, catalogue, reason):
    instrument = catalogue.instrument
    if not instrument.accepts(entry.note):
        raise ValidationError(f"The note must lie from {instrument.accepted_span}.", code="range")
    if complaints := unholdable(instrument, entry.fingering):
        raise ValidationError([sentence(complaint) for complaint in complaints])
    if catalogue.find(entry.note, entry.fingering):
        raise ValidationError("The catalogue has this fingering for this note already.", code="twice")
    asked = [(entry.fingering, entry.note)]
    (judged,) = judge(catalogue, asked, of_usual(instrument.name).acoustics)
    if judged.verdict is Verdict.CONTRADICTED and not reason:
        raise ValidationError(f"{sentence(judged.words)} Mend it, or say why you keep it.", code="keywork")


def _save_entry(teacher, model, entry: Entry, row=None):
    row = row or OwnFingering(teacher=teacher, model=model)
    row.note = entry.note.ascii
    row.touches = format_fingering(entry.fingering, shipped.instrument(model))
    for name in OWN_FIELDS:
        setattr(row, name, str(getattr(entry, name) or ""))
    row.only_from = " ".join(sorted(entry.only_from))
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
    """Put a fingering of the teacher's own into the bin; pins of it on a bench fall away."""
    return put(teacher, row)


@transaction.atomic
def hide(teacher, model, entry_id, owned=None):
    """Hide a shipped fingering from this teacher's offers: on one instrument, or on all of the model."""
    if entry_id not in shipped.catalogue(model).by_id:
        raise ValidationError("That fingering is not in the catalogue.", code="unknown")
    owned = owned and stored(teacher, owned)
    if owned and owned.model != model:
        raise ValidationError("That instrument is of another kind.", code="model")
    HiddenFingering.objects.get_or_create(teacher=teacher, model=model, entry=entry_id, instrument=owned)


@transaction.atomic
def show_again(teacher, model, entry_id, owned=None):
    """Offer a hidden fingering again: on this instrument and, where it was hidden everywhere, everywhere."""
    rows = of(teacher, HiddenFingering).filter(model=model, entry=entry_id)
    here = rows.filter(instrument=owned and stored(teacher, owned))
    (here | rows.filter(instrument=None)).delete()


def audit(teacher, in_hand, data):
    """Audit a chart that the teacher brings in; nothing is saved."""
    del teacher  # whoever may look at the instrument may audit a chart for it
    try:
        return audit_chart(read_chart(data), in_hand.catalogue, in_hand.fitted, in_hand.acoustics)
    except CoreError as error:
        raise refuse(error, "chart") from error


@transaction.atomic
def import_rows(teacher, model, fitted, data, lines):
    """Take the chosen rows of a chart over as fingerings of the teacher's own; all or none.

    What the catalogue has already, and what is the teacher's own already, is passed over.
    """
    in_hand = queries.of_model(teacher, model, fitted)
    rows = audit(teacher, in_hand, data).rows
    chosen = [row.entry for row in rows if row.row.line in lines and row.importable and not row.is_known]
    _check_room(teacher, len(chosen))
    for entry in chosen:
        _save_entry(teacher, model, entry)
    return len(chosen)
