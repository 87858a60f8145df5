import math

import numpy as np
import pytest

from catalogue import shipped
from core.instruments.actions import grips
from core.instruments.fingering import parse_fingering
from core.instruments.hand import Hand, PlayerLevel
from core.routes.demands import demands, entry_grips, stumbles
from core.routes.facility import (
    ACROSS_S,
    ADD_S,
    AGAINST_S,
    AWAY_S,
    CONTRARY_S,
    EFFECT_WORDS,
    FIND_S,
    HEAVY_S,
    LOG_SPREAD,
    ON_ROLLERS_S,
    ROLL_S,
    SLIDE_S,
    TABLE_STEP_S,
    TILT_S,
    move_effects,
    stumble_risk,
    time_needed_s,
)

# Whose times are those of the table.
UNSCALED = Hand(level=PlayerLevel.BEGINNING)
CDF_TOLERANCE = 5e-8  # the value below is written with seven digits


def effects(alto, before, after, partials=(1, 1)):
    a, b = parse_fingering(before, alto), parse_fingering(after, alto)
    found = move_effects(alto, grips(alto, [a], partials[:1]), grips(alto, [b], partials[1:]), UNSCALED)
    return {name: float(value[0]) for name, value in found.items()}


def needed(alto, before, after, partials=(1, 1)):
    return sum(effects(alto, before, after, partials).values())


@pytest.mark.parametrize(
    ("before", "after", "present"),
    [
        pytest.param("L1", "L1", set(), id="nothing moves"),
        pytest.param("L1", "L1 L2", {"finger"}, id="one finger"),
        pytest.param("L1 bis", "L1", {"finger", "add"}, id="bis to B lets go"),
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
        pytest.param("L1 L2 L3 G#", "L1 L2 L3 lowB", {"finger", "slide", "heavy"}, id="little finger table"),
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
    held = grips(alto, [e.fingering for e in entries], [e.partial for e in entries])
    batch = time_needed_s(move_effects(alto, held[:, None], held[None, :]))
    for i in range(len(entries)):
        for j in range(len(entries)):
            one = move_effects(alto, held[i : i + 1], held[j : j + 1])
            assert batch[i, j] == pytest.approx(float(time_needed_s(one)[0]), abs=1e-15)


@pytest.mark.parametrize(
    ("before", "after", "part", "seconds"),
    [
        pytest.param(
            "L1 bis", "L1", "add", ADD_S["rolling"], id="a finger rolls off a touch besides its own"
        ),
        pytest.param("L1 L2", "frontF L2", "roll", ROLL_S, id="a finger rolls to the touch beside it"),
        pytest.param("octave palmD", "octave frontF", "away", AWAY_S, id="away from its home"),
        pytest.param("L1 G#", "L1 lowB", "slide", SLIDE_S + 2 * TABLE_STEP_S, id="two places on"),
        pytest.param("L1 G#", "L1 lowB", "heavy", HEAVY_S, id="to a heavy touch"),
        pytest.param("lowC#", "lowBb", "heavy", 2 * HEAVY_S, id="from one to another"),
        pytest.param("lowB", "lowBb", "roll", ON_ROLLERS_S, id="on rollers"),
        pytest.param("lowC#", "lowBb", "slide", 2 * TABLE_STEP_S, id="two places on rollers"),
        pytest.param("L1/2 L2", "L1 L2", "tilt", TILT_S, id="from half to full"),
        pytest.param("L1/2 L2", "L1 L2", "slide", 0.0, id="which is no slide"),
        pytest.param("L2", "L1/2 L2", "find", FIND_S, id="half a hole has to be found"),
        pytest.param("octave L1 L2", "L1", "against", 0.0, id="a thumb goes with its fingers"),
        pytest.param("octave L1", "L1 L2", "against", AGAINST_S, id="or against them"),
        pytest.param("L1 | R1", "L1 L2", "across", ACROSS_S, id="one hand against the other"),
        pytest.param("L1 L2 | R1", "L1", "across", 0.0, id="both hands one way"),
        pytest.param("L1", "L1 | sideBb sideC", "slide", 0.0, id="a side rolls, which is no slide"),
        pytest.param("L2", "L1", "contrary", CONTRARY_S, id="against each other"),
    ],
)
def test_parts_of_a_move_in_seconds(alto, before, after, part, seconds):
    assert effects(alto, before, after)[part] == pytest.approx(seconds, abs=1e-15)


def test_a_thumb_rolls_to_its_neighbour_and_slides_past_it():
    bassoon = shipped.instrument("bassoon")
    rolls, slides, adds = (effects(bassoon, "W", to) for to in ("A", "C", "W A"))
    assert (rolls["roll"], rolls["slide"], rolls["add"]) == (ROLL_S, 0, 0)
    assert (slides["roll"], slides["slide"], slides["add"]) == (0, SLIDE_S, 0)
    assert (adds["roll"], adds["slide"], adds["add"]) == (0, 0, ADD_S["thumb"])


def test_a_flick_is_reached_as_its_touch_is():
    bassoon = shipped.instrument("bassoon")
    near, far, free = (effects(bassoon, *way)["slide"] for way in (("W", "A!"), ("W", "C!"), ("L1", "C! L1")))
    assert (near, far, free) == (0, SLIDE_S, 0)


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


@pytest.mark.parametrize(
    ("level", "bpm", "notes_a_beat", "most", "least"),
    [
        ("advanced", 120, 4, 0.03, 0.0),
        ("advanced", 144, 4, 0.10, 0.05),
        ("moving on", 92, 4, 0.10, 0.05),
        ("beginning", 60, 1, 0.36, 0.30),
    ],
)
def test_a_plain_break_fails_as_often_as_a_player_of_that_level_fails_it(
    level, bpm, notes_a_beat, most, least
):
    """The clarinet's, A4 to B4, slurred."""
    chart, hand = shipped.catalogue("b-flat-clarinet"), Hand(level=PlayerLevel(level))
    held = entry_grips(chart, [chart.by_id["A4-throat"], chart.by_id["B4-left"]])
    asked = demands(chart.instrument, held[:1], held[1:], hand)
    assert least <= float(stumbles(asked, 60 / bpm / notes_a_beat)[0]) <= most


def test_what_fingers_miss_is_asked_by_breaks_and_half_holes_whatever_the_tempo():
    chart = shipped.catalogue("b-flat-clarinet")
    names = ("A4-throat", "D5-plain", "E5-plain", "C5-right", "Eb5-right")
    a, d, e, c, e_flat = (entry_grips(chart, [chart.by_id[name]]) for name in names)
    beginner = Hand(level=PlayerLevel.BEGINNING)
    missed = [
        float(demands(chart.instrument, *way, beginner).missed[0]) for way in ((a, d), (d, e), (c, e_flat))
    ]
    assert 0.2 < missed[0] < 1 / 3
    assert missed[1:] == [0, 0]
    slow, slower = (float(stumbles(demands(chart.instrument, a, d, beginner), s)[0]) for s in (2, 8))
    assert slow == pytest.approx(slower, abs=1e-4)
    assert float(stumbles(demands(chart.instrument, a, d, beginner), 2, tongued=True)[0]) < slow


def test_in_the_top_register_the_mouth_has_to_be_there_too():
    chart = shipped.catalogue("b-flat-clarinet")
    held = {name: entry_grips(chart, [chart.by_id[name]]) for name in ("B5-plain", "C6-plain", "Cs6-lift")}
    inside = move_effects(chart.instrument, held["B5-plain"], held["C6-plain"])
    over = move_effects(chart.instrument, held["C6-plain"], held["Cs6-lift"])
    still = move_effects(chart.instrument, held["Cs6-lift"], held["Cs6-lift"])
    assert [float(one["top"][0]) for one in (inside, still)] == [0.0, 0.0]
    assert over["top"][0] > 0
