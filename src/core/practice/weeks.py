"""Weeks of a simulated student with its plan: a stand-in for a log, at home, in lessons and on stage."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from core.practice.attempts import Attempt, Place
from core.practice.learning import Learning, after
from core.practice.plan import OnNote, goes_on, next_note
from core.practice.player import Player

WEEK = 7
# Days of a week on which nothing is practised, attempts on the others, and in a lesson, and on a stage.
FREE_MOST, A_DAY, IN_LESSON, ON_STAGE = 2, (12, 20), 5, 12
# Attempts at the note of the week, and at the one below it; the others are at notes that it leads from.
AT_NOTE, BELOW = 0.6, 0.2
LEADS_FROM = 5
# The second of two fingerings is tried so often.
OTHER_TRIED = 0.35


@dataclass
class Weeks:
    """What was played so far, and where the plan stands.

    Parameters
    ----------
    attempts : list of Attempt
        In their order.
    note : int or None
        The note of the week, begun on the day `since`.
    """

    player: Player
    learning: Learning
    target: int
    fingerings: Callable[[int], Sequence[str]]
    attempts: list[Attempt] = field(default_factory=list)
    note: int | None = None
    since: int = 0

    def live(self, first_day: int, weeks: int, stages: Sequence[int] = (), lesson: int = 3) -> None:
        """Live through weeks.

        Parameters
        ----------
        first_day : int
            As `datetime.date.toordinal` counts; on it something is played.
        weeks : int, from 1
        stages : sequence of int
            Days, counted from the first, that end on a stage.
        lesson : int, 0 to 6
            The day of the week with a lesson.
        """
        random = self.player.random
        for week in range(weeks):
            free = set(random.choice(range(1, WEEK), size=int(random.integers(FREE_MOST + 1)), replace=False))
            for n in range(WEEK):
                day = first_day + WEEK * week + n
                self._goes_on(day)
                if n == lesson:
                    self._plays(day, IN_LESSON, Place.LESSON)
                elif n not in free:
                    self._plays(day, int(random.integers(*A_DAY)), Place.ROOM)
                if WEEK * week + n in stages:
                    self._plays(day, ON_STAGE, Place.STAGE)

    def _goes_on(self, day: int) -> None:
        if self.note is not None:
            sessions = {a.day for a in self.attempts if a.midi == self.note and a.day >= self.since}
            if not goes_on(self.learning, OnNote(self.note, day - self.since, len(sessions))):
                return
        following = next_note(self.learning, self.target)
        if following is not None and following != self.note:
            self.note, self.since = following, day

    def _plays(self, day: int, count: int, place: Place) -> None:
        random, top = self.player.random, self.note if self.note is not None else self.target
        made = []
        for _ in range(count):
            drawn = random.random()
            away = (
                0
                if drawn < AT_NOTE
                else 1
                if drawn < AT_NOTE + BELOW
                else int(random.integers(2, LEADS_FROM + 1))
            )
            midi = max(top - away, self.learning.low)
            names = self.fingerings(midi)
            other = len(names) > 1 and random.random() < OTHER_TRIED
            made.append(self.player.plays(midi, day, place, names[int(other)] if names else ""))
        self.attempts += made
        self.learning = after(self.learning, made)
