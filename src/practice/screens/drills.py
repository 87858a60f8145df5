"""Drills of a note or a spot: what each is for, its first line with the fingerings, easiest first."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.utils.safestring import SafeString
from django.utils.text import slugify

from bench.queries import Opened
from bench.solution import Solution
from bench.systems import NARROW, SIZES, ScoreLine, View, engraved, lines, symbols
from core.drills.material import Drill, DrillKind
from core.drills.order import SolvedDrill
from drawing.engraving import shared_glyphs
from passages.models import KeptPassage, State
from passages.settings import BenchSettings

# Bars that are set to show the first line.
BARS_SHOWN = 6
SOME, MANY = 10, 40


@dataclass(frozen=True)
class DrillShown:
    """One drill.

    Parameters
    ----------
    name : str
        By which a form asks for it.
    asks : str
        How much it asks, in words.
    line, narrow_line : tuple of ScoreLine
        Its first line, for a wide page and for a telephone.
    """

    name: str
    title: str
    kind: str
    purpose: str
    asks: str
    length: str
    line: tuple[ScoreLine, ...]
    narrow_line: tuple[ScoreLine, ...]


@dataclass(frozen=True)
class DrillsPage:
    """All of them, or those of one kind, with what their drawings use; `kinds` are those that there are."""

    drills: tuple[DrillShown, ...]
    kinds: tuple[str, ...]
    kind: str
    glyphs: str
    symbols: SafeString


def drills_page(solved: Sequence[SolvedDrill], in_hand, owned=None, kind="") -> DrillsPage:
    """Build the page.

    Parameters
    ----------
    solved : sequence of (Drill, Table, float)
        As `core.drills.order.easiest_first` gives them.
    kind : str
        The kind that is wanted; all by default.
    """
    kinds = [one for one in DrillKind if any(drill.kind is one for drill, *_ in solved)]
    kind = kind if kind in kinds else ""
    solved = [one for one in solved if not kind or one[0].kind == kind]
    views = [view_of(drill, table, in_hand, owned) for drill, table, _ in solved]
    wide = [engraved(_beginning(view), SIZES["small"], most=1) for view in views]
    narrow = [engraved(_beginning(view), NARROW, most=1) for view in views]
    entries = {e.id: e for view in views for e in view.solution.entries if e is not None}
    return DrillsPage(
        drills=tuple(
            DrillShown(
                name=name_of(drill),
                title=drill.name,
                kind=str(drill.kind),
                purpose=drill.purpose,
                asks=_asks(faults, drill.passage.tempo_bpm),
                length=f"{len(drill.passage.bars)} bars",
                line=lines(view, one, for_print=True),
                narrow_line=lines(view, other, for_print=True, size=NARROW),
            )
            for (drill, _, faults), view, one, other in zip(solved, views, wide, narrow, strict=True)
        ),
        kinds=tuple(map(str, kinds)),
        kind=kind,
        glyphs=shared_glyphs([*wide, *narrow]),
        symbols=symbols(views[0], entries) if views else SafeString(""),
    )


def first_line(drill, table, in_hand):
    """A drill's first line on its own: its view, how it is set, the line, and the drawings that it uses."""
    view = view_of(drill, table, in_hand)
    engraving = engraved(_beginning(view), SIZES["usual"], most=1)
    return view, engraving, lines(view, engraving, for_print=True)[0], symbols(view)


def name_of(drill: Drill) -> str:
    """The name by which a form asks for a drill."""
    return slugify(f"{drill.kind} {drill.name}")


def view_of(drill, table, in_hand, owned=None) -> View:
    """A drill that is not kept, as the bench would see it."""
    settings = BenchSettings(drill.passage.tempo_bpm)
    opened = Opened(KeptPassage(title=drill.name), State(number=1), in_hand, settings, owned)
    return View(opened, Solution(drill.passage, in_hand, table), None, frozenset())


def _beginning(view):
    """The view with as many bars as may stand in its first line."""
    passage = view.solution.passage
    shown = replace(passage, bars=passage.bars[:BARS_SHOWN])
    return replace(view, solution=replace(view.solution, passage=shown))


def _asks(faults, bpm):
    """How much it asks, in words: faults that are expected in 100 notes."""
    count = round(faults)
    word = "asks little" if faults < SOME else "asks something" if faults < MANY else "asks much"
    return f"{word}: {count} fault{'' if count == 1 else 's'} expected in 100 notes at ♩ = {bpm:g}"
