"""Which fingering is most worth a reading at the tuner: what three readings of it would be likely to save.

Before the readings are taken it is not known what they will say; so each of many outcomes is gone through,
the passage chosen anew in it, and what is saved against today's route is averaged. What a fingering saves
together with others is not told: the values do not add up.

References
----------
Raiffa & Schlaifer (1961), Applied Statistical Decision Theory, Harvard. (The expected value of sample
information, with a normal prior.)
"""

from __future__ import annotations

from dataclasses import dataclass
from math import hypot, sqrt

import numpy as np
from scipy.special import ndtri

from core.evidence.sources import DAY_CENTS, STEADY_CENTS
from core.routes.facility import FloatArray
from core.routes.faults import off_pitch, passes
from core.routes.stretches import Stretch, Stretches, best, by_itself, cost_of
from core.routes.table import Table

READINGS = 3
OUTCOMES = 64
WORTH_LISTING, LISTED = 0.02, 5


@dataclass(frozen=True)
class Wanted:
    """A fingering that is worth a reading.

    Parameters
    ----------
    entry : int
        As a place in the chart; its twins share what is read.
    saves : float
        Faults that three readings are likely to save.
    note : int
        The first note, counted from 0, at which it may be used.
    """

    entry: int
    saves: float
    note: int


def most_worth(table: Table) -> list[Wanted]:
    """The fingerings most worth a reading, at most `LISTED`, the most first.

    Parameters
    ----------
    table : Table

    Returns
    -------
    list of Wanted
    """
    problem, stretches = table.problem, table.stretches
    trellis = problem.trellis
    known = problem.given.known
    entry = trellis.rows[stretches.slots]
    kin = known.kin[entry]
    saves: dict[int, float] = {}
    first: dict[int, tuple[int, int]] = {}
    for stretch in stretches.all:
        span = stretch.span
        row = trellis.slot_row[stretches.slots[span]]
        here = np.unique(kin[span]).tolist()
        for one in here:
            at = int(np.flatnonzero(kin[span] == one)[0])
            first.setdefault(one, (int(entry[span][at]), int(row[at]) - 1))
        for one, value in zip(here, _saved(table, stretches, stretch, here), strict=True):
            saves[one] = saves.get(one, 0.0) + value
    found = [Wanted(first[one][0], value, first[one][1]) for one, value in saves.items()]
    found = [wanted for wanted in found if wanted.saves >= WORTH_LISTING]
    return sorted(found, key=lambda wanted: (-wanted.saves, wanted.entry))[:LISTED]


def _saved(table: Table, stretches: Stretches, stretch: Stretch, kins: list[int]) -> list[float]:
    """What readings of each of some kins would save at one stretch, on the mean of all outcomes."""
    problem = table.problem
    trellis = problem.trellis
    span = stretch.span
    slots = stretches.slots[span]
    entry, note = trellis.rows[slots], trellis.slot_row[slots] - 1
    seconds, times = problem.notes.heard_s[note], passes(problem.notes.aim[note])
    known = problem.given.known
    mean, spread = known.pitch[entry] - problem.notes.wanted_cents[note], known.pitch_spread[entry]
    after, strays = _after_readings(spread)
    z = ndtri((np.arange(OUTCOMES) + 0.5) / OUTCOMES)
    weight = problem.weights.get("pitch", 1.0)
    now = off_pitch(mean, spread, seconds, times)
    node = np.repeat(stretches.costs.node[span], len(kins) * OUTCOMES, axis=1)
    for column, one in enumerate(kins):
        mine = np.flatnonzero(known.kin[entry] == one)
        here = after[mine, None], seconds[mine, None], times[mine, None]
        outcome = off_pitch(mean[mine, None] + strays[mine, None] * z, *here)
        node[mine, column * OUTCOMES : (column + 1) * OUTCOMES] += weight * (outcome - now[mine, None])
    alone, costs = by_itself(stretch, stretches.costs, node)
    today = cost_of(alone, costs, stretches.local(stretch, table.slots)[None])[0]
    saved = (today - best(alone, costs)[0]).reshape(len(kins), OUTCOMES).mean(axis=1)
    return [float(value) for value in saved]


def _after_readings(spread: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Spread that is left after the readings, and how far they are likely to move the mean."""
    reading = hypot(STEADY_CENTS / sqrt(READINGS), DAY_CENTS)
    after = 1 / np.sqrt(spread**-2 + reading**-2)
    return after, np.sqrt(np.maximum(spread**2 - after**2, 0.0))
