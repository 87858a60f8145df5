"""What of a passage's notes bears on fingerings: how long, how loud, how they begin."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property, reduce

import numpy as np

from core.charts.uses import TOGETHER, Together, Use
from core.music.aims import Aim
from core.music.events import Event
from core.routes.facility import BoolArray, FloatArray, IntArray

# When a note is long or fast, soft or loud, as charts mean it.
LONG_S, FAST_S, SOFT_UP_TO, LOUD_FROM = 0.7, 0.25, 0.4, 0.65
AIMS: tuple[Aim | None, ...] = (None, *Aim)
ROUNDING_S = 1e-9  # a sixteenth at 60 is a fast note however its length was worked out


@dataclass(frozen=True, eq=False)
class Timing:
    """What of a passage's notes bears on faults; arrays with a value for each note along the first axis.

    A second axis, where there is one, is of tempi.

    Parameters
    ----------
    seconds, available_s : np.ndarray [shape=(n,)], seconds
        How long a note sounds, and the time for the hands on the way into it.
    loudness : np.ndarray [shape=(n,)], 0 to 1
    attack : np.ndarray [shape=(n,)], 0 to 1
        Loudness as a note begins.
    slurred, after_rest, dies : np.ndarray of bool [shape=(n,)]
        How it begins, and whether it dies away to nothing.
    rises : np.ndarray [shape=(n,)], semitones
        From the note before; 0 for the first.
    tuned_cents : np.ndarray [shape=(n,)], cents
        Where a note should lie against equal temperament if it is held.
    exposed : np.ndarray of bool [shape=(n,)]
        Whether its pitch is heard as that of a held note, however short it is.
    aim : np.ndarray of int [shape=(n,)]
        What is aimed at, as a place in `AIMS`.
    unmet : np.ndarray [shape=(n,)], faults
        How far no fingering at hand is known to meet it: that is nobody's fault, and not counted.
    """

    seconds: FloatArray
    available_s: FloatArray
    loudness: FloatArray
    attack: FloatArray
    slurred: BoolArray
    after_rest: BoolArray
    dies: BoolArray
    rises: IntArray
    tuned_cents: FloatArray
    exposed: BoolArray
    aim: IntArray
    unmet: FloatArray

    @property
    def heard_s(self) -> FloatArray:
        """How long each note is as far as its pitch is heard."""
        return np.asarray(np.where(self.exposed, np.maximum(self.seconds, LONG_S), self.seconds))

    @property
    def wanted_cents(self) -> FloatArray:
        """Where each note should lie against equal temperament: only held notes are tuned otherwise."""
        return np.asarray(np.where(self.heard_s >= LONG_S - ROUNDING_S, self.tuned_cents, 0.0))

    @cached_property
    def uses(self) -> BoolArray:
        """Which uses each note is one of; the axis of `TOGETHER` comes last."""
        met = {
            Use.LONG: self.seconds >= LONG_S - ROUNDING_S,
            Use.FAST: self.seconds <= FAST_S + ROUNDING_S,
            Use.SOFT: self.attack <= SOFT_UP_TO,
            Use.LOUD: self.loudness >= LOUD_FROM,
            Use.ATTACK: ~self.slurred,
            Use.FROM_BELOW: self.slurred & (self.rises > 0),
            Use.FROM_ABOVE: self.slurred & (self.rises < 0),
            Use.FIRST: self.after_rest,
        }
        found = np.zeros((*self.seconds.shape, len(TOGETHER)), dtype=np.bool_)
        for column, some in enumerate(TOGETHER):
            found[..., column] = reduce(np.logical_and, [met[use] for use in sorted(some)])
        return found

    @cached_property
    def kind(self) -> IntArray:
        """A number that notes share in which all of this is alike; of one axis, whatever the tempi."""
        told = (getattr(self, part.name) for part in fields(self))
        columns = [part.reshape(len(part), -1)[:, 0].astype(np.float64) for part in told]
        return np.asarray(np.unique(np.stack(columns), axis=1, return_inverse=True)[1].ravel())

    def met(self, note: int) -> frozenset[Together]:
        """Uses that a note is one of, alone and together.

        Parameters
        ----------
        note : int, from 0
            Place of the note in the passage.

        Returns
        -------
        frozenset of Together
        """
        return frozenset(some for some, yes in zip(TOGETHER, self.uses[note], strict=True) if yes)

    def __getitem__(self, index: IntArray) -> Timing:
        return Timing(*(getattr(self, part.name)[index] for part in fields(self)))

    def uses_at(self, at: IntArray) -> BoolArray:
        """Uses of the notes at these places, of which many may be the same.

        Parameters
        ----------
        at : np.ndarray of int [shape=(n,)]

        Returns
        -------
        np.ndarray of bool [shape=(n, ..., len(TOGETHER))]
        """
        some, again = np.unique(at, return_inverse=True)
        return self[some].uses[again.ravel()]

    def quicker(self, factor: float) -> Timing:
        """The same notes so many times as fast.

        Parameters
        ----------
        factor : float, above 0
            So many times as fast.

        Returns
        -------
        Timing
        """
        return replace(self, seconds=self.seconds / factor, available_s=self.available_s / factor)

    def at(self, faster: FloatArray) -> Timing:
        """The same notes so many times as fast, with an axis of tempi.

        Parameters
        ----------
        faster : np.ndarray [shape=(n_tempi,)], above 0

        Returns
        -------
        Timing
        """
        columns = Timing(*(getattr(self, part.name)[:, None] for part in fields(self)))
        found = replace(columns, seconds=columns.seconds / faster, available_s=columns.available_s / faster)
        found.__dict__["kind"] = self.kind  # what is alike at one tempo is alike at all
        return found


def timing(events: Sequence[Event]) -> Timing:
    """Lay out the notes of a passage; the first begins like one after a rest.

    Parameters
    ----------
    events : sequence of Event

    Returns
    -------
    Timing
    """
    slurred = np.array([event.slurred for event in events], dtype=np.bool_)
    available = np.array([event.available_s for event in events], dtype=np.float64)
    freed = np.array([event.freed for event in events], dtype=np.float64)
    midi = [event.written_pitch.midi for event in events]
    return Timing(
        seconds=np.array([event.seconds for event in events], dtype=np.float64),
        available_s=freed * available,
        loudness=np.array([event.loudness for event in events], dtype=np.float64),
        attack=np.array([event.attack for event in events], dtype=np.float64),
        dies=np.array([event.dies for event in events], dtype=np.bool_),
        slurred=slurred,
        after_rest=np.array([place == 0 or e.after_rest for place, e in enumerate(events)], dtype=np.bool_),
        rises=np.diff(midi, prepend=midi[:1]),
        tuned_cents=np.array([event.tuned_cents for event in events], dtype=np.float64),
        exposed=np.array([event.exposed for event in events], dtype=np.bool_),
        aim=np.array([AIMS.index(event.aim) for event in events], dtype=np.int64),
        unmet=np.zeros(len(events)),
    )
