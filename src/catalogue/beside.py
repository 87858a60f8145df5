"""What goes beside a fingering: the moves to the notes around it, as the route of a bench takes them."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from catalogue.in_hand import moves_on
from core.charts.entry import Entry
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import Basis
from core.music.events import sounding_events
from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch, spell
from core.routes.demands import Moves
from core.routes.explain import chosen
from core.routes.solve import solve

# Moves to the notes around are judged as slurred sixteenths at this tempo.
TEMPO_BPM = 112.0
SIXTEENTH = Fraction(1, 4)
AVAILABLE_S = 60.0 / TEMPO_BPM / 4
STEPS_AROUND = (-2, -1, 1, 2)


@dataclass(frozen=True)
class Neighbour:
    """The fingering taken for a note around, and how often the hands stumble into and out of this one."""

    entry: Entry
    into: float
    out: float


def beside(
    in_hand: InstrumentInHand, note: Pitch, entries: Sequence[Entry], use: Collection[Basis]
) -> dict[str, dict[int, Neighbour]]:
    """By the ids of fingerings of a note, and by steps around it, what a route takes there.

    Those that cannot be played on the instrument in hand are left out; one that its chart does not have is
    taken for the time. All are solved together, with rests between, so that they do not bear on each other.
    """
    kept = in_hand.catalogue.by_id
    more = [entry for entry in entries if entry.id not in kept]
    moves = moves_on(in_hand, use)
    if more:  # kept by no cache: such a chart is asked for once
        in_hand = replace(in_hand, catalogue=in_hand.catalogue.with_own(more))
        moves = Moves(in_hand.catalogue, in_hand.hand)
    steps = [step for step in STEPS_AROUND if note.midi + step in in_hand.instrument.accepted]
    asked = [(entry, step) for entry in entries if not in_hand.lacking(entry) for step in steps]
    if not asked:
        return {}
    notes, pins = [], {}
    for n, (entry, step) in enumerate(asked):
        there = spell(note.midi + step)
        notes += [
            Note(f"a{n}", there, SIXTEENTH, slur_start=True),
            Note(f"b{n}", note, SIXTEENTH),
            Note(f"c{n}", there, SIXTEENTH, slur_stop=True),
            Note(f"d{n}", None, SIXTEENTH),
        ]
        pins[f"b{n}"] = entry.id
    events = sounding_events(Passage((Bar(tuple(notes)),)), TEMPO_BPM)
    table = solve(events, in_hand, moves, pins, use=use)
    found: dict[str, dict[int, Neighbour]] = {}
    for n, (entry, step) in enumerate(asked):
        taken = chosen(table, 3 * n)
        if taken is not None:
            into, out = (min(1.0, float(table.move_faults.hands[3 * n + part])) for part in (1, 2))
            found.setdefault(entry.id, {})[step] = Neighbour(taken.entry, into, out)
    return found
