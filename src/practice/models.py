"""What a student works towards on an instrument."""

from django.db import models

from studio.models import OwnedInstrument


class Plan(models.Model):
    """The plan of one instrument: how high by when, and the note of the week.

    `days_off` are pairs of days in ISO form, the first and the last; of the minutes of a day at most
    `high_minutes` are high notes. `whole` is the way of the whole chart: every note up to the target by
    turns, instead of one at a time.
    """

    instrument = models.OneToOneField(OwnedInstrument, models.CASCADE, related_name="plan")
    target_midi = models.PositiveSmallIntegerField()
    due = models.DateField(null=True, blank=True)
    days_off = models.JSONField(default=list, blank=True)
    note_midi = models.PositiveSmallIntegerField(null=True, blank=True)
    note_since = models.DateField(null=True, blank=True)
    minutes = models.PositiveSmallIntegerField(default=30)
    high_minutes = models.PositiveSmallIntegerField(default=6)
    whole = models.BooleanField(default=False)
