"""Attempts as they are sent: as a list by a script, one at a time by a page without, or as a file."""

from datetime import date, timedelta

from django import forms

from core.errors import CoreError
from core.music.pitch import spell
from core.practice.attempt_format import BYTES_LIMIT, read_attempts
from core.practice.routine import MINUTES_LEAST, MINUTES_MOST
from studio.refusals import refuse

BODY_BYTES, AT_ONCE, DAYS_OFF_MOST = 1_000_000, 2_000, 120
HIGH_MOST = 30
TEMPI = range(20, 401)
UNREADABLE = "The attempts that were sent cannot be read; reload the page."


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
