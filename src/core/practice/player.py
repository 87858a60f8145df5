"""Simulated students, for the demo and for proving what is said of reach and plan: no real player was heard.

Two kinds, made unlike each other on purpose. The *even* one learns, forgets and tires by the law that
`core.practice.learning` supposes, with speeds of its own. The *odd* one learns with the square root of what
it has played, has a slope of its own, slips now and then on any note, loses more in a break and gets used to
a stage faster. Fingerings may differ for either.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from core.practice.attempts import Attempt, Place, Result
from core.practice.learning import (
    BESIDE,
    BESIDE_SPAN,
    CEILING,
    DAY_SD,
    DRIFT_NEAR,
    FREE_DAYS,
    HOLDS_LOG_ODDS,
    IN_LESSON,
    LATER,
    LEARNING,
    LEVEL_SD,
    NEAR_SD,
    NEAR_SPAN,
    ON_STAGE,
    OWN_SD,
    SLOPE,
    SLOPE_SD,
    SLOPED,
    STAGE,
    STAGE_FADES,
    TIRES,
    TIRES_AFTER,
    lost_in,
)
from core.routes.facility import LOG_SPREAD, FloatArray

# Of the odd one: its slope, slips on any note, what playing gives, what a day off costs, how a stage fades.
ODD_SLOPE, SLIP, ODD_GAIN, ODD_LOSS, ODD_FADES = (0.5, 1.3), 0.03, 0.55, 0.03, math.exp(-1 / 20)
# How much less time hands need after each playing.
HANDS_GAIN = 0.996
# What comes instead of a clean note, where it is not clean.
INSTEAD = {Result.CRACKED: 0.6, Result.SILENT: 0.2, Result.LATE: 0.2}
# A note below the reach is missing if it is hit less than three times of four.
MISSING = math.log(3.0)
# How each note of the even one drifts by itself in a day.
ALONE = 0.02
CRACKS_TO = (-12, -7, -5, 5)
DRAWS_MOST = 200


@dataclass(eq=False)
class Player:
    """A simulated student; it changes with every attempt.

    Parameters
    ----------
    odds : np.ndarray [shape=(n_notes,)]
        Its true log odds of a clean attempt in the practice room on an ordinary day.
    stage : float
        What a stage adds to them.
    fingerings : dict of str to float
        What a fingering adds.
    played : np.ndarray [shape=(n_notes,)]
        How often each note was played.
    """

    low: int
    odds: FloatArray
    stage: float
    learns: float
    random: np.random.Generator
    odd: bool = False
    fingerings: dict[str, float] = field(default_factory=dict)
    day: int | None = None
    today: int = 0
    mood: float = 0.0
    played: FloatArray = field(default_factory=lambda: np.zeros(0))

    def __post_init__(self) -> None:
        self.played = np.zeros(len(self.odds))

    def chance(self, midi: int, place: Place = Place.ROOM, fingering: str = "") -> float:
        """True chance that the next attempt is clean.

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
        log_odds = self.odds[midi - self.low] + self.mood + self.fingerings.get(fingering, 0.0)
        log_odds -= TIRES * max(0, self.today - TIRES_AFTER)
        log_odds -= IN_LESSON * (place is Place.LESSON)
        log_odds += (self.stage - ON_STAGE) * (place is Place.STAGE)
        chance = 1 / (1 + math.exp(-log_odds))
        return chance * (1 - SLIP) if self.odd else chance

    def holds(self, midi: int) -> bool:
        """Whether a note is hit four times of five, on an ordinary day in the practice room.

        Parameters
        ----------
        midi : int, 0 to 127
            Written note.

        Returns
        -------
        bool
        """
        return bool(self.odds[midi - self.low] >= HOLDS_LOG_ODDS)

    def reach(self) -> int:
        """The highest note that holds with at most one lower one that is missed more than once in four.

        Returns
        -------
        int, 0 to 127
        """
        missing = np.cumsum(self.odds < MISSING)
        good = np.flatnonzero((self.odds >= HOLDS_LOG_ODDS) & (missing <= 1))
        return self.low + int(good[-1]) if len(good) else self.low - 1

    def wakes(self, day: int) -> None:
        """A new day: what was lost since the last one, how this one is.

        Parameters
        ----------
        day : int, as `datetime.date.toordinal` counts
        """
        if day == self.day:
            return
        if self.day is not None:
            self._days_off(day - self.day)
        self.day, self.today = day, 0
        self.mood = float(self.random.normal(0, DAY_SD))

    def _days_off(self, days: int) -> None:
        n = len(self.odds)
        if self.odd:
            self.odds = self.odds - ODD_LOSS * min(days - 1, 30)
            self.odds = self.odds + self.random.normal(0, 0.12 * math.sqrt(min(days, 30)), n)
            return
        drift = days if days <= FREE_DAYS else FREE_DAYS + LATER * (min(days, 60) - FREE_DAYS)
        together = _together(n) @ self.random.normal(0, math.sqrt(drift * DRIFT_NEAR), n)
        alone = self.random.normal(0, math.sqrt(drift * ALONE), n)
        chance = 1 / (1 + np.exp(-self.odds))
        unsettled = np.minimum(1.0, 8 * chance * (1 - chance))  # what is long mastered hardly drifts
        self.odds = self.odds + unsettled * (together + alone - lost_in(days))

    def plays(self, midi: int, day: int, place: Place = Place.ROOM, fingering: str = "") -> Attempt:
        """One attempt, and what it teaches.

        Parameters
        ----------
        midi : int, 0 to 127
            Written note.
        day : int, as `datetime.date.toordinal` counts
        place : Place
        fingering : str
            Id of an entry; empty where nobody said.

        Returns
        -------
        Attempt
        """
        self.wakes(day)
        chance = self.chance(midi, place, fingering)
        clean = bool(self.random.random() < chance)
        self._learns(midi, chance)
        self.today += 1
        if place is Place.STAGE:
            self.stage *= ODD_FADES if self.odd else STAGE_FADES
        if clean:
            return Attempt(midi, Result.CLEAN, day, place, fingering)
        result = Result(self.random.choice([str(name) for name in INSTEAD], p=list(INSTEAD.values())))
        other = midi + int(self.random.choice(CRACKS_TO)) if result is Result.CRACKED else None
        return Attempt(midi, result, day, place, fingering, cracked_to=other)

    def _learns(self, midi: int, chance: float) -> None:
        apart = np.arange(len(self.odds)) + self.low - midi
        near = np.where(apart == 0, 1.0, BESIDE * np.exp(-(apart**2) / BESIDE_SPAN))
        if not self.odd:
            self.odds = self.odds + self.learns * 4 * chance * (1 - chance) * near
            return
        before = np.sqrt(self.played)
        self.played = self.played + near
        self.odds = self.odds + self.learns * ODD_GAIN * (np.sqrt(self.played) - before)


@dataclass(eq=False)
class Hands:
    """Simulated hands on one move: the time they need varies from playing to playing, and grows less with it.

    Parameters
    ----------
    needed_s : float, seconds
        Median time that they need.
    """

    needed_s: float
    random: np.random.Generator

    def plays(self, available_s: float) -> bool:
        """One playing with so much time for the move, and whether it went well.

        Parameters
        ----------
        available_s : float, seconds, above 0

        Returns
        -------
        bool
        """
        took = self.needed_s * math.exp(float(self.random.normal(0, LOG_SPREAD)))
        self.needed_s *= HANDS_GAIN
        return took <= available_s and bool(self.random.random() >= SLIP)


def even_player(random: np.random.Generator, low: int, high: int, reach: int) -> Player:
    """A student that learns as is supposed, of whom a teacher guessed a reach; notes far below it hold.

    Parameters
    ----------
    random : np.random.Generator
    low : int, 0 to 127
        Lowest written note.
    high : int, 0 to 127
        Highest written note.
    reach : int, 0 to 127

    Returns
    -------
    Player
    """
    n = high - low + 1
    away = np.arange(n) + low - reach
    together = NEAR_SD * _together(n)
    for _ in range(DRAWS_MOST):
        odds = np.minimum(HOLDS_LOG_ODDS - SLOPE * away, CEILING) + random.normal(0, LEVEL_SD)
        odds = odds + random.normal(0, SLOPE_SD) * np.maximum(away, -SLOPED)
        odds = odds + together @ random.normal(0, 1, n) + random.normal(0, OWN_SD, n)
        if (odds[away <= -SLOPED] >= HOLDS_LOG_ODDS).all():
            break
    return Player(low, odds, random.normal(*STAGE), max(random.normal(*LEARNING), 0.0), random)


def odd_player(random: np.random.Generator, low: int, high: int, reach: int) -> Player:
    """A student that learns otherwise.

    Parameters
    ----------
    random : np.random.Generator
    low : int, 0 to 127
        Lowest written note.
    high : int, 0 to 127
        Highest written note.
    reach : int, 0 to 127

    Returns
    -------
    Player
    """
    n = high - low + 1
    away = np.arange(n) + low - (reach + random.normal(0, 1.7))
    slope = random.uniform(*ODD_SLOPE)
    odds = HOLDS_LOG_ODDS - slope * away + random.normal(0, 0.6, n)
    odds = np.minimum(odds, 5.0)
    learns = abs(random.normal(0.5, 0.3))
    return Player(low, odds, -abs(random.normal(1.8, 0.8)), learns, random, odd=True)


def _together(n: int) -> FloatArray:
    """A root of how much notes have in common."""
    apart = np.subtract.outer(np.arange(n), np.arange(n))
    values, vectors = np.linalg.eigh(np.exp(-(apart**2) / NEAR_SPAN))
    return np.asarray(vectors * np.sqrt(np.maximum(values, 0)))
