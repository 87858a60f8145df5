"""Reach, stage, ladder and plan."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PracticeError
from core.practice import ladder as ladders
from core.practice.attempts import Attempt, Place, Result
from core.practice.learning import after, begin
from core.practice.plan import OnNote, by_due, goes_on, is_stuck, next_note, pace
from core.practice.player import even_player, odd_player
from core.practice.reach import HowItHolds, holding, reach, standings, try_next
from core.practice.stage import still_to_come

LOW, HIGH, GUESS = 58, 96, 80


def known(odds, spread=0.3):
    """A state in which every note has such log odds."""
    start = begin(LOW, HIGH, GUESS)
    n = start.n_notes
    mean, cov = start.mean.copy(), start.cov.copy()
    mean[:n] = odds
    cov[:n, :n] = np.eye(n) * spread**2
    return replace(start, mean=mean, cov=cov)


def falling(top, *weak):
    """Notes that surely hold up to a top, but for some."""
    return np.array([4.0 if midi <= top and midi not in weak else -1.0 for midi in range(LOW, HIGH + 1)])


def test_the_reach_is_the_highest_note_with_at_most_one_weak_one_below():
    assert reach(known(falling(83))).top == 83
    weak = reach(known(falling(83, 79)))
    assert (weak.top, weak.missing) == (83, 79)
    assert reach(known(falling(83, 79, 81))).top == 80
    assert reach(known(falling(50))).top is None
    assert reach(known(falling(83), spread=4.0), surely=True).top is None


def test_where_notes_stand_and_which_is_tried_next():
    state = known(falling(83))
    found = standings(state, range(LOW, HIGH + 1))
    assert found[83 - LOW] is HowItHolds.HOLDS
    assert found[84 - LOW] is HowItHolds.NOT_YET
    assert standings(begin(LOW, HIGH, GUESS))[GUESS - LOW] is HowItHolds.UNKNOWN
    assert abs(holding(begin(LOW, HIGH, GUESS))[try_next(begin(LOW, HIGH, GUESS)) - LOW] - 0.5) < 0.05
    assert try_next(state, [70, 90]) in (70, 90)


def test_on_stage_more_is_wanted_the_heavier_it_weighs_and_never_where_the_room_is_too_weak():
    strong, weak = still_to_come(known(4.5), 70), still_to_come(known(1.0), 70)
    assert strong.fewest <= strong.likely <= strong.most
    assert strong.never == 0
    assert (weak.fewest, weak.most, weak.never) == (None, None, 1.0)
    state = after(known(4.5), [Attempt(70, Result.SILENT, 1, Place.STAGE)] * 6)
    assert still_to_come(state, 70).likely > strong.likely


@given(st.lists(st.booleans(), max_size=200), st.floats(20, 120), st.floats(20, 200), st.floats(1, 20))
def test_a_ladder_never_skips_its_rule(results, start, target, step):
    ladder = ladders.begin(start, target, step)
    row = 0
    for clean in results:
        after_it = ladders.played(ladder, clean=clean)
        if ladder.done:
            assert after_it == ladder
            break
        row = row + 1 if clean else 0
        if after_it.bpm > ladder.bpm:
            assert row == 3
            assert after_it.bpm - ladder.bpm <= step + 1e-9
            row = 0
        elif after_it.bpm < ladder.bpm:
            assert not clean
        assert min(start, target) <= after_it.bpm <= max(target, min(start, target))
        ladder = after_it
    assert ladders.climbed(ladders.begin(start, target, step), results) == ladder


def test_near_the_wall_steps_are_finer():
    ladder = ladders.climbed(ladders.begin(100, 200), [True] * 3 + [False] + [True] * 3)
    assert ladder.steps == (100, 103)
    assert ladders.climbed(ladders.begin(60, 60), [True] * 5).done
    for wrong in ((0, 60, 10), (60, -1, 10), (60, 90, 0)):
        with pytest.raises(PracticeError, match="above 0"):
            ladders.begin(*wrong)


def test_a_note_is_left_when_it_holds_and_not_on_one_good_day():
    state = known(falling(82))
    assert goes_on(state, OnNote(82, days=3, sessions=2))
    assert not goes_on(state, OnNote(82, days=2, sessions=2))
    assert not goes_on(state, OnNote(82, days=9, sessions=1))
    assert not goes_on(state, OnNote(83, days=9, sessions=5))
    assert is_stuck(state, OnNote(83, days=14, sessions=8))
    assert not is_stuck(state, OnNote(82, days=14, sessions=8))


def test_the_next_note_is_the_one_missing_or_the_one_above():
    assert next_note(known(falling(82)), 86) == 83
    assert next_note(known(falling(82, 79)), 86) == 79
    assert next_note(known(falling(86)), 86) is None
    assert next_note(known(falling(50)), 86) == LOW
    nearest = np.where(np.arange(LOW, HIGH + 1) == 81, 1.2, -1.0)
    assert next_note(known(nearest), 86) == 81


def test_the_pace_is_a_note_a_week_with_days_off_not_counted():
    state = known(falling(82))
    plain, with_days_off = pace(state, 85, 100), pace(state, 85, 100, range(103, 110))
    assert [(step.midi, step.first_day, step.end_day) for step in plain] == [
        (83, 100, 107),
        (84, 107, 114),
        (85, 114, 121),
    ]
    assert [step.end_day for step in with_days_off] == [114, 121, 128]
    assert by_due(plain, 115)[0] == 84
    assert [step.midi for step in by_due(plain, 115)[1]] == [85]
    assert by_due(plain, 101) == (None, plain)
    assert pace(known(falling(HIGH)), HIGH, 100) == []
    with pytest.raises(PracticeError, match="days off"):
        pace(state, 85, 100, range(1000))


@pytest.mark.parametrize("kind", [even_player, odd_player])
def test_a_simulated_student_learns_and_is_told_about_right(kind):
    """The long proof is a command of its own; here one student of each kind."""
    player = kind(np.random.default_rng(4), LOW, HIGH, GUESS)
    learning, before = begin(LOW, HIGH, GUESS), player.odds.copy()
    for day in range(1, 9):
        player.wakes(day)
        learning = after(learning, [player.plays(try_next(learning), day) for _ in range(20)])
    assert abs(reach(learning).top - player.reach()) <= 3
    assert player.odds.sum() != before.sum()
    again = kind(np.random.default_rng(4), LOW, HIGH, GUESS)
    assert np.array_equal(again.odds, before)
