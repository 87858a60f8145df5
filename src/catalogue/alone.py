"""Which fingering is taken for each note by itself: long, with rests around, so that hands say nothing."""

from dataclasses import dataclass
from fractions import Fraction
from math import inf

from catalogue.in_hand import moves_on
from core.charts.entry import Entry
from core.evidence.in_hand import InstrumentInHand
from core.music.events import sounding_events
from core.music.passage import Bar, Note, Passage
from core.music.pitch import spell
from core.routes.explain import chosen
from core.routes.solve import solve
from core.routes.sureness import AS_GOOD

SLOW_BPM = 60.0
LONG = Fraction(4)


@dataclass(frozen=True)
class Taken:
    """What is taken for a note, and by how much each other one is worse, in expected faults."""

    entry: Entry
    extra: dict[str, float]

    def is_better_than(self, other: Entry) -> bool:
        """Whether it matters that another is not taken."""
        return self.extra.get(other.id, inf) > AS_GOOD


def alone(in_hand: InstrumentInHand) -> dict[int, Taken]:
    """What is taken for each written note of the range that anything is at hand for."""
    notes = []
    for midi in in_hand.instrument.semitones:
        notes += [Note(f"n{midi}", spell(midi), LONG), Note(f"r{midi}", None, LONG)]
    events = sounding_events(Passage((Bar(tuple(notes)),)), SLOW_BPM)
    table = solve(events, in_hand, moves_on(in_hand))
    found = {}
    for n, event in enumerate(events):
        if candidate := chosen(table, n):
            others = table.problem.given.offered[n].candidates
            extra = {
                other.entry.id: float(worse) for other, worse in zip(others, table.extra_at(n), strict=True)
            }
            found[event.written_pitch.midi] = Taken(candidate.entry, extra)
    return found
