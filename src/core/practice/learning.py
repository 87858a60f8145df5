"""What attempts tell of a student's notes: a filter over the log odds of a clean attempt, one pass.

For every note of the range its log odds in the practice room; how much lower they are on stage; how the day
is; how fast the student learns; and, where a note was tried with more than one fingering, by how much each
of them differs from the first. All of it is one Gaussian, updated attempt by attempt.

Notes
-----
Whether an attempt was clean is all that is used. An attempt that was looked up, and one at which the hands
stumbled, teaches like any other and tells nothing of how surely the note comes by heart.

References
----------
Elo (1978), The Rating of Chessplayers. (Log odds that move with every result.)
Glickman (1999), Parameter estimation in large dynamic paired comparison experiments, Applied Statistics 48.
(Their spread, and that it grows with time.)
MacKay (1992), The evidence framework applied to classification networks, Neural Computation 4. (The chance
under an uncertain log odds.)
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from core.errors import PracticeError
from core.practice.attempts import Attempt, Place
from core.routes.facility import FloatArray

# A note holds if a clean attempt is more likely than four times of five.
HOLDS_ODDS = 4.0
HOLDS_CHANCE, HOLDS_LOG_ODDS = HOLDS_ODDS / (1 + HOLDS_ODDS), math.log(HOLDS_ODDS)
# The prior about the reach that a teacher guesses: slope a semitone, its ceiling, and how uncertain level,
# slope, neighbours together and each note by itself are.
SLOPE, CEILING = 0.9, 4.5
LEVEL_SD, SLOPE_SD, NEAR_SD, OWN_SD, NEAR_SPAN = 1.5, 0.25, 0.5, 0.5, 12.5
# Further below the reach than so many semitones the slope is no more uncertain.
SLOPED = 8
STAGE, DAY_SD, LEARNING, FINGERING_SD = (-2.0, 1.0), 0.35, (0.04, 0.03), 1.0
# Each day without practice: how notes drift, together and alone; beyond three days more slowly, up to sixty.
DRIFT_NEAR, DRIFT_OWN, FREE_DAYS, LATER, DAYS_MOST = 0.03, 0.04, 3, 0.3, 60
# And how they are lost.
LOST, LOST_DAYS, LOST_LATER, LOST_AFTER, LOST_MOST = 0.025, 12, 0.005, 15, 0.8
# What tires, beyond so many attempts in a day; what a lesson and a stage cost by themselves.
TIRES, TIRES_AFTER, IN_LESSON, ON_STAGE = 0.03, 8, 0.25, 0.2
# What an attempt teaches the notes beside it; how a stage is got used to.
BESIDE, BESIDE_SPAN = 0.6, 3.38
STAGE_FADES, STAGE_DRIFT = math.exp(-1 / 30), 0.02
NODES = [
    (float(node), float(weight) / math.sqrt(2 * math.pi))
    for node, weight in zip(*np.polynomial.hermite_e.hermegauss(9), strict=True)
]
PI_8 = math.pi / 8
NOTES_MOST = 120
# Numbers so small are slow to reckon with.
TINY = 1e-9


@dataclass(frozen=True, eq=False)
class Learning:
    """What is known of a student's notes on one instrument.

    Parameters
    ----------
    low : int
        The lowest note of the range, written.
    n_notes : int
    mean : np.ndarray [shape=(n,)]
        Log odds of the notes, then stage, day and speed of learning, then what fingerings add.
    cov : np.ndarray [shape=(n, n)]
    day : int or None
        The last day with an attempt.
    today : int
        Attempts on that day.
    first : mapping of int to str
        The fingering with which each note was first tried.
    others : mapping of (int, str) to int
        Where what another fingering of a note adds stands in the state.
    """

    low: int
    n_notes: int
    mean: FloatArray
    cov: FloatArray
    day: int | None = None
    today: int = 0
    first: Mapping[int, str] = field(default_factory=lambda: MappingProxyType({}))
    others: Mapping[tuple[int, str], int] = field(default_factory=lambda: MappingProxyType({}))

    @property
    def high(self) -> int:
        """The highest note of the range, written."""
        return self.low + self.n_notes - 1

    @property
    def stage(self) -> tuple[float, float]:
        """How much lower the log odds are on stage, and how uncertain that is."""
        at = self.n_notes
        return float(self.mean[at]), math.sqrt(float(self.cov[at, at]))

    @property
    def odds(self) -> FloatArray:
        """Log odds of each note in the practice room, on an ordinary day."""
        return np.asarray(self.mean[: self.n_notes])

    @property
    def spread(self) -> FloatArray:
        """How uncertain these are."""
        return np.asarray(np.sqrt(np.diagonal(self.cov)[: self.n_notes]))

    def chance(self, midi: int, place: Place = Place.ROOM, fingering: str = "") -> float:
        """Chance that the next attempt at a note is clean.

        Parameters
        ----------
        midi : int, 0 to 127
            Written note.
        place : Place
        fingering : str
            Id of an entry; empty where nobody said.

        Returns
        -------
        float, 0 to 1
        """
        parts = self._parts(midi, place, fingering)
        mean = float(self.mean[parts].sum()) - _costs(place, 0)
        return chance_of(mean, float(self.cov[np.ix_(parts, parts)].sum()))

    def fingered(self, midi: int) -> dict[str, tuple[float, float]]:
        """For every fingering that a note was tried with: its log odds in the room, and their spread.

        Parameters
        ----------
        midi : int, 0 to 127
            Written note.

        Returns
        -------
        dict of str to (float, float)
            Log odds and standard deviation, by id of the fingering.
        """
        names = [self.first[midi]] if midi in self.first else []
        names += [name for note, name in self.others if note == midi]
        found = {}
        for name in names:
            parts = self._parts(midi, Place.ROOM, name)[:1] + self._fingering(midi, name)
            variance = float(self.cov[np.ix_(parts, parts)].sum())
            found[name] = float(self.mean[parts].sum()), math.sqrt(max(variance, 0.0))
        return found

    def _parts(self, midi: int, place: Place, fingering: str) -> list[int]:
        """Places in the state that add up to the log odds of an attempt."""
        at = midi - self.low
        if not 0 <= at < self.n_notes:
            raise PracticeError(f"a note must be from {self.low} to {self.high}, got {midi}")
        parts = [at, self.n_notes + 1, *self._fingering(midi, fingering)]
        return [*parts, self.n_notes] if place is Place.STAGE else parts

    def _fingering(self, midi: int, fingering: str) -> list[int]:
        at = self.others.get((midi, fingering))
        return [] if at is None else [at]


def begin(low: int, high: int, reach: int) -> Learning:
    """What is known of a student before the first attempt.

    Parameters
    ----------
    low, high : int
        The range of the instrument, written; at most 120 notes.
    reach : int
        The highest note that the teacher thinks holds.

    Returns
    -------
    Learning

    Raises
    ------
    PracticeError
        If there is no such range.
    """
    if not 0 < high - low + 1 <= NOTES_MOST:
        raise PracticeError(f"a range must have from 1 to {NOTES_MOST} notes, got {low} to {high}")
    n = high - low + 1
    from_reach = np.arange(n) + low - reach
    mean = np.concatenate(
        [np.minimum(HOLDS_LOG_ODDS - SLOPE * from_reach, CEILING), [STAGE[0], 0.0, LEARNING[0]]]
    )
    sloped = np.maximum(from_reach, -SLOPED)
    cov = np.zeros((n + 3, n + 3))
    cov[:n, :n] = (
        LEVEL_SD**2 + SLOPE_SD**2 * np.outer(sloped, sloped) + NEAR_SD**2 * _near(n) + OWN_SD**2 * np.eye(n)
    )
    cov[n, n], cov[n + 1, n + 1], cov[n + 2, n + 2] = STAGE[1] ** 2, DAY_SD**2, LEARNING[1] ** 2
    return Learning(low, n, mean, cov)


def after(learning: Learning, attempts: Iterable[Attempt]) -> Learning:
    """What is known after more attempts, in the order in which they were made.

    Parameters
    ----------
    learning : Learning
    attempts : iterable of Attempt

    Returns
    -------
    Learning

    Raises
    ------
    PracticeError
        If a note lies outside the range, or a day comes before the last one.
    """
    run = _Run(learning)
    for attempt in attempts:
        run.take(attempt)
    return run.done()


def on_day(learning: Learning, day: int) -> Learning:
    """What is known on a day on which nothing has been tried yet.

    Parameters
    ----------
    learning : Learning
    day : int, as `datetime.date.toordinal` counts

    Returns
    -------
    Learning
    """
    run = _Run(learning)
    run.new_day(day)
    return run.done()


def chance_of(mean: float, variance: float) -> float:
    """Chance of a clean attempt where its log odds are uncertain.

    Parameters
    ----------
    mean : float, log odds
    variance : float, log odds squared, from 0

    Returns
    -------
    float, 0 to 1
    """
    return 1 / (1 + math.exp(-mean / math.sqrt(1 + PI_8 * variance)))


@lru_cache(maxsize=16)
def _near(n: int) -> FloatArray:
    """How much notes have in common, by the semitones between them."""
    apart = np.subtract.outer(np.arange(n), np.arange(n))
    return np.asarray(np.exp(-(apart**2) / NEAR_SPAN))


@lru_cache(maxsize=64)
def _taught(n: int, size: int) -> FloatArray:
    """What an attempt at a note teaches each part of the state: the notes, and nothing else."""
    apart = np.subtract.outer(np.arange(n), np.arange(n))
    found = BESIDE * np.exp(-(apart**2) / BESIDE_SPAN)
    np.fill_diagonal(found, 1.0)
    whole = np.zeros((n, size))
    whole[:, :n] = np.where(found > TINY, found, 0.0)
    return whole


def _costs(place: Place, earlier: int) -> float:
    """What lowers the log odds of an attempt besides the student: tiredness, a lesson, a stage."""
    tired = TIRES * (earlier - TIRES_AFTER) if earlier > TIRES_AFTER else 0.0
    if place is Place.ROOM:
        return tired
    return tired + (ON_STAGE if place is Place.STAGE else IN_LESSON)


class _Run:
    """A state on its way through attempts; arrays are its own and changed in place."""

    def __init__(self, learning: Learning) -> None:
        self.learning = learning
        self.mean, self.cov = learning.mean.copy(), learning.cov.copy()
        self.day, self.today = learning.day, learning.today
        self.first, self.others = dict(learning.first), dict(learning.others)
        self.n = learning.n_notes
        self._room()

    def done(self) -> Learning:
        return replace(
            self.learning,
            mean=self.mean,
            cov=self.cov,
            day=self.day,
            today=self.today,
            first=MappingProxyType(self.first),
            others=MappingProxyType(self.others),
        )

    def new_day(self, day: int) -> None:
        """Drift and loss since the last day; how the day is, is not known yet."""
        if self.day is not None and day < self.day:
            raise PracticeError("attempts must be in the order of their days")
        if day == self.day:
            return
        n, mean, cov = self.n, self.mean, self.cov
        if self.day is not None:
            days = day - self.day
            drift = days if days <= FREE_DAYS else FREE_DAYS + LATER * (min(days, DAYS_MOST) - FREE_DAYS)
            cov[:n, :n] += drift * DRIFT_NEAR * _near(n)
            cov.reshape(-1)[: n * len(cov) : len(cov) + 1] += drift * DRIFT_OWN
            mean[:n] -= lost_in(days)
        at = n + 1
        mean[at], cov[at], cov[:, at] = 0.0, 0.0, 0.0
        cov[at, at] = DAY_SD**2
        self.day, self.today = day, 0

    def take(self, attempt: Attempt) -> None:
        """One attempt: what it tells, then what it teaches."""
        if attempt.day != self.day:
            self.new_day(attempt.day)
        n, at = self.n, attempt.midi - self.learning.low
        if not 0 <= at < n:
            raise PracticeError(
                f"a note must be from {self.learning.low} to {self.learning.high}, got {attempt.midi}"
            )
        extra = self._fingering(attempt) if attempt.fingering else None
        mean, cov, on_stage = self.mean, self.cov, attempt.place is Place.STAGE
        learns, rows = n + 2, self.rows
        u, gains, speed = rows
        parts = [at, n + 1]
        if on_stage:
            parts.append(n)
        if extra is not None:
            parts.append(extra)
        np.add(cov[at], cov[n + 1], out=u)
        for part in parts[2:]:
            u += cov[part]
        mu = -_costs(attempt.place, self.today)
        v = 0.0
        for part in parts:
            mu += mean.item(part)
            v += u.item(part)
        self.today += 1
        p = chance_of(mu, v)
        moved, shrunk = _told(mu, v, attempt.clean) if attempt.tells_of_note else (0.0, 0.0)
        # what the result tells, and what it taught: the notes gain with the speed of learning
        np.multiply(self.taught[at], 4 * p * (1 - p), out=gains)
        u_learns = u.item(learns)
        faster = cov.item(learns, learns) - shrunk * u_learns * u_learns
        ways = self.ways
        ways[0, 0], ways[0, 1] = -shrunk * u_learns, 0.5 * faster
        ways[1, 0], ways[1, 1] = moved, mean.item(learns) + moved * u_learns
        added = np.dot(ways, rows[:2])
        np.add(added[0], cov[learns], out=speed)
        mean += added[1]
        self.mixed[0, 0] = -shrunk
        cov += np.dot(rows.T, np.dot(self.mixed, rows))
        if on_stage:
            mean[n] *= STAGE_FADES
            cov[n] *= STAGE_FADES
            cov[:, n] *= STAGE_FADES
            cov[n, n] += STAGE_DRIFT

    def _room(self) -> None:
        """Arrays to work in, as long as the state."""
        size = len(self.mean)
        self.rows = np.zeros((3, size))
        self.mixed = np.array([[0.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, 1.0, 0.0]])
        self.ways = np.zeros((2, 2))
        self.taught = _taught(self.n, size)

    def _fingering(self, attempt: Attempt) -> int | None:
        """Where what a fingering adds stands; a second one of a note is the first to have a place."""
        name = (attempt.midi, attempt.fingering)
        if self.first.setdefault(attempt.midi, attempt.fingering) == attempt.fingering:
            return None
        if name not in self.others:
            self.others[name] = len(self.mean)
            self.mean = np.append(self.mean, 0.0)
            grown = np.zeros((len(self.mean), len(self.mean)))
            grown[:-1, :-1] = self.cov
            grown[-1, -1] = FINGERING_SD**2
            self.cov = grown
            self._room()
        return self.others[name]


def lost_in(days: int) -> float:
    """Log odds that are lost in days without practice.

    Parameters
    ----------
    days : int, from 0

    Returns
    -------
    float, log odds, from 0
    """
    if days <= FREE_DAYS:
        return 0.0
    later = LOST_LATER * max(days - LOST_AFTER, 0)
    return min(LOST * min(days - FREE_DAYS, LOST_DAYS) + later, LOST_MOST)


def _told(mu: float, v: float, clean: bool) -> tuple[float, float]:
    """How far a result moves the mean, and shrinks the variance, each against the variance; by quadrature."""
    sign, spread, exp = (1.0 if clean else -1.0), math.sqrt(v), math.exp
    total = first = second = 0.0
    mu, sd = -sign * mu, -sign * spread
    for node, weight in NODES:
        likely = weight / (1 + exp(mu + sd * node))
        total += likely
        first += likely * node
        second += likely * node * node
    mean = first / total
    variance = second / total - mean * mean
    return mean / spread, (1 - variance) / v
