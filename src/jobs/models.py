"""Work that takes longer than a page is waited for, as the one who asked for it sees it."""

from datetime import timedelta

from django.conf import settings
from django.db import models
from django.urls import reverse
from django.utils import timezone

# So long it is told what became of work.
KEPT_FOR = timedelta(days=7)


class Job(models.Model):
    """One piece of work: what it is in words, where its result is shown, and how it stands.

    What is worked out is handed out once, from memory; it is kept nowhere else. `key` is known to the process
    that works, `asked` tells one question of a teacher's from another. Work that was waiting or running when
    the application ended is lost, and says so.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "waiting for its turn"
        RUNNING = "running", "at work"
        DONE = "done", "done"
        FAILED = "failed", "not done"
        CANCELLED = "cancelled", "cancelled"
        LOST = "lost", "lost, since the application was started anew"

    OPEN = (State.WAITING, State.RUNNING)

    key = models.CharField(max_length=32, unique=True)
    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=20)
    title = models.CharField(max_length=200)
    asked = models.CharField(max_length=64)
    address = models.CharField(max_length=2_500)
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    why = models.CharField(max_length=300, blank=True)
    made = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["teacher", "kind", "asked"])]

    def get_absolute_url(self):
        return reverse("jobs:job", args=[self.pk])

    @classmethod
    def lose_open(cls):
        """At a start: work of the process before is lost, fetched or not; old work is forgotten."""
        now = timezone.now()
        cls.objects.filter(state__in=[*cls.OPEN, cls.State.DONE]).update(state=cls.State.LOST, ended=now)
        cls.objects.filter(made__lt=now - KEPT_FOR).delete()

    @property
    def is_open(self):
        """Whether it is still to be done."""
        return self.state in self.OPEN
