"""Count mode: one note large, and one press for what came of each attempt."""

from dataclasses import dataclass

from django.utils.safestring import SafeString

from core.charts.entry import Entry
from core.music.pitch import Pitch, spell
from core.overtones.ladder import ladder
from core.practice.attempts import Began, Place, Result
from core.practice.ladder import begin, climbed
from core.practice.learning import Learning
from drawing.compact import large_symbol
from practice.queries import Counted
from studio.address import Address

CRACKS_SHOWN, NEAR = 3, 14
KNOWN = ("by heart", "looked up")
IN_ADDRESS = {"by heart": "yes", "looked up": "no"}
MISSES = (Result.CRACKED, Result.SILENT, Result.LATE)


@dataclass(frozen=True)
class Press:
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


def turn_of(name, label, words, now, address) -> Turn:
    """The ways of a turn.

    Parameters
    ----------
    words : iterable of str
        In an address by their names, which are those that are shown but for `KNOWN`.
    address : callable
        Gives the address of the page with another value of the name.
    """
    return Turn(
        name, label, tuple((address(**{name: IN_ADDRESS.get(w, w)}), str(w), w == now) for w in words)
    )


@dataclass(frozen=True)
class CountPage:
    """A note that is counted.

    Parameters
    ----------
    others : tuple of (str, str)
        Other fingerings of the note: address and name.
    turns : tuple of Turn
        Where it is played, how it begins, whether it is known.
    chance : str
        How likely the next one is clean, in words.
    climb, step_bpm, climb_says : str
        The ladder that is climbed, as an address names it, its step, and how it stands; empty for none.
    last : tuple of str
        What came of the last attempts, the last first.
    """

    note: Pitch
    entry: str
    name: str
    drawing: SafeString
    others: tuple[tuple[str, str], ...]
    place: str
    began: str
    by_heart: bool
    turns: tuple[Turn, ...]
    presses: tuple[Press, ...]
    counted: Counted
    in_all: Counted
    chance: str
    last: tuple[str, ...]
    closely: str
    climb: str
    step_bpm: str
    climb_says: str


def count_page(
    in_hand,
    note: Pitch,
    entry: Entry | None,
    place: Place,
    *,
    began: Began = Began.TONGUED,
    by_heart: bool = True,
    counted,
    cracks,
    last,
    learning,
    climbing=None,
) -> CountPage:
    """Build the page.

    Parameters
    ----------
    cracks : sequence of int
        Notes to which it cracked most often here.
    last : sequence of (key, result, int or None)
    learning : core.practice.learning.Learning
    climbing : (practice.forms.Climb, list of bool) or None
        The ladder that is climbed, and which attempts since its begin were clean.
    """
    climb, results = climbing or (None, [])
    step = climbed(begin(climb.start, climb.target), results) if climb else None

    name = entry.id if entry else ""

    here = Address(on=in_hand.name, note=note.ascii)

    def address(one=name, **more):
        parts = {"place": place, "began": began, "by_heart": "" if by_heart else "no"}
        parts |= {"climb": str(climb) if climb else ""}
        return here.at(entry=one).query(**(parts | more))

    def named(one):
        return f"{one.kind_words} ({in_hand.said(one.fingering)})"

    others = [one for one in in_hand.at_hand(note.midi) if entry is None or one.id != entry.id]
    return CountPage(
        note=note,
        entry=name,
        name=named(entry) if entry else "any fingering",
        drawing=large_symbol(entry.fingering, in_hand) if entry else SafeString(""),
        others=tuple(
            (address(one.id), f"{one.kind_words} ({in_hand.said(one.fingering)})") for one in others
        ),
        place=place,
        began=began,
        by_heart=by_heart,
        turns=(
            turn_of("place", "Where", Place, place, address),
            turn_of("began", "How it begins", Began, began, address),
            turn_of("by_heart", "Whether it is known", KNOWN, KNOWN[not by_heart], address),
        ),
        presses=presses(in_hand, note, entry, cracks),
        counted=counted[0],
        in_all=counted[1],
        chance=chance_words(learning, note.midi, place, entry.id if entry else ""),
        last=tuple(came(result, cracked) for _, result, cracked in last),
        closely=here.query(),
        climb=str(climb) if climb else "",
        step_bpm=f"{step.bpm:g}" if step else "",
        climb_says=climb_says(step) if step else "",
    )


def climb_says(step):
    """Where a student stands on the ladder, and what it asks."""
    if step.done:
        return f"♩ = {step.target:g} holds: {step.clean} clean in a row."
    goal = "it holds" if step.bpm >= step.target else "it goes up"
    return f"♩ = {step.bpm:g} of {step.target:g}: {step.clean} of {step.wanted} clean in a row, then {goal}."


def presses(
    in_hand, note: Pitch, entry: Entry | None, cracks, *, stumbles: bool = False
) -> tuple[Press, ...]:
    """Clean and not, for keys and pedals; then the notes to which it may crack."""
    likely = dict.fromkeys([*cracks, *_competing(in_hand, note, entry)])
    results = [Result.CLEAN, *([Result.STUMBLED] if stumbles else []), *MISSES]
    keys = {0: "1 ArrowRight PageDown", 1: "2 ArrowLeft PageUp"}
    found = [
        Press(str(result).capitalize(), result, "", keys.get(n, str(n + 1)))
        for n, result in enumerate(results)
    ]
    found += [
        Press(f"Cracked to {spell(midi)}", Result.CRACKED, spell(midi).ascii, str(len(found) + 1 + n))
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


def came(result, cracked):
    """What came of an attempt, in words."""
    return f"{result} to {spell(cracked)}" if cracked is not None else str(result)


def chance_words(learning: Learning, midi: int, place: Place, entry: str = "") -> str:
    """How likely the next attempt is clean, as a teacher would say it."""
    of_ten = round(10 * learning.chance(midi, place, entry))
    if of_ten in (0, 10):
        return f"nearly {'every one' if of_ten else 'none'} may be expected clean"
    return f"about {of_ten} of 10 may be expected clean"
