"""What an address of counting asks: a spot as it was fingered, or where one is to be opened."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime

from django.core.exceptions import ValidationError
from django.http import Http404
from django.urls import reverse

from bench.queries import Opened
from bench.queries import opened as opened_of
from catalogue.queries import Chosen, note_in, students_own
from core.errors import PracticeError
from core.practice.attempt_format import steps_from, steps_text
from core.practice.attempts import Began, Place, SpotNote
from counting.drawn import Drawn
from counting.spots import began_of, span_between, stands_in, steps_of
from passages.models import KeptPassage
from passages.queries import passage_of, state_of
from studio.access import of
from studio.address import Address
from studio.refusals import refuse

TEMPI = range(20, 401)


@dataclass(frozen=True)
class Climb:
    """A ladder of tempi that is climbed: from a tempo to another, since a moment."""

    start: int
    target: int
    since: datetime

    def __str__(self):
        return f"{self.start}-{self.target}-{int(self.since.timestamp())}"


def climb_named(text) -> Climb | None:
    """A climb as an address names it; None where it names none, or what cannot be."""
    parts = text.split("-")
    if len(parts) != 3 or not all(p.isascii() and p.isdigit() and len(p) < 12 for p in parts):
        return None
    start, target, since = map(int, parts)
    if not (start in TEMPI and target in TEMPI):
        return None
    return Climb(start, target, datetime.fromtimestamp(since, UTC))


@dataclass(frozen=True)
class Asked:
    """What is counted, and how its page stands.

    Parameters
    ----------
    state : str
        Number of the state of the passage, where it was opened from one that was not the current one.
    bpm : int or None
        Tempo; None for that of the passage, or none.
    """

    drawn: Drawn
    state: str = ""
    bpm: int | None = None
    climb: Climb | None = None

    def to(self, **changes) -> str:
        """The address, with other parts of the spot or of the page."""
        return reverse("counting:count", query=self.parts(**changes))

    def parts(self, **changes) -> dict[str, str]:
        """What stands after the ``?``, without what is empty or usual."""
        own = {name: changes.pop(name) for name in ("state", "bpm", "climb") if name in changes}
        asked = replace(self, drawn=replace(self.drawn, **changes), **own)
        drawn = asked.drawn
        parts = {
            "on": f"i{drawn.owned}",
            "spot": steps_text(drawn.steps),
            "at": drawn.at or "",
            "passage": drawn.passage or "",
            "first": drawn.first or "",
            "state": asked.state,
            "place": "" if drawn.place is Place.ROOM else drawn.place,
            "began": "" if drawn.began is Began.TONGUED else drawn.began,
            "by_heart": "" if drawn.by_heart else "no",
            "tempo": asked.bpm or "",
            "climb": str(asked.climb or ""),
        }
        return {name: str(value) for name, value in parts.items() if value}


@dataclass(frozen=True)
class Opening:
    """What was asked, on which instrument, and the passage where its notes stand in one."""

    asked: Asked
    at: Chosen
    within: Opened | None = None

    @property
    def moved(self) -> bool:
        """Whether its passage is there no more, or has other notes there by now."""
        return self.asked.drawn.passage is not None and self.within is None


def as_drawn(teacher, data) -> Opening:
    """What an address names that says how its spot is fingered.

    Raises
    ------
    ValidationError
        If it names a note or a fingering that the instrument has not.
    """
    at, address = students_own(teacher, Address.read(data).on), Address.read(data)
    try:
        steps = steps_from(data.get("spot", ""))
    except PracticeError as error:
        raise refuse(error, "spot") from error
    for step in steps:
        _check(at.in_hand, step)
    number = _number(data.get("at", ""))
    passage = _number(data.get("passage", "")) or None
    first = _number(data.get("first", ""))
    within = _within(teacher, at, passage, address.state)
    drawn = Drawn(
        owned=at.owned.pk,
        setup=at.owned.setup,
        steps=steps,
        at=number if number < len(steps) else 0,
        passage=passage,
        first=first,
        place=_word(Place, data.get("place", ""), Place.ROOM),
        began=_word(Began, data.get("began", ""), Began.TONGUED),
        by_heart=data.get("by_heart") != "no",
    )
    try:
        _ = drawn.spot
    except PracticeError as error:
        raise refuse(error, "spot") from error
    bpm = _number(data.get("tempo", ""))
    asked = Asked(drawn, address.state, bpm if bpm in TEMPI else None, climb_named(data.get("climb", "")))
    return Opening(asked, at, within if stands_in(within, steps, first) else None)


def to_open(teacher, data, passage=None) -> Opening:
    """What an address names by its notes in a passage, or by a note: fingered as it would be now."""
    opening = _of_passage(teacher, passage, data) if passage else _of_note(teacher, data)
    drawn = replace(
        opening.asked.drawn,
        place=_word(Place, data.get("place", ""), Place.ROOM),
        by_heart=data.get("by_heart") != "no",
    )
    return replace(opening, asked=replace(opening.asked, drawn=drawn))


def _of_passage(teacher, key, data):
    passage, here = passage_of(teacher, key), Address.read(data)
    if passage.owned is None:
        raise Http404("attempts are counted on a student's instrument")
    opened = opened_of(passage, state_of(passage, here.state))
    at = students_own(teacher, f"i{passage.owned_id}")
    alone = here.note if not opened.passage.purpose else ""
    asked = here.first or alone, here.last or alone, data.get("miss", "")[:60]
    return Opening(spot_asked(opened, *asked, here.entry), at, opened)


def spot_asked(opened: Opened, first_id="", last_id="", miss_id="", entry="", page=None) -> Asked:
    """Notes of a passage, fingered as its route has them now; see `counting.spots.span_between`."""
    here = span_between(opened, first_id, last_id, miss_id)
    drawn = Drawn(
        owned=opened.owned.pk,
        setup=opened.owned.setup,
        steps=steps_of(opened, here.first, here.last, entry),
        at=here.at - here.first,
        passage=opened.passage.pk,
        first=here.first,
        began=began_of(opened.solution().events[here.at]),
        page=page,
    )
    now = opened.state.pk == opened.passage.current_id
    return Asked(drawn, "" if now else str(opened.state.number))


def _of_note(teacher, data):
    at, problems, address = students_own(teacher, Address.read(data).on), [], Address.read(data)
    note = note_in(at.in_hand, address.note, problems)
    if problems:
        raise ValidationError(problems)
    note = note or at.in_hand.instrument.middle
    entry = at.in_hand.catalogue.by_id.get(address.entry)
    if entry is None or entry.note.midi != note.midi:
        entry = at.in_hand.plainest(note)
    step = SpotNote(note.midi, entry.id if entry else "", 0.0)
    return Opening(Asked(Drawn(at.owned.pk, at.owned.setup, (step,))), at)


def _within(teacher, at, key, state):
    """The passage of an instrument under a state; None where it is there no more, or cannot be solved."""
    rows = of(teacher, KeptPassage).select_related("current__parent", "owned__student")
    passage = rows.filter(pk=key, owned=at.owned).first() if key else None
    if passage is None:
        return None
    opened = opened_of(passage, state_of(passage, state), at.in_hand)
    try:
        opened.solution()
    except ValidationError:
        return None
    return opened


def _check(in_hand, step):
    entry = in_hand.catalogue.by_id.get(step.fingering)
    if step.midi not in in_hand.instrument.accepted or (
        step.fingering and (entry is None or entry.note.midi != step.midi)
    ):
        raise ValidationError(
            "A fingering of this spot is not kept for this instrument any more. Open it anew.", code="spot"
        )


def _number(text) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else 0


def _word(words, text, usual):
    return words(text) if text in set(words) else usual
