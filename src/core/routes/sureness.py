"""How sure it is that one route costs less than another, from how well their fingerings are known.

What is known of a fingering has a spread. Part of it is the day's and never goes; the rest is what would be
known if it were measured. The rest is drawn, once for each fingering and not for each note, since a fingering
that turns out flat is flat wherever it is used; twins, whose open holes are the same, share their draw. Both
routes are costed in every draw.

References
----------
McKay, Beckman & Conover (1979), A comparison of three methods for selecting values of input variables in the
analysis of output from a computer code, Technometrics 21. (Latin hypercube sampling.)
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.special import ndtri

from core.evidence.sources import DAY_CENTS
from core.routes.facility import FloatArray, IntArray
from core.routes.faults import STRANDS, Faults, Qualities, link_faults, note_faults
from core.routes.problem import Problem

DRAWS = 256  # the share below errs by at most three in a hundred
SALT = {"pitch": 1, "tone": 2, "speaks": 3}


@dataclass(frozen=True)
class Sureness:
    """In what share of all draws the one route costs less than the other, in all and in each strand."""

    whole: float
    by_strand: dict[str, float]


def sureness(problem: Problem, slots: IntArray, other: IntArray, head_start: float = 0.0) -> Sureness:
    """How sure it is that a route costs less than another.

    Parameters
    ----------
    slots, other : np.ndarray of int [shape=(n_notes + 2,)]
        The two routes, slots counted within their rows.
    head_start : float
        Expected faults that the other must save more.
    """
    rows = np.flatnonzero(slots != other)
    if not len(rows):
        return Sureness(0.0, dict.fromkeys(STRANDS, 0.0))
    links = np.unique(np.concatenate([rows, rows + 1]))
    saved = _drawn(problem, other, rows, links) - _drawn(problem, slots, rows, links)
    saved = saved.weighted(problem.weights)
    return Sureness(
        whole=float(np.mean(saved.total + head_start > 0)),
        by_strand={strand: float(np.mean(getattr(saved, strand) > 0)) for strand in STRANDS},
    )


def _drawn(problem: Problem, slots: IntArray, rows: IntArray, links: IntArray) -> Faults:
    """Faults of the given notes and of the links into the given rows, in every draw: arrays of `DRAWS`."""
    entry = problem.rows[problem.first[:-1] + slots]
    rows = rows[~problem.gap[rows]]
    links = links[~(problem.gap[links - 1] | problem.gap[links])]
    used = np.unique(np.concatenate([entry[rows], entry[links - 1], entry[links]]))
    known = _draws(problem.known, used)
    draw = np.arange(DRAWS)

    def every(values: IntArray) -> IntArray:
        return np.asarray(np.repeat(values[:, None], DRAWS, axis=1))

    def of(entries: IntArray) -> IntArray:
        return np.asarray(np.searchsorted(used, entries)[:, None] * DRAWS + draw)

    nodes = note_faults(known, problem.notes, every(rows - 1), of(entry[rows]))
    cells = problem.links(links - 1, slots[links - 1], slots[links])
    pairs = of(entry[links - 1]), of(entry[links])
    moves = link_faults(known, problem.notes, every(links - 1), pairs, problem.demands[every(cells)])
    return Faults(*(getattr(nodes, s).sum(axis=0) + getattr(moves, s).sum(axis=0) for s in STRANDS))


def _draws(known: Qualities, used: IntArray) -> Qualities:
    """What could be known of entries: `DRAWS` of each, one entry after the other."""
    kin = known.kin[used]

    def drawn(strand: str, value: FloatArray, spread: FloatArray) -> FloatArray:
        z = np.stack([quantiles(int(one), SALT[strand]) for one in kin])
        return np.asarray((value[:, None] + spread[:, None] * z).ravel())

    day = np.minimum(known.pitch_spread[used], DAY_CENTS)
    nothing = np.zeros(len(used) * DRAWS)
    return Qualities(
        pitch=drawn("pitch", known.pitch[used], np.sqrt(known.pitch_spread[used] ** 2 - day**2)),
        pitch_spread=np.asarray(np.repeat(day, DRAWS)),
        tone=drawn("tone", known.tone[used], known.tone_spread[used]),
        tone_spread=nothing,
        speaks=drawn("speaks", known.speaks[used], known.speaks_spread[used]),
        speaks_spread=nothing,
        hands_factor=np.repeat(known.hands_factor[used], DRAWS),
        particular=np.repeat(known.particular[used], DRAWS),
        good=np.repeat(known.good[used], DRAWS, axis=0),
        avoid=np.repeat(known.avoid[used], DRAWS, axis=0),
        kin=np.asarray(np.repeat(kin, DRAWS)),
        pitch_known=np.repeat(known.pitch_known[used], DRAWS),
    )


@lru_cache(maxsize=1024)
def quantiles(kin: int, salt: int) -> FloatArray:
    """Quantiles of the normal law, one from each of `DRAWS` equal parts, in an order of the fingering's own.

    The order comes from the number alone, so that what is learned of one fingering moves no other's draws.
    """
    middles = ndtri((np.arange(DRAWS) + 0.5) / DRAWS)
    return np.asarray(np.random.default_rng([kin, salt]).permutation(middles))
