"""Every change to students and their instruments: one function a use case, for the acting teacher."""

from zoneinfo import available_timezones

from django.core.exceptions import ValidationError
from django.db import transaction

from core.errors import CoreError
from core.evidence.setups import Keeps
from core.instruments.naming import Naming
from core.music.pitch import check_a4
from studio.access import of, own
from studio.bin import put
from studio.models import NAMING, WEEK_BEGINS, WEEKDAYS, ZONE, OwnedInstrument, Setup, Student, Teaching
from studio.queries import details_to_start_from
from studio.refusals import refuse
from studio.shipped import instrument, schools


@transaction.atomic
def save_student(teacher, *, name, level, notes="", hand=None, student=None):
    """Add a student, or change one of the teacher's own; without `hand` the hands are as they were."""
    student = Student(teacher=teacher) if student is None else own(teacher, student)
    student.name, student.level, student.notes = name, level, notes
    student.hand = student.hand if hand is None else hand
    student.save()
    return student


@transaction.atomic
def delete_student(teacher, student):
    """Put a student into the bin with all that is theirs; passages stay."""
    return put(teacher, student)


@transaction.atomic
def add_instrument(
    teacher, student, *, model, name, fitted, a4_hz=440.0, reed="", mouthpiece="", notes="", positions=None
):
    """Give a student an instrument, with its first set-up."""
    owned = OwnedInstrument(teacher=teacher, student=own(teacher, student), model=model)
    _fill(owned, name, fitted, a4_hz, notes, positions)
    owned.save()
    Setup.objects.create(instrument=owned, number=1, reed=reed, mouthpiece=mouthpiece)
    return owned


@transaction.atomic
def add_student_with(teacher, name, model):
    """A new student with an instrument as the teacher's others are; more can be told of both later."""
    student = save_student(teacher, name=name, level=Student.Level.MOVING_ON)
    usual = details_to_start_from(teacher, model)
    return add_instrument(teacher, student, model=model, **usual | {"a4_hz": float(usual["a4_hz"])})


@transaction.atomic
def change_instrument(
    teacher, owned, *, name, fitted, a4_hz, reed="", mouthpiece="", notes="", positions=None, keeps=()
):
    """Change an instrument; another reed or mouthpiece begins a new set-up, to name one does not.

    With the reed and mouthpiece of an earlier set-up that one is taken up again.

    `keeps` says what of the set-up before still holds, in words of `core.evidence.setups.Keeps`.
    """
    owned = own(teacher, owned)
    _fill(owned, name, fitted, a4_hz, notes, positions)
    present = owned.setups.filter(number=owned.setup).first()
    again = owned.setups.filter(reed=reed, mouthpiece=mouthpiece).exclude(reed="", mouthpiece="").last()
    if present and present.reed in ("", reed) and present.mouthpiece in ("", mouthpiece):
        present.reed, present.mouthpiece = reed, mouthpiece
        _keep_setup(present, keeps)
    elif again:
        owned.setup = again.number
    else:
        number = 1 + (owned.setups.order_by("-number").values_list("number", flat=True).first() or 0)
        made = Setup(instrument=owned, number=number, follows=owned.setup, reed=reed, mouthpiece=mouthpiece)
        _keep_setup(made, keeps)
        owned.setup = number
    owned.save()
    return owned


def _keep_setup(setup, keeps):
    """The first of all has none before it that anything could be kept of."""
    setup.keeps = [strand.value for strand in Keeps if strand in keeps and setup.follows]
    setup.save()


@transaction.atomic
def delete_instrument(teacher, owned):
    """Put an instrument into the bin with all that was judged, measured and counted on it; passages stay."""
    return put(teacher, owned)


@transaction.atomic
def take_positions(teacher, answers):
    """Keep the positions that a teacher takes, by question; an empty one is no position."""
    for question, position in answers.items():
        if question == NAMING:
            if position not in ("", *Naming):
                raise ValidationError("Touches cannot be named so.", code="naming")
        elif question == ZONE:
            if position and position not in available_timezones():
                raise ValidationError("No such time zone is known here.", code="zone")
        elif question == WEEK_BEGINS:
            if position not in ("", *WEEKDAYS):
                raise ValidationError("A week begins on one of its seven days.", code="week")
        else:
            _check_position(question, position)
    of(teacher, Teaching).filter(question__in=answers).delete()
    Teaching.objects.bulk_create(
        Teaching(teacher=teacher, question=question, position=position)
        for question, position in answers.items()
        if position
    )


def keep_zone(teacher, name):
    """Take a zone over from the browser; one that the teacher chose stays."""
    if name not in available_timezones():
        raise ValidationError("No such time zone is known here.", code="zone")
    of(teacher, Teaching).get_or_create(question=ZONE, defaults={"teacher": teacher, "position": name})


def _check_position(question, position, family=""):
    asked = next((each for each in schools().questions if each.name == question), None)
    taught = asked and (asked.positions_for(family) if family else asked.positions)
    if not taught or position not in ("", *(each.name for each in taught)):
        raise ValidationError("That position is not one on this question.", code="school")


def _fill(owned, name, fitted, a4_hz, notes, positions):
    try:
        owned.a4_hz = check_a4(float(a4_hz))
    except CoreError as error:
        raise refuse(error, "a4") from error
    shipped = instrument(owned.model)
    for question, position in (positions or {}).items():
        _check_position(question, position, shipped.family)
    owned.name, owned.notes, owned.positions = name, notes, positions or {}
    owned.fitted = sorted(set(fitted) & set(shipped.optional))
