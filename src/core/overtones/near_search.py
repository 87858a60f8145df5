"""Fingerings that nobody teaches for a note: to be tried, never to be taken on trust.

Thousands of combinations have a resonance near a note; few of them are what a player's hands would think
of. So every holdable fingering within two touches of what the family has for the notes around is a
candidate, and two things are asked of it: how much it is like them, group of touches by group of touches,
and where the model puts it. Neither alone finds as much; docs/search.md tells how much that is.

References
----------
Domingos & Pazzani (1997), On the optimality of the simple Bayesian classifier under zero-one loss, Machine
Learning 29. (Groups of touches counted as if each were chosen for itself.)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from core.acoustics.model import Model
from core.acoustics.prediction import Prediction, SoundsAs
from core.charts.catalogue import Catalogue
from core.charts.entry import DERIVED, Entry
from core.charts.verdict import CLEARED_CENTS, by_first_open_hole, is_plain, misprint
from core.instruments.actions import grips
from core.instruments.fingering import ON_PURPOSE, Fingering, Kind
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.instrument import Instrument
from core.instruments.keywork import mechanism
from core.instruments.variants import BoolArray, Variants
from core.music.pitch import Pitch
from core.routes.demands import demands, stumbles

FloatArray = npt.NDArray[np.float64]
# Notes so many semitones around are looked at, nearer ones more: by e for each semitone; a lead counts half.
AROUND, NEARER, LEAD = 3, 1.0, 0.5
# Where there is none so near, the nearest, but none farther off than this.
FARTHEST = 12
# Touches changed at most, and those of one that is varied.
TOUCHES, VARIED = 2, 1
# How often hands do what none of the rows does in a group of touches.
UNHEARD = 0.02
# How far off a note the model may put a fingering before it counts against it; farther off it counts no more.
CENTS, CENTS_MOST = 40.0, 150.0
# What is that far off by a quick look is no fingering for the note.
REACH_CENTS = 90.0
# What a stumble in every playing counts beside them.
HANDS_COUNT = 1.0
# So many are shown, the first of them different forms: so many touches apart from one another.
LIMIT, FORMS, APART = 12, 6, 2
# Rows of a chart that tell nothing of what hands think of first.
NOT_THOUGHT_OF = {*ON_PURPOSE, Kind.TRILL}


@dataclass(frozen=True)
class Near:
    """A fingering few touches from one that the family has.

    Parameters
    ----------
    base : Entry
        The row it is likest to.
    changed : tuple of str
        Touches held otherwise.
    stumble : float
        Chance of a stumble on the way from and to the notes around, the worst; 0 to 1.
    """

    fingering: Fingering
    base: Entry
    changed: tuple[str, ...]
    prediction: Prediction
    stumble: float


@dataclass(frozen=True)
class Looked:
    """Candidates for a note, one for each state of the holes, with what speaks for each.

    Parameters
    ----------
    rows : np.ndarray of bool [shape=(n, n_columns)]
    alike : np.ndarray [shape=(n,)]
        Logarithm of how much it is like the rows around.
    cents : np.ndarray [shape=(n,)]
        Where the model puts it, by a quick look.
    """

    rows: BoolArray
    alike: FloatArray
    cents: FloatArray

    @property
    def fits(self) -> FloatArray:
        """What the model says for each, on the scale of `alike`."""
        return np.asarray(-0.5 * (np.minimum(np.abs(self.cents), CENTS_MOST) / CENTS) ** 2)


def near_search(
    model: Model,
    rows: Sequence[Entry],
    catalogue: Catalogue,
    note: Pitch,
    fitted: frozenset[str],
    around: Sequence[Entry] = (),
    available_s: float = 0.134,
    *,
    hand: Hand = ANY_HAND,
    vary: Fingering | None = None,
) -> list[Near]:
    """Find fingerings for a written note that hands may think of, the likeliest first.

    Parameters
    ----------
    model : Model
    rows : sequence of Entry
        Of all members of the family.
    catalogue : Catalogue
        What it has for the note is not found again.
    note : Pitch
    fitted : frozenset of str
        Optional touches and fittings of the instrument in hand.
    around : sequence of Entry
        Fingerings of the notes around, that hands come from and go to.
    available_s : float
        Time for a move, in seconds.
    hand : Hand
        Whose hands move.
    vary : Fingering, optional
        Look only one touch around this one.

    Returns
    -------
    list of Near
        At most twelve, no two that open the same holes: different forms first, then the best of the others.
    """
    variants = Variants(model.instrument, fitted)
    thought_of = bearing(rows, note, model.instrument)
    bases = [vary] if vary else [entry.fingering for entry in thought_of]
    known = [entry.fingering for entry in catalogue.by_midi.get(note.midi, ())] + ([vary] if vary else [])
    looked = look(model, variants, thought_of, bases, known, note, VARIED if vary else TOUCHES)
    if not len(looked.rows):
        return []
    first = np.argsort(-(looked.alike + looked.fits), kind="stable")[: 4 * LIMIT]
    fingerings = [variants.fingering(looked.rows[at]) for at in first]
    chances = np.array(_stumbles(model, fingerings, around, available_s, hand))
    score = (looked.alike + looked.fits)[first] - HANDS_COUNT * chances
    order = [int(at) for at in np.argsort(-score, kind="stable")]
    predictions = model.predict([(fingerings[at], note) for at in order])
    kept = [
        (at, prediction)
        for at, prediction in zip(order, predictions, strict=True)
        if prediction
        and not _leaks(model, fingerings[at], prediction)
        and not _anothers(catalogue, fingerings[at], note, prediction)
    ]
    found = []
    for at, prediction in _arranged(kept, looked.rows[first]):
        base = min(thought_of, key=lambda entry: len(_changed(entry.fingering, fingerings[at])))
        changed = _changed(base.fingering, fingerings[at])
        found.append(Near(fingerings[at], base, changed, prediction, float(chances[at])))
    return found


def bearing(rows: Sequence[Entry], note: Pitch, instrument: Instrument) -> list[Entry]:
    """Rows that tell what hands think of for a note: those of its register around it, or the nearest ones.

    Parameters
    ----------
    rows : sequence of Entry
    note : Pitch
    instrument : Instrument

    Returns
    -------
    list of Entry
    """
    some = [row for row in rows if row.source not in DERIVED and row.kind not in NOT_THOUGHT_OF]
    register = instrument.register_of(note)
    some = [row for row in some if instrument.register_of(row.note) == register] or some
    nearest = min((abs(row.note.midi - note.midi) for row in some), default=0)
    if nearest > FARTHEST:
        return []
    return [row for row in some if abs(row.note.midi - note.midi) <= max(AROUND, nearest)]


def look(
    model: Model,
    variants: Variants,
    thought_of: Sequence[Entry],
    bases: Sequence[Fingering],
    known: Sequence[Fingering],
    note: Pitch,
    touches: int,
    reach_cents: float = REACH_CENTS,
) -> Looked:
    """Candidates within so many touches of some fingerings, each state of the holes once.

    Parameters
    ----------
    model : Model
    variants : Variants
    thought_of : sequence of Entry
        What hands think of, see `bearing`.
    bases : sequence of Fingering
    known : sequence of Fingering
        What opens the same holes as one of these is left out.
    note : Pitch
    touches : int, from 1
    reach_cents : float
        What the model puts farther off is left out.

    Returns
    -------
    Looked
    """
    pool = variants.changed(variants.rows(bases), touches)
    alike = likeness(variants, thought_of, pool, note)
    by_likeness = np.argsort(-alike, kind="stable")
    pool, alike = pool[by_likeness], alike[by_likeness]
    states = variants.states(pool)
    taken = {state.tobytes() for state in variants.states(variants.rows(known))}
    keep: dict[bytes, int] = {}
    for at, state in enumerate(states):
        keep.setdefault(state.tobytes(), at)
    chosen = np.array([at for key, at in keep.items() if key not in taken], dtype=np.int64)
    cents = model.ensemble.quick_look(states[chosen], note) if len(chosen) else np.zeros(0)
    near = np.abs(cents) <= reach_cents
    return Looked(pool[chosen][near], alike[chosen][near], cents[near])


def likeness(variants: Variants, thought_of: Sequence[Entry], pool: BoolArray, note: Pitch) -> FloatArray:
    """How much fingerings are like those that a family has around a note: the logarithm of a chance.

    The touches of each group are counted as if chosen for themselves, the nearer the note the more.

    Parameters
    ----------
    variants : Variants
    thought_of : sequence of Entry
    pool : np.ndarray of bool [shape=(n, n_columns)]
    note : Pitch

    Returns
    -------
    np.ndarray [shape=(n,)]
    """
    pairs = [(row, entry) for entry in thought_of if (row := variants.row(entry.fingering)) is not None]
    if not pairs:
        return np.zeros(len(pool))
    rows = np.array([row for row, _ in pairs])
    weights = np.array(
        [
            np.exp(-abs(entry.note.midi - note.midi) / NEARER) * (LEAD if entry.is_lead else 1.0)
            for _, entry in pairs
        ]
    )
    found = np.zeros(len(pool))
    for columns in groups(variants):
        place = 1 << np.arange(len(columns))
        counted = np.bincount(rows[:, columns] @ place, weights=weights, minlength=1 << len(columns))
        found += np.log(counted[pool[:, columns] @ place] / weights.sum() + UNHEARD)
    return found


def groups(variants: Variants) -> list[list[int]]:
    """Columns of touches that hands think of together: of a finger or palm, or of the stack of a hand.

    Parameters
    ----------
    variants : Variants

    Returns
    -------
    list of list of int
    """
    found: dict[tuple[str, str], list[int]] = {}
    for (name, _), at in variants.columns.items():
        found.setdefault(_group(variants.instrument, name), []).append(at)
    return list(found.values())


def _group(instrument: Instrument, name: str) -> tuple[str, str]:
    touch = instrument.touch_by_name[name]
    finger = instrument.finger(touch.finger)
    on_stack = finger.digit in ("middle", "ring") or (finger.digit, finger.hand) == ("index", "right")
    if not on_stack:
        return finger.hand, finger.digit
    return finger.hand, "stack" if touch.column == 0 else "beside the stack"


def _changed(base: Fingering, fingering: Fingering) -> tuple[str, ...]:
    """Touches that two fingerings hold otherwise."""
    touches = base.full | base.half | fingering.touches
    steady = base.steady
    return tuple(sorted(touch for touch in touches if steady.held(touch) != fingering.held(touch)))


def _arranged(kept: Sequence[tuple[int, Prediction]], rows: BoolArray) -> list[tuple[int, Prediction]]:
    """Different forms first, then the best of the others."""
    forms: list[tuple[int, Prediction]] = []
    for at, prediction in kept:
        if len(forms) < FORMS and all((rows[at] ^ rows[other]).sum() >= APART for other, _ in forms):
            forms.append((at, prediction))
    taken = {at for at, _ in forms}
    return [*forms, *(pair for pair in kept if pair[0] not in taken)][:LIMIT]


def _anothers(catalogue: Catalogue, fingering: Fingering, note: Pitch, prediction: Prediction) -> bool:
    """Whether it is rather a misprint, or the keywork gives another note and the model does not clear it."""
    instrument = catalogue.instrument
    plain = is_plain(instrument, fingering, note) and not by_first_open_hole(instrument, fingering, note)
    far = plain and abs(prediction.cents) > CLEARED_CENTS
    return far or bool(misprint(catalogue, fingering, note))


def _leaks(model: Model, fingering: Fingering, prediction: Prediction) -> bool:
    """Whether an open vent would let a higher partial sound instead of the first."""
    return prediction.sounds_as is SoundsAs.FIRST and bool(mechanism(model.instrument, fingering).open_vents)


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
