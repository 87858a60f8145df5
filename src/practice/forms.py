"""Attempts as they are sent: as a list by a script, one at a time by a page without, or as a file."""

import json

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone

from core.errors import CoreError
from core.practice.attempt_format import BYTES_LIMIT, read_attempts, read_row
from studio.refusals import refuse

BODY_BYTES, AT_ONCE = 1_000_000, 2_000
UNREADABLE = "The attempts that were sent cannot be read; reload the page."


def attempts_sent(body: bytes):
    """The instrument and the attempts in a body of JSON.

    Raises
    ------
    ValidationError
        If it is none of ours, or an attempt cannot be.
    """
    if len(body) > BODY_BYTES:
        raise ValidationError("Send fewer attempts at once.", code="many")
    try:
        data = json.loads(body)
        on, rows = str(data["on"])[:12], list(data["attempts"])
    except (ValueError, TypeError, KeyError, RecursionError) as error:
        raise ValidationError(UNREADABLE, code="body") from error
    if len(rows) > AT_ONCE or not all(isinstance(row, dict) for row in rows):
        raise ValidationError(UNREADABLE, code="rows")
    return on, [attempt_from(row) for row in rows]


def attempt_from(row):
    """One attempt, of its fields by name; without a moment it is now."""
    try:
        return read_row({"made": timezone.now().isoformat(), **{k: v for k, v in row.items() if v != ""}})
    except CoreError as error:
        raise refuse(error, "attempt") from error


class AttemptsForm(forms.Form):
    """A file of attempts; cleaning it reads it."""

    file = forms.FileField(
        label="Attempts as a table (CSV) or as data (JSON)",
        widget=forms.FileInput({"accept": ".csv,.json,.txt"}),
    )

    def clean_file(self):
        file = self.cleaned_data["file"]
        if file.size > BYTES_LIMIT:
            limit = BYTES_LIMIT // 1_000_000
            raise forms.ValidationError(f"A file of attempts has at most {limit} MB.", code="size")
        try:
            return read_attempts(file.read())
        except CoreError as error:
            raise refuse(error, "attempts") from error
