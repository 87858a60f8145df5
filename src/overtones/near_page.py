"""Fingerings near the known ones of a note: untried, to be tried with a student."""

from dataclasses import dataclass
from functools import cached_property
from urllib.parse import urlencode

from catalogue.care import caution_for
from catalogue.drawings import small_hands
from catalogue.hand import Hand
from catalogue.modelled import pitch_words, readiness
from catalogue.note_page import AVAILABLE_S, STEPS_AROUND, TEMPO_BPM
from catalogue.strands import per_hundred
from core.instruments.fingering import format_fingering
from core.instruments.moves import move_between
from core.music.pitch import Pitch, spell
from core.overtones.near_search import near_search


@dataclass(frozen=True)
class Untried:
    """One fingering that nobody teaches for the note."""

    drawing: str
    touches: str
    changed: str
    pitch: str
    readiness: str
    stumble: str
    query: str


class NearPage:
    """What may be tried for a note on the instrument in hand; the middle of the range where it is None."""

    def __init__(self, hand: Hand, note: Pitch | None, problems=()):
        self.hand, self.instrument, self.problems = hand, hand.instrument, list(problems)
        middle = (self.instrument.written_low.midi + self.instrument.written_high.midi) // 2
        self.note = note or spell(middle)

    @property
    def tempo(self):
        return f"{TEMPO_BPM:.0f}"

    @property
    def caution(self):
        return caution_for(self.instrument, self.note)

    @property
    def back(self):
        return "?" + urlencode({"on": self.hand.on, "note": self.note.ascii})

    @cached_property
    def rows(self):
        around = [self.hand.plainest(spell(self.note.midi + step)) for step in STEPS_AROUND]
        found = near_search(
            self.hand.acoustics.model,
            self.hand.catalogue,
            self.note,
            self.hand.fitted,
            [entry for entry in around if entry],
            AVAILABLE_S,
        )
        return [self._row(near) for near in found]

    def _row(self, near):
        told = self.hand.acoustics.tell(near.prediction, self.note, near.fingering)
        touches = format_fingering(near.fingering, self.instrument)
        move = move_between(near.base.fingering, near.fingering, self.instrument)
        return Untried(
            drawing=small_hands(near.fingering, self.instrument),
            touches=touches,
            changed=f"From the {near.base.kind.value} {near.base.note}: {move.sentence}",
            pitch=pitch_words(told) if told else "",
            readiness=readiness(near.prediction.margin, self.instrument.family) if told else "",
            stumble=per_hundred(near.stumble),
            query="?" + urlencode({"on": self.hand.on, "note": self.note.ascii, "touches": touches}),
        )
