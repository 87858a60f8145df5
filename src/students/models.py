"""Pages on which a student reads what was put on a sheet."""

from django.db import models
from django.utils import timezone

from studio.models import OwnedInstrument


class StudentPage(models.Model):
    """An address that nobody guesses, for one student's instrument; read-only but for attempts where allowed.

    `asked` is what stands on it, as the sheet's address says it; `pins` are the fingerings of its passage as
    they were then, by note id: what a student has begun to learn does not change with every attempt.
    """

    OWNED_BY = "instrument__teacher"

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="pages")
    token = models.CharField(max_length=64, unique=True)
    asked = models.CharField(max_length=2_000, blank=True)
    pins = models.JSONField(default=dict)
    may_log = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()
    revoked = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    @property
    def is_open(self):
        return self.revoked is None and self.expires > timezone.now()
