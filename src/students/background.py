"""What of students is worked out by another process: asked with keys, read there from the database."""

from django.contrib.auth import get_user_model
from django.http import QueryDict

from jobs.worker import progress
from students.screens.sheet import StudentSheet
from students.sheets import asked_sheet


def sheet_of(teacher_pk: int, query: str, pins: dict[str, str]) -> StudentSheet:
    """A sheet as its address asks for it."""
    teacher = get_user_model().objects.get(pk=teacher_pk)
    return asked_sheet(teacher, QueryDict(query), pins).made_here(progress)
