"""What a student takes home: the passage with its fingerings, its ossia, and the moves to work on."""

from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.bench import BeyondReach, OnLead, beyond_reach, leads_of, on_edge
from bench.screens.ossia import Drawing, OssiaDrawn, kept_with
from bench.systems import NARROW, SIZES, ScoreLine, View, engraved, lines, symbols
from core.instruments.fingering import Fingering
from core.music.events import where
from core.routes.hard_moves import hardest
from drawing.engraving import shared_glyphs
from drawing.hands import hands
from passages.settings import BenchSettings

MOVES_ON_SHEET = 6


@dataclass(frozen=True)
class HardMove:
    """A move to work on."""

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
    lines: tuple[ScoreLine, ...]
    narrow_lines: tuple[ScoreLine, ...]
    legend: str
    hard_moves: tuple[HardMove, ...]
    on_leads: tuple[OnLead, ...]
    ossia: tuple[OssiaDrawn, ...]
    beyond_reach: tuple[BeyondReach, ...]
    on_edge: tuple[BeyondReach, ...]


def sheet_page(opened: Opened, reach=None) -> SheetPage:
    """Build the sheet; `reach` is the student's by what was counted."""
    view = View(opened, opened.solution(), None, frozenset())
    wide, narrow = (engraved(view, size) for size in (SIZES["usual"], NARROW))
    drawing = Drawing(view)
    ossia = kept_with(view, drawing)
    return SheetPage(
        settings=opened.settings,
        number=opened.state.number,
        glyphs=shared_glyphs([wide, narrow, *drawing.engravings]),
        symbols=symbols(view, drawing.entries),
        lines=lines(view, wide, for_print=True),
        narrow_lines=lines(view, narrow, for_print=True),
        legend=hands(Fingering(), view.opened.in_hand),
        hard_moves=hard_moves_of(opened),
        on_leads=leads_of(view),
        ossia=ossia,
        beyond_reach=beyond_reach(view, reach),
        on_edge=on_edge(view, reach),
    )


def hard_moves_of(opened: Opened) -> tuple[HardMove, ...]:
    """The moves to work on, the hardest first."""
    moves = hardest(opened.solution().table, MOVES_ON_SHEET)
    return tuple(_hard_move(opened.in_hand, move) for move in moves)


def _hard_move(in_hand, move):
    notes = f"{move.before.written_pitch} to {move.after.written_pitch}"
    return HardMove(
        where(move.before), notes, move.stumble, in_hand.move(*move.fingerings).sentence, ", ".join(move.asks)
    )
