"""Expected faults a playing: the one quantity in which all four strands are counted.

A fault is something a listener in the room would notice: a note out of tune, a tone wanting, a
note that does not speak, a stumble of the hands. For each note and each move the chance of each
fault is estimated; their sum over a passage is what a route costs.

Notes
-----
The shapes follow what is known of hearing and moving; the sizes are our choice, stated below as
constants. The estimate is meant for comparing fingerings, not for predicting a performance.

References
----------
Moore (1973), Frequency difference limens for short-duration tones, Journal of the Acoustical
Society of America 54: short tones need a larger difference.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields
from functools import cached_property
from operator import add, sub
from typing import Any
from zlib import crc32

import numpy as np
from scipy.special import ndtr

from core.charts.entry import Entry
from core.charts.uses import TOGETHER, Together, Use, avoided_uses, good_uses
from core.errors import RouteError
from core.evidence.sources import SLURRED, SOFT, Basis, Estimate
from core.evidence.weigh import Evidence
from core.music.aims import Aim
from core.routes.demands import Demands, stumbles
from core.routes.facility import BoolArray, FloatArray, IntArray
from core.routes.timing import AIMS, Timing

STRANDS = ("pitch", "tone", "speaks", "hands")
WEIGHT_MAX = 10.0

# A held note is noticed from about 15 cents; a note of a tenth of a second from about 33.
NOTICED_CENTS, NOTICED_CENTS_S = 15.0, 1.8
# A poor tone is heard once a note lasts about half a second, and not everybody minds it.
TONE_HEARD_S, TONE_MINDED = 0.5, 0.45
NOT_SPEAKING = 0.45
# Soft entries and entries after a rest are the least sure, slurred ones the surest; crossing to
# another partial under a slur takes that away again.
AFTER_REST, ACROSS_PARTIALS = 1.5, 1.6  # of soft and slurred ones: `core.evidence.sources`
# A fingering that is good only when coming from a certain neighbour, used elsewhere.
UNPREPARED = 0.9
# Used where its row says to avoid it; used where its row says that it is good for something else.
AVOIDED, OUT_OF_PLACE = 0.12, 0.06
# Beside a note by which its row says to avoid it: what that may cost, at any tempo; it is no fault.
AVOIDED_BESIDE = 0.04
# A finger that jumps between two touches breaks a slur, and it is heard about this often.
BROKEN_SLUR = 0.2
# Fingers of one hand moving against each other under a slur let a wrong note through now and then.
BLIP = 0.02
# Hands that go over to another form of fingering find it not at once, however slow the music; under a slur
# it is heard.
RESHAPED, RESHAPED_SLUR = 0.08, 0.3
# A note that dies away to nothing may stop before it should.
DIES = 0.8
CHANCE_LIMIT = 0.95
# Where it is felt that a use is avoided: how the note begins, how the hands find it, or how it sounds.
BEGINS = {Use.ATTACK, Use.FROM_BELOW, Use.FROM_ABOVE, Use.FIRST}
BY_STRAND = {
    "speaks": np.array([bool(some & BEGINS) for some in TOGETHER]),
    "hands": np.array([Use.FAST in some and not some & BEGINS for some in TOGETHER]),
    "tone": np.array([Use.FAST not in some and not some & BEGINS for some in TOGETHER]),
}


@dataclass(frozen=True)
class AimedAt:
    """What counts as a fault where something is aimed at.

    Parameters
    ----------
    tone, colour : float or None, 0 to 1
        Tone and colour that are wanted; any departure from them is a fault, however short the note.
    tone_minded : float
        How much of a poor tone is minded still.
    cents : float
        Times as far out of tune as elsewhere passes.
    """

    tone: float | None = None
    colour: float | None = None
    tone_minded: float = 1.0
    cents: float = 1.0


# In tune above all: from six cents on it is heard, and tone is not minded; easiest above all: twice as much
# passes as elsewhere, so that the hands decide. Sizes of our choice.
WANTED: Mapping[Aim | None, AimedAt] = {
    None: AimedAt(),
    Aim.FULLER: AimedAt(tone=1.0),
    Aim.THINNER: AimedAt(tone=0.0),
    Aim.DARKER: AimedAt(colour=0.3),
    Aim.BRIGHTER: AimedAt(colour=0.9),
    Aim.COVERED: AimedAt(colour=0.1),
    Aim.IN_TUNE: AimedAt(tone_minded=0.0, cents=0.4),
    Aim.EASIEST: AimedAt(tone_minded=0.0, cents=2.0),
}
# The same as columns of `AIMS`; nothing said is nan.
_WANTED = {
    part.name: np.array([getattr(WANTED[one], part.name) for one in AIMS], dtype=np.float64)
    for part in fields(AimedAt)
}
# How surely it is heard that tone or colour is not what is aimed at: at the square of so far apart always.
MISSED_TONE, MISSED_COLOUR = 2.0, 5.0


@dataclass(frozen=True)
class Faults:
    """Expected faults by strand: four numbers, or four arrays of one shape."""

    pitch: Any = 0.0
    tone: Any = 0.0
    speaks: Any = 0.0
    hands: Any = 0.0

    def _with(self, other: Faults, way: Callable[[Any, Any], Any]) -> Faults:
        return Faults(*(way(getattr(self, strand), getattr(other, strand)) for strand in STRANDS))

    def __add__(self, other: Faults) -> Faults:
        return self._with(other, add)

    def __sub__(self, other: Faults) -> Faults:
        return self._with(other, sub)

    def __getitem__(self, index: Any) -> Faults:
        return Faults(*(getattr(self, strand)[index] for strand in STRANDS))

    @property
    def parts(self) -> tuple[Any, Any, Any, Any]:
        """The four, in the order of `STRANDS`."""
        return self.pitch, self.tone, self.speaks, self.hands

    def where(self, real: BoolArray) -> Faults:
        """Nothing where it is not real; the arrays may have further axes.

        Parameters
        ----------
        real : np.ndarray of bool [shape=(n,)]

        Returns
        -------
        Faults
        """
        return Faults(*((part.T * real).T for part in self.parts))

    @property
    def by_strand(self) -> dict[str, float]:
        """The four by their names, of single numbers."""
        return {strand: float(getattr(self, strand)) for strand in STRANDS}

    @property
    def total(self) -> Any:
        """The sum of the four, of the shape of each."""
        return sum(self.parts[1:], start=self.parts[0])

    def summed(self) -> Faults:
        """The sum of arrays, strand by strand.

        Returns
        -------
        Faults
        """
        return Faults(*(float(np.sum(getattr(self, strand))) for strand in STRANDS))

    def weighted(self, weights: Mapping[str, float]) -> Faults:
        """Each strand times its weight; 1 where none is given.

        Parameters
        ----------
        weights : mapping of str to float, 0 to 10
            How much each strand counts; 1 where none is given.

        Returns
        -------
        Faults
        """
        return Faults(*(weights.get(strand, 1.0) * getattr(self, strand) for strand in STRANDS))


def check_weights(weights: Mapping[str, float]) -> Mapping[str, float]:
    """Return how much each strand counts, if it can count so.

    Parameters
    ----------
    weights : mapping of str to float, 0 to 10
        How much each strand counts; 1 where none is given.

    Returns
    -------
    mapping of str to float, 0 to 10

    Raises
    ------
    RouteError
        If a strand is not known, or a weight is not from 0 to `WEIGHT_MAX`.
    """
    unknown = sorted(set(weights) - set(STRANDS))
    if unknown:
        raise RouteError(f"weights must be for {', '.join(STRANDS)}, got {unknown}")
    if not all(0 <= weight <= WEIGHT_MAX for weight in weights.values()):
        raise RouteError(f"a weight must be from 0 to {WEIGHT_MAX:g}, got {list(weights.values())}")
    return weights


@dataclass(frozen=True)
class Qualities:
    """What is known of each of several entries, as a route needs it; arrays of one length.

    Parameters
    ----------
    pitch, pitch_spread : np.ndarray [shape=(n,)], cents
    tone, tone_spread, speaks, speaks_spread, colour, colour_spread : np.ndarray [shape=(n,)], 0 to 1
    hands_factor : np.ndarray [shape=(n,)]
        By how much the moves of its hands take longer, or shorter.
    particular : np.ndarray of bool [shape=(n,)]
        The fingering is good only when coming from certain others.
    good, avoid : np.ndarray of bool [shape=(n, len(TOGETHER))]
        Uses of which one must be met, where there is any; uses to be avoided.
    kin : np.ndarray of int [shape=(n,)]
        A number that twins share.
    pitch_known : np.ndarray of bool [shape=(n,)]
        Whether anything is known of the pitch.
    tone_known, speaks_known, colour_known : np.ndarray of bool [shape=(n,)]
        Whether anything is known of them.
    """

    pitch: FloatArray
    pitch_spread: FloatArray
    tone: FloatArray
    tone_spread: FloatArray
    speaks: FloatArray
    speaks_spread: FloatArray
    colour: FloatArray
    colour_spread: FloatArray
    hands_factor: FloatArray
    particular: BoolArray
    good: BoolArray
    avoid: BoolArray
    kin: IntArray
    pitch_known: BoolArray
    tone_known: BoolArray
    speaks_known: BoolArray
    colour_known: BoolArray

    @cached_property
    def named_uses(self) -> IntArray:
        """Columns of `good` and `avoid` that any entry names."""
        either = (self.good | self.avoid).reshape(-1, self.good.shape[-1])
        return np.flatnonzero(np.any(either, axis=0))

    @property
    def in_columns(self) -> Qualities:
        """The same with a second axis of length one."""
        return Qualities(*(getattr(self, part.name)[:, None] for part in fields(self)))

    @cached_property
    def thinness(self) -> FloatArray:
        """Expected square of what is wanting in tone."""
        return np.asarray((1 - self.tone) ** 2 + self.tone_spread**2)

    @cached_property
    def silence(self) -> FloatArray:
        """Expected square of what is wanting in response."""
        return np.asarray((1 - self.speaks) ** 2 + self.speaks_spread**2)


def qualities(entries: Sequence[Entry], known: Sequence[Evidence]) -> Qualities:
    """Lay out what is known of entries; `known` is one for each of them, in their order.

    Twins have one pitch, that of the one best known: that less is known of the others is no merit.

    Parameters
    ----------
    entries : sequence of Entry
    known : sequence of Evidence

    Returns
    -------
    Qualities
    """
    best: dict[str, Estimate] = {}
    for one in sorted(known, key=lambda one: -one.pitch.combined.spread):
        best[one.kin] = one.pitch.combined
    pitches = [best[one.kin] for one in known]
    return Qualities(
        pitch=np.array([pitch.value for pitch in pitches]),
        pitch_spread=np.array([pitch.spread for pitch in pitches]),
        tone=np.array([e.tone.combined.value for e in known]),
        tone_spread=np.array([e.tone.combined.spread for e in known]),
        speaks=np.array([e.speaks.combined.value for e in known]),
        speaks_spread=np.array([e.speaks.combined.spread for e in known]),
        colour=np.array([e.colour.combined.value for e in known]),
        colour_spread=np.array([e.colour.combined.spread for e in known]),
        hands_factor=np.array([e.hands_factor for e in known]),
        particular=np.array([bool(entry.only_from) for entry in entries], dtype=np.bool_),
        good=_columns([good_uses(entry.good_for) for entry in entries]),
        avoid=_columns([avoided_uses(entry.avoid_when) for entry in entries]),
        kin=np.array([crc32(e.kin.encode()) for e in known], dtype=np.int64),
        pitch_known=np.array([pitch.basis is not Basis.UNKNOWN for pitch in pitches], dtype=np.bool_),
        tone_known=np.array([bool(e.tone.sources) for e in known], dtype=np.bool_),
        speaks_known=np.array([bool(e.speaks.sources) for e in known], dtype=np.bool_),
        colour_known=np.array([bool(e.colour.sources) for e in known], dtype=np.bool_),
    )


def _columns(uses: Sequence[Sequence[Together]]) -> BoolArray:
    rows = [[together in one for together in TOGETHER] for one in uses]
    return np.array(rows, dtype=np.bool_).reshape(len(uses), len(TOGETHER))


def note_faults(known: Qualities, notes: Timing, at: IntArray, rows: IntArray) -> Faults:
    """Chance of each fault that notes have by themselves.

    Parameters
    ----------
    known, notes : Qualities or Timing
        Arrays of one axis; both may have a second one, of many draws of what is known, or of many tempi.
    at, rows : np.ndarray of int [shape=(n,)]
        Which note, as a place in `notes`, and which fingering, as a place in `known`.

    Returns
    -------
    Faults
        Arrays of shape (n,), or (n, columns), each from 0 to 0.95; of the hands only where a row avoids fast
        notes.
    """
    known = known.in_columns if notes.seconds.ndim > known.pitch.ndim else known
    seconds = notes.seconds[at]
    aim, off = notes.aim[at], known.pitch[rows] - notes.wanted_cents[at]
    pitch = off_pitch(off, known.pitch_spread[rows], notes.heard_s[at], passes(aim))
    heard = 1.0 - np.exp(-seconds / TONE_HEARD_S)
    tone = TONE_MINDED * known.thinness[rows] * heard * (0.6 + 0.7 * notes.loudness[at])
    speaks = NOT_SPEAKING * known.silence[rows] * _attack(notes)[at]
    speaks = speaks + UNPREPARED * (notes.after_rest[at] & known.particular[rows])
    named = known.named_uses
    used, good, avoid = (
        notes.uses_at(at)[..., named],
        known.good[rows][..., named],
        known.avoid[rows][..., named],
    )
    out_of_place = np.any(good, axis=-1) & ~np.any(good & used, axis=-1)
    bad = {
        strand: AVOIDED * np.any(avoid & used & where[named], axis=-1) for strand, where in BY_STRAND.items()
    }
    tone = tone + bad["tone"] + OUT_OF_PLACE * out_of_place
    if aim.any():
        tone = _as_aimed(known, rows, tone, aim) - notes.unmet[at]
    tone, speaks = (np.clip(part, 0.0, CHANCE_LIMIT) for part in (tone, speaks + bad["speaks"]))
    return Faults(pitch, tone, speaks, bad["hands"])


def passes(aim: IntArray) -> FloatArray:
    """How many times as far out of tune as elsewhere passes.

    Parameters
    ----------
    aim : np.ndarray of int [shape=(...,)]
        Places in `AIMS`.

    Returns
    -------
    np.ndarray [shape=(...,)], above 0
    """
    return np.asarray(_WANTED["cents"][aim])


def missed(known: Qualities, rows: IntArray, aim: IntArray) -> FloatArray:
    """How far a tone or colour that is aimed at is missed; nothing where none is.

    Parameters
    ----------
    known : Qualities
    rows : np.ndarray of int [shape=(n,)]
        Which fingering, as a place in `known`.
    aim : np.ndarray of int [shape=(n,)]
        Places in `AIMS`.

    Returns
    -------
    np.ndarray [shape=(n,)], faults
    """
    return _as_aimed(known, rows, np.zeros(len(rows)), aim)


def _as_aimed(known: Qualities, rows: IntArray, tone: FloatArray, aim: IntArray) -> FloatArray:
    """Faults of tone where something is aimed at; elsewhere as they are."""
    tone = tone * _WANTED["tone_minded"][aim]
    for of, missed in (("tone", MISSED_TONE), ("colour", MISSED_COLOUR)):
        wanted = _WANTED[of][aim]
        apart = (getattr(known, of)[rows] - wanted) ** 2 + getattr(known, f"{of}_spread")[rows] ** 2
        tone = np.where(np.isnan(wanted), tone, missed * apart)
    return np.asarray(tone)


# What a player bends on a long note: down with ease, up hardly; and how long it takes to hear and mend.
BEND_DOWN_CENTS, BEND_UP_CENTS, BEND_S = 20.0, 8.0, 0.5


def bends(cents: float, seconds: float) -> float:
    """How much of a departure a player may mend by bending, as a note of this length leaves time.

    It is told, and not counted: what has to be mended all the time is wanting in the fingering.

    Parameters
    ----------
    cents : float, cents, sharp positive
    seconds : float, seconds, from 0

    Returns
    -------
    float, cents, from 0

    Examples
    --------
    >>> round(bends(18.0, 2.0)), round(bends(-18.0, 2.0)), round(bends(18.0, 0.1))
    (18, 8, 4)
    """
    room = (BEND_DOWN_CENTS if cents > 0 else BEND_UP_CENTS) * (1 - np.exp(-seconds / BEND_S))
    return float(min(abs(cents), room))


def off_pitch(
    mean: FloatArray, spread: FloatArray, seconds: FloatArray, times: FloatArray | float = 1.0
) -> FloatArray:
    """Chance that a note is heard to be out of tune.

    Parameters
    ----------
    mean, spread : np.ndarray [shape=(...,)], cents
        Where it lies, sharp positive.
    seconds : np.ndarray [shape=(...,)], seconds
        How long it sounds.
    times : np.ndarray [shape=(...,)] or float, above 0
        So many times as far as usual passes.

    Returns
    -------
    np.ndarray of the shape of `mean`, 0 to 0.95
    """
    noticed = times * (NOTICED_CENTS + NOTICED_CENTS_S / np.maximum(seconds, 1e-3))
    chance = ndtr((-noticed - mean) / spread) + ndtr((mean - noticed) / spread)
    return np.asarray(np.clip(chance, 0.0, CHANCE_LIMIT))


def move_faults(
    known: Qualities, notes: Timing, at: IntArray, rows: tuple[IntArray, IntArray], asked: Demands
) -> Faults:
    """Chance of each fault that arises between two adjacent notes.

    Parameters
    ----------
    known, notes : Qualities or Timing
        As in `note_faults`.
    at : np.ndarray of int [shape=(n,)]
        Which move: that into this note, as a place in `notes`.
    rows : (np.ndarray, np.ndarray) of int [shape=(n,)]
        The fingering before and the one after, as places in `known`.
    asked : Demands
        What these moves ask.

    Returns
    -------
    Faults
        As in `note_faults`; speaks and hands only. The judged hands of the two fingerings share the
        time of a move: each enters by its root.
    """
    before, after = rows
    known = known.in_columns if notes.seconds.ndim > known.pitch.ndim else known
    if notes.seconds.ndim > 1:
        asked = asked.in_columns
    factor = np.sqrt(known.hands_factor[before] * known.hands_factor[after])
    slurred = notes.slurred[at]
    hands = stumbles(asked, notes.available_s[at], factor, tongued=~slurred)
    hands = (
        hands
        + slurred * (BROKEN_SLUR * asked.jumps + BLIP * asked.contrary)
        + np.where(slurred, RESHAPED_SLUR, RESHAPED) * asked.reshapes
    )
    extra = NOT_SPEAKING * (ACROSS_PARTIALS - 1.0) * SLURRED
    speaks = extra * (slurred & asked.crosses) * known.silence[after]
    speaks = speaks + UNPREPARED * (~notes.after_rest[at] & asked.unprepared)
    nothing = np.zeros(hands.shape)
    return Faults(nothing, nothing, speaks, hands)


def _attack(notes: Timing) -> FloatArray:
    """How much less surely a note speaks for the way it begins; 1 for a tongued mezzo-forte."""
    kind = np.where(notes.slurred, SLURRED, np.where(notes.after_rest, AFTER_REST, 1.0))
    begins = kind * (1.0 + (SOFT - 1.0) * np.clip(1.0 - notes.attack / 0.55, 0.0, 1.0))
    return np.asarray(begins + DIES * notes.dies)
