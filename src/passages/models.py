"""A teacher's passages, and every state that the bench of a passage was in."""

from django.conf import settings
from django.db import models
from django.db.models import F, Q

from core.music.pitch import parse_pitch, spell
from studio.models import OwnedInstrument
from studio.shipped import instrument_choices


class KeptPassage(models.Model):
    """A passage as read: written pitch, in MusicXML of our own writing.

    `owned` is the student's instrument that it is for; without one it is for the model at large. A drill says
    what it is for, and which passage it serves, if it serves one.
    """

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="passages")
    title = models.CharField(max_length=200)
    instrument = models.CharField(max_length=40, choices=instrument_choices)
    owned = models.ForeignKey(OwnedInstrument, models.SET_NULL, null=True, related_name="passages")
    musicxml = models.TextField()
    notices = models.JSONField(default=list)
    notes = models.PositiveIntegerField()
    bars = models.PositiveIntegerField()
    lowest = models.CharField(max_length=8)
    highest = models.CharField(max_length=8)
    due = models.DateField(null=True, blank=True)
    serves = models.ForeignKey("self", models.SET_NULL, null=True, related_name="drills")
    purpose = models.CharField(max_length=200, blank=True)
    current = models.ForeignKey("State", models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-changed", "-pk"]
        indexes = [models.Index(fields=["teacher", "-changed"])]

    def __str__(self):
        return f"“{self.title}”"

    @property
    def by_reach(self):
        """How the highest note lies to the student's reach as last told; empty where it lies within."""
        told = getattr(self.owned, "told", None)
        if told is None or told.top is None or told.day is None:
            return ""
        over = parse_pitch(self.highest).midi - told.top
        if over > 0:
            return f"above the reach, likely {spell(told.top)}"
        return "" if over else "at the edge of the reach"


class State(models.Model):
    """One state of a passage's bench; but for its name it is never altered, so a link to one keeps its view.

    `settings` is the JSON form of `passages.settings.BenchSettings`.
    """

    passage = models.ForeignKey(KeptPassage, models.CASCADE, related_name="states")
    number = models.PositiveIntegerField()
    parent = models.ForeignKey("self", models.SET_NULL, null=True, related_name="children")
    settings = models.JSONField()
    what = models.CharField(max_length=200)
    name = models.CharField(max_length=60, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["passage", "number"], name="state_number_once"),
            models.CheckConstraint(
                condition=Q(parent__isnull=True) | ~Q(parent=F("pk")), name="state_not_own_parent"
            ),
        ]


class EnteredNotes(models.Model):
    """Notes that are being entered in a window, kept as they are entered, until they are opened on the bench.

    `state` is what the form carries from press to press; `passage` is whose notes are changed, where it is
    one.
    """

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="entered")
    window = models.UUIDField()
    passage = models.ForeignKey(KeptPassage, models.CASCADE, null=True, related_name="entered")
    state = models.JSONField(default=dict)
    notes = models.PositiveIntegerField()
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-changed", "-pk"]
        constraints = [models.UniqueConstraint(fields=["teacher", "window"], name="entered_once")]
