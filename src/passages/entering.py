"""The state of a page on which notes are entered, as its form carries it, and what each press does to it."""

import json
import re
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import partial

from django.core.exceptions import ValidationError

from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.music import entry
from core.music.entry import LENGTHS, TRIPLET, Draft
from core.music.events import check_tempo
from core.music.notation.abc import read_abc
from core.music.notation.abc_writer import write_abc
from core.music.notation.score import Choices
from core.music.note_names import parse_names
from core.music.passage import Passage
from core.music.pitch import Pitch, parse_pitch, spell
from core.music.studies import Study, study
from core.numbers import decimal
from studio.refusals import refuse

NO_ID = "-"
UNDO_KEPT, UNDO_BYTES, DRAFT_BYTES = 50, 400_000, 400_000
TIMES = ("4/4", "3/4", "2/4", "6/8", "2/2", "3/8", "9/8", "12/8", "5/4", "7/8")
KEYS = tuple(range(-7, 8))
MOVES = {"left": -1, "right": 1}
# What a press does to the note that the cursor is on; with a value, what it puts there.
ON_NOTE = {
    "tie": entry.toggle_tie,
    "slur": entry.toggle_slur,
    "delete": entry.delete,
    "sharper": partial(entry.move_pitch, semitones=1),
    "flatter": partial(entry.move_pitch, semitones=-1),
    "octave-up": partial(entry.move_pitch, steps=7),
    "octave-down": partial(entry.move_pitch, steps=-7),
}
MARKED = {
    "dynamic": entry.set_dynamic,
    "articulation": entry.toggle_articulation,
    "ornament": entry.toggle_ornament,
    "chord": entry.set_chord,
}


@dataclass(frozen=True)
class Entering:
    """What a page of entry holds.

    Parameters
    ----------
    length : str
        Key of `core.music.entry.LENGTHS` for the notes that come; `dotted` and `triplet` besides.
    changing : bool
        Whether the cursor was moved, so that a length is for the note it is on.
    before : tuple of (str, int, str)
        Drafts that undo goes back to, the last at the end: as ABC, the cursor, the ids of their notes.
    """

    draft: Draft
    length: str = "4"
    dotted: bool = False
    triplet: bool = False
    changing: bool = False
    before: tuple[tuple[str, int, str], ...] = ()

    @property
    def quarters(self) -> Fraction:
        return LENGTHS[self.length] * (Fraction(3, 2) if self.dotted else 1)

    @property
    def tuplet(self) -> tuple[int, int]:
        return TRIPLET if self.triplet else (1, 1)

    @property
    def text(self) -> str:
        return write_abc(self.draft.passage)

    @property
    def ids(self) -> str:
        """Ids of the notes, in order, of those that have one."""
        found = [note.id or NO_ID for note in self.draft.notes]
        return " ".join(found) if set(found) != {NO_ID} else ""

    @property
    def fields(self) -> dict[str, str]:
        """What a form carries of it, as `read_entering` reads it."""
        on = {name: "on" if getattr(self, name) else "" for name in ("dotted", "triplet", "changing")}
        kept = {"draft": self.text, "at": str(self.draft.at), "ids": self.ids, "earlier": self.history}
        return kept | {"next": self.length} | on

    @property
    def history(self) -> str:
        return json.dumps(self.before)


def read_entering(data) -> Entering:
    """The state that a form carries; a blank one where it carries none.

    Raises
    ------
    ValidationError
        If it carries what no page of ours wrote.
    """
    try:
        draft = _draft(data.get("draft", ""), int(data.get("at", "-1") or -1), data.get("ids", ""))
        before = tuple(
            (str(text), int(at), str(ids)) for text, at, ids in json.loads(data.get("earlier", "") or "[]")
        )
        length = data.get("next", "4")
        if length not in LENGTHS:
            raise ValueError(length)
    except (CoreError, ValueError, TypeError) as error:
        raise ValidationError("What was entered so far cannot be read; begin anew.", code="draft") from error
    on = {name: data.get(name) == "on" for name in ("dotted", "triplet", "changing")}
    return Entering(draft, length, **on, before=before[-UNDO_KEPT:])


def _draft(text: str, at: int, ids: str = "") -> Draft:
    if not text:
        return entry.blank()
    if len(text) + len(ids) > DRAFT_BYTES:
        raise ValueError("too long")
    passage = read_abc(text, Choices(rests_only=True)).passage
    return entry.move(Draft(_named(passage, ids.split()), -1), at + 1)


def _named(passage: Passage, ids: list[str]) -> Passage:
    """The passage with the ids that its notes had; none where they do not go with it."""
    count = sum(len(bar.notes) for bar in passage.bars)
    names = iter(ids if len(ids) == count else [NO_ID] * count)
    bars = tuple(
        replace(bar, notes=tuple(replace(note, id=next(names).replace(NO_ID, "")) for note in bar.notes))
        for bar in passage.bars
    )
    return replace(passage, bars=bars)


def change_of(passage: Passage) -> Entering:
    """The state in which a passage that there is begins to be changed."""
    return Entering(Draft(passage.with_fingerings({}), 0), changing=True)


def pressed(now: Entering, do: str, data, in_hand: InstrumentInHand) -> Entering:
    """The state after a press.

    Raises
    ------
    ValidationError
        If it cannot be done; nothing is changed then.
    """
    what, _, value = do.partition(":")
    if what == "undo":
        return _undone(now)
    try:
        after = _done(now, what, value, data, in_hand)
    except CoreError as error:
        raise refuse(error, "entry") from error
    if after.draft.passage == now.draft.passage:
        return after
    before = [*now.before, (now.text, now.draft.at, now.ids)][-UNDO_KEPT:]
    while sum(len(text) for text, *_ in before) > UNDO_BYTES and len(before) > 1:
        before.pop(0)
    return replace(after, before=tuple(before))


def _undone(now: Entering) -> Entering:
    if not now.before:
        return now
    try:
        return replace(now, draft=_draft(*now.before[-1]), before=now.before[:-1])
    except (CoreError, ValueError) as error:
        raise ValidationError("What was before cannot be read any more.", code="undo") from error


def _done(now: Entering, what: str, value: str, data, in_hand: InstrumentInHand) -> Entering:
    draft = now.draft
    if what in ENTERED:
        pitches = ENTERED[what](value, data, draft, in_hand)
        return _entered(now, pitches) if pitches else now
    if what in ON_NOTE:
        return replace(now, draft=ON_NOTE[what](draft))
    if what in MARKED:
        return replace(now, draft=MARKED[what](draft, value or data.get(what, "")))
    match what:
        case "length" if value in LENGTHS:
            now = replace(now, length=value, dotted=False)
            changed = entry.set_length(draft, now.quarters, now.tuplet) if now.changing else draft
            return replace(now, draft=changed)
        case "dot" if now.changing:
            return replace(now, draft=entry.dot(draft))
        case "dot":
            return replace(now, dotted=not now.dotted)
        case "triplet" if now.changing:
            return replace(now, draft=entry.triplet(draft))
        case "triplet":
            return replace(now, triplet=not now.triplet)
        case "signs":
            return replace(now, draft=_signs(draft, data))
        case "select" if re.fullmatch(r"\d{1,5}", value):
            return replace(now, draft=entry.move(Draft(draft.passage, -1), int(value) + 1), changing=True)
        case "left" | "right":
            return replace(now, draft=entry.move(draft, MOVES[what]), changing=True)
        case _:
            raise ValidationError("That action is not known here.", code="action")


def _entered(now: Entering, pitches) -> Entering:
    draft = entry.insert(now.draft, pitches, now.quarters, now.tuplet)
    return replace(now, draft=draft, changing=False)


def _near(draft: Draft, in_hand: InstrumentInHand) -> Pitch:
    return draft.near or in_hand.instrument.middle


def _step(value, _data, draft, in_hand):
    if value not in tuple("CDEFGAB"):
        raise ValidationError("That note is not known here.", code="note")
    return parse_names(value, _near(draft, in_hand), draft.key_here)


def _midi(value, _data, draft, _in_hand):
    if not re.fullmatch(r"\d{1,3}", value) or int(value) > 127:
        raise ValidationError("That key is not known here.", code="note")
    return [spell(int(value), draft.key_here)]


def _names(_value, data, draft, in_hand):
    return parse_names(data.get("names", "")[:2_000], _near(draft, in_hand), draft.key_here)


def _study(_value, data, _draft, _in_hand):
    kind = data.get("kind", "")
    if kind not in set(Study):
        raise ValidationError("That study is not known here.", code="study")
    low, high = (parse_pitch(data.get(name, "")[:8]) for name in ("low", "high"))
    return study(Study(kind), data.get("tonic", "C"), data.get("mode", "major"), low, high)


# Presses that enter notes, and which.
ENTERED = {
    "rest": lambda *_: [None],
    "step": _step,
    "pitch": lambda value, *_: [parse_pitch(value)],
    "midi": _midi,
    "names": _names,
    "study": _study,
}


def _signs(draft: Draft, data) -> Draft:
    """Key, time and tempo of the beginning."""
    fifths, time = data.get("key", "0"), data.get("time", "4/4")
    if not re.fullmatch(r"-?[0-7]", fifths) or time not in TIMES:
        raise ValidationError("Choose a key and a time signature.", code="signs")
    beats, kind = (int(part) for part in time.split("/"))
    tempo = decimal(data.get("tempo_bpm", "") or "96")
    return entry.with_signs(draft, int(fifths), (beats, kind), check_tempo(tempo))


def usual_study(in_hand: InstrumentInHand) -> dict[str, str]:
    """Where a study goes if nobody says: an octave from the lowest C."""
    low = next(midi for midi in in_hand.instrument.semitones if midi % 12 == 0)
    return {"low": spell(low).ascii, "high": spell(low + 12).ascii}
