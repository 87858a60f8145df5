"""What the bench shows: systems with a drawing under every note, and what is said of the whole passage."""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from urllib.parse import urlencode

from core.instruments.fingering import Fingering
from core.routes.explain import CARE, ease, hardest, route_faults, stumble
from core.routes.faults import STRANDS, WEIGHT_MAX
from core.words import counted
from drawing.engraving import Engraving, engrave, shared_glyphs
from drawing.hands import compact_size, hands, home_x, symbol
from drawing.score import LinkMark, UnderNote, choosable, printed
from drawing.svg import join
from passages.queries import Opened
from passages.screens.inspector import Inspector, inspect
from passages.settings import BenchSettings
from passages.solution import Solution, where

WIDE_PX, NARROW_PX = 840, 400
DRAWING_HEIGHT, NOTE_GAP, LINK_HEIGHT = 90.0, 4.0, 12.0
LINKS_ON_SHEET = 6


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
class Gap:
    """A note without a usable fingering."""

    where: str
    why: str
    query: str


@dataclass(frozen=True)
class NoteOfBench:
    """One note of a bench under one state.

    Parameters
    ----------
    number : int
        Of the state.
    note_id : str
        The note selected.
    """

    number: int
    note_id: str
    inspector: Inspector


@dataclass(frozen=True)
class BenchPage(NoteOfBench):
    """A passage's bench under one state.

    Parameters
    ----------
    glyphs, symbols : str
        What the lines use: glyphs of the score, and a compact drawing of every fingering in the route.
    by_strand : dict of strand to float
        Expected faults of the route, whatever the weights; `faults` is their sum.
    options : list of (name, label, fitted)
    sources : list of (name, counts)
    weights : list of (strand, weight)
    status : str
        What a screen reader hears after a change.
    """

    settings: BenchSettings
    undoes: str
    can_redo: bool
    glyphs: str
    symbols: str
    lines: tuple[Line, ...]
    faults: float
    by_strand: dict[str, float]
    gaps: tuple[Gap, ...]
    options: list[tuple[str, str, bool]]
    sources: list[tuple[str, bool]]
    weights: list[tuple[str, str]]
    weight_max: float
    status: str


@dataclass(frozen=True)
class HardLink:
    """A link to work on."""

    where: str
    notes: str
    chance: float
    move: str
    asks: str


@dataclass(frozen=True)
class SheetPage:
    """What a student takes home: the passage in lines for paper and for a telephone."""

    settings: BenchSettings
    number: int
    glyphs: str
    symbols: str
    lines: tuple[Line, ...]
    narrow_lines: tuple[Line, ...]
    legend: str
    hard_links: tuple[HardLink, ...]


@dataclass(frozen=True)
class _View:
    """A solution with what of it is marked."""

    opened: Opened
    solution: Solution
    selected: int | None
    changed: frozenset[str]

    @property
    def instrument(self):
        return self.opened.in_hand.instrument

    @cached_property
    def drawing_width(self):
        width, height = compact_size(self.instrument)
        return width * DRAWING_HEIGHT / height

    @cached_property
    def drawing_home(self):
        """How far from its left edge the note of a drawing stands."""
        _, height = compact_size(self.instrument)
        return home_x(self.instrument) * DRAWING_HEIGHT / height

    @cached_property
    def place(self):
        """Place of every event by its id."""
        return {event.id: n for n, event in enumerate(self.solution.events)}

    def query(self, note_id, entry_id=""):
        """The address of a view: state, note and candidate."""
        parts = {"state": self.opened.state.number, "note": note_id}
        return "?" + urlencode(parts | ({"try": entry_id} if entry_id else {}))


def note_of_bench(opened: Opened, note_id="", entry_id="") -> NoteOfBench:
    """Build what the bench says of one note, without the score.

    Parameters
    ----------
    note_id, entry_id : str
        The note selected and the candidate tried; unknown ones fall back to the first note and
        to the chosen candidate.
    """
    solution = opened.solution()
    selected = solution.note_at.get(note_id, 0)
    query = _View(opened, solution, selected, frozenset()).query
    return NoteOfBench(
        number=opened.state.number,
        note_id=solution.events[selected].id,
        inspector=inspect(opened, solution, selected, entry_id, query),
    )


def bench_page(opened: Opened, note_id="", entry_id="") -> BenchPage:
    """Build the bench; `note_id` and `entry_id` as in `note_of_bench`."""
    note = note_of_bench(opened, note_id, entry_id)
    solution, state = opened.solution(), opened.state
    view = _View(opened, solution, solution.note_at[note.note_id], _changed(opened, solution))
    engraving = _engraved(view, WIDE_PX)
    faults = route_faults(solution.table)
    settings = opened.settings
    return BenchPage(
        **vars(note),
        settings=settings,
        undoes=state.what if state.parent else "",
        can_redo=state.children.exists(),
        glyphs=shared_glyphs([engraving]),
        symbols=_symbols(view),
        lines=_lines(view, engraving, for_print=False),
        faults=faults.total,
        by_strand=faults.by_strand,
        gaps=_gaps(view),
        options=[(n, label, n in settings.fitted) for n, label in view.instrument.optional.items()],
        sources=[(s, s in settings.sources) for s in ("taught", "modelled", "judged", "measured")],
        weights=[(strand, f"{settings.weights[strand]:g}") for strand in STRANDS],
        weight_max=WEIGHT_MAX,
        status=_status(view, faults.total),
    )


def sheet_page(opened: Opened) -> SheetPage:
    """Build the sheet."""
    view = _View(opened, opened.solution(), None, frozenset())
    wide, narrow = (_engraved(view, width) for width in (WIDE_PX, NARROW_PX))
    links = hardest(view.solution.table, LINKS_ON_SHEET)
    return SheetPage(
        settings=opened.settings,
        number=opened.state.number,
        glyphs=shared_glyphs([wide, narrow]),
        symbols=_symbols(view),
        lines=_lines(view, wide, for_print=True),
        narrow_lines=_lines(view, narrow, for_print=True),
        legend=hands(Fingering(), view.instrument),
        hard_links=tuple(_hard_link(link) for link in links),
    )


def _changed(opened, solution):
    """Ids of the notes whose fingering differs from the state before."""
    before = opened.parent_settings
    if before is None:
        return frozenset()
    old = opened.solution_of(before).chosen_ids
    return frozenset(note for note, entry in solution.chosen_ids.items() if old.get(note) != entry)


def _gaps(view):
    pairs = zip(view.solution.events, view.solution.table.problem.offered, strict=True)
    return tuple(Gap(where(event), offer.gap, view.query(event.id)) for event, offer in pairs if offer.gap)


def _symbols(view):
    wanted = {entry.id: entry for entry in view.solution.entries if entry is not None}
    return join(symbol(e.fingering, view.instrument, f"f-{e.id}") for e in wanted.values())


def _status(view, faults):
    what = f"{view.opened.state.what}. " if view.opened.state.parent else ""
    return f"{what}{counted(len(view.changed), 'fingering')} changed. {faults:.1f} faults expected."


def _hard_link(link):
    notes = f"{link.before.written_pitch} to {link.after.written_pitch}"
    return HardLink(where(link.before), notes, link.stumble, link.move.sentence, ", ".join(link.asks))


def _engraved(view, width_px) -> Engraving:
    return engrave(view.solution.passage, width_px, view.instrument.clefs, view.drawing_width)


def _lines(view, engraving, *, for_print):
    """Systems of the score with drawings, and on the bench with links."""
    return tuple(_line(view, system, for_print) for system in engraving.systems)


def _line(view, system, for_print):
    top, events = system.height + NOTE_GAP, view.solution.events
    height = top + DRAWING_HEIGHT + LINK_HEIGHT
    link_y = height - LINK_HEIGHT / 2
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
        height=height,
        view_box=f"0 0 {system.units_width:g} {system.units_height:g}",
        labels=tuple(note.label for note in notes),
        under=printed(notes) if for_print else choosable(notes, links, height, link_y),
    )


def _under_note(view, n, x, top):
    event, entry = view.solution.events[n], view.solution.entries[n]
    pinned, changed = event.id in view.opened.settings.pins, event.id in view.changed
    foreign = event.id in view.solution.passage.foreign
    words = [
        f"{entry.kind.value} fingering" if entry else "no fingering",
        *(["pinned"] if pinned else []),
        *(["foreign to the key"] if foreign else []),
        *(["changed"] if changed else []),
    ]
    return UnderNote(
        note_id=event.id,
        x=x,
        left=x - view.drawing_home,
        top=top,
        width=view.drawing_width,
        height=DRAWING_HEIGHT,
        symbol=f"f-{entry.id}" if entry else "",
        label=f"{where(event)}: {event.written_pitch}, {', '.join(words)}",
        selected=n == view.selected,
        pinned=pinned,
        changed=changed,
        foreign=foreign,
        query=view.query(event.id),
    )


def _link_mark(view, after, x1, x2, y):
    chance = stumble(view.solution.table, after)
    if chance is None:
        return LinkMark(x1, x2, y, "none", "")
    label = f"{100 * chance:.0f} in 100 stumble" if chance >= CARE else ""
    return LinkMark(x1, x2, y, ease(chance).value, label)
