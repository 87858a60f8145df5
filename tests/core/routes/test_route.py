"""Routes: exact, recomputed apart, with pins, bans, gaps and ties."""

import itertools
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from catalogue import shipped
from core.errors import RouteError
from core.music.notation.formats import read_score
from core.music.passage import sounding_events
from core.music.pitch import spell
from core.routes.candidates import BANNED, NOT_PINNED, ON_PURPOSE, PURPOSE, offers
from core.routes.faults import STRANDS
from core.routes.route import (
    added_cost,
    best_route,
    best_routes,
    cost_through,
    make_problem,
    reasons,
    strand_faults,
)

CHART = shipped.catalogue("alto-saxophone")
LIBRARY = shipped.library("alto-saxophone")
COST_TOLERANCE = 1e-9  # sums in another order
HIGH_F_SHARP = frozenset({"highF#"})


def events_of(abc, tempo_bpm=None):
    return sounding_events(read_score(abc.encode()).passage, tempo_bpm)


def problem_of(abc, tempo_bpm=None, *, fitted=frozenset(), pins=None, bans=None, weights=None):
    events = events_of(abc, tempo_bpm)
    offered = offers(events, CHART, fitted, pins or {}, bans or {})
    return offered, make_problem(LIBRARY, CHART.index, events, offered, weights)


def ids(offered, route):
    pairs = zip(offered, route.slots, strict=True)
    return [None if slot is None else offer.candidates[slot].entry.id for offer, slot in pairs]


def abc_of(midis, slur):
    letters = []
    for midi in midis:
        pitch = spell(midi)
        octave = "'" * (pitch.octave - 4) if pitch.octave >= 4 else "," * (4 - pitch.octave)
        letters.append({-1: "_", 0: "=", 1: "^"}[pitch.alter] + pitch.step + octave)
    line = " ".join(letters)
    return f"L:1/16\nK:C\n{'(' + line + ')' if slur else line} |"


def brute_force(problem, k):
    """Every route, costed apart from the search; cheapest first."""
    usable = [np.flatnonzero(row) for row in problem.usable]
    routes = [[int(slot) for slot in slots] for slots in itertools.product(*usable)]
    return sorted((added_cost(problem, slots), slots) for slots in routes)[:k]


lines = st.lists(st.integers(58, 98), min_size=1, max_size=6)


@given(lines, st.booleans(), st.floats(40, 200), st.integers(1, 6))
def test_brute_force_agrees(midis, slur, tempo_bpm, k):
    _, problem = problem_of(abc_of(midis, slur), tempo_bpm, fitted=HIGH_F_SHARP)
    expected = brute_force(problem, k)
    found = best_routes(problem, k)
    assert [r.cost for r in found] == pytest.approx([c for c, _ in expected], abs=COST_TOLERANCE)
    assert best_route(problem).cost == pytest.approx(expected[0][0], abs=COST_TOLERANCE)
    assert len({route.slots for route in found}) == len(found)


@given(lines, st.floats(40, 200))
def test_a_readded_cost_equals_the_reported_one(midis, tempo_bpm):
    _, problem = problem_of(abc_of(midis, slur=True), tempo_bpm)
    for route in [best_route(problem), *best_routes(problem, 8)]:
        assert added_cost(problem, route.slots) == pytest.approx(route.cost, abs=COST_TOLERANCE)


@given(lines, st.floats(40, 200))
def test_the_cheapest_route_passes_every_note_at_the_same_cost(midis, tempo_bpm):
    _, problem = problem_of(abc_of(midis, slur=False), tempo_bpm)
    through = np.where(problem.usable, cost_through(problem), np.inf)
    best = best_route(problem)
    assert through.min(axis=1) == pytest.approx(np.full(len(through), best.cost), abs=COST_TOLERANCE)


def test_equal_routes_keep_the_order_of_the_catalogue():
    offered, problem = problem_of("L:1/4\nK:C\n_B _B _B|", weights=dict.fromkeys(STRANDS, 0.0))
    first = CHART.by_midi[70][0].id
    assert ids(offered, best_route(problem)) == [first] * 3
    assert all(route.cost == 0 for route in best_routes(problem, 5))
    assert [r.slots for r in best_routes(problem, 5)] == [r.slots for r in best_routes(problem, 5)]


FAST_TURN = "L:1/16\nQ:1/4=132\nK:C\n(=B_B=B_B)|"


@pytest.mark.parametrize(
    ("abc", "tempo_bpm", "note", "expected"),
    [
        pytest.param(FAST_TURN, 132, 1, {"Bb4-side"}, id="B to B-flat fast: side, no slide"),
        pytest.param("L:1/16\nK:C\n(F_BF_B)|", 150, 1, {"Bb4-one-one"}, id="F to B-flat fast: one and one"),
        pytest.param("L:1/4\nK:C\nF _B4|", 60, 1, {"Bb4-bis", "Bb4-side"}, id="held B-flat: full tone"),
        pytest.param("L:1/16\nK:C\n(F^FF^F)|", 140, 1, {"Fs4-side"}, id="F to F-sharp fast: side F-sharp"),
        pytest.param("L:1/2\nK:C\n^c4|", 60, 0, {"Cs5-covered"}, id="held C-sharp: steadied"),
        pytest.param("L:1/16\nK:C\n(_ba_ba)|", 132, 0, {"Bb5-side", "Bb5-bis"}, id="upper B-flat"),
        pytest.param("L:1/2\nK:C\na'4|", 60, 0, {"A6-hand-down", "A6-two-three"}, id="held A6"),
    ],
)
def test_choices_that_teachers_make(abc, tempo_bpm, note, expected):
    offered, problem = problem_of(abc, tempo_bpm)
    assert ids(offered, best_route(problem))[note] in expected


def test_speed_changes_the_choice():
    abc = (shipped.settings.DATA / "demo" / "over-the-top-sluice.abc").read_text()
    slow, fast = (ids(*(lambda o, p: (o, best_route(p)))(*problem_of(abc, bpm))) for bpm in (60, 160))
    assert sum(a != b for a, b in zip(slow, fast, strict=True)) >= 5


def test_a_pin_is_kept_and_the_rest_follows():
    abc = "L:1/16\nQ:1/4=132\nK:C\n(A_BA_B)|"
    offered, problem = problem_of(abc, pins={"n2": "Bb4-one-two"})
    assert ids(offered, best_route(problem))[1] == "Bb4-one-two"
    bars = {c.entry.id: c.bar for c in offered[1].candidates}
    assert bars["Bb4-one-two"] == ""
    assert set(bars.values()) == {"", NOT_PINNED}
    free = problem_of(abc)[1]
    assert best_route(problem).cost >= best_route(free).cost


def test_a_ban_is_kept():
    offered, problem = problem_of(FAST_TURN, bans={"n2": ["Bb4-side"]})
    assert ids(offered, best_route(problem))[1] != "Bb4-side"
    assert next(c.bar for c in offered[1].candidates if c.entry.id == "Bb4-side") == BANNED


@pytest.mark.parametrize("pin", ["B4-plain", "no-such-row", "Fs6-palm"])
def test_a_pin_that_cannot_be_had(pin):
    with pytest.raises(RouteError, match="cannot serve"):
        problem_of("K:C\n_B^f'|", pins={"n1": pin} if pin != "Fs6-palm" else {"n2": pin})


def test_a_fingering_that_needs_a_missing_touch_is_never_offered():
    without, with_it = (
        offers(events_of("K:C\n^f'|"), CHART, f, {}, {})[0] for f in (frozenset(), HIGH_F_SHARP)
    )
    assert "Fs6-palm" not in [c.entry.id for c in without.candidates]
    assert [(c.entry.id, c.bar) for c in without.refused] == [
        ("Fs6-palm", "needs high F-sharp, which is not fitted")
    ]
    assert "Fs6-palm" in [c.entry.id for c in with_it.candidates]


def test_colour_and_practice_fingerings_are_taken_on_purpose_only():
    offer = offers(events_of("K:C\n_b|"), CHART, frozenset(), {}, {})[0]
    barred = {c.entry.id for c in offer.candidates if c.bar == PURPOSE}
    assert barred == {c.entry.id for c in offer.candidates if c.entry.kind in ON_PURPOSE} != set()
    only = offers(events_of("K:C\n^g'|"), CHART, frozenset(), {}, {})[0]  # nothing but harmonics there
    assert not any(c.bar for c in only.candidates)
    pinned, problem = problem_of("K:C\n_b|", pins={"n1": "Bb5-fourth-of-Bb3"})
    assert ids(pinned, best_route(problem)) == ["Bb5-fourth-of-Bb3"]


@pytest.mark.parametrize(
    ("note", "why"),
    [
        ("a''", "outside the range"),
        ("C,,", "outside the range"),
        ("d''", "no fingering for written D7 is supported"),
        ("^c''", "every fingering for written C♯7 is out: needs high F-sharp"),
    ],
)
def test_a_note_without_fingering_is_marked_and_the_rest_solved(note, why):
    offered, problem = problem_of(f"L:1/16\nQ:1/4=132\nK:C\n(=B_B) {note} (=B_B)|")
    found = ids(offered, best_route(problem))
    assert found[2] is None
    assert found[:2] == found[3:] == ["B4-plain", "Bb4-side"]
    assert why in offered[2].gap
    assert [offer.gap for place, offer in enumerate(offered) if place != 2] == [""] * 4


def test_all_gaps_cost_nothing():
    offered, problem = problem_of("K:C\na''b''|")
    route = best_route(problem)
    assert (route.slots, route.cost) == ((None, None), 0.0)
    assert [r.because for r in reasons(problem, route)] == ["", ""]
    assert all(offer.gap for offer in offered)


def test_banning_everything_is_a_gap_that_says_so():
    every = [entry.id for entry in CHART.by_midi[62]]
    offered, _ = problem_of("K:C\nD|", bans={"n1": every})
    assert "left out here" in offered[0].gap


def test_reasons_name_what_decides():
    offered, problem = problem_of(FAST_TURN, bans={"n2": ["Bb4-one-one", "Bb4-one-two"]})
    reason = reasons(problem, best_route(problem))[1]
    assert offered[1].candidates[reason.runner_up].entry.id == "Bb4-bis"
    assert reason.because == "hands"
    assert reason.extra > 0


def test_strand_faults_add_up_to_the_cost():
    _, problem = problem_of(FAST_TURN)
    route = best_route(problem)
    total = sum(
        strand_faults(problem, route.slots, place, slot)[:4].sum()  # hands out of it is the next one's in
        for place, slot in enumerate(route.slots)
    )
    assert total == pytest.approx(route.cost, abs=COST_TOLERANCE)


@pytest.mark.parametrize("strand", STRANDS)
def test_weights_scale_one_strand(strand):
    abc = "L:1/16\nQ:1/4=132\nK:C\n(F_B)e'f'|"
    route = best_route(problem_of(abc)[1])
    plain = problem_of(abc, weights={})[1]
    twice = problem_of(abc, weights={strand: 2.0})[1]
    only = problem_of(abc, weights={s: float(s == strand) for s in STRANDS})[1]
    assert added_cost(twice, route.slots) - added_cost(plain, route.slots) == pytest.approx(
        added_cost(only, route.slots), abs=COST_TOLERANCE
    )


@pytest.mark.parametrize("weights", [{"pitch": -1}, {"pitch": 11}, {"pitch": float("nan")}, {"luck": 1}])
def test_weights_out_of_range(weights):
    with pytest.raises(RouteError):
        problem_of("K:C\nB|", weights=weights)


@pytest.mark.parametrize("k", [0, 51])
def test_k_out_of_range(k):
    with pytest.raises(RouteError, match="from 1 to 50"):
        best_routes(problem_of("K:C\nB|")[1], k)


def test_a_route_needs_a_note():
    with pytest.raises(RouteError, match="at least one note"):
        make_problem(LIBRARY, CHART.index, [], [])


def test_tied_notes_are_one_event():
    events = events_of("L:1/4\nK:C\nB-|B-B2 B|")
    assert [(e.id, e.seconds) for e in events] == [("n1", 4 * 60 / 96), ("n4", 60 / 96)]
    assert Fraction(len(events[0].notes)) == 3
