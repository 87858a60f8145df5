"""Fingerings near the known ones that may serve a note: to be tried, never to be taken on trust.

Thousands of combinations that nobody teaches would outrank taught ones if every one were searched. So
only one and two touches are changed, on fingerings known for the note and on leads, and the hands must
hold the result. Where none is known, those of the nearest notes are changed. A wider search changes up to
three touches of known ones.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from core.acoustics.holdout import rank
from core.acoustics.model import Model
from core.acoustics.prediction import Prediction, SoundsAs
from core.charts.catalogue import Catalogue
from core.charts.entry import HELD, Entry
from core.instruments.actions import grips
from core.instruments.fingering import Fingering
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.keywork import mechanism, missing, unholdable
from core.music.pitch import Pitch
from core.routes.demands import demands, stumbles

REACH_CENTS = 60.0
# How far from the note fingerings are looked for where it has none, in semitones.
AROUND = 2
# What a stumble in every playing would count in the ranking.
HANDS_COUNT = 2.0
# Closer than this two fingerings do the same.
SAME_CENTS, SAME_DB = 2.0, 1.0
LIMIT = 12
# Touches changed at most: near, and in a wider search of known ones; of so many fingerings at most.
NEAR_TOUCHES, WIDE_TOUCHES, WIDE_BASES = 2, 3, 6


@dataclass(frozen=True)
class Near:
    """A fingering few touches from a known one, or from a lead.

    Parameters
    ----------
    base : Entry
        The known fingering, or the lead.
    changed : tuple of str
        Touches added or taken away.
    stumble : float
        Chance of a stumble on the way from and to the notes around, the worst; 0 to 1.
    """

    fingering: Fingering
    base: Entry
    changed: tuple[str, ...]
    prediction: Prediction
    stumble: float


def near_search(
    model: Model,
    catalogue: Catalogue,
    note: Pitch,
    fitted: frozenset[str],
    around: Sequence[Entry] = (),
    available_s: float = 0.134,
    *,
    hand: Hand = ANY_HAND,
    wider: bool = False,
) -> list[Near]:
    """Find fingerings near known ones for a written note, the likeliest first.

    Parameters
    ----------
    model : Model
    catalogue : Catalogue
    note : Pitch
    fitted : frozenset of str
        Optional touches and fittings of the instrument in hand.
    around : sequence of Entry
        Fingerings of the notes around, that hands come from and go to.
    available_s : float
        Time for a move, in seconds.
    hand : Hand
        Whose hands move.
    wider : bool
        Whether up to three touches of known fingerings are changed, not only two.

    Returns
    -------
    list of Near
        At most twelve, no two that open the same holes; none that is known for the note.
    """
    known = catalogue.by_midi.get(note.midi, ())
    bases = _at_hand(catalogue, known, fitted)
    if not bases or wider:
        steps = sorted(range(-AROUND, AROUND + 1), key=abs)
        nearest = [e for step in steps if step for e in catalogue.by_midi.get(note.midi + step, ())]
        bases += _at_hand(catalogue, nearest, fitted)
    changes = _changes(model, bases, fitted, {entry.fingering for entry in known}, wider=wider)
    if not changes:
        return []
    likely = _likely(model, note, changes)
    found = model.predict([(fingering, note) for fingering, _, _ in likely])
    chances = _stumbles(model, [fingering for fingering, _, _ in likely], around, available_s, hand)
    rows = [
        Near(*change, prediction, stumble)
        for change, prediction, stumble in zip(likely, found, chances, strict=True)
        if prediction and abs(prediction.cents) <= REACH_CENTS and not _leaks(model, change[0], prediction)
    ]
    unchanged = model.predict([(base.fingering, note) for base in bases])
    plain: dict[tuple[str, tuple[str, ...]], Prediction | None] = {
        (base.id, ()): prediction for base, prediction in zip(bases, unchanged, strict=True)
    }
    plain |= {(row.base.id, row.changed): row.prediction for row in rows}
    rows = [row for row in rows if not _adds_nothing(row, plain)]
    return sorted(rows, key=lambda row: HANDS_COUNT * row.stumble - rank(row.prediction))[:LIMIT]


def _at_hand(catalogue: Catalogue, entries: Sequence[Entry], fitted: frozenset[str]) -> list[Entry]:
    return [
        entry
        for entry in entries
        if entry.source != HELD and not missing(catalogue.instrument, entry.fingering, entry.requires, fitted)
    ]


def _leaks(model: Model, fingering: Fingering, prediction: Prediction) -> bool:
    """Whether an open vent would let a higher partial sound instead of the first."""
    return prediction.sounds_as is SoundsAs.FIRST and bool(mechanism(model.instrument, fingering).open_vents)


def _adds_nothing(row: Near, plain: Mapping[tuple[str, tuple[str, ...]], Prediction | None]) -> bool:
    """Whether the same comes of fewer touches: a touch beside the point is no other fingering."""
    fewer = [plain.get((row.base.id, kept)) for kept in combinations(row.changed, len(row.changed) - 1)]
    fewer.append(plain.get((row.base.id, ())))
    return any(
        other
        and other.partial == row.prediction.partial
        and abs(other.cents - row.prediction.cents) < SAME_CENTS
        and not abs(other.margin - row.prediction.margin) > SAME_DB  # both may be infinite
        for other in fewer
    )


Change = tuple[Fingering, Entry, tuple[str, ...]]


def _changes(
    model: Model, bases: Sequence[Entry], fitted: frozenset[str], known: set[Fingering], *, wider: bool
) -> list[Change]:
    """Every holdable change of few touches; of those that open the same holes the smallest."""
    instrument = model.instrument
    at_hand = [t for t in instrument.touch_by_name if t in fitted or t not in instrument.optional_touches]
    found: dict[Fingering, Change] = {}
    for count in range(1, (WIDE_TOUCHES if wider else NEAR_TOUCHES) + 1):
        far = count > NEAR_TOUCHES
        for base in [base for base in bases if not base.is_lead][:WIDE_BASES] if far else bases:
            full, half = base.fingering.full, base.fingering.half
            for touches in combinations(at_hand, count):
                changed = frozenset(touches)
                fingering = Fingering((full ^ changed) - half, half - changed)
                if fingering not in known and fingering not in found:
                    found[fingering] = fingering, base, touches
    holdable = [change for change in found.values() if not unholdable(instrument, change[0])]
    if not holdable:
        return []
    taken = {row.tobytes() for row in model.states(list(known))} if known else set()
    different = []
    for change, state in zip(holdable, model.states([change[0] for change in holdable]), strict=True):
        if state.tobytes() not in taken:
            taken.add(state.tobytes())
            different.append(change)
    return different


def _likely(model: Model, note: Pitch, changes: list[Change]) -> list[Change]:
    """Those with a resonance by the note in one geometry of each family: a quick look."""
    cents = model.quick_look([fingering for fingering, _, _ in changes], note)
    best = np.argsort(np.abs(cents))[: 4 * LIMIT]
    return [changes[place] for place in best if abs(cents[place]) <= 1.5 * REACH_CENTS]


def _stumbles(
    model: Model, fingerings: Sequence[Fingering], around: Sequence[Entry], available_s: float, hand: Hand
) -> list[float]:
    """The worst chance of a stumble from and to the notes around."""
    if not around or not fingerings:
        return [0.0] * len(fingerings)
    instrument = model.instrument
    others = grips(instrument, [e.fingering for e in around], [e.partial for e in around])[:, None]
    here = grips(instrument, fingerings, [None] * len(fingerings))[None, :]
    ways = (demands(instrument, *way, hand) for way in ((others, here), (here, others)))
    worst = np.max([stumbles(asked, available_s).max(axis=0) for asked in ways], axis=0)
    return [float(chance) for chance in worst]
