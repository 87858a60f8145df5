"""Walk a scale: the best fingerings for it, and from note to note what the fingers do."""

from dataclasses import dataclass
from fractions import Fraction

from catalogue.drawings import small_hands
from catalogue.hand import Hand
from core.instruments.fingering import format_fingering
from core.instruments.moves import move_between
from core.music.passage import Bar, Note, Passage, sounding_events
from core.music.pitch import Pitch
from core.music.scale import scale
from core.routes.candidates import offers
from core.routes.route import best_route, make_problem

# Slow enough to be walked; the hands still count.
WALK_BPM = 72.0


@dataclass(frozen=True)
class Step:
    """One note of the walk and the move that led to it."""

    note: Pitch
    kind: str
    touches: str
    drawing: str
    move: str
    gap: str


class WalkPage:
    """A scale on the instrument in hand; an error of the core says what cannot be."""

    def __init__(self, hand: Hand, tonic: str, mode: str, low: Pitch, high: Pitch, *, down: bool):
        self.hand, self.tonic, self.mode, self.down = hand, tonic, mode, down
        self.notes = scale(tonic, mode, low, high, down=down)

    @property
    def title(self):
        name = self.tonic.replace("#", "♯").replace("b", "♭")
        return f"{name} {self.mode}, {self.notes[0]} to {self.notes[-1]}"

    @property
    def steps(self):
        notes = tuple(Note(f"s{n}", pitch, Fraction(1)) for n, pitch in enumerate(self.notes))
        events = sounding_events(Passage((Bar(notes),)), WALK_BPM)
        catalogue, instrument = self.hand.catalogue, self.hand.instrument
        offered = offers(events, catalogue, self.hand.fitted, {}, {}, self.hand.head_starts, self.hand.aside)
        route = best_route(make_problem(self.hand.library(), catalogue.index, events, offered))
        found, before = [], None
        for event, offer, slot in zip(events, offered, route.slots, strict=True):
            entry = None if slot is None else offer.candidates[slot].entry
            fingering = entry.fingering if entry else None
            found.append(
                Step(
                    note=event.written_pitch,
                    kind=entry.kind.value if entry else "",
                    touches=format_fingering(fingering, instrument) if entry else "",
                    drawing=small_hands(fingering, instrument) if entry else "",
                    move=move_between(before, fingering, instrument).sentence if before and entry else "",
                    gap=offer.gap,
                )
            )
            before = fingering
        return found
