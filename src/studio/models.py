"""A teacher's students and the instruments that they play."""

from django.conf import settings
from django.db import models

from core.evidence.setups import FIRST, in_force
from core.instruments.hand import Hand
from studio.shipped import instrument, instrument_choices


class Student(models.Model):
    """A student, or a desk of a band, by whatever name the teacher uses.

    `hand` is what is particular about the hands, as `core.instruments.hand.Hand` takes it.
    """

    class Level(models.TextChoices):
        BEGINNING = "beginning", "Beginning"
        MOVING_ON = "moving on", "Moving on"
        ADVANCED = "advanced", "Advanced"

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="students")
    name = models.CharField(max_length=100)
    level = models.CharField(max_length=20, choices=Level.choices, default=Level.MOVING_ON)
    notes = models.TextField(blank=True, max_length=2000)
    hand = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["name", "pk"]

    def __str__(self):
        return self.name

    @property
    def hand_said(self):
        """What is particular about the hands, in words."""
        return Hand.from_json(self.hand).said


class OwnedInstrument(models.Model):
    """One instrument in a student's hands: what is fitted, how it is tuned, what it is played with.

    `fitted` lists the optional touches and fittings that it has. A change of reed or mouthpiece
    begins a new `Setup`; what was heard before is kept with the old one. `positions`
    departs from the teacher's own: a position by the question that it answers, empty for none.
    """

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="instruments")
    student = models.ForeignKey(Student, models.CASCADE, related_name="instruments")
    model = models.CharField(max_length=40, choices=instrument_choices)
    name = models.CharField(max_length=100)
    fitted = models.JSONField(default=list)
    a4_hz = models.FloatField(default=440.0)
    notes = models.TextField(blank=True, max_length=2000)
    setup = models.PositiveIntegerField(default=1)
    positions = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["student__name", "name", "pk"]

    def __str__(self):
        return f"{self.student.name}, {self.name}"

    @property
    def shipped(self):
        """The model of instrument that it is."""
        return instrument(self.model)

    @property
    def lacks(self):
        """Labels of the touches and fittings that are usual on such an instrument, and not on it."""
        model = self.shipped
        return [
            label
            for name, label in model.optional.items()
            if name in model.usually_fitted and name not in self.fitted
        ]

    @property
    def setups_in_force(self):
        """Under which set-ups what was heard counts now."""
        return FIRST if self.setup == 1 else self.in_force_with(self.setup)

    def in_force_with(self, number):
        """Under which it would count with another of its set-ups."""
        return in_force(number, {s.number: (s.follows, s.keeps) for s in self.setups.all()})

    @property
    def present(self):
        """The present set-up; wants `setups` fetched beforehand."""
        return next((setup for setup in self.setups.all() if setup.number == self.setup), None)


class Setup(models.Model):
    """Reed and mouthpiece, or reed and crook, from a day on.

    `keeps` names what still holds of the set-up that it `follows`, in words of `core.evidence.setups.Keeps`.
    """

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="setups")
    number = models.PositiveIntegerField()
    reed = models.CharField(max_length=100, blank=True)
    mouthpiece = models.CharField(max_length=100, blank=True)
    follows = models.PositiveIntegerField(null=True, blank=True)
    keeps = models.JSONField(default=list, blank=True)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["instrument", "number"], name="setup_number_once")]

    @property
    def words(self):
        """What is noted of it; empty if nothing is."""
        return " · ".join(filter(None, (self.reed, self.mouthpiece)))

    def unlike(self, other):
        """What is noted of it, without what another has as well."""
        mine = (self.reed, self.mouthpiece)
        own = [
            word for word, theirs in zip(mine, (other.reed, other.mouthpiece), strict=True) if word != theirs
        ]
        return " · ".join(filter(None, own))


# Not a question of the schools, but kept like one: how touches are named on screen and on sheets.
NAMING = "naming of touches"
# Nor these: the clock by which days are told, and the day on which weeks begin.
ZONE, WEEK_BEGINS = "time zone", "week begins"
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


class Teaching(models.Model):
    """The position that a teacher takes on one question, unless an instrument departs from it."""

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="teaching")
    question = models.CharField(max_length=60)
    position = models.CharField(max_length=100)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["teacher", "question"], name="teaching_once")]


class Binned(models.Model):
    """Something that was deleted, with all that went with it; see `studio.bin`.

    `document` is what it was, as records; `keys` are those of the records and of what they name, by the names
    there; `named` are fields of others that named it until then: model, field, key that stood there, and keys
    of the rows. `said` tells in words what went with it.
    """

    teacher = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="binned")
    what = models.CharField(max_length=200)
    said = models.JSONField(default=list)
    document = models.TextField()
    keys = models.JSONField(default=dict)
    named = models.JSONField(default=list)
    deleted = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-deleted", "-pk"]
