"""Attempts as they are sent: as a list by a script, one at a time by a page without, or as a file."""

import json
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone

from core.errors import CoreError
from core.music.pitch import spell
from core.practice.attempt_format import BYTES_LIMIT, read_attempts, read_row
from core.practice.routine import MINUTES_LEAST, MINUTES_MOST
from studio.refusals import refuse

BODY_BYTES, AT_ONCE, DAYS_OFF_MOST = 1_000_000, 2_000, 120
HIGH_MOST = 30
TEMPI = range(20, 401)
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


@dataclass(frozen=True)
class Climb:
    """A ladder of tempi that is climbed: from a tempo to another, since a moment."""

    start: int
    target: int
    since: datetime

    def __str__(self):
        return f"{self.start}-{self.target}-{int(self.since.timestamp())}"


def climb_named(text) -> Climb | None:
    """A climb as an address names it; None where it names none, or what cannot be."""
    parts = text.split("-")
    if len(parts) != 3 or not all(p.isascii() and p.isdigit() and len(p) < 12 for p in parts):
        return None
    start, target, since = map(int, parts)
    if not (start in TEMPI and target in TEMPI):
        return None
    return Climb(start, target, datetime.fromtimestamp(since, UTC))


class ClimbForm(forms.Form):
    """Where a climb begins, and where it goes."""

    start = forms.IntegerField(label="From ♩ =", min_value=TEMPI[0], max_value=TEMPI[-1], initial=60)
    target = forms.IntegerField(label="to", min_value=TEMPI[0], max_value=TEMPI[-1], initial=100)

    def clean(self):
        cleaned = super().clean()
        if cleaned.get("start", 0) > cleaned.get("target", TEMPI[-1]):
            raise forms.ValidationError("A ladder goes up: give the slower tempo first.", code="down")
        return cleaned


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


class PlanForm(forms.Form):
    """How high, by when, and the days off."""

    target = forms.ChoiceField(label="Up to")
    whole = forms.TypedChoiceField(
        label="How",
        required=False,
        choices=[("", "One note at a time, about a week each"), ("1", "The whole chart, by turns")],
        coerce=bool,
        empty_value=False,
        widget=forms.RadioSelect,
    )
    due = forms.DateField(
        required=False,
        label="By",
        help_text="a concert, or empty",
        widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d"),
    )
    minutes = forms.IntegerField(
        label="Minutes a day", initial=30, min_value=MINUTES_LEAST, max_value=MINUTES_MOST
    )
    high_minutes = forms.IntegerField(
        label="Of these at most on high notes and overtones", initial=6, min_value=0, max_value=HIGH_MOST
    )
    days_off = forms.CharField(
        required=False,
        max_length=400,
        label="Days off",
        help_text="2026-12-24 to 2027-01-03; more after a comma",
    )

    def __init__(self, data=None, *, notes, plan=None):
        usual = {}
        if plan:
            off = ", ".join(" to ".join(dict.fromkeys(pair)) for pair in plan.days_off)
            usual = {"target": plan.target_midi, "due": plan.due, "days_off": off}
            usual |= {
                "whole": "1" if plan.whole else "",
                "minutes": plan.minutes,
                "high_minutes": plan.high_minutes,
            }
        super().__init__(data, initial=usual)
        self.fields["target"].choices = [(midi, str(spell(midi))) for midi in reversed(notes)]

    def clean_target(self):
        return int(self.cleaned_data["target"])

    def clean_days_off(self):
        found = []
        for text in filter(None, (part.strip() for part in self.cleaned_data["days_off"].split(","))):
            first, _, last = text.partition(" to ")
            try:
                days = date.fromisoformat(first.strip()), date.fromisoformat((last or first).strip())
            except ValueError as error:
                wrong = f"Days off must read like 2026-12-24 to 2027-01-03, got “{text[:40]}”."
                raise forms.ValidationError(wrong, code="days") from error
            if not timedelta(0) <= days[1] - days[0] <= timedelta(days=DAYS_OFF_MOST):
                wrong = f"Days off must end after they begin, within {DAYS_OFF_MOST} days: “{text[:40]}”."
                raise forms.ValidationError(wrong, code="days")
            found.append(days)
        return found
