"""What the music asks of a note beside its own fingering: ornaments, grace notes, colours on one pitch."""

from dataclasses import dataclass

from catalogue.in_hand import moves_on
from core.music.pitch import Pitch
from core.routes.colours import colours, run_about
from core.routes.trills import partner_of
from core.words import cents_words, counted
from drawing.strands import per_hundred

ORNAMENTS = {
    "trill-mark": "Trill",
    "mordent": "Mordent",
    "inverted-mordent": "Mordent",
    "turn": "Turn",
    "inverted-turn": "Turn",
    "tremolo": "Tremolo",
}
# Tones so far apart are clearly different.
CLEARLY = 0.25
# Pairs of fingerings told for an ornament; from when on their strokes are even.
PAIRS_SHOWN, EVEN = 4, 0.85


@dataclass(frozen=True)
class Alternate:
    """A fingering to alternate with, in words."""

    says: str
    entry: str
    pinned: bool


@dataclass(frozen=True)
class Alternation:
    """A note that the ornament goes to, and the ways to it from the fingering looked at, the best first.

    Parameters
    ----------
    note : str
        The name by which a way is pinned.
    """

    name: str
    other: Pitch
    note: str
    ways: tuple[Alternate, ...]


@dataclass(frozen=True)
class Grace:
    """A grace note before the note, its fingering in words, and its address."""

    note: Pitch
    name: str
    query: str


@dataclass(frozen=True)
class ColourPair:
    """Two fingerings that alternate on the run about the note, as an action takes them."""

    words: str
    says: str
    pins: str


def alternations(note):
    """What the ornament of the note goes to, and how, from the fingering looked at."""
    problem, ornament = note.solution.table.problem, note.event.ornament
    ids = [candidate.entry.id for candidate in note.offer.candidates]
    if ornament is None or note.looked_at not in ids:
        return ()
    slot = int(problem.trellis.first[note.n + 1]) + ids.index(note.looked_at)
    return tuple(
        Alternation(
            ORNAMENTS[ornament.name],
            other,
            partner_of(note.event.id),
            tuple(_pair(note, pair) for pair in found[:PAIRS_SHOWN]),
        )
        for other, found in zip(ornament.others, problem.given.pairs.get(slot, ()), strict=False)
    )


def _pair(note, pair):
    """A pair in words: fingering, fingers, how fast, how even, how true."""
    even = "" if pair.even >= EVEN else ", unevenly"
    cents = "its pitch is not known" if pair.cents is None else cents_words(pair.cents)
    slow = pair.per_s < note.event.ornament.per_s
    wanted = f", where {note.event.ornament.per_s:.0f} are wanted" if slow else ""
    return Alternate(
        f"{pair.other.kind_words} ({note.in_hand.said(pair.other.fingering)}): "
        f"{counted(pair.fingers, 'finger')}, about {pair.per_s:.0f} notes a second{wanted}{even}; {cents}",
        pair.other.id,
        note.opened.settings.pins.get(partner_of(note.event.id)) == pair.other.id,
    )


def colour_pairs(note):
    """Pairs that alternate on the run of one pitch about the note."""
    table, events = note.solution.table, note.solution.events
    run = run_about(table, note.n)
    found = colours(table, note.n, moves_on(note.in_hand, note.opened.settings.sources))
    return tuple(
        ColourPair(
            words=f"{_named(note, pair.one)} and {_named(note, pair.other)}",
            says=_contrast(pair),
            pins=" ".join(f"{events[n].id}={(pair.other if (n - run[0]) % 2 else pair.one).id}" for n in run),
        )
        for pair in found
    )


def _contrast(pair):
    """How far two colours lie apart, and what the hands pay."""
    tone = (
        "how far their tones differ is not known"
        if not pair.known
        else ("clearly different in tone" if pair.contrast >= CLEARLY else "little different in tone")
    )
    return f"{tone}; {round(pair.cents)} cents apart; {per_hundred(pair.stumble)} in 100 stumble on a change"


def _named(note, entry):
    return f"{entry.kind_words} ({note.in_hand.said(entry.fingering)})"


def graces(note):
    """The grace notes before the note."""
    solution, found, n = note.solution, [], note.n - 1
    while not note.event.grace and n >= 0 and solution.events[n].grace:
        event, entry = solution.events[n], solution.entries[n]
        name = f"{entry.kind_words} ({note.in_hand.said(entry.fingering)})" if entry else "no fingering"
        found.append(Grace(event.written_pitch, name, note.query(event.id)))
        n -= 1
    return tuple(reversed(found))
