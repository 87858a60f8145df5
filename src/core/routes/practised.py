"""What attempts tell of the moves of a student's hands: which take longer, or less, than is usual.

Notes
-----
The time that a move needs (`core.routes.facility`) is that of a player's level. Here each move that was
counted has a factor of its own on it, log-normal about 1 before anything was counted; the attempts at each
tempo, clean or stumbled, shift it by Bayes' rule, on a grid. A share of attempts goes wrong for no reason
of the hands, so a single stumble on a slow move tells little. What is known of one move tells nothing of
others.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

import numpy as np
from scipy.special import ndtr

from core.evidence.sources import Moved
from core.routes.demands import Demands, Moves
from core.routes.facility import LOG_SPREAD, FloatArray, IntArray

# Spread of the logarithm of a player's own factor before anything was counted; of how many attempts one goes
# wrong, or right, whatever the hands can do.
OWN_SPREAD, LAPSES = 0.3, 0.02
GRID: FloatArray = np.linspace(-5 * OWN_SPREAD, 5 * OWN_SPREAD, 121)


def factor(needed_s: float, counted: Sequence[Moved], missed: float = 0.0) -> float:
    """By how much a move takes a student longer than is usual, by what was counted.

    Parameters
    ----------
    needed_s : float, seconds, 0 or more
        Time that it needs usually; nothing is told of a move that moves nothing.
    counted : sequence of Moved
    missed : float, 0 to 1
        Chance that fingers miss at any tempo: stumbles that tell nothing of the time.

    Returns
    -------
    float, above 0

    Examples
    --------
    >>> factor(0.1, []), round(factor(0.1, [Moved(0.2, 0, 6)]), 1) > 1.5
    (1.0, True)
    """
    if not needed_s or not counted:
        return 1.0
    available = np.array([one.available_s for one in counted])
    clean = np.array([one.clean for one in counted], dtype=np.float64)
    stumbled = np.array([one.stumbled for one in counted], dtype=np.float64)
    risk = ndtr((np.log(needed_s / available)[:, None] + GRID) / LOG_SPREAD)
    risk = LAPSES + (1 - 2 * LAPSES) * (1 - (1 - risk) * (1 - missed))
    log_odds = -0.5 * (GRID / OWN_SPREAD) ** 2 + stumbled @ np.log(risk) + clean @ np.log1p(-risk)
    weight = np.exp(log_odds - log_odds.max())
    return float(np.exp(weight @ GRID / weight.sum()))


class PractisedMoves(Moves):
    """The moves of a chart as one student's hands make them, by what was counted.

    Parameters
    ----------
    usual : Moves
        As they are usually.
    factors : mapping of (int, int) to float
        By how much the move from one entry to another takes longer; entries as places in the chart.
    """

    def __init__(self, usual: Moves, factors: Mapping[tuple[int, int], float]) -> None:
        super().__init__(usual.chart, usual.hand)
        self.usual = usual
        self._by_pair: dict[tuple[int, int], list[tuple[int, int, float]]] = {}
        for (before, after), times in factors.items():
            pair = usual.chart.entries[before].note.midi, usual.chart.entries[after].note.midi
            self._by_pair.setdefault(pair, []).append((before, after, times))

    def between(self, pairs: Sequence[tuple[int, int]]) -> tuple[Demands, IntArray]:
        """As `Moves.between`, with what was counted.

        Parameters
        ----------
        pairs : sequence of (int, int)
            Semitones of the first and the second note.

        Returns
        -------
        (Demands, np.ndarray of int [shape=(n_pairs,)])
            As `Moves.between`.
        """
        asked, starts = self.usual.between(pairs)
        for start, pair in zip(starts.tolist(), pairs, strict=True):
            for before, after, times in self._by_pair.get(pair, ()):
                width = len(self.usual.rows[pair[1]])
                cell = start + int(self.usual.position[before]) * width + int(self.usual.position[after])
                asked.needed_s[cell] *= times
                asked.again_s[cell] *= times
        return asked, starts


def practised(usual: Moves, counted: Mapping[tuple[str, str], Collection[Moved]]) -> Moves:
    """The moves as a student makes them.

    Parameters
    ----------
    usual : Moves
    counted : mapping of (entry id, entry id) to Moved
        What was counted of the move from one fingering to another; those that the chart has not are left out.

    Returns
    -------
    Moves
    """
    index, factors = usual.chart.index, {}
    for (before, after), some in counted.items():
        if before in index and after in index:
            asked = _asked(usual, index[before], index[after])
            needed_s, missed = float(asked.needed_s[0]), float(asked.missed[0])
            factors[index[before], index[after]] = factor(needed_s, list(some), missed)
    return PractisedMoves(usual, factors) if factors else usual


def asked_of(moves: Moves, before: int, after: int) -> float:
    """Seconds that a move needs; entries as places in the chart.

    Parameters
    ----------
    moves : Moves
    before, after : int, from 0

    Returns
    -------
    float, seconds, from 0
    """
    return float(_asked(moves, before, after).needed_s[0])


def _asked(moves: Moves, before: int, after: int) -> Demands:
    entries = moves.chart.entries
    asked, _ = moves.between([(entries[before].note.midi, entries[after].note.midi)])
    width = len(moves.rows[entries[after].note.midi])
    return asked[[int(moves.position[before]) * width + int(moves.position[after])]]
