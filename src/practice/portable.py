"""Attempts out of one studio and into another: nothing in them is named by a number of this database."""

from collections import Counter
from dataclasses import dataclass, replace

from django.core.exceptions import ValidationError

from core.errors import CoreError
from core.instruments.fingering import format_fingering, parse_fingering
from core.music.events import sounding_events
from core.practice.attempt_format import Logged, Whence
from core.practice.attempts import Spot, SpotNote
from evidence.models import AttemptMade
from passages.music import read_passage

# How a fingering of a teacher's own stands in a file: by its touches, which are the same anywhere.
BY_TOUCHES, GAP = "touches=", "+"


def taken_away(owned, in_hand, logged) -> list[Logged]:
    """Attempts on an instrument as they leave: own fingerings by their touches, spots with their music."""
    own = (entry for entry in in_hand.catalogue.entries if entry.id not in in_hand.shipped.by_id)
    names = {entry.id: _portable(entry, in_hand) for entry in own}
    whences = _Music(owned).whence
    return [
        replace(
            _named(one, lambda _, name: names.get(name, name)), instrument=owned.model, whence=whences(one)
        )
        for one in logged
    ]


@dataclass(frozen=True)
class Brought:
    """Attempts as they are to be kept here, and what is to be said of them.

    Parameters
    ----------
    strangers : int
        Those whose fingering this instrument has not: they are kept without it.
    alone : tuple of (str, int)
        Titles of music that is not here, and how many attempts at spots of each stand by themselves.
    """

    logged: list[Logged]
    strangers: int
    alone: tuple[tuple[str, int], ...]


def brought(owned, in_hand, logged) -> Brought:
    """Attempts of a file as this instrument has them; those that are kept already are left out.

    A spot is attached to a passage only where title and notes agree.

    Raises
    ------
    ValidationError
        If they were made on another model of instrument.
    """
    others = {one.instrument for one in logged} - {"", owned.model}
    if others:
        raise ValidationError(
            f"These attempts were made on another instrument: {', '.join(sorted(others))[:80]}."
        )
    kept = set(AttemptMade.objects.filter(instrument=owned).values_list("key", flat=True))
    new = [one for one in logged if one.key not in kept]
    found, music = [], _Music(owned)
    strangers, alone = 0, Counter()
    for one in new:
        here = _named(one, lambda midi, name: _here(in_hand, midi, name))
        strangers += _names(here) != _names(one) and "" in _names(here)
        if here.attempt.spot is not None:
            passage = music.passage_of(here)
            if passage is None and here.whence is not None:
                alone[here.whence.title] += 1
            here = _in_spot(here, replace(here.attempt.spot, passage=passage))
        found.append(here)
    return Brought(found, strangers, tuple(alone.most_common()))


def _named(one: Logged, name) -> Logged:
    """The same with other names of fingerings: `name` makes them of the note and the name until now."""
    attempt = one.attempt
    if attempt.spot is None:
        return replace(one, attempt=replace(attempt, fingering=name(attempt.midi, attempt.fingering)))
    steps = tuple(SpotNote(s.midi, name(s.midi, s.fingering), s.quarters) for s in attempt.spot.steps)
    return _in_spot(one, replace(attempt.spot, steps=steps))


def _in_spot(one: Logged, spot: Spot) -> Logged:
    step = spot.steps[one.attempt.at]
    return replace(one, attempt=replace(one.attempt, spot=spot, fingering=step.fingering))


def _names(one: Logged):
    spot = one.attempt.spot
    return [step.fingering for step in spot.steps] if spot else [one.attempt.fingering]


def _portable(entry, in_hand):
    return BY_TOUCHES + format_fingering(entry.fingering, in_hand.instrument).replace(" ", GAP)


def _here(in_hand, midi, name):
    """The id of a fingering on this instrument; empty where it has none such for the note."""
    if not name.startswith(BY_TOUCHES):
        entry = in_hand.catalogue.by_id.get(name) if name in in_hand.shipped.by_id else None
        return name if entry is not None and entry.note.midi == midi else ""
    try:
        touches = parse_fingering(name.removeprefix(BY_TOUCHES).replace(GAP, " "), in_hand.instrument)
    except CoreError:
        return ""
    same = (entry.id for entry in in_hand.catalogue.by_midi.get(midi, ()) if entry.fingering == touches)
    return next(same, "")


class _Music:
    """The passages of an instrument, each read once, and only where something asks for it."""

    def __init__(self, owned):
        self.passages = {row.pk: row for row in owned.passages.order_by("pk")}
        self.read = {}

    def events(self, key):
        if key not in self.read:
            self.read[key] = sounding_events(read_passage(self.passages[key].musicxml))
        return self.read[key]

    def whence(self, one) -> Whence | None:
        spot = one.attempt.spot
        if spot is None or spot.passage not in self.passages:
            return None
        events, title = self.events(spot.passage), self.passages[spot.passage].title
        if spot.first >= len(events):
            return Whence(title)
        head = events[spot.first].notes[0]
        return Whence(title, head.bar, str(head.beat))

    def passage_of(self, one) -> int | None:
        """The passage whose title and notes are those of a spot."""
        spot = one.attempt.spot
        for key, row in self.passages.items():
            if one.whence is not None and row.title == one.whence.title:
                there = self.events(key)[spot.first : spot.first + len(spot.steps)]
                if [event.written_pitch.midi for event in there] == [step.midi for step in spot.steps]:
                    return key
        return None
