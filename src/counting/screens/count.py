"""The page of counting: the notes of a spot, and one press for what came of each playing."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.utils.safestring import SafeString

from core.charts.entry import Entry
from core.music.events import where
from core.music.pitch import Pitch, spell
from core.overtones.ladder import ladder
from core.practice.attempts import TEMPO_LEAST, TEMPO_MOST, Began, Place, Result
from core.practice.ladder import begin, climbed
from core.practice.learning import Learning
from core.words import share_words
from counting.asked import Opening
from counting.queries import SpotCounted, Tally
from counting.screens.within import Context, named, within
from counting.spots import began_of
from drawing.compact import large_symbol
from studio.address import Address

CRACKS_SHOWN, NEAR, LAST_SHOWN = 3, 14, 8
KNOWN = ("by heart", "looked up")
MISSES = (Result.CRACKED, Result.SILENT, Result.LATE)
# Of a long spot only the notes about the one that is marked are drawn.
DRAWN_MOST, DRAWN_NEAR = 12, 2


@dataclass(frozen=True)
class PressShown:
    """What can come of an attempt: words, the value sent, and the keys that press it."""

    words: str
    result: str
    cracked_to: str
    keys: str


@dataclass(frozen=True)
class Turn:
    """What stays as it is from one attempt to the next: address, name and whether it is so, for each way."""

    name: str
    label: str
    ways: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True)
class NoteShown:
    """One note of the row; at `address` a miss is one of this note, as `label` says where there are more."""

    note: Pitch
    where: str
    name: str
    drawing: SafeString
    here: bool
    address: str
    label: str = ""


@dataclass(frozen=True)
class CountPage:
    """A spot that is counted.

    Parameters
    ----------
    drawn : str
        What is drawn, as a press carries it.
    address, parts : str, tuple of (str, str)
        Of this page; and what its address says, without a ladder.
    moves : str
        How the hands come to the note that is marked.
    others : tuple of (str, str)
        Other fingerings of a note alone: address and name.
    chance : str
        How likely the next one is clean, or how often the hands stumble.
    last : tuple of str
        What came of the last attempts, the last first.
    last_key : str
        Key of the last one.
    climb, climb_says, climb_address, climb_words : str
        The ladder that is climbed and how it stands; else the address at which one begins, and where it goes.
    moved : bool
        The passage is there no more, or has other notes by now.
    """

    title: str
    notes: tuple[NoteShown, ...]
    drawn: str
    address: str
    parts: tuple[tuple[str, str], ...]
    moves: str
    turns: tuple[Turn, ...]
    presses: tuple[PressShown, ...]
    counted: Tally
    in_all: Tally
    chance: str
    last: tuple[str, ...]
    last_key: str
    bpm: int | None
    climb: str
    climb_says: str
    climb_address: str
    climb_words: str
    others: tuple[tuple[str, str], ...]
    closely: str
    within: Context
    moved: bool

    @property
    def here(self) -> NoteShown:
        return next(note for note in self.notes if note.here)


def count_page(opening: Opening, counted: SpotCounted, learning: Learning) -> CountPage:
    """Build the page.

    Parameters
    ----------
    learning : core.practice.learning.Learning
        What all attempts on the instrument tell.
    """
    asked, in_hand, drawn = opening.asked, opening.at.in_hand, opening.asked.drawn
    entries = [in_hand.catalogue.by_id.get(step.fingering) for step in drawn.steps]
    ladder_now = asked.climb and climbed(
        begin(asked.climb.start, asked.climb.target),
        [row[1] == Result.CLEAN for row in reversed(counted.last) if row[5] >= asked.climb.since],
    )
    bpm = round(ladder_now.bpm) if ladder_now else asked.bpm or _usual_bpm(opening)
    there = within(opening, bpm) if opening.within else Context()
    alone, here = len(drawn.steps) == 1, entries[drawn.at]
    before = entries[drawn.at - 1] if drawn.at else None
    note = spell(drawn.step.midi)
    notes = _notes(opening, entries)
    start = {"start": there.start, "target": there.target}
    return CountPage(
        title=there.title or (str(note) if alone else _title(notes)),
        notes=notes,
        drawn=drawn.signed(),
        address=asked.to(),
        parts=tuple(asked.parts(climb=None).items()),
        moves=in_hand.move(before.fingering, here.fingering).sentence if before and here else "",
        turns=_turns(asked, alone),
        presses=presses(in_hand, note, here, counted.cracks, stumbles=not alone),
        counted=counted.lately,
        in_all=counted.in_all,
        chance=chance_words(learning, note.midi, drawn.place, drawn.step.fingering)
        if alone
        else _tempo_words(bpm, there),
        last=tuple(_came(notes, row) for row in counted.last[:LAST_SHOWN]),
        last_key=str(counted.last[0][0]) if counted.last else "",
        bpm=bpm,
        climb=str(asked.climb or ""),
        climb_says=_climb_says(ladder_now) if ladder_now else "",
        climb_address="" if alone else f"{asked.to(climb=None, bpm=None)}&{urlencode(start)}",
        climb_words=_climb_words(asked.climb, **start),
        others=_others(opening, note, here) if alone else (),
        closely=Address(on=opening.at.on, note=note.ascii, entry=drawn.step.fingering).query(),
        within=there,
        moved=opening.moved,
    )


def _usual_bpm(opening):
    """The tempo of the passage; none for a note alone."""
    if len(opening.asked.drawn.steps) == 1:
        return None
    if opening.within is None:
        return TEMPO_LEAST * 3
    return round(min(max(opening.within.settings.tempo_bpm, TEMPO_LEAST), TEMPO_MOST))


def _notes(opening, entries):
    in_hand, drawn = opening.at.in_hand, opening.asked.drawn
    many = len(entries) > DRAWN_MOST
    events = opening.within.solution().events[drawn.first :] if opening.within else [None] * len(entries)
    found = []
    for n, (step, entry) in enumerate(zip(drawn.steps, entries, strict=True)):
        shown = entry is not None and (not many or abs(n - drawn.at) < DRAWN_NEAR)
        event = events[n]
        note, name = event.written_pitch if event else spell(step.midi), _name(in_hand, entry)
        there = f", {where(event)}" if event else ""
        found.append(
            NoteShown(
                note=note,
                where=where(event) if event else "",
                name=name,
                drawing=large_symbol(entry.fingering, in_hand) if shown else SafeString(""),
                here=n == drawn.at,
                address=opening.asked.to(at=n, began=began_of(event) if event else drawn.began),
                label=f"A miss is at {note}{there}: {name}" if len(entries) > 1 else "",
            )
        )
    return tuple(found)


def _name(in_hand, entry):
    return named(in_hand, entry) if entry else "any fingering"


def _title(notes):
    return f"{notes[0].note} to {notes[-1].note}" + (f", {len(notes)} notes" if len(notes) > 2 else "")


def _tempo_words(bpm, within):
    of = f" of {within.target}" if within.title and bpm != within.target else ""
    return f"♩ = {bpm}{of}" + (f" · {within.risk}" if within.risk else "")


def _turns(asked, alone):
    drawn = asked.drawn

    def turn(name, label, words, now, value=lambda one: one):
        ways = tuple((asked.to(**{name: value(word)}), str(word), word == now) for word in words)
        return Turn(name, label, ways)

    began = (turn("began", "How it begins", Began, drawn.began),) if alone else ()
    known = KNOWN[not drawn.by_heart]
    return (
        turn("place", "Where", Place, drawn.place),
        *began,
        turn("by_heart", "Whether it is known", KNOWN, known, lambda one: one == KNOWN[0]),
    )


def _others(opening, note, entry):
    in_hand = opening.at.in_hand
    others = [one for one in in_hand.at_hand(note.midi) if entry is None or one.id != entry.id]
    step = opening.asked.drawn.step
    return tuple(
        (opening.asked.to(steps=(type(step)(step.midi, one.id, 0.0),)), named(in_hand, one)) for one in others
    )


def _climb_says(step):
    """Where a student stands on the ladder, and what it asks."""
    if step.done:
        return f"♩ = {step.target:g} holds: {step.clean} clean in a row."
    goal = "it holds" if step.bpm >= step.target else "it goes up"
    return f"♩ = {step.bpm:g} of {step.target:g}: {step.clean} of {step.wanted} clean in a row, then {goal}."


def _climb_words(climb, start, target):
    if climb:
        return "Begin the ladder again"
    return f"Climb from ♩ = {start} to {target}" if start < target else f"Count at ♩ = {target}"


def presses(
    in_hand, note: Pitch, entry: Entry | None, cracks, *, stumbles: bool = False
) -> tuple[PressShown, ...]:
    """Clean and not, for keys and pedals; then the notes to which it may crack."""
    likely = dict.fromkeys([*cracks, *_competing(in_hand, note, entry)])
    results = [Result.CLEAN, *([Result.STUMBLED] if stumbles else []), *MISSES]
    keys = {0: "1 ArrowRight PageDown", 1: "2 ArrowLeft PageUp"}
    found = [
        PressShown(str(result).capitalize(), result, "", keys.get(n, str(n + 1)))
        for n, result in enumerate(results)
    ]
    found += [
        PressShown(f"Cracked to {spell(midi)}", Result.CRACKED, spell(midi).ascii, str(len(found) + 1 + n))
        for n, midi in enumerate(list(likely)[:CRACKS_SHOWN])
    ]
    return tuple(found)


def _competing(in_hand, note, entry):
    """Notes of the resonances beside that of a note, the nearest first, as far as the model knows."""
    if entry is None or not in_hand.acoustics.knows(entry):
        return []
    rungs = ladder(in_hand.acoustics.model, entry.fingering)
    apart = [rung.note.midi for rung in rungs if 0 < abs(rung.note.midi - note.midi) <= NEAR]
    return sorted(apart, key=lambda midi: abs(midi - note.midi))


def chance_words(learning: Learning, midi: int, place: Place, entry: str = "") -> str:
    """How likely the next attempt is clean, as a teacher would say it."""
    return f"{share_words(learning.chance(midi, place, entry))} may be expected clean"


def _came(notes, row):
    """What came of an attempt, in words; of a spot at which note, or at which tempo."""
    _, result, cracked, at, bpm, *_ = row
    if cracked is not None:
        return f"{result} to {spell(cracked)}"
    if len(notes) == 1:
        return str(result)
    if result == Result.CLEAN:
        return "clean" if bpm is None else f"clean at {bpm}"
    return f"{result} at {notes[at].note}"
