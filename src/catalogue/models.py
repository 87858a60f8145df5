"""A teacher's own fingerings, and what was judged and read of fingerings on students' instruments.

The shipped chart is never altered: an entry is named by its id, an own one by `OwnFingering.entry_id`.
"""

from django.conf import settings
from django.db import models

from core.charts.catalogue import Confidence, Speaks, Tone
from core.evidence.sources import Hands, Tuning
from core.instruments.fingering import Kind
from studio.models import OwnedInstrument
from studio.shipped import INSTRUMENTS


def _choices(words):
    return [(word.value, word.value) for word in words]


class OwnFingering(models.Model):
    """A fingering of a teacher's own for a note of one model of instrument."""

    PREFIX = "own-"

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="own_fingerings")
    model = models.CharField(max_length=40, choices=list(INSTRUMENTS.items()))
    note = models.CharField(max_length=5)
    touches = models.CharField(max_length=200)
    kind = models.CharField(max_length=20, choices=_choices(Kind))
    cents = models.FloatField(null=True, blank=True)
    cents_low = models.FloatField(null=True, blank=True)
    cents_high = models.FloatField(null=True, blank=True)
    tone = models.CharField(max_length=20, choices=_choices(Tone), blank=True)
    speaks = models.CharField(max_length=20, choices=_choices(Speaks), blank=True)
    good_for = models.CharField(max_length=200, blank=True)
    avoid_when = models.CharField(max_length=200, blank=True)
    confidence = models.CharField(max_length=10, choices=_choices(Confidence), default=Confidence.LOW)
    reason = models.CharField(max_length=200, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["teacher", "model", "note", "touches"], name="own_fingering_once")
        ]

    @property
    def entry_id(self):
        return f"{self.PREFIX}{self.pk}"


class HiddenFingering(models.Model):
    """A shipped fingering that a teacher does not want to be offered."""

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="hidden_fingerings")
    model = models.CharField(max_length=40, choices=list(INSTRUMENTS.items()))
    entry = models.CharField(max_length=60)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["teacher", "model", "entry"], name="hidden_once")]


class OfFingering(models.Model):
    """What concerns one fingering on one student's instrument."""

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="%(class)ss")
    entry = models.CharField(max_length=60)

    class Meta:
        abstract = True


class JudgementMade(OfFingering):
    """A teacher's rating in four strands, in the words of `core.evidence.sources`; empty is not judged."""

    setup = models.PositiveIntegerField()
    pitch = models.CharField(max_length=20, choices=_choices(Tuning), blank=True)
    tone = models.CharField(max_length=20, choices=_choices(Tone), blank=True)
    speaks = models.CharField(max_length=20, choices=_choices(Speaks), blank=True)
    hands = models.CharField(max_length=20, choices=_choices(Hands), blank=True)
    remark = models.CharField(max_length=300, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["instrument", "entry"])]


class ReadingsTaken(OfFingering):
    """Tuner readings typed in together, in cents, sharp positive."""

    setup = models.PositiveIntegerField()
    cents = models.JSONField()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["instrument", "entry"])]


class Preference(OfFingering):
    """A fingering preferred on this instrument, one for each note."""

    note_midi = models.PositiveIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["instrument", "note_midi"], name="preference_once")]
