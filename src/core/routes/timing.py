"""What of a passage's notes bears on fingerings: how long, how loud, how they begin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from core.charts.uses import TOGETHER, Together, Use
from core.music.events import Event
from core.routes.facility import BoolArray, FloatArray

# When a note is long or fast, soft or loud, as charts mean it.
LONG_S, FAST_S, SOFT_UP_TO, LOUD_FROM = 0.7, 0.25, 0.4, 0.65
# A tongued note leaves the fingers a little longer: nothing sounds while they move.
TONGUED_TIME = 1.25


@dataclass(frozen=True)
class Timing:
    """What of a passage's notes bears on faults; arrays of one length, one value a note.

    `uses` [shape=(n, len(TOGETHER))] says which uses each note is one of.
    """

    seconds: FloatArray
    available_s: FloatArray
    loudness: FloatArray
    slurred: BoolArray
    after_rest: BoolArray
    uses: BoolArray

    def met(self, note: int) -> frozenset[Together]:
        """Uses that a note is one of, alone and together."""
        return frozenset(some for some, yes in zip(TOGETHER, self.uses[note], strict=True) if yes)


def timing(events: Sequence[Event]) -> Timing:
    """Lay out the notes of a passage; the first begins like one after a rest."""
    slurred = np.array([event.slurred for event in events], dtype=np.bool_)
    available = np.array([event.available_s for event in events], dtype=np.float64)
    seconds = np.array([event.seconds for event in events], dtype=np.float64)
    loudness = np.array([event.loudness for event in events], dtype=np.float64)
    after_rest = np.array([place == 0 or e.after_rest for place, e in enumerate(events)], dtype=np.bool_)
    midi = [event.written_pitch.midi for event in events]
    rises = np.diff(midi, prepend=midi[:1])
    met = {
        Use.LONG: seconds >= LONG_S,
        Use.FAST: seconds <= FAST_S,
        Use.SOFT: loudness <= SOFT_UP_TO,
        Use.LOUD: loudness >= LOUD_FROM,
        Use.ATTACK: ~slurred,
        Use.FROM_BELOW: slurred & (rises > 0),
        Use.FROM_ABOVE: slurred & (rises < 0),
        Use.FIRST: after_rest,
    }
    return Timing(
        seconds=seconds,
        available_s=np.where(slurred, 1.0, TONGUED_TIME) * available,
        loudness=loudness,
        slurred=slurred,
        after_rest=after_rest,
        uses=np.stack([np.all([met[use] for use in sorted(some)], axis=0) for some in TOGETHER], axis=-1),
    )
