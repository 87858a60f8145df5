"""Weeks of a simulated student: the same seed gives the same weeks, and more weeks go on from fewer."""

import numpy as np
import pytest

from core.practice.attempts import Place
from core.practice.learning import begin
from core.practice.player import even_player, odd_player
from core.practice.weeks import Weeks

LOW, HIGH, FIRST = 58, 96, 739_000


def lived(weeks, make=even_player, seed=5):
    player = make(np.random.default_rng(seed), LOW, HIGH, 84)
    found = Weeks(player, begin(LOW, HIGH, 84), 91, lambda midi: ("plain", "other"))
    found.live(FIRST, weeks, stages=(20,))
    return found


@pytest.mark.parametrize("make", [even_player, odd_player])
def test_weeks_are_the_same_each_time_and_more_go_on_from_fewer(make):
    eight, again, nine = lived(8, make), lived(8, make), lived(9, make)
    assert eight.attempts == again.attempts
    assert nine.attempts[: len(eight.attempts)] == eight.attempts
    assert {a.day - FIRST for a in eight.attempts} <= set(range(56))
    assert eight.attempts[0].day == FIRST


def test_a_student_learns_and_the_plan_goes_up():
    eight = lived(8)
    assert 84 < (eight.note or 0) <= 91
    assert max(a.midi for a in eight.attempts) <= 91
    assert {a.place for a in eight.attempts} == set(Place)
    assert {a.day for a in eight.attempts if a.place is Place.STAGE} == {FIRST + 20}
    assert {a.fingering for a in eight.attempts} == {"plain", "other"}
