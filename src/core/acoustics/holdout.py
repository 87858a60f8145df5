"""How far a model may be trusted: tried on fingerings that its fit never saw.

Rows are sorted by register and by form: how a fingering of the top register is built, or elsewhere how its
resonance comes to sound. Each cell is held against two controls: random fingerings for the same notes, and
fingerings one touch away that nobody teaches for the note. A register offset is what a player's few readings
would give: here it is learned from the other notes of the cell, each note left out in turn.

References
----------
Hanley and McNeil (1982), The meaning and use of the area under a receiver operating characteristic
curve, Radiology 143. Efron (1979), Bootstrap methods, Annals of Statistics 7.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from core.acoustics.bore import FloatArray
from core.acoustics.model import Model
from core.acoustics.prediction import Prediction, SoundsAs
from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.instruments.fingering import Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.keywork import unholdable
from core.music.pitch import Pitch

WITHIN_CENTS = 35.0
# A note that no resonance serves is this far off, for medians and for ranking.
MISS_CENTS = 150.0
RANDOM_FINGERINGS, BOOTSTRAPS, SEED = 300, 1000, 7
# A random fingering presses each touch this often.
PRESSED = 0.45
# In the ranking this many decibels of margin count as much as this many cents.
RANK_CENTS, RANK_DB = 35.0, 12.0


@dataclass(frozen=True)
class HeldOutRow:
    """A fingering that was held out, and how far the model lies from what is taught, in cents."""

    entry: Entry
    register: str
    form: str
    prediction: Prediction | None
    error: float


@dataclass(frozen=True)
class Cell:
    """What the hold-out says of one register and form.

    Parameters
    ----------
    count : int
        Rows that were held out.
    bias, median : float
        Median of the error, and of its size, in cents.
    scatter : float
        Standard deviation of what an offset leaves over, in cents.
    within, within_offset : float
        Share within 35 cents, as it is and with an offset learned from the other notes.
    random, neighbours : float
        Share of random fingerings, and of one-touch neighbours, within 35 cents of the same notes.
    auc, auc_random : (float, float, float)
        Chance that the model ranks a taught fingering above a one-touch neighbour, and above a random
        one, with the bounds that hold nineteen times of twenty.
    anchors : int
        Rows of the same register and form that the fit did see.
    top, base : Pitch
        Highest written note that was tried, and highest first register note that it was made of.
    partial : int
        Highest partial that was tried.
    """

    register: str
    form: str
    count: int
    bias: float
    median: float
    scatter: float
    within: float
    within_offset: float
    random: float
    neighbours: float
    auc: tuple[float, float, float]
    auc_random: tuple[float, float, float]
    anchors: int
    top: Pitch
    base: Pitch
    partial: int


def try_out(model: Model, catalogue: Catalogue, rows: Sequence[str]) -> list[HeldOutRow]:
    """Ask the model for rows of the chart.

    Parameters
    ----------
    model : Model
    catalogue : Catalogue
    rows : sequence of str
        Ids of entries.

    Returns
    -------
    list of HeldOutRow
    """
    entries = [catalogue.by_id[name] for name in rows]
    found = model.predict([(entry.fingering, entry.note) for entry in entries])
    return [
        HeldOutRow(
            entry,
            *area_of(model.instrument, entry.fingering, entry.note, prediction),
            prediction,
            prediction.cents - entry.taught_cents if prediction else MISS_CENTS,
        )
        for entry, prediction in zip(entries, found, strict=True)
    ]


@dataclass(frozen=True)
class HoldOut:
    """A model with its chart, the rows that its fit was given, and those held out from it."""

    model: Model
    catalogue: Catalogue
    anchors: Sequence[str]
    held_out: Sequence[str]


def cells(trial: HoldOut) -> list[Cell]:
    """Sum up the hold-out of one instrument by register and use, from the lowest register up.

    Fingerings of a form of their own are left to `form_cells`.

    Parameters
    ----------
    trial : HoldOut

    Returns
    -------
    list of Cell
    """
    uses = [use.value for use in SoundsAs]
    return _cells([trial], uses)


def form_cells(trials: Sequence[HoldOut]) -> list[Cell]:
    """Sum up the hold-out of a family of instruments by register and form.

    High up each member has few rows; built alike, they are counted together.

    Parameters
    ----------
    trials : sequence of HoldOut

    Returns
    -------
    list of Cell
    """
    forms = dict.fromkeys(form.name for trial in trials for form in trial.model.instrument.forms)
    return _cells(trials, list(forms))


def _cells(trials: Sequence[HoldOut], forms: Sequence[str]) -> list[Cell]:
    seen = [try_out(trial.model, trial.catalogue, trial.anchors) for trial in trials]
    unseen = [try_out(trial.model, trial.catalogue, trial.held_out) for trial in trials]
    found = []
    for register in trials[0].model.instrument.registers:
        for form in forms:
            area = register.name, form
            here = [
                (trial, _within(anchors, area), _within(rows, area))
                for trial, anchors, rows in zip(trials, seen, unseen, strict=True)
            ]
            if any(anchors or rows for _, anchors, rows in here):
                found.append(_cell(area, here))
    return found


def _within(rows: list[HeldOutRow], area: tuple[str, str]) -> list[HeldOutRow]:
    return [row for row in rows if (row.register, row.form) == area]


def area_of(
    instrument: Instrument, fingering: Fingering, note: Pitch, prediction: Prediction | None
) -> tuple[str, str]:
    """The register and form by which trust in a prediction is counted.

    The form is how the fingering is built, where the instrument tells that apart, and else how its
    resonance comes to sound; one without any resonance counts as vented.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering
    note : Pitch
    prediction : Prediction or None

    Returns
    -------
    (str, str)
        Names of the register and of the form.
    """
    use = prediction.sounds_as if prediction else SoundsAs.VENTED
    form = instrument.form_of(fingering.touches, note)
    if prediction and use is SoundsAs.OVERTONE:
        form = ""
    return instrument.register_of(note).name, form or use.value


def _cell(area: tuple[str, str], parts: Sequence[tuple[HoldOut, list[HeldOutRow], list[HeldOutRow]]]) -> Cell:
    seen = [row for _, anchors, _ in parts for row in anchors]
    rows = [row for _, _, unseen in parts for row in unseen]
    errors = np.array([row.error for row in rows])
    left = [
        without_own_offset(np.array([row.error for row in unseen]), [row.entry.note.midi for row in unseen])
        for _, _, unseen in parts
    ]
    left_over = np.concatenate([np.array([]), *left])
    controls = [_controls(trial, unseen) for trial, _, unseen in parts if unseen]
    neighbours, random = ([found for part in controls for found in part[which]] for which in (0, 1))
    notes = [row.entry.note for row in (*seen, *rows)]
    answered = [row.prediction for row in (*seen, *rows) if row.prediction]
    top = max(notes, key=lambda note: note.midi)
    ranks = [rank(row.prediction) for row in rows]
    return Cell(
        *area,
        len(rows),
        bias=_over(np.median, errors),
        median=_over(np.median, np.abs(errors)),
        scatter=_over(np.std, left_over),
        within=_share(errors),
        within_offset=_share(left_over),
        random=_share(_cents(random)),
        neighbours=_share(_cents(neighbours)),
        auc=area_under(ranks, [rank(found) for found in neighbours]),
        auc_random=area_under(ranks, [rank(found) for found in random]),
        anchors=len(seen),
        top=top,
        base=max((found.base for found in answered), key=lambda note: note.midi, default=top),
        partial=max((found.partial for found in answered), default=0),
    )


def _controls(
    trial: HoldOut, rows: list[HeldOutRow]
) -> tuple[list[Prediction | None], list[Prediction | None]]:
    """Fingerings one touch away, and random ones, for the same notes."""
    model, catalogue = trial.model, trial.catalogue
    beside = [
        (fingering, row.entry.note)
        for row in rows
        for fingering in one_touch_away(model.instrument, row.entry.fingering)
        if not catalogue.find(row.entry.note, fingering) and _differs(model, fingering, row.entry.fingering)
    ]
    notes = [row.entry.note for row in rows]
    return model.predict(beside), model.predict(_random(model.instrument, notes))


def without_own_offset(errors: FloatArray, notes: Sequence[int]) -> FloatArray:
    """Errors less the median of those on other notes; as they are where there is no other note.

    Parameters
    ----------
    errors : np.ndarray [shape=(n,)], cents
    notes : sequence of int of length n
        Written notes.

    Returns
    -------
    np.ndarray [shape=(n,)], cents
    """
    at = np.array(notes)
    offsets = [np.median(errors[at != note]) if (at != note).any() else 0.0 for note in at]
    return np.asarray(errors - np.array(offsets))


def one_touch_away(instrument: Instrument, fingering: Fingering) -> list[Fingering]:
    """Fingerings with one touch more or one less that hands can hold.

    Parameters
    ----------
    instrument : Instrument
    fingering : Fingering

    Returns
    -------
    list of Fingering
    """
    found = []
    for touch in instrument.touch_by_name:
        groups = [getattr(fingering, held.value) - {touch} for held in Held]
        if touch not in fingering.touches:
            groups[0] |= {touch}
        changed = Fingering(*groups)
        if not unholdable(instrument, changed):
            found.append(changed)
    return found


def rank(found: Prediction | None) -> float:
    """How well the model likes a fingering for a note: cents, and margin where it is below nothing.

    Parameters
    ----------
    found : Prediction or None

    Returns
    -------
    float
        The higher, the better; of no unit.
    """
    if found is None:
        return -MISS_CENTS / RANK_CENTS - 1
    return -abs(found.cents) / RANK_CENTS + float(np.clip(found.margin, -RANK_DB, 0)) / RANK_DB


def area_under(taught: Sequence[float], others: Sequence[float]) -> tuple[float, float, float]:
    """Chance that a taught one ranks above another, with its bounds by bootstrap; ties count half.

    Parameters
    ----------
    taught : sequence of float
        Ranks, as `rank` gives them.
    others : sequence of float
        Ranks of the fingerings to tell apart from these.

    Returns
    -------
    (float, float, float), 0 to 1
        The chance, its 2.5th and its 97.5th percentile; not a number where either side is empty.

    Examples
    --------
    >>> area_under([3.0, 2.0], [1.0, 0.0])
    (1.0, 1.0, 1.0)
    """
    if not taught or not others:
        return (float("nan"),) * 3
    a, b = np.array(taught), np.array(others)
    wins = (a[:, None] > b) + 0.5 * (a[:, None] == b)
    random = np.random.default_rng(SEED)
    drawn = [
        wins[np.ix_(random.integers(len(a), size=len(a)), random.integers(len(b), size=len(b)))].mean()
        for _ in range(BOOTSTRAPS)
    ]
    low, high = np.quantile(drawn, [0.025, 0.975])
    return float(wins.mean()), float(low), float(high)


def _differs(model: Model, one: Fingering, other: Fingering) -> bool:
    first, second = model.states([one, other])
    return bool((first != second).any())


def _random(instrument: Instrument, notes: Sequence[Pitch]) -> list[tuple[Fingering, Pitch]]:
    """Random fingerings that hands can hold, each for one of the notes."""
    random = np.random.default_rng(SEED)
    touches = list(instrument.touch_by_name)
    asked: list[tuple[Fingering, Pitch]] = []
    while notes and len(asked) < RANDOM_FINGERINGS:
        down = random.random(len(touches)) < PRESSED
        fingering = Fingering(frozenset(t for t, pressed in zip(touches, down, strict=True) if pressed))
        if not unholdable(instrument, fingering):
            asked.append((fingering, notes[len(asked) % len(notes)]))
    return asked


def _cents(found: Sequence[Prediction | None]) -> FloatArray:
    return np.array([prediction.cents if prediction else MISS_CENTS for prediction in found])


def _share(cents: FloatArray) -> float:
    return _over(np.mean, np.abs(cents) <= WITHIN_CENTS)


def _over(what: Callable[[Any], Any], values: Any) -> float:
    """A figure over values; nothing can be said of none."""
    return float(what(values)) if len(values) else math.nan
