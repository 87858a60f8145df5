"""What a student takes home: the passage with its fingerings, its ossia, and the moves to work on."""

from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.bench import BeyondReach, OnLead, beyond_reach, leads_of, on_edge
from bench.screens.ossia import Drawing, Drawn, kept_with
from bench.systems import NARROW, SIZES, Line, View, engraved, lines, symbols
from core.instruments.fingering import Fingering
from core.music.events import where
from core.routes.links import hardest
from drawing.engraving import shared_glyphs
from drawing.hands import hands
from passages.settings import BenchSettings

LINKS_ON_SHEET = 6


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
    on_leads: tuple[OnLead, ...]
    ossia: tuple[Drawn, ...]
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
        hard_links=hard_links_of(opened),
        on_leads=leads_of(view),
        ossia=ossia,
        beyond_reach=beyond_reach(view, reach),
        on_edge=on_edge(view, reach),
    )


def hard_links_of(opened: Opened) -> tuple[HardLink, ...]:
    """The links to work on, the hardest first."""
    links = hardest(opened.solution().table, LINKS_ON_SHEET)
    return tuple(_hard_link(opened.in_hand, link) for link in links)


def _hard_link(in_hand, link):
    notes = f"{link.before.written_pitch} to {link.after.written_pitch}"
    return HardLink(
        where(link.before), notes, link.stumble, in_hand.move(*link.fingerings).sentence, ", ".join(link.asks)
    )
