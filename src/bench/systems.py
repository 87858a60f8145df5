"""Systems of a score with the drawing of a fingering under every note, for bench and sheet."""

from collections.abc import Container, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from types import MappingProxyType

from django.utils.safestring import SafeString

from bench.kept import engraving_of
from bench.queries import Opened
from bench.solution import Solution
from core.charts.entry import Entry
from core.music.events import where
from core.routes.alternatives import AS_GOOD, NEAR
from core.routes.hard_moves import ease, stumble
from drawing.compact import WIDTH, height, symbol
from drawing.engraving import Engraving
from drawing.score import MoveMark, Node, UnderNote, choosable, printed
from drawing.strands import per_hundred
from drawing.svg import join
from studio.address import Address

NO_MORE: Mapping[str, Entry] = MappingProxyType({})
WIDE_PX, NARROW_PX = 840, 400


@dataclass(frozen=True)
class Size:
    """How large lines stand on the bench.

    Parameters
    ----------
    width_px : int
        Width at which they are set; the narrower, the larger they look.
    note_px : float
        Room for each note.
    drawn : bool
        Whether drawings stand under the notes; trouble alone is marked otherwise.
    moves_pressed : bool
        Whether there is room to press the moves.
    """

    width_px: int
    note_px: float = WIDTH
    drawn: bool = True
    moves_pressed: bool = True


# From two lines of music in the window to the whole piece at a glance.
SIZES = {
    "large": Size(600),
    "usual": Size(WIDE_PX),
    "small": Size(1250),
    "glance": Size(1800, note_px=14.0, drawn=False),
}
NARROW = Size(NARROW_PX, moves_pressed=False)
GLANCE_HEIGHT = 16.0


NOTE_GAP = 4.0
# Up to so many systems all stand in the page; of more, so many before and after the note selected.
ALL_STAND, AROUND = 16, 5
# The lanes under the drawings: one for each candidate, up to so many; their distance, the room about them.
LANES, LANE, LANE_ROOM = 6, 11.0, 10.0


@dataclass(frozen=True)
class ScoreLine:
    """One system with everything that stands under it.

    Parameters
    ----------
    under : str
        Its moves and drawings.
    number : int
        Counted from 0.
    notes : str
        Ids of its notes.
    here : bool
        Whether it stands in the page; else its room is kept, and a script fetches it.
    """

    svg: str
    width: float
    staff_height: float
    height: float
    view_box: str
    labels: tuple[str, ...]
    under: str
    number: int = 0
    notes: str = ""
    here: bool = True


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

    @cached_property
    def address(self):
        """Where the bench stands: in which state of its passage."""
        return Address(self.opened.passage.pk, state=str(self.opened.state.number))

    def query(self, note_id, entry_id="", *, move=False):
        """The address of a note of the bench, of a candidate for it, or of the move into it."""
        return self.address.at(note=note_id, entry=entry_id, move="into" if move else "").query()


def symbols(view: View, more: Mapping[str, Entry] = NO_MORE) -> SafeString:
    """Each fingering of the route, and of more by their ids, once, for the systems to point at."""
    wanted = {entry.id: entry for entry in view.solution.entries if entry is not None} | {**more}
    return join(symbol(e.fingering, view.opened.in_hand, f"f-{e.id}") for e in wanted.values())


def engraved(view: View, size: Size, most: int | None = None) -> Engraving:
    """The passage set in a size, with room under every note for a drawing; its first systems, or all."""
    return engraving_of(view.solution.passage, size.width_px, view.instrument.clefs, size.note_px, most)


def lines(
    view: View,
    engraving: Engraving,
    *,
    for_print: bool,
    size: Size = SIZES["usual"],
    here: Container[int] | None = None,
) -> tuple[ScoreLine, ...]:
    """Systems of the score with drawings, and on the bench with moves.

    Parameters
    ----------
    here : container of int, optional
        Numbers of the systems that stand in the page; all by default.
    """
    return tuple(
        _line(view, n, system, for_print, size, shown=here is None or n in here)
        for n, system in enumerate(engraving.systems)
    )


def some_lines(
    view: View, engraving: Engraving, wanted: Iterable[int], size: Size = SIZES["usual"]
) -> tuple[ScoreLine, ...]:
    """Some of the systems as they stand on the bench, by their numbers; those that are not there are none."""
    there = range(len(engraving.systems))
    return tuple(_line(view, n, engraving.systems[n], False, size, shown=True) for n in wanted if n in there)


def window(view: View, engraving: Engraving) -> range | None:
    """Numbers of the systems about the note selected, where there are many; None where all may stand."""
    systems = engraving.systems
    if len(systems) <= ALL_STAND:
        return None
    note = view.solution.events[view.selected or 0].id
    at = next((n for n, system in enumerate(systems) if note in system.notes), 0)
    return range(at - AROUND, at + AROUND + 1)


def _line(view, number, system, for_print, size, *, shown):
    top, events = system.height + NOTE_GAP, view.solution.events
    ground = top + (height(view.instrument) + LANE_ROOM if size.drawn else GLANCE_HEIGHT)
    here = sorted(view.place[note] for note in system.notes if note in view.place)
    place = {
        "width": system.width,
        "staff_height": system.height,
        "view_box": f"0 0 {system.units_width:g} {system.units_height:g}",
        "number": number,
        "notes": " ".join(events[n].id for n in here),
    }
    if not shown:
        most = max((_lanes(view, n) for n in here), default=1) if size.drawn else 1
        tall = ground + (most - 1) * LANE + LANE_ROOM
        return ScoreLine(svg="", height=tall, labels=(), under="", here=False, **place)
    if size.drawn:
        lanes = {n: () if for_print else nodes_of(view, n, ground) for n in here}
    else:
        lanes = {n: (Node(ground, "chosen" if view.solution.entries[n] else "far"),) for n in here}
    deepest = max((node.y for nodes in lanes.values() for node in nodes), default=ground)
    whole = ground if for_print else deepest + LANE_ROOM
    notes = [_under_note(view, n, system.notes[events[n].id], top, lanes[n], size) for n in here]
    moves = [] if for_print else _moves(view, here, notes, size)
    return ScoreLine(
        svg=system.svg,
        height=whole,
        labels=tuple(note.label for note in notes),
        under=printed(notes) if for_print else choosable(notes, moves, whole),
        **place,
    )


def _lanes(view, n):
    """How many lanes a note takes."""
    offered = view.solution.table.problem.given.offered[n].candidates
    return max(1, min(LANES, sum(not candidate.bar for candidate in offered)))


def nodes_of(view: View, n: int, ground: float) -> tuple[Node, ...]:
    """The candidates of a note in their lanes, in the teacher's order; of many the first and that chosen."""
    table = view.solution.table
    offered, slot, extra = table.problem.given.offered[n].candidates, table.route.slots[n], table.extra_at(n)
    usable = [place for place, candidate in enumerate(offered) if not candidate.bar]
    order = sorted(usable, key=lambda place: view.opened.in_hand.rank(offered[place].entry))
    shown = order[:LANES]
    if slot is not None and slot not in shown:
        shown[-1:] = [slot]
    return tuple(
        Node(ground + lane * LANE, "chosen" if place == slot else _standing(float(extra[place])))
        for lane, place in enumerate(shown)
    )


def _standing(extra):
    return "as-good" if extra < AS_GOOD else "near" if extra < NEAR else "far"


def _under_note(view, n, x, top, nodes, size):
    event, entry = view.solution.events[n], view.solution.entries[n]
    pinned, changed = event.id in view.opened.settings.pins, event.id in view.changed
    foreign = event.id in view.solution.passage.foreign
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
        left=x - size.note_px / 2,
        top=top,
        width=size.note_px,
        drawn=size.drawn,
        height=height(view.instrument),
        symbol=f"f-{entry.id}" if entry else "",
        label=f"{where(event)}: {event.written_pitch}, {', '.join(words)}",
        selected=n == view.selected,
        pinned=pinned,
        changed=changed,
        foreign=foreign,
        query=view.query(event.id),
        nodes=nodes,
    )


def _moves(view, here, notes, size):
    """The moves of a line, half of those that come from the line before and go on to the next."""
    room = size.note_px
    points = [(note.x, next((n.y for n in note.nodes if n.standing == "chosen"), note.top)) for note in notes]
    found = [_move_mark(view, here[at + 1], *pair) for at, pair in enumerate(pairwise(points))]
    if here and here[0] > 0:
        x, y = points[0]
        found.insert(0, _move_mark(view, here[0], (x - room, y), (x, y)))
    if here and here[-1] + 1 < len(view.solution.events):
        x, y = points[-1]
        goes_on = _move_mark(view, here[-1] + 1, (x, y), (x + room, y))
        found.append(replace(goes_on, query=""))  # it is pressed where it arrives
    # where there is no room to press them, the note says the way into it
    return found if size.moves_pressed else [replace(move, query="") for move in found]


def _move_mark(view, after, start, end):
    """The move into a note, from a point to a point."""
    chance = stumble(view.solution.table, after)
    if chance is None:
        return MoveMark(*start, *end, "none", "")
    before, event = view.solution.events[after - 1], view.solution.events[after]
    return MoveMark(
        *start,
        *end,
        ease(chance).value,
        label=f"{before.written_pitch} to {event.written_pitch}: {per_hundred(float(chance))} in 100 stumble",
        note_id=event.id,
        query=view.query(event.id, move=True),
    )
