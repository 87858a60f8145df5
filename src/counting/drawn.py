"""What a page drew to be counted: notes with the fingerings that stood there, and how they are played.

A note is a spot of one. A press carries what was drawn, signed, and is kept as that: nothing is worked out
afterwards, whatever has become of charts, evidence or set-ups meanwhile.
"""

from dataclasses import dataclass, replace

from django.core import signing
from django.core.exceptions import ValidationError

from core.errors import PracticeError
from core.practice.attempt_format import steps_from, steps_text
from core.practice.attempts import Attempt, Began, By, Place, Spot, SpotNote

SIGNER = signing.Signer(salt="counting.drawn")


@dataclass(frozen=True)
class Drawn:
    """A spot as it was drawn.

    Parameters
    ----------
    owned, setup : int
        Key of the student's instrument, and number of the set-up that was played on it.
    steps : tuple of SpotNote
        From 1 to 64.
    at : int
        The place in the spot of the note of which a miss is said.
    passage, first : int or None, int
        Key of the passage that it is of, and the place of its first note there.
    page : int or None
        Key of the student's page on which it stood; None for the teacher's own.
    """

    owned: int
    setup: int
    steps: tuple[SpotNote, ...]
    at: int = 0
    passage: int | None = None
    first: int = 0
    place: Place = Place.ROOM
    began: Began = Began.TONGUED
    by_heart: bool = True
    page: int | None = None

    @property
    def step(self) -> SpotNote:
        """The note of which a miss is said."""
        return self.steps[self.at]

    @property
    def spot(self) -> Spot | None:
        """The spot as it is kept; None for a note alone."""
        return Spot(self.steps, self.passage, self.first) if len(self.steps) > 1 else None

    def attempt(self, result, *, day, cracked_to=None, bpm=None) -> Attempt:
        """One playing of it, and what came of it."""
        return Attempt(
            midi=self.step.midi,
            result=result,
            day=day,
            place=self.place,
            fingering=self.step.fingering,
            cracked_to=cracked_to,
            began=self.began,
            by_heart=self.by_heart,
            spot=self.spot,
            at=self.at if self.spot else 0,
            bpm=bpm,
            by=By.TEACHER if self.page is None else By.STUDENT,
        )

    def signed(self) -> str:
        """As a press carries it: the same is signed alike, so that a page knows its own again."""
        parts = vars(self) | {"steps": steps_text(self.steps)}
        return SIGNER.sign_object(list(parts.values()), compress=True)


def drawn_of(text) -> Drawn:
    """What a press says was drawn.

    Raises
    ------
    ValidationError
        If it was not drawn here.
    """
    try:
        drawn = Drawn(*SIGNER.unsign_object(str(text)))
        return replace(
            drawn,
            steps=steps_from(drawn.steps),
            place=Place(drawn.place),
            began=Began(drawn.began),
        )
    except (signing.BadSignature, PracticeError, TypeError, ValueError) as error:
        raise ValidationError("This press does not say what it was for.", code="drawn") from error
