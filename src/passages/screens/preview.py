"""A score as read, before anything is saved."""

from dataclasses import dataclass

from core.evidence.in_hand import InstrumentInHand
from core.music.events import sounding_events
from core.routes.candidates import offers
from core.words import counted
from drawing.engraving import System, engrave, shared_glyphs
from passages.solution import where

WIDTH_PX, LINES_SHOWN, GAPS_SHOWN = 640, 6, 5


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
    lines_left: str


def preview(cleaned: dict, in_hand: InstrumentInHand) -> Preview:
    """Build the preview of a score that a form has read."""
    passage = cleaned["passage"]
    events = sounding_events(passage)
    pitches = sorted({event.written_pitch for event in events}, key=lambda pitch: pitch.midi)
    pairs = zip(events, offers(events, in_hand), strict=True)
    gaps = [f"{where(event)}: {offer.gap}." for event, offer in pairs if offer.gap]
    engraving = engrave(passage, WIDTH_PX, in_hand.instrument.clefs)
    left = len(engraving.systems) - LINES_SHOWN
    bars, notes = counted(len(passage.bars), "bar"), counted(len(events), "note")
    return Preview(
        title=cleaned["title"] or passage.title,
        facts=f"{bars} · {notes} · written {pitches[0]} to {pitches[-1]}",
        tempo_bpm=passage.tempo_bpm,
        notices=tuple(cleaned["notices"]),
        gaps=tuple(gaps[:GAPS_SHOWN]),
        gaps_left=max(0, len(gaps) - GAPS_SHOWN),
        glyphs=shared_glyphs([engraving]),
        lines=engraving.systems[:LINES_SHOWN],
        lines_left=counted(left, "more line") if left > 0 else "",
    )
