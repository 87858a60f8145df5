"""Errors of the core in a teacher's words, as forms and services refuse."""

from django.core.exceptions import ValidationError

from core.words import sentence


def refuse(error, code):
    """A core error as a message for a form."""
    return ValidationError("%(why)s", code=code, params={"why": sentence(str(error))})
