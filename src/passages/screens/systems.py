"""Systems of a score with the drawing of a fingering under every note, for bench and sheet."""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from urllib.parse import urlencode

from django.utils.safestring import SafeString

from core.routes.links import CARE, ease, stumble
from drawing.compact import WIDTH, height, symbol
from drawing.engraving import Engraving, engrave
from drawing.score import LinkMark, UnderNote, choosable, printed
from drawing.svg import join
from passages.queries import Opened
from passages.solution import Solution, where

WIDE_PX = 840
NOTE_GAP, LINK_HEIGHT = 4.0, 12.0


@dataclass(frozen=True)
class Line:
    """One system with everything that stands under it; `under` are its links and drawings."""

    svg: str
    width: float
    staff_height: float
    height: float
    view_box: str
    labels: tuple[str, ...]
    under: str


@dataclass(frozen=True)
class View:
    """A solution with what of it is marked: the note selected, the ids of those changed."""

    opened: Opened
    solution: Solution
    selected: int | None
    changed: frozenset[str]

    @property
    def instrument(self):
        return self.opened.in_hand.instrument

    @cached_property
    def place(self):
        """Place of every event by its id."""
        return {event.id: n for n, event in enumerate(self.solution.events)}

    def query(self, note_id, entry_id=""):
        """The address of a view: state, note and candidate."""
        parts = {"state": self.opened.state.number, "note": note_id}
        return "?" + urlencode(parts | ({"try": entry_id} if entry_id else {}))


def symbols(view: View) -> SafeString:
    """Each fingering of the route once, for the systems to point at."""
    wanted = {entry.id: entry for entry in view.solution.entries if entry is not None}
    return join(symbol(e.fingering, view.opened.in_hand, f"f-{e.id}") for e in wanted.values())


def engraved(view: View, width_px: int) -> Engraving:
    """The passage set at a width, with room under every note for a drawing."""
    return engrave(view.solution.passage, width_px, view.instrument.clefs, WIDTH)


def lines(view: View, engraving: Engraving, *, for_print: bool) -> tuple[Line, ...]:
    """Systems of the score with drawings, and on the bench with links."""
    return tuple(_line(view, system, for_print) for system in engraving.systems)


def _line(view, system, for_print):
    top, events = system.height + NOTE_GAP, view.solution.events
    whole = top + height(view.instrument) + LINK_HEIGHT
    link_y = whole - LINK_HEIGHT / 2
    here = sorted(view.place[note] for note in system.notes if note in view.place)
    notes = [_under_note(view, n, system.notes[events[n].id], top) for n in here]
    links = [
        _link_mark(view, after, *(system.notes[events[n].id] for n in (before, after)), link_y)
        for before, after in pairwise(here)
    ]
    return Line(
        svg=system.svg,
        width=system.width,
        staff_height=system.height,
        height=whole,
        view_box=f"0 0 {system.units_width:g} {system.units_height:g}",
        labels=tuple(note.label for note in notes),
        under=printed(notes) if for_print else choosable(notes, links, whole, link_y),
    )


def _under_note(view, n, x, top):
    event, entry = view.solution.events[n], view.solution.entries[n]
    pinned, changed = event.id in view.opened.settings.pins, event.id in view.changed
    foreign = event.id in view.solution.passage.foreign
    ends = {"Home": 0, "End": len(view.solution.events) - 1}
    words = [
        f"{entry.kind.value} fingering" if entry else "no fingering",
        *(["a lead"] if entry and entry.is_lead else []),
        *(["pinned"] if pinned else []),
        *(["foreign to the key"] if foreign else []),
        *(["changed"] if changed else []),
    ]
    return UnderNote(
        note_id=event.id,
        x=x,
        left=x - WIDTH / 2,
        top=top,
        width=WIDTH,
        height=height(view.instrument),
        symbol=f"f-{entry.id}" if entry else "",
        label=f"{where(event)}: {event.written_pitch}, {', '.join(words)}",
        selected=n == view.selected,
        pinned=pinned,
        changed=changed,
        foreign=foreign,
        query=view.query(event.id),
        keys=" ".join(key for key, at in ends.items() if at == n) or None,
    )


def _link_mark(view, after, x1, x2, y):
    chance = stumble(view.solution.table, after)
    if chance is None:
        return LinkMark(x1, x2, y, "none", "")
    label = f"{100 * chance:.0f} in 100 stumble" if chance >= CARE else ""
    return LinkMark(x1, x2, y, ease(chance).value, label)
