"""A score as read, before anything is saved."""

from core.music.passage import sounding_events
from core.routes.candidates import offers
from passages.engraving import engrave
from passages.solution import where

LINES_SHOWN = 6


class Preview:
    """What a teacher sees of a score before opening it on the bench."""

    def __init__(self, cleaned, hand):
        self.passage, self.notices = cleaned["passage"], cleaned["notices"]
        self.title = cleaned["title"] or self.passage.title
        self.events = sounding_events(self.passage)
        self.clefs = hand.instrument.clefs
        offered = offers(self.events, hand.catalogue, hand.fitted, {}, {})
        self.gaps = [
            f"{where(event)}: {offer.gap}."
            for event, offer in zip(self.events, offered, strict=True)
            if offer.gap
        ]

    @property
    def range(self):
        pitches = sorted({event.written_pitch for event in self.events}, key=lambda pitch: pitch.midi)
        return f"{pitches[0]} to {pitches[-1]}"

    @property
    def engraving(self):
        return engrave(self.passage, 640, self.clefs)

    @property
    def glyphs(self):
        return "".join(self.engraving.glyphs.values())

    @property
    def lines(self):
        return self.engraving.systems[:LINES_SHOWN]

    @property
    def lines_left(self):
        return max(0, len(self.engraving.systems) - LINES_SHOWN)
