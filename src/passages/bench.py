"""What the bench shows: systems with a drawing under every note, and the inspector of one note."""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from urllib.parse import urlencode

from catalogue.drawings import compact_size, hands, home_x, symbol
from core.evidence.sources import Basis
from core.instruments.fingering import Fingering
from core.instruments.moves import move_between
from core.routes.faults import STRANDS
from passages.engraving import engrave
from passages.inspector import inspect
from passages.score_svg import LinkMark, Slot, drawing_svg, link_svg, slot_svg
from passages.settings import BenchSettings
from passages.solution import Solution, settings_of, solve, where

WIDE_PX, NARROW_PX = 840, 400
DRAWING_HEIGHT, SLOT_GAP, LINK_HEIGHT = 90.0, 4.0, 12.0
# Chance of a stumble from which a link is marked as one to work on, and as a hard one.
LINK_CARE, LINK_HARD = 0.05, 0.20
LINKS_ON_SHEET = 6


@dataclass(frozen=True)
class Line:
    """One system with everything that stands under it."""

    svg: str
    width: float
    staff_height: float
    height: float
    view_box: str
    slots: list[Slot]
    links: list[LinkMark]

    @property
    def choosable(self):
        """Links and drawings for the bench."""
        link_y = self.height - LINK_HEIGHT / 2
        slots = (slot_svg(slot, self.height, link_y) for slot in self.slots)
        return "".join([*map(link_svg, self.links), *slots])

    @property
    def printed(self):
        """Drawings for the sheet."""
        return "".join(map(drawing_svg, self.slots))


class Bench:
    """A passage's bench under one state, ready for the template.

    Parameters
    ----------
    hand : Hand
        The instrument in hand.
    note_id, entry_id : str
        The note selected and the candidate tried; unknown ones fall back to the first note and
        to the chosen candidate.
    """

    def __init__(self, passage, state, hand, note_id="", entry_id=""):
        self.passage, self.state, self.hand = passage, state, hand
        self.settings: BenchSettings = settings_of(hand, state)
        self.solution: Solution = solve(hand, passage.musicxml, self.settings)
        self.instrument = hand.instrument
        self.selected = self.solution.place.get(note_id, 0)
        self.entry_id = entry_id

    # What the template asks for by name; each is worked out once.

    @cached_property
    def score(self):
        return self._lines(WIDE_PX)

    @cached_property
    def narrow_score(self):
        """The score for a telephone: fewer notes a line, so that they stay as large."""
        return self._lines(NARROW_PX)

    @property
    def glyphs(self):
        """Glyphs of the score, once each, for every width on the page."""
        widths = (WIDE_PX, NARROW_PX) if "narrow_score" in self.__dict__ else (WIDE_PX,)
        found = {}
        for width in widths:
            found |= self._engraved(width).glyphs
        return "".join(found.values())

    @property
    def can_redo(self):
        return self.state.children.exists()

    @property
    def note_id(self):
        return self.solution.events[self.selected].id

    @property
    def faults(self):
        return sum(self.by_strand.values())

    @property
    def by_strand(self):
        return self.solution.by_strand

    @property
    def gaps(self):
        """Notes without a usable fingering."""
        pairs = zip(self.solution.events, self.solution.offered, strict=True)
        return [
            {"where": where(event), "why": offer.gap, "query": self.query(event.id)}
            for event, offer in pairs
            if offer.gap
        ]

    def query(self, note_id, entry_id=""):
        """The address of a view: state, note and candidate."""
        parts = {"state": self.state.number, "note": note_id}
        return "?" + urlencode(parts | ({"try": entry_id} if entry_id else {}))

    @property
    def symbols(self):
        """Compact drawings of every fingering in the route."""
        chosen = [self.solution.chosen(place) for place in range(len(self.solution.events))]
        wanted = {entry.id: entry for entry in chosen if entry is not None}
        return "".join(symbol(entry.fingering, self.instrument, f"f-{entry.id}") for entry in wanted.values())

    @property
    def options(self):
        """What may be fitted, each with its label and whether it is."""
        return [
            (name, label, name in self.settings.fitted) for name, label in self.instrument.optional.items()
        ]

    @property
    def sources(self):
        """Kinds of evidence, each with whether it counts."""
        return [
            (name, name in self.settings.sources) for name in ("taught", "modelled", "judged", "measured")
        ]

    @property
    def weights(self):
        return [(strand, f"{self.settings.weights[strand]:g}") for strand in STRANDS]

    def evidence(self, entry):
        """What is known of an entry on the instrument in hand, from the sources that count."""
        return self.hand.evidence(entry, [Basis(source) for source in self.settings.sources])

    @cached_property
    def changed(self):
        """Ids of the notes whose fingering differs from the state before."""
        parent = self.state.parent
        if parent is None:
            return frozenset()
        before = solve(self.hand, self.passage.musicxml, settings_of(self.hand, parent))
        old, new = before.chosen_ids, self.solution.chosen_ids
        return frozenset(note for note, entry in new.items() if old.get(note) != entry)

    def _engraved(self, width_px):
        return engrave(self.solution.passage, width_px, self.instrument.clefs, self.drawing_width)

    def _lines(self, width_px):
        """Systems of the score with drawings and links."""
        return [self._line(s, self.changed) for s in self._engraved(width_px).systems]

    def _line(self, system, changed):
        top = system.height + SLOT_GAP
        slots, links = [], []
        here = [n for n, event in enumerate(self.solution.events) if event.id in system.notes]
        for n in here:
            slots.append(self._slot(n, system.notes[self.solution.events[n].id], top, changed))
        for before, after in pairwise(here):
            x1, x2 = (system.notes[self.solution.events[n].id] for n in (before, after))
            links.append(self._link(after, x1, x2, top + DRAWING_HEIGHT + LINK_HEIGHT / 2))
        return Line(
            svg=system.svg,
            width=system.width,
            staff_height=system.height,
            height=top + DRAWING_HEIGHT + LINK_HEIGHT,
            view_box=f"0 0 {system.units_width:g} {system.units_height:g}",
            slots=slots,
            links=links,
        )

    @property
    def legend(self):
        """The large drawing of no touch at all: it names every lane and touch."""
        return hands(Fingering(), self.instrument)

    @property
    def hard_links(self):
        return self.hardest(LINKS_ON_SHEET)

    @property
    def status(self):
        """What a screen reader hears after a change."""
        changed = len(self.changed)
        said = f"{self.state.what}. " if self.state.parent else ""
        fingerings = "1 fingering" if changed == 1 else f"{changed} fingerings"
        return f"{said}{fingerings} changed. {self.faults:.1f} faults expected."

    @cached_property
    def drawing_width(self):
        width, height = compact_size(self.instrument)
        return width * DRAWING_HEIGHT / height

    def _slot(self, place, x, top, changed):
        event, entry = self.solution.events[place], self.solution.chosen(place)
        pinned = event.id in self.settings.pins
        said = f"{entry.kind.value} fingering" if entry else "no fingering"
        label = f"{where(event)}: {event.written_pitch}, {said}" + (", pinned" if pinned else "")
        foreign = event.id in self.solution.passage.foreign
        label += ", foreign to the key" if foreign else ""
        return Slot(
            note_id=event.id,
            x=x,
            left=x - home_x(self.instrument) * DRAWING_HEIGHT / compact_size(self.instrument)[1],
            top=top,
            width=self.drawing_width,
            height=DRAWING_HEIGHT,
            symbol=f"f-{entry.id}" if entry else "",
            label=label + (", changed" if event.id in changed else ""),
            selected=place == self.selected,
            pinned=pinned,
            changed=event.id in changed,
            foreign=foreign,
            query=self.query(event.id),
        )

    def stumble(self, place):
        """Chance that the hands stumble on the way into a note, None for the first or by a gap."""
        slots = self.solution.route.slots
        if place == 0 or slots[place] is None or slots[place - 1] is None:
            return None
        return float(self.solution.problem.link[place - 1, slots[place - 1], slots[place], 3])

    def _link(self, place, x1, x2, y):
        chance = self.stumble(place)
        level = (
            "none"
            if chance is None
            else "hard"
            if chance >= LINK_HARD
            else "care"
            if chance >= LINK_CARE
            else "easy"
        )
        label = "" if chance is None or chance < LINK_CARE else f"{100 * chance:.0f} in 100 stumble"
        return LinkMark(x1, x2, y, level, label)

    def hardest(self, count):
        """The links that the hands find hardest, with what the fingers do."""
        chances = [(self.stumble(place) or 0.0, place) for place in range(1, len(self.solution.events))]
        worst = sorted(chances, key=lambda pair: (-pair[0], pair[1]))[:count]
        return [self._hard_link(chance, place) for chance, place in worst if chance >= LINK_CARE]

    def _hard_link(self, chance, place):
        before, after = self.solution.events[place - 1], self.solution.events[place]
        old, new = self.solution.chosen(place - 1), self.solution.chosen(place)
        return {
            "where": where(before),
            "notes": f"{before.written_pitch} to {after.written_pitch}",
            "chance": chance,
            "move": move_between(old.fingering, new.fingering, self.instrument).sentence,
        }

    @cached_property
    def inspector(self):
        """The selected note with its candidates."""
        return inspect(self)
