"""What the bench shows: the score with its drawings, and what is said of the whole passage."""

from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.changes import NoteChange, note_change
from bench.screens.inspector import Inspector, inspect
from bench.screens.move import MoveView, look_at_move
from bench.screens.remarks import remarks
from bench.systems import AROUND, NARROW, SIZES, ScoreLine, View, engraved, lines, some_lines, symbols, window
from core.music.events import where
from core.music.pitch import Pitch
from core.routes.explain import route_faults
from core.words import counted
from drawing.engraving import shared_glyphs
from passages.settings import BenchSettings


@dataclass(frozen=True)
class Gap:
    """A note without a usable fingering."""

    where: str
    why: str
    query: str


@dataclass(frozen=True)
class OnLead:
    """A written note for which the route takes a lead, since nothing better is known; where it is first."""

    note: Pitch
    query: str


@dataclass(frozen=True)
class BeyondReach:
    """A written note beyond what the student holds by what was counted, or on its edge; where it is first."""

    note: Pitch
    query: str


@dataclass(frozen=True)
class At:
    """Where a change goes from.

    Parameters
    ----------
    number : int
        Of the state.
    note_id : str
        The note selected.
    """

    number: int
    note_id: str


@dataclass(frozen=True)
class NoteOfBench(At):
    """One note of a bench under one state."""

    inspector: Inspector
    move: MoveView | None


@dataclass(frozen=True)
class BenchPage(NoteOfBench):
    """A passage's bench under one state.

    Parameters
    ----------
    glyphs, symbols : str
        What the lines use: glyphs of the score, and a compact drawing of every fingering in the route.
    by_strand : dict of strand to float
        Expected faults of the route, whatever the weights; `faults` is their sum.
    status : str
        What a screen reader hears after a change.
    """

    settings: BenchSettings
    tempo_bpm: str
    undoes: str
    can_redo: bool
    glyphs: str
    symbols: str
    lines: tuple[ScoreLine, ...]
    ends: tuple[str, str]
    narrow: bool
    size: str
    sizes: tuple[tuple[str, str], ...]
    faults: float
    by_strand: dict[str, float]
    gaps: tuple[Gap, ...]
    on_leads: tuple[OnLead, ...]
    beyond_reach: tuple[BeyondReach, ...]
    on_edge: tuple[BeyondReach, ...]
    remarks: tuple[str, ...]
    status: str
    changes: tuple[NoteChange, ...]
    fewer: str

    @property
    def changed_words(self) -> str:
        """What the last change did."""
        return ", ".join(filter(None, (f"{counted(len(self.changes), 'fingering')} changed", self.fewer)))

    @property
    def undo_words(self) -> str:
        return f"Undo: {self.undoes}" if self.undoes else "Undo"

    @property
    def lacking(self) -> str:
        """How many notes lack a fingering, or rest on leads; empty if none does."""
        counts = (
            (self.gaps, "without a fingering"),
            (self.on_leads, "on leads"),
            (self.beyond_reach, "beyond the reach"),
        )
        return ", ".join(f"{len(notes)} {what}" for notes, what in counts if notes)


def note_at(opened: Opened, note_id="") -> At:
    """The note selected; an unknown one falls back to the first."""
    solution = opened.solution()
    return At(opened.state.number, solution.events[solution.note_at.get(note_id, 0)].id)


def note_of_bench(opened: Opened, note_id="", entry_id="", move=False) -> NoteOfBench:
    """Build what the bench says of one note, without the score.

    Parameters
    ----------
    note_id, entry_id : str
        The note selected and the candidate tried; unknown ones fall back to the first note and
        to the chosen candidate.
    move : bool
        Whether the move into the note is looked at.
    """
    solution = opened.solution()
    selected = solution.note_at.get(note_id, 0)
    view = View(opened, solution, selected, frozenset())
    return NoteOfBench(
        number=opened.state.number,
        note_id=solution.events[selected].id,
        inspector=inspect(opened, solution, selected, entry_id, view.query),
        move=look_at_move(view, selected) if move else None,
    )


def bench_page(
    opened: Opened,
    note_id="",
    entry_id="",
    move=False,
    *,
    narrow=False,
    size="usual",
    windowed=False,
    reach=None,
) -> BenchPage:
    """Build the bench, its lines for a telephone if `narrow`, else in one of `SIZES`; see `note_of_bench`.

    Parameters
    ----------
    windowed : bool
        Whether a script is there to fetch systems that are far from the note selected.
    reach : core.practice.reach.Reach or None
        That of the student, by what was counted.
    """
    note = note_of_bench(opened, note_id, entry_id, move)
    solution, state = opened.solution(), opened.state
    view = View(opened, solution, solution.note_at[note.note_id], _changed(opened, solution))
    name = size if size in SIZES else "usual"
    set_in = NARROW if narrow else SIZES[name]
    engraving = engraved(view, set_in)
    here = window(view, engraving) if windowed else None
    faults = route_faults(solution.table)
    settings = opened.settings
    return BenchPage(
        **vars(note),
        settings=settings,
        tempo_bpm=f"{round(settings.tempo_bpm, 1):g}",
        undoes=state.what if state.parent else "",
        can_redo=state.children.exists(),
        glyphs=shared_glyphs([engraving]),
        symbols=symbols(view),
        lines=lines(view, engraving, for_print=False, size=set_in, here=here),
        ends=tuple(view.query(solution.events[n].id) for n in (0, -1)),
        narrow=narrow,
        size=name,
        sizes=_other_sizes(view, name),
        faults=faults.total,
        by_strand=faults.by_strand,
        gaps=_gaps(view),
        on_leads=leads_of(view),
        beyond_reach=beyond_reach(view, reach),
        on_edge=on_edge(view, reach),
        remarks=remarks(solution),
        status=_status(view, faults.total),
        changes=_changes(view),
        fewer=_fewer(opened, faults.total),
    )


def lines_of_bench(
    opened: Opened, first: int, last: int, *, narrow=False, size="usual"
) -> tuple[ScoreLine, ...]:
    """Some of the lines of a bench, by their numbers; no more than stand about a note."""
    view = View(opened, opened.solution(), None, _changed(opened, opened.solution()))
    set_in = NARROW if narrow else SIZES.get(size, SIZES["usual"])
    wanted = range(first, min(last, first + 2 * AROUND) + 1)
    return some_lines(view, engraved(view, set_in), wanted, set_in)


def _other_sizes(view, name):
    """The next smaller and the next larger size, with their addresses; empty where there is none."""
    names, here = list(SIZES), list(SIZES).index(name)
    note = view.solution.events[view.selected or 0].id

    def address(at):
        return f"{view.query(note)}&size={names[at]}" if 0 <= at < len(names) else ""

    return ("smaller", address(here + 1)), ("larger", address(here - 1))


def _changed(opened, solution):
    """Ids of the notes whose fingering differs from the state before."""
    before = opened.parent_settings
    if before is None:
        return frozenset()
    old = opened.solution_of(before).chosen_ids
    return frozenset(note for note, entry in solution.chosen_ids.items() if old.get(note) != entry)


def _changes(view):
    """The notes whose fingering differs from the state before, in words."""
    if not view.changed:
        return ()
    before = view.opened.solution_of(view.opened.parent_settings)
    old = {event.id: entry for event, entry in zip(before.events, before.entries, strict=True)}
    pairs = zip(view.solution.events, view.solution.entries, strict=True)
    return tuple(
        note_change(view, event, old.get(event.id), entry)
        for event, entry in pairs
        if event.id in view.changed
    )


def _fewer(opened, faults):
    """What the state before cost more, or less, in words; empty where there is none, or it is the same."""
    if opened.parent_settings is None:
        return ""
    more = route_faults(opened.solution_of(opened.parent_settings).table).total - faults
    return f"{abs(more):.1f} faults {'fewer' if more > 0 else 'more'}" if abs(more) >= 0.05 else ""


def _gaps(view):
    pairs = zip(view.solution.events, view.solution.table.problem.given.offered, strict=True)
    return tuple(Gap(where(event), offer.gap, view.query(event.id)) for event, offer in pairs if offer.gap)


def leads_of(view: View) -> tuple[OnLead, ...]:
    """Notes for which leads are all that is known, each once."""
    found = {}
    table = view.solution.table
    together = zip(view.solution.events, view.solution.entries, table.problem.given.offered, strict=True)
    for event, entry, offer in together:
        if entry is not None and entry.is_lead and offer.nothing_better:
            found.setdefault(event.written_pitch.midi, OnLead(event.written_pitch, view.query(event.id)))
    return tuple(found[midi] for midi in sorted(found))


def on_edge(view, reach):
    """The highest note that holds, where the passage has it."""
    if reach is None or reach.top is None:
        return ()
    events = [event for event in view.solution.events if event.written_pitch.midi == reach.top]
    return tuple(BeyondReach(event.written_pitch, view.query(event.id)) for event in events[:1])


def beyond_reach(view, reach):
    """Notes above the reach, or missing below its top, each once."""
    if reach is None or reach.top is None:
        return ()
    found = {}
    for event in view.solution.events:
        midi = event.written_pitch.midi
        if midi > reach.top or midi == reach.missing:
            found.setdefault(midi, BeyondReach(event.written_pitch, view.query(event.id)))
    return tuple(found[midi] for midi in sorted(found))


def _status(view, faults):
    what = f"{view.opened.state.what}. " if view.opened.state.parent else ""
    return f"{what}{counted(len(view.changed), 'fingering')} changed. {faults:.1f} faults expected."
