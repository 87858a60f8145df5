"""All sources of what is known of a fingering put together, on the instrument in hand.

The chart is the prior. A teacher's judgements and tuner readings move it, as far as the set-up of reed and
mouthpiece under which they were made is in force (`core.evidence.setups`).

Notes
-----
Sources are combined by inverse variance, and where they disagree more than their spreads allow, the
spread of the result is widened by the Birge ratio.

References
----------
Birge (1932), The calculation of errors by the method of least squares, Physical Review 40.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from core.charts.entry import Entry
from core.evidence.setups import FIRST, InForce
from core.evidence.sources import (
    ALL_SOURCES,
    COLOUR_VALUE,
    HANDLING_FACTOR,
    HANDLING_VALUE,
    JUDGED_CENTS_FLOOR,
    JUDGED_CENTS_SPREAD,
    JUDGED_WORD_FLOOR,
    JUDGED_WORD_SPREAD,
    NOTHING_HEARD,
    NOTHING_MODELLED,
    SPEAKS_VALUE,
    TONE_VALUE,
    TUNING_CENTS,
    UNKNOWN_PITCH,
    UNKNOWN_WORD,
    Basis,
    Estimate,
    Handling,
    Heard,
    Modelled,
    colour_estimate,
    counted_estimate,
    pitch_estimate,
    read_estimate,
    speaks_estimate,
    tone_estimate,
)

# How far twins, fingerings whose open holes are the same, may lie apart: the air is the same, the hand not.
TWIN_CENTS, TWIN_WORD = 1.0, 0.03


class HeardStrands(NamedTuple):
    """Estimates of one kind of source: pitch in cents, the others from 0 to 1."""

    pitch: Sequence[Estimate] = ()
    tone: Sequence[Estimate] = ()
    speaks: Sequence[Estimate] = ()
    colour: Sequence[Estimate] = ()


TAUGHT_BY = (pitch_estimate, tone_estimate, speaks_estimate, colour_estimate)


@dataclass(frozen=True)
class Weighed:
    """One strand: its sources, each on its own, and what they come to."""

    sources: tuple[Estimate, ...]
    combined: Estimate


@dataclass(frozen=True)
class Evidence:
    """The strands of a fingering on the instrument in hand.

    Parameters
    ----------
    hands_factor : float
        By how much the judged hands lengthen, or shorten, the time that its moves need.
    earlier : int
        Judgements, readings and attempts made under another set-up, which do not count, or not in all.
    kin : str
        What it shares with its twins, whose open holes are the same: they stand or fall together.
    """

    pitch: Weighed
    tone: Weighed
    speaks: Weighed
    hands: Weighed
    colour: Weighed
    hands_factor: float = 1.0
    earlier: int = 0
    kin: str = ""


def combine(sources: Iterable[Estimate], unknown: Estimate) -> Weighed:
    """Put the sources of a strand together by inverse variance.

    Parameters
    ----------
    sources : iterable of Estimate
    unknown : Estimate
        What the strand is worth without any source. With one it does not count, but for a model alone:
        that is held back by what any fingering of a chart may be expected to do.

    Returns
    -------
    Weighed
    """
    known = tuple(source for source in sources if source.basis is not Basis.UNKNOWN)
    if not known:
        return Weighed((), unknown)
    if all(source.basis is Basis.MODELLED for source in known):
        return Weighed(known, Estimate(*_weighed((*known, unknown)), Basis.MODELLED))
    if len(known) == 1:
        return Weighed(known, known[0])
    value, spread = _weighed(known)
    chi2 = sum(((source.value - value) / source.spread) ** 2 for source in known)
    birge = math.sqrt(max(1.0, chi2 / (len(known) - 1)))
    strongest = min(known, key=lambda source: source.spread)
    count = sum(source.count for source in known)
    return Weighed(known, Estimate(value, birge * spread, strongest.basis, count))


def _weighed(sources: Sequence[Estimate]) -> tuple[float, float]:
    """Mean by inverse variance, and its spread."""
    weights = [source.spread**-2 for source in sources]
    value = sum(w * source.value for w, source in zip(weights, sources, strict=True)) / sum(weights)
    return value, sum(weights) ** -0.5


def evidence(
    entry: Entry,
    heard: Heard = NOTHING_HEARD,
    setups: InForce = FIRST,
    use: Collection[Basis] = ALL_SOURCES,
    modelled: Modelled = NOTHING_MODELLED,
    twins: Heard = NOTHING_HEARD,
    kin: str = "",
) -> Evidence:
    """Weigh what is known of a fingering.

    Parameters
    ----------
    entry : Entry
    heard : Heard
        What was judged and read on the instrument in hand.
    setups : InForce
        What counts of it.
    use : collection of Basis
        Sources switched on.
    modelled : Modelled
        What an acoustic model says of the fingering.
    twins : Heard
        What was heard of its twins, see `twin_estimates`.
    kin : str
        See `Evidence`.

    Returns
    -------
    Evidence
    """
    counts = _switched_on(setups.counting(heard), use)
    taught = HeardStrands(*([one(entry)] for one in TAUGHT_BY)) if Basis.TAUGHT in use else HeardStrands()
    pitches, answers = (
        [estimate] if estimate and Basis.MODELLED in use else []
        for estimate in (modelled.pitch, modelled.speaks)
    )
    own, twin = _heard(counts), twin_estimates(twins, setups, use)
    if twin.pitch:  # what the model has read is the same: it would count twice
        pitches = []
    handled = [j.hands for j in counts.judgements if j.hands]
    return Evidence(
        pitch=combine([*taught.pitch, *pitches, *twin.pitch, *own.pitch], UNKNOWN_PITCH),
        tone=combine([*taught.tone, *twin.tone, *own.tone], UNKNOWN_WORD),
        speaks=combine(
            [*taught.speaks, *answers, *twin.speaks, *own.speaks, *_counted(counts)], UNKNOWN_WORD
        ),
        hands=combine(_judged([HANDLING_VALUE[hands] for hands in handled]), UNKNOWN_WORD),
        colour=combine([*taught.colour, *twin.colour, *own.colour], UNKNOWN_WORD),
        hands_factor=_hands_factor(handled),
        earlier=setups.left_out(heard),
        kin=kin or entry.id,
    )


def twin_estimates(twins: Heard, setups: InForce, use: Collection[Basis] = ALL_SOURCES) -> HeardStrands:
    """Pitch, tone, response and colour of a fingering by what was heard of its twins.

    That the keywork leaves the same holes open is the model's word, so they count as modelled, and only
    while both the model and what was heard are switched on.

    Parameters
    ----------
    twins : Heard
    setups : InForce
    use : collection of Basis

    Returns
    -------
    HeardStrands
    """
    if Basis.MODELLED not in use:
        return HeardStrands()
    heard = _heard(_switched_on(setups.counting(twins), use))

    def told(estimates: Sequence[Estimate], apart: float) -> list[Estimate]:
        return [Estimate(e.value, math.hypot(e.spread, apart), Basis.MODELLED, e.count) for e in estimates]

    return HeardStrands(told(heard.pitch, TWIN_CENTS), *(told(strand, TWIN_WORD) for strand in heard[1:]))


def _switched_on(heard: Heard, use: Collection[Basis]) -> Heard:
    """What is left of what was heard by the sources switched on."""
    return Heard(
        heard.judgements if Basis.JUDGED in use else (),
        heard.readings if Basis.MEASURED in use else (),
        heard.hits if Basis.COUNTED in use else (),
    )


def _counted(heard: Heard) -> list[Estimate]:
    """How it answers by attempts; nothing where there are none."""
    some = [hits for hits in heard.hits if hits.total]
    if not some:
        return []
    clean, missed = (sum(part) for part in zip(*(hits.as_tongued for hits in some), strict=True))
    return [counted_estimate(clean, missed, sum(hits.total for hits in some))]


def _heard(heard: Heard) -> HeardStrands:
    """What was judged and read."""
    judged, cents = heard.judgements, [c for readings in heard.readings for c in readings.cents]
    by_ear = _judged(
        [TUNING_CENTS[j.pitch] for j in judged if j.pitch], JUDGED_CENTS_SPREAD, JUDGED_CENTS_FLOOR
    )
    measured = [read_estimate(cents)] if cents else []
    return HeardStrands(
        pitch=[*by_ear, *measured],
        tone=_judged([TONE_VALUE[j.tone] for j in judged if j.tone]),
        speaks=_judged([SPEAKS_VALUE[j.speaks] for j in judged if j.speaks]),
        colour=_judged([COLOUR_VALUE[j.colour] for j in judged if j.colour]),
    )


def _judged(
    values: list[float], spread: float = JUDGED_WORD_SPREAD, floor: float = JUDGED_WORD_FLOOR
) -> list[Estimate]:
    if not values:
        return []
    mean = sum(values) / len(values)
    return [Estimate(mean, max(spread / math.sqrt(len(values)), floor), Basis.JUDGED, len(values))]


def _hands_factor(handled: list[Handling]) -> float:
    """One judgement is believed half, two two thirds, and so on."""
    if not handled:
        return 1.0
    mean = sum(math.log(HANDLING_FACTOR[hands]) for hands in handled) / len(handled)
    return math.exp(mean * len(handled) / (len(handled) + 1))
