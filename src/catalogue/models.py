"""A teacher's own fingerings, and shipped ones that they hide.

The shipped chart is never altered: an entry is named by its id, an own one by `OwnFingering.entry_id`.
"""

from django.conf import settings
from django.db import models

from core.charts.entry import Confidence, Speaks, Tone
from core.instruments.fingering import Kind
from evidence.models import words_of
from studio.models import OwnedInstrument
from studio.shipped import instrument_choices

# What an own fingering says beside its note and touches.
# A lead that a teacher keeps is one no more.
OWN_CONFIDENCE = [level for level in Confidence if level is not Confidence.LEAD]
OWN_FIELDS = ("kind", "tone", "speaks", "good_for", "avoid_when", "only_from", "confidence", "reason")


class OwnFingering(models.Model):
    """A fingering of a teacher's own for a note of one model of instrument."""

    PREFIX = "own-"

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="own_fingerings")
    model = models.CharField(max_length=40, choices=instrument_choices)
    note = models.CharField(max_length=5)
    touches = models.CharField(max_length=200)
    kind = models.CharField(max_length=20, choices=words_of(Kind))
    cents = models.FloatField(null=True, blank=True)
    cents_low = models.FloatField(null=True, blank=True)
    cents_high = models.FloatField(null=True, blank=True)
    tone = models.CharField(max_length=20, choices=words_of(Tone), blank=True)
    speaks = models.CharField(max_length=20, choices=words_of(Speaks), blank=True)
    good_for = models.CharField(max_length=200, blank=True)
    avoid_when = models.CharField(max_length=200, blank=True)
    only_from = models.CharField(max_length=200, blank=True)
    confidence = models.CharField(max_length=10, choices=words_of(OWN_CONFIDENCE), default=Confidence.LOW)
    reason = models.CharField(max_length=200, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["teacher", "model", "note", "touches"], name="own_fingering_once")
        ]

    def __str__(self):
        return f"your fingering of {self.note}"

    @property
    def entry_id(self):
        return f"{self.PREFIX}{self.pk}"


class HiddenFingering(models.Model):
    """A shipped fingering that a teacher does not want to be offered: everywhere, or on one instrument."""

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="hidden_fingerings")
    model = models.CharField(max_length=40, choices=instrument_choices)
    entry = models.CharField(max_length=60)
    instrument = models.ForeignKey(
        OwnedInstrument, models.CASCADE, null=True, related_name="hidden_fingerings"
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["teacher", "model", "entry"],
                condition=models.Q(instrument__isnull=True),
                name="hidden_everywhere_once",
            ),
            models.UniqueConstraint(fields=["instrument", "entry"], name="hidden_here_once"),
        ]
