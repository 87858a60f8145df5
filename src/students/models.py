"""Pages on which a student reads what was put on a sheet."""

import hashlib
import secrets

from django.db import models
from django.utils import timezone
from django.utils.crypto import salted_hmac

from studio.models import OwnedInstrument


def fresh():
    """What makes the address of a page its own."""
    return secrets.token_hex(16)


class StudentPage(models.Model):
    """An address that nobody guesses, for one student's instrument; read-only but for attempts where allowed.

    The address is made of the row and the application's secret, and kept nowhere: who reads the database has
    no addresses. `before` is a digest of one from the time when they were kept. `asked` is what stands on the
    page, as the sheet's address says it; `pins` are the fingerings of its passage as they were then, by note
    id: what a student has begun to learn does not change with every attempt.
    """

    OWNED_BY = "instrument__teacher"

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="pages")
    nonce = models.CharField(max_length=32, default=fresh)
    before = models.CharField(max_length=64, blank=True)
    asked = models.CharField(max_length=2_000, blank=True)
    pins = models.JSONField(default=dict)
    may_log = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()
    revoked = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    @property
    def token(self):
        """By which its address names it."""
        mac = salted_hmac("students.page", f"{self.pk} {self.nonce}", algorithm="sha256")
        return f"{self.pk}-{mac.hexdigest()}"

    @property
    def is_open(self):
        return self.revoked is None and self.expires > timezone.now()


def digest(token):
    """Of an address as it was kept before."""
    return hashlib.sha256(token.encode()).hexdigest()
