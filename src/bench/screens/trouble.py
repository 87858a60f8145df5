"""The trouble list: hard moves, weak notes, notes beyond reach or foreign to the key, register breaks."""

from dataclasses import dataclass

import numpy as np

from bench.queries import Opened
from bench.screens.bench import At, note_at
from bench.screens.changes import named
from bench.systems import View
from core.music.events import where
from core.routes.faults import STRANDS
from core.routes.hard_moves import CARE, ease, stumble
from drawing.strands import per_hundred

# A note is weak from so many faults of its own on; rows that are shown.
WEAK, ROWS = 0.1, 60
BEYOND = "beyond reach"


@dataclass(frozen=True)
class Trouble:
    """One trouble, and where it is.

    Parameters
    ----------
    what : str
        What it is, in a word or two.
    by_strand : dict of strand to float
        Its expected faults.
    """

    where: str
    what: str
    notes: str
    says: str
    by_strand: dict[str, float]
    faults: float
    query: str
    level: str
    count: str = ""


@dataclass(frozen=True)
class TroublePage(At):
    """The list, sorted; `left_out` more were found."""

    by: str
    rows: tuple[Trouble, ...]
    left_out: int
    counts: dict[str, int]


def trouble_page(opened: Opened, note_id="", by="") -> TroublePage:
    """Build the list.

    Parameters
    ----------
    by : str
        The strand to sort by; by all faults together otherwise.
    """
    by = by if by in (*STRANDS, "place") else ""
    view = View(opened, opened.solution(), None, frozenset())
    rows = list(_rows(view))
    counts: dict[str, int] = {}
    for row in rows:
        counts[row.what] = counts.get(row.what, 0) + 1
    if by != "place":  # they come as they stand in the music
        rows.sort(key=lambda row: (row.what != BEYOND, -(row.by_strand[by] if by else row.faults)))
    return TroublePage(
        **vars(note_at(opened, note_id)),
        by=by,
        rows=tuple(rows[:ROWS]),
        left_out=max(0, len(rows) - ROWS),
        counts=counts,
    )


def _rows(view):
    solution, table = view.solution, view.solution.table
    own, into = (np.array(faults.parts) for faults in (table.node_faults, table.move_faults))
    foreign, instrument = solution.passage.foreign, view.instrument
    before = None
    for n, (event, entry) in enumerate(zip(solution.events, solution.entries, strict=True)):
        note = str(event.written_pitch)
        if entry is None:
            yield _row(view, event, BEYOND, note, table.problem.given.offered[n].gap, own[:, n], "hard")
            before = None
            continue
        chance = stumble(table, n)
        if chance is not None and chance >= CARE:
            notes = f"{solution.events[n - 1].written_pitch} to {note}"
            says = f"{per_hundred(float(chance))} in 100 stumble"
            what = "hard link" if ease(chance).value == "hard" else "link to work on"
            yield _row(view, event, what, notes, says, into[:, n], ease(chance).value, move=True)
        if own[:, n].sum() >= WEAK:
            yield _row(view, event, "weak note", note, named(view, entry), own[:, n], "care")
        if event.id in foreign:
            yield _row(view, event, "foreign to the key", note, named(view, entry), own[:, n], "easy")
        register = instrument.register_of(event.written_pitch)
        if before is not None and register is not before:
            says = f"from {before.name} to {register.name}"
            yield _row(view, event, "register break", note, says, into[:, n], "easy", move=True)
        before = register


def _row(view, event, what, notes, says, faults, level, *, move=False):
    by_strand = {s: float(value) for s, value in zip(STRANDS, faults, strict=True)}
    return Trouble(
        where=where(event),
        what=what,
        notes=notes,
        says=says,
        by_strand=by_strand,
        faults=sum(by_strand.values()),
        query=view.query(event.id, move=move),
        level=level,
        count=_count(view, event) if move and view.opened.owned else "",
    )


def _count(view, event):
    """The address at which the move into a note is counted."""
    before = view.solution.events[view.place[event.id] - 1]
    return view.address.at(first=before.id, last=event.id).query()
