"""What counted attempts tell of a student's moves: laws of the factor, and moves that keep all else."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core_shapes import in_hand_of, solved

from catalogue.in_hand import moves_of
from core.evidence.sources import Moved
from core.routes.hard_moves import SLOWEST_BPM, safe_bpm, stumble
from core.routes.practised import factor, practised

times = st.floats(0.03, 1.5)
counted = st.lists(st.builds(Moved, times, st.integers(0, 20), st.integers(0, 20)), max_size=4)


@given(st.floats(0.02, 0.4), counted, times)
def test_a_stumble_never_speeds_the_hands_and_a_clean_one_never_slows_them(needed_s, some, time):
    before = factor(needed_s, some)
    assert factor(needed_s, [*some, Moved(time, 0, 1)]) >= before - 1e-9
    assert factor(needed_s, [*some, Moved(time, 1, 0)]) <= before + 1e-9


def test_many_attempts_find_a_hand_that_is_slower():
    rng = np.random.default_rng(4)
    for true in (0.7, 1.0, 1.5):
        some = []
        for time in (0.08, 0.1, 0.12, 0.15, 0.2):
            stumbled = int((0.1 * true * np.exp(0.25 * rng.standard_normal(200)) > time).sum())
            some.append(Moved(time, 200 - stumbled, stumbled))
        assert factor(0.1, some) == pytest.approx(true, rel=0.06)


def test_one_stumble_on_a_slow_move_tells_little():
    assert factor(0.1, [Moved(1.5, 0, 1)]) < 1.1
    assert factor(0.0, [Moved(0.1, 0, 9)]) == 1.0


def test_only_the_move_that_was_counted_takes_longer():
    alto = in_hand_of("alto-saxophone")
    usual = moves_of(alto.catalogue)
    entries = alto.catalogue.by_midi[70][0], alto.catalogue.by_midi[72][0]
    ours = practised(usual, {(entries[0].id, entries[1].id): (Moved(0.2, 0, 9),), ("gone", "away"): ()})
    pairs = [(72, 70), (70, 72), (70, 72), (74, 76)]
    (before, starts), (after, same) = usual.between(pairs), ours.between(pairs)
    slower = np.flatnonzero(after.needed_s != before.needed_s)
    assert list(starts) == list(same)
    assert list(slower) == [starts[1], starts[2]]
    assert (after.needed_s[slower] > 1.2 * before.needed_s[slower]).all()
    assert practised(usual, {}) is usual


def test_the_safe_tempo_is_the_fastest_at_which_no_move_is_to_be_worked_on():
    table = solved("alto-saxophone", "Q:1/4=180\nL:1/16\nK:C\nB,^CB,^CB,^C|")
    bpm = safe_bpm(table, 0, 3, 180)
    assert SLOWEST_BPM < bpm < 180
    assert stumble(table, 1) > 0.05
    slow = solved("alto-saxophone", f"Q:1/4={bpm}\nL:1/16\nK:C\nB,^CB,^CB,^C|")
    assert safe_bpm(slow, 0, 3, bpm) in (bpm, bpm - 1)
