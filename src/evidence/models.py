"""What was judged, read and preferred of fingerings on students' instruments.

A fingering is named by the id of its entry in the chart.
"""

from django.db import models
from django.db.models import Q

from core.charts.entry import Colour, Speaks, Tone
from core.evidence.setups import Keeps
from core.evidence.sources import Handling, Tuning
from core.practice.attempts import Began, By, Place, Result
from studio.models import OwnedInstrument


def words_of(scale):
    """The words of a scale as choices."""
    return [(word.value, word.value) for word in scale]


class OfFingering(models.Model):
    """What concerns one fingering on one student's instrument."""

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="%(class)ss")
    entry = models.CharField(max_length=60)

    class Meta:
        abstract = True


class Trial(models.Model):
    """Fingerings of one note tried one after the other at the stand; see `core.evidence.trial`.

    `items` are ids of entries, or touches that no chart has (`evidence.trials.UNTRIED`); `answers` go with
    the first of them. `coming_from` is the entry that each is come to from, or empty.
    """

    OWNED_BY = "instrument__teacher"

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="trials")
    setup = models.PositiveIntegerField()
    note_midi = models.PositiveSmallIntegerField()
    coming_from = models.CharField(max_length=60, blank=True)
    items = models.JSONField(default=list)
    answers = models.JSONField(default=list)
    blind = models.BooleanField(default=False)
    colour = models.BooleanField(default=False)
    made = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]


class Prepared(models.Model):
    """What a teaching position asks of a student first, logged as done on this instrument."""

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="prepared")
    position = models.CharField(max_length=120)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["instrument", "position"], name="prepared_once")]


class JudgementMade(OfFingering):
    """A teacher's rating of a fingering, in the words of `core.evidence`; empty is not judged."""

    setup = models.PositiveIntegerField()
    pitch = models.CharField(max_length=20, choices=words_of(Tuning), blank=True)
    tone = models.CharField(max_length=20, choices=words_of(Tone), blank=True)
    colour = models.CharField(max_length=20, choices=words_of(Colour), blank=True)
    speaks = models.CharField(max_length=20, choices=words_of(Speaks), blank=True)
    hands = models.CharField(max_length=20, choices=words_of(Handling), blank=True)
    remark = models.CharField(max_length=300, blank=True)
    trial = models.ForeignKey(Trial, models.SET_NULL, null=True, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["instrument", "entry"])]

    @property
    def tells(self):
        """What it tells of, the colour as part of the tone."""
        told = {
            "pitch": self.pitch,
            "tone": self.tone or self.colour,
            "speaks": self.speaks,
            "hands": self.hands,
        }
        return {name for name, word in told.items() if word}

    @property
    def words(self):
        """What was judged, in one line; the remark stands apart."""
        named = {"tone": self.tone, "colour": self.colour, "speaks": self.speaks, "hands": self.hands}
        return " · ".join(
            filter(None, (self.pitch, *(f"{name}: {word}" for name, word in named.items() if word)))
        )


class ReadingsTaken(OfFingering):
    """Tuner readings taken together, in cents, sharp positive.

    `origin` says how they came here, `kind` what was played.
    """

    class Origin(models.TextChoices):
        TYPED = "typed", "typed from a tuner"

    class Played(models.TextChoices):
        NOTE = "note", "single notes"

    setup = models.PositiveIntegerField()
    cents = models.JSONField()
    origin = models.CharField(max_length=20, choices=Origin.choices, default=Origin.TYPED)
    kind = models.CharField(max_length=20, choices=Played.choices, default=Played.NOTE)
    trial = models.ForeignKey(Trial, models.SET_NULL, null=True, blank=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["instrument", "entry"])]

    @property
    def tells(self):
        """What it tells of."""
        return {Keeps.PITCH.value}

    @property
    def words(self):
        """What was read, in one line."""
        return ", ".join(f"{round(cents, 1):g}" for cents in self.cents) + " cents"


class Preference(OfFingering):
    """A fingering preferred on this instrument, one for each note."""

    note_midi = models.PositiveIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["instrument", "note_midi"], name="preference_once")]


class SpotPlayed(models.Model):
    """Notes one after the other as they were played; see `core.practice.attempts`.

    `notes` are rows of written pitch, entry and quarters; `name` is made of all that it is, so that the same
    spot is kept once.
    """

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="spots")
    name = models.UUIDField()
    passage = models.ForeignKey("passages.KeptPassage", models.SET_NULL, null=True, related_name="spots")
    first = models.PositiveIntegerField(default=0)
    notes = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["instrument", "name"], name="spot_once")]


class AttemptMade(models.Model):
    """One note or spot played once, and what came of it, in the words of `core.practice.attempts`.

    `key` is made where it was tapped: what is sent twice is kept once. `entry` is empty where nobody said
    which fingering it was. `day` is the day by the clock that hung there, `offset_min` minutes ahead of UTC.
    """

    OWNED_BY = "instrument__teacher"

    class Origin(models.TextChoices):
        PRESSED = "pressed", "pressed"
        BROUGHT = "brought in", "from a file"

    instrument = models.ForeignKey(OwnedInstrument, models.CASCADE, related_name="attempts")
    key = models.UUIDField()
    setup = models.PositiveIntegerField()
    note_midi = models.PositiveSmallIntegerField()
    entry = models.CharField(max_length=60, blank=True)
    result = models.CharField(max_length=20, choices=words_of(Result))
    cracked_to = models.PositiveSmallIntegerField(null=True, blank=True)
    place = models.CharField(max_length=20, choices=words_of(Place), default=Place.ROOM)
    began = models.CharField(max_length=20, choices=words_of(Began), default=Began.TONGUED)
    by_heart = models.BooleanField(default=True)
    spot = models.ForeignKey(SpotPlayed, models.CASCADE, null=True, related_name="attempts")
    at = models.PositiveSmallIntegerField(default=0)
    bpm = models.PositiveSmallIntegerField(null=True, blank=True)
    by = models.CharField(max_length=20, choices=words_of(By), default=By.TEACHER)
    made = models.DateTimeField()
    day = models.DateField()
    offset_min = models.SmallIntegerField(default=0)
    origin = models.CharField(max_length=20, choices=Origin.choices, default=Origin.PRESSED)

    class Meta:
        ordering = ["made", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["instrument", "key"], name="attempt_once"),
            models.CheckConstraint(
                condition=Q(cracked_to=None) | Q(result=Result.CRACKED), name="attempt_cracked_to"
            ),
        ]
        indexes = [
            models.Index(fields=["instrument", "made"]),
            models.Index(fields=["instrument", "note_midi"]),
            # all that is asked for evidence, on every page of an instrument
            models.Index(
                fields=["instrument", "entry", "setup", "result", "cracked_to", "began", "place", "spot"],
                name="attempt_evidence",
            ),
            models.Index(
                fields=["instrument", "spot", "at", "setup", "result", "cracked_to", "bpm", "began", "place"],
                condition=Q(spot__isnull=False),
                name="attempt_spots",
            ),
        ]


class ReachGuessed(models.Model):
    """How far the teacher thinks a student reaches on an instrument, before anything is counted."""

    instrument = models.OneToOneField(OwnedInstrument, models.CASCADE, related_name="reach_guessed")
    note_midi = models.PositiveSmallIntegerField()


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
