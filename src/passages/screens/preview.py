"""A score as read, before anything is saved."""

from dataclasses import dataclass, replace

from core.evidence.in_hand import InstrumentInHand
from core.music.events import sounding_events, where
from core.music.notation.score import Offered
from core.music.passage import Bar, Passage
from core.routes.candidates import offers
from core.words import counted
from drawing.engraving import System, engrave, shared_glyphs

WIDTH_PX, BARS_SHOWN, GAPS_SHOWN = 640, 16, 5


@dataclass(frozen=True)
class Preview:
    """What a teacher sees of a score before opening it on the bench."""

    title: str
    facts: str
    tempo_bpm: float
    notices: tuple[str, ...]
    gaps: tuple[str, ...]
    gaps_left: int
    glyphs: str
    lines: tuple[System, ...]
    bars_left: str
    offered: Offered
    asks_pitch: bool
    more_files: str


def preview(cleaned: dict, in_hand: InstrumentInHand, more_files: int = 0) -> Preview:
    """Build the preview of a score that a form has read, one of several files or the only one."""
    passage = cleaned["passage"]
    events = sounding_events(passage)
    pitches = sorted({event.written_pitch for event in events}, key=lambda pitch: pitch.midi)
    pairs = zip(events, offers(events, in_hand), strict=True)
    gaps = [f"{where(event)}: {offer.gap}." for event, offer in pairs if offer.gap]
    left = len(passage.bars) - BARS_SHOWN
    engraving = engrave(_beginning(passage), WIDTH_PX, in_hand.instrument.clefs)
    bars, notes = counted(len(passage.bars), "bar"), counted(len(events), "note")
    return Preview(
        title=cleaned["title"] or passage.title,
        facts=f"{bars} · {notes} · written {pitches[0]} to {pitches[-1]}",
        tempo_bpm=passage.tempo_bpm,
        notices=tuple(cleaned["notices"]),
        gaps=tuple(gaps[:GAPS_SHOWN]),
        gaps_left=max(0, len(gaps) - GAPS_SHOWN),
        glyphs=shared_glyphs([engraving]),
        lines=engraving.systems,
        bars_left=counted(left, "more bar") if left > 0 else "",
        offered=cleaned["score"].offered,
        asks_pitch=cleaned["silent"],
        more_files=counted(more_files, "more file") if more_files else "",
    )


def _beginning(passage: Passage) -> Passage:
    """The bars that are shown; more of them where they are all rests."""
    bars = passage.bars
    shown = next((n for n in range(BARS_SHOWN, len(bars)) if _sounds(bars[:n])), len(bars))
    return replace(passage, bars=bars[:shown])


def _sounds(bars: tuple[Bar, ...]) -> bool:
    return any(not note.is_rest for bar in bars for note in bar.notes)
