import math

import numpy as np
import pytest

from core.instruments.fingering import parse_fingering
from core.routes.facility import (
    EFFECT_WORDS,
    LOG_SPREAD,
    move_effects,
    normal_cdf,
    stumble_risk,
    time_needed_s,
)

CDF_TOLERANCE = 2e-7  # stated for the approximation


def effects(alto, before, after, partials=(1, 1)):
    a, b = parse_fingering(before, alto), parse_fingering(after, alto)
    found = move_effects(alto, [a], [b], [partials[0]], [partials[1]])
    return {name: float(value[0, 0]) for name, value in found.items()}


def needed(alto, before, after, partials=(1, 1)):
    return sum(effects(alto, before, after, partials).values())


@pytest.mark.parametrize(
    ("before", "after", "present"),
    [
        pytest.param("L1", "L1", set(), id="nothing moves"),
        pytest.param("L1", "L1 L2", {"finger"}, id="one finger"),
        pytest.param("L1 bis", "L1", {"finger", "slide"}, id="bis to B slides"),
        pytest.param("L2", "L1", {"finger", "stagger", "contrary"}, id="C to B, contrary"),
        pytest.param("L1", "L1 | R1", {"finger"}, id="one and one"),
        pytest.param("L1 L2 | sideBb", "L1", {"finger", "stagger", "both_hands"}, id="side to B"),
        pytest.param(
            "octave L1",
            "octave palmD",
            {"finger", "stagger", "contrary", "hand_shape"},
            id="stack to palm",
        ),
        pytest.param("L1", "octave L1 L2", {"finger", "stagger", "thumb"}, id="thumb with the stack"),
        pytest.param("L1 L2 L3 G#", "L1 L2 L3 lowB", {"finger", "slide"}, id="little finger table"),
    ],
)
def test_parts_of_a_move(alto, before, after, present):
    found = effects(alto, before, after)
    assert {name for name, seconds in found.items() if seconds > 0} == present
    assert set(found) == set(EFFECT_WORDS)


def test_a_change_of_partial_takes_time_even_with_the_same_touches(alto):
    assert effects(alto, "L1", "L1", (1, 3))["partial"] > 0
    assert effects(alto, "L1", "L1", (None, None))["partial"] == 0
    assert effects(alto, "L1", "L1 L2", (None, None))["partial"] > 0


@pytest.mark.parametrize(
    ("easier", "harder"),
    [
        (("L1 L2 | sideBb", "L1"), ("L1 bis", "L1")),
        (("L1", "L1 L2"), ("L1 L2", "L1 L2 L3")),
        (("octave frontF L2", "octave L1 L2"), ("octave palmD palmEb palmF | sideE", "octave L1 L2")),
        (("L1 L2 L3", "L1 L2 L3 lowB"), ("L1 L2 L3 G#", "L1 L2 L3 lowB")),
    ],
    ids=["side beats bis to B", "middle beats ring", "front F beats palms", "press beats slide"],
)
def test_order_that_teachers_teach(alto, easier, harder):
    assert needed(alto, *easier) < needed(alto, *harder)


def test_the_batch_equals_pair_by_pair(alto, chart):
    entries = chart.entries[::9]
    fingerings, partials = [e.fingering for e in entries], [e.partial for e in entries]
    batch = time_needed_s(move_effects(alto, fingerings, fingerings, partials, partials))
    for i, a in enumerate(entries):
        for j, b in enumerate(entries):
            one = move_effects(alto, [a.fingering], [b.fingering], [a.partial], [b.partial])
            assert batch[i, j] == pytest.approx(float(time_needed_s(one)[0, 0]), abs=1e-15)


def test_risk_grows_with_speed_and_is_a_chance():
    available = np.array([2.0, 1.0, 0.5, 0.25, 0.125, 0.06])
    risk = stumble_risk(np.full(6, 0.1), available)
    assert np.all(np.diff(risk) > 0)
    assert np.all((risk >= 0) & (risk <= 1))
    assert stumble_risk(np.array([0.1]), np.array([0.1]))[0] == pytest.approx(0.5, abs=CDF_TOLERANCE)
    assert stumble_risk(np.array([0.0]), np.array([1e-3]))[0] == 0
    assert stumble_risk(np.array([0.1]), np.array([np.inf]))[0] == pytest.approx(0, abs=CDF_TOLERANCE)


def test_one_spread_is_one_standard_deviation():
    needed_s = np.array([0.1 * math.exp(LOG_SPREAD)])
    assert stumble_risk(needed_s, np.array([0.1]))[0] == pytest.approx(0.8413447, abs=CDF_TOLERANCE)


def test_normal_cdf_against_the_exact_function():
    x = np.linspace(-6, 6, 2001)
    exact = np.array([0.5 * math.erfc(-value / math.sqrt(2)) for value in x])
    assert np.max(np.abs(normal_cdf(x) - exact)) < CDF_TOLERANCE


def test_the_crossing_that_the_sizes_were_chosen_by(alto):
    crossing = needed(alto, "L2", "octave L1 L2 L3 | R1 R2 R3", (1, 2))
    assert stumble_risk(np.array([crossing]), np.array([0.125]))[0] == pytest.approx(1 / 18, abs=0.005)
