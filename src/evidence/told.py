"""What all attempts on a student's instrument tell, worked out once and gone on from."""

from functools import lru_cache

from django.utils import timezone

from core.errors import PracticeError
from core.instruments.fingering import Kind
from core.practice.attempts import Attempt, Began, Place, Result
from core.practice.learning import Learning, after, begin, on_day
from core.practice.learning_format import from_bytes
from core.practice.reach import reach
from evidence.models import AttemptMade, ReachGuessed, Told

COLUMNS = ("pk", "note_midi", "result", "day", "place", "entry", "cracked_to", "began", "by_heart")
# States that were read last, by their bytes.
STATES_KEPT = 64
USUAL = {Kind.STANDARD, Kind.PALM, Kind.SIDE, Kind.LONG}


def guess_on(owned, in_hand):
    """How far the teacher thinks the student reaches; the top of the usual range if nobody said."""
    said = ReachGuessed.objects.filter(instrument=owned).values_list("note_midi", flat=True).first()
    return usual_top(in_hand) if said is None else said


def usual_top(in_hand):
    """The highest note with a usual fingering at hand."""
    standard = (e.note.midi for e in in_hand.catalogue.entries if e.kind in USUAL and not in_hand.lacking(e))
    return max(standard, default=in_hand.instrument.middle.midi)


def learning_on(owned, in_hand, guess) -> Learning:
    """What all attempts on an instrument tell, as of today: days off since the last have lost something."""
    *_, learning = told_on(owned, in_hand, guess)
    today = timezone.localdate().toordinal()
    return on_day(learning, today) if learning.day is not None and learning.day < today else learning


def told_on(owned, in_hand, guess) -> tuple[int, int, Learning]:
    """What all attempts on an instrument tell as of the last one: its key, their number, what they tell.

    What was told before is gone on from where attempts were only added, and none lies earlier.
    """
    notes = in_hand.instrument.accepted
    rows = AttemptMade.objects.filter(instrument=owned)
    last, count, learning = _stored(owned, guess, notes)
    if rows.filter(pk__lte=last).count() != count or learning is None:
        last, count, learning = 0, 0, begin(notes[0], notes[-1], guess)
    new = list(rows.filter(pk__gt=last).order_by("day", "made", "pk").values_list(*COLUMNS, named=True))
    attempts = [attempt_of(row) for row in new]
    if attempts and learning.day is not None and attempts[0].day < learning.day:
        learning = begin(notes[0], notes[-1], guess)
        new = list(rows.order_by("day", "made", "pk").values_list(*COLUMNS, named=True))
        attempts, count = [attempt_of(row) for row in new], 0
    learning = after(learning, attempts)
    return max([last, *(row.pk for row in new)]), count + len(new), learning


def _stored(owned, guess, notes):
    """What was told when the last attempt was kept; nothing where it began from another guess or range."""
    row = Told.objects.filter(instrument=owned, guess=guess).first()
    if row is not None:
        try:
            learning = _read(bytes(row.state))
        except PracticeError:
            return 0, 0, None
        if (learning.low, learning.high) == (notes[0], notes[-1]):
            return row.last, row.count, learning
    return 0, 0, None


_read = lru_cache(maxsize=STATES_KEPT)(from_bytes)


def attempt_of(row) -> Attempt:
    """A stored attempt as the core knows it; `row` has what `COLUMNS` name."""
    return Attempt(
        midi=row.note_midi,
        result=Result(row.result),
        day=row.day.toordinal(),
        place=Place(row.place),
        fingering=row.entry,
        cracked_to=row.cracked_to,
        began=Began(row.began),
        by_heart=row.by_heart,
    )


def reach_counted(owned, in_hand):
    """The reach by what was counted; None where nothing was."""
    learning = learning_on(owned, in_hand, guess_on(owned, in_hand))
    return reach(learning) if learning.day is not None else None
