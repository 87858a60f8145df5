"""Every change to students and their instruments: one function a use case, for a stated teacher."""

from django.core.exceptions import ValidationError
from django.db import transaction

from core.charts.catalogue import SCHOOLS
from core.errors import CoreError
from core.music.pitch import check_a4
from studio.models import OwnedInstrument, Setup, Student
from studio.shipped import instrument


def refuse(error, code):
    """A core error as a message for a form."""
    return ValidationError("%(why)s", code=code, params={"why": sentence(str(error))})


def sentence(text):
    """A message begun with a capital and ended with a full stop."""
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")


@transaction.atomic
def save_student(teacher, *, name, level, notes="", student=None):
    """Add a student, or change one of the teacher's own."""
    student = student or Student(teacher=teacher)
    _own(teacher, student)
    student.name, student.level, student.notes = name, level, notes
    student.save()
    return student


@transaction.atomic
def delete_student(teacher, student):
    """Delete a student with their instruments, judgements and readings; passages stay."""
    _own(teacher, student)
    student.delete()


@transaction.atomic
def add_instrument(
    teacher, student, *, model, name, fitted, a4_hz=440.0, reed="", mouthpiece="", notes="", school=""
):
    """Give a student an instrument, with its first set-up."""
    _own(teacher, student)
    owned = OwnedInstrument(teacher=teacher, student=student, model=model)
    _fill(owned, name, fitted, a4_hz, notes, school)
    owned.save()
    Setup.objects.create(instrument=owned, number=1, reed=reed, mouthpiece=mouthpiece)
    return owned


@transaction.atomic
def change_instrument(teacher, owned, *, name, fitted, a4_hz, reed="", mouthpiece="", notes="", school=""):
    """Change an instrument; another reed or mouthpiece begins a new set-up."""
    _own(teacher, owned)
    _fill(owned, name, fitted, a4_hz, notes, school)
    present = owned.setups.filter(number=owned.setup).first()
    if present is None or (present.reed, present.mouthpiece) != (reed, mouthpiece):
        owned.setup = 1 + (owned.setups.order_by("-number").values_list("number", flat=True).first() or 0)
        Setup.objects.create(instrument=owned, number=owned.setup, reed=reed, mouthpiece=mouthpiece)
    owned.save()
    return owned


@transaction.atomic
def delete_instrument(teacher, owned):
    """Delete an instrument with what was judged and measured on it; passages stay."""
    _own(teacher, owned)
    owned.delete()


def _fill(owned, name, fitted, a4_hz, notes, school):
    try:
        owned.a4_hz = check_a4(float(a4_hz))
    except CoreError as error:
        raise refuse(error, "a4") from error
    _, positions = SCHOOLS.get(instrument(owned.model).family, ("", ()))
    if school not in ("", *positions):
        raise ValidationError("That position is not one for this instrument.", code="school")
    owned.name, owned.notes, owned.school = name, notes, school
    owned.fitted = sorted(set(fitted) & set(instrument(owned.model).optional))


def _own(teacher, thing):
    if thing.teacher_id != teacher.pk:
        raise ValidationError("That belongs to another teacher.", code="teacher")
