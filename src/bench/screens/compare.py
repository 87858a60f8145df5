"""Two ways of solving a passage side by side: other states, tempi, instruments or schools."""

from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.bench import At, note_at
from bench.screens.changes import NoteChange, note_change
from bench.systems import View
from core.routes.explain import NOTEWORTHY, route_faults
from core.routes.faults import STRANDS
from core.words import in_100
from drawing.compact import small_hands
from studio.address import Address

NOTES_SHOWN = 200


@dataclass(frozen=True)
class Side:
    """One of the two.

    Parameters
    ----------
    name : str
        What sets it apart.
    by_turns : str
        The address of its bench, where one key goes to the other.
    """

    name: str
    played_on: str
    tempo_bpm: float
    schools: str
    faults: float
    by_strand: dict[str, float]
    by_turns: str


@dataclass(frozen=True)
class Differs:
    """A note that is fingered otherwise, with drawings of both; empty where one has no fingering."""

    change: NoteChange
    drawings: tuple[str, str]


@dataclass(frozen=True)
class ComparePage(At):
    """The comparison, note by note where the two differ.

    Parameters
    ----------
    differences : list of (str, float, float, str)
        For each strand the faults of both, and the difference in words.
    """

    one: Side
    other: Side
    differences: tuple[tuple[str, float, float, str], ...]
    notes: tuple[Differs, ...]
    left_out: int
    swapped: str


def compare_page(opened: Opened, other: Opened, note_id: str, asked: dict[str, str]) -> ComparePage:
    """Build the page.

    Parameters
    ----------
    asked : dict of str to str
        What the address asks of the other side.
    """
    sides = [_side(opened, other), _side(other, opened)]
    view = View(opened, opened.solution(), None, frozenset())
    entries = {
        event.id: entry
        for event, entry in zip(other.solution().events, other.solution().entries, strict=True)
    }
    here = zip(view.solution.events, view.solution.entries, strict=True)
    differ = [
        (event, entry, entries.get(event.id)) for event, entry in here if entry != entries.get(event.id)
    ]
    plain = not (set(asked) - {"with"})
    swapped = _at(other).query(**{"with": opened.state.number}) if plain else ""
    return ComparePage(
        **vars(note_at(opened, note_id)),
        one=sides[0],
        other=sides[1],
        differences=tuple(_difference(strand, *sides) for strand in STRANDS),
        notes=tuple(_differs(view, other, *each) for each in differ[:NOTES_SHOWN]),
        left_out=max(0, len(differ) - NOTES_SHOWN),
        swapped=swapped,
    )


def _at(opened):
    return Address(state=str(opened.state.number))


def _differs(view, other, event, one_entry, other_entry):
    pairs = ((one_entry, view.opened.in_hand), (other_entry, other.in_hand))
    return Differs(
        note_change(view, event, one_entry, other_entry),
        tuple(small_hands(entry.fingering, in_hand) if entry else "" for entry, in_hand in pairs),
    )


def _side(opened, other):
    faults = route_faults(opened.solution().table)
    return Side(
        name=opened.state.name or f"{opened.state.number}: {opened.state.what}",
        played_on=opened.played_on,
        tempo_bpm=opened.settings.tempo_bpm,
        schools=", ".join(sorted(opened.in_hand.positions)),
        faults=faults.total,
        by_strand=faults.by_strand,
        by_turns=_at(opened).query(other=other.state.number),
    )


def _difference(strand, one, other):
    a, b = one.by_strand[strand], other.by_strand[strand]
    if abs(a - b) < NOTEWORTHY:
        return strand, a, b, "hardly any difference"
    return strand, a, b, f"{in_100(a - b)} {'fewer' if b < a else 'more'}"
