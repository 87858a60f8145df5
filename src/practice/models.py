"""What a student works towards on an instrument, and what all attempts on it tell."""

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


class Told(models.Model):
    """What attempts on an instrument told when the last was kept: more of them go on from it.

    It follows from the attempts alone, and is worked out anew where they say otherwise. `guess` is the reach
    it began with, `last` and `count` say up to which attempt it goes, `day` and `lesson` when the last one
    was made, anywhere and in a lesson, `sessions` on how many days the note of the week was played;
    `holding` is the chance that each note holds, the lowest first.
    """

    instrument = models.OneToOneField(OwnedInstrument, models.CASCADE, related_name="told")
    guess = models.PositiveSmallIntegerField()
    last = models.PositiveBigIntegerField()
    count = models.PositiveIntegerField()
    state = models.BinaryField()
    day = models.DateField(null=True)
    lesson = models.DateField(null=True)
    low = models.PositiveSmallIntegerField()
    holding = models.JSONField(default=list)
    top = models.PositiveSmallIntegerField(null=True)
    missing = models.PositiveSmallIntegerField(null=True)
    sessions = models.PositiveSmallIntegerField(default=0)
