"""Routes: exact, recomputed apart, with pins, bans, gaps and ties."""

import itertools
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from catalogue import shipped
from core.errors import RouteError
from core.evidence.in_hand import OF_SCHOOL, PREFERRED
from core.evidence.sources import ALL_SOURCES, Basis
from core.instruments.fingering import ON_PURPOSE
from core.instruments.moves import move_between
from core.music.events import sounding_events
from core.music.notation.formats import read_score
from core.music.pitch import spell
from core.routes import candidates, trellis
from core.routes import table as tables
from core.routes.candidates import BANNED, LEAD, NOT_PINNED, PURPOSE, offer_for, offers
from core.routes.demands import Moves
from core.routes.explain import chosen, decisive, faults_between, reason, route_faults
from core.routes.faults import STRANDS, Faults
from core.routes.hard_moves import hardest, move_into, stumble
from core.routes.k_best import best_routes
from core.routes.problem import make_problem
from core.routes.solve import solve
from core.routes.table import make_table, route_through
from core_shapes import abc_of, in_hand_of, own_row

CHART = shipped.catalogue("alto-saxophone")
MOVES = Moves(CHART)
WITHOUT_MODEL = ALL_SOURCES - {Basis.MODELLED}
COST_TOLERANCE = 1e-9  # sums in another order
HIGH_F_SHARP = frozenset({"highF#"})


def alto_with(fitted=frozenset(), own=(), hidden=frozenset()):
    return in_hand_of("alto-saxophone", own=own, hidden=hidden, fitted=fitted)


def offered_for(abc, fitted=frozenset(), pins=None, bans=None):
    return offers(events_of(abc), alto_with(fitted), pins or {}, bans or {})


def events_of(abc, tempo_bpm=None):
    return sounding_events(read_score(abc.encode()).passage, tempo_bpm)


def table_of(abc, tempo_bpm=None, *, fitted=frozenset(), pins=None, bans=None, weights=None):
    ask = pins or {}, bans or {}, weights, WITHOUT_MODEL
    return solve(events_of(abc, tempo_bpm), alto_with(fitted), MOVES, *ask)


def ids(table):
    candidates = [chosen(table, n) for n in range(len(table.route.slots))]
    return [candidate and candidate.entry.id for candidate in candidates]


def padded(table, slots):
    """A route as the table counts it: with the imagined notes at either end."""
    return np.array([0, *(slot or 0 for slot in slots), 0])


def cost_of(table, slots):
    return tables.added_cost(table.problem, padded(table, slots))


def brute_force(table, k):
    """Every route, costed apart from the search; cheapest first."""
    first = table.problem.trellis.first
    usable = [np.flatnonzero(table.problem.trellis.usable[a:b]) for a, b in itertools.pairwise(first)][1:-1]
    routes = [[int(slot) for slot in slots] for slots in itertools.product(*usable)]
    return sorted((cost_of(table, slots), slots) for slots in routes)[:k]


lines = st.lists(st.integers(58, 98), min_size=1, max_size=6)


@given(lines, st.booleans(), st.floats(40, 200), st.integers(1, 6))
def test_brute_force_agrees(midis, slur, tempo_bpm, k):
    table = table_of(abc_of(midis, slur), tempo_bpm, fitted=HIGH_F_SHARP)
    expected = brute_force(table, k)
    found = best_routes(table, k)
    assert [r.cost for r in found] == pytest.approx([c for c, _ in expected], abs=COST_TOLERANCE)
    assert table.route.cost == pytest.approx(expected[0][0], abs=COST_TOLERANCE)
    assert len({route.slots for route in found}) == len(found)


@given(lines, st.booleans(), st.floats(40, 200), st.booleans())
def test_what_a_candidate_costs_is_what_every_route_through_it_costs(midis, slur, tempo_bpm, wide):
    """Of banned ones too, and by whichever width the stretches are swept."""
    abc = abc_of(midis, slur)
    first = CHART.by_midi.get(midis[0], ())
    bans = {"n1": [entry.id for entry in first[1:]]}
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(trellis, "NARROW", 2 if wide else trellis.NARROW)
        table = table_of(abc, tempo_bpm, bans=bans)
    for n in range(len(midis)):
        if table.problem.trellis.gap[n + 1]:
            assert table.extra_at(n).tolist() == [0.0] * len(table.extra_at(n))
            continue
        for slot, extra in enumerate(table.extra_at(n)):
            through = tables.added_cost(table.problem, route_through(table, n, slot))
            assert through - table.route.cost == pytest.approx(extra, abs=COST_TOLERANCE)


@given(lines, st.floats(40, 200), st.data())
def test_one_note_changed_is_the_whole_passage_solved_again(midis, tempo_bpm, data):
    abc = abc_of(midis, slur=True)
    table = table_of(abc, tempo_bpm)
    n = data.draw(st.integers(0, len(midis) - 1))
    offer = table.problem.given.offered[n]
    usable = [candidate.entry.id for candidate in offer.candidates if not candidate.bar]
    if len(usable) < 2:
        return
    entry = data.draw(st.sampled_from(usable))
    pin, bans = (entry, frozenset()) if data.draw(st.booleans()) else (None, frozenset({entry}))
    changed = table.with_offer(n, offer_for(alto_with(), table.problem.events[n].written_pitch, pin, bans))
    note = f"n{n + 1}"
    again = table_of(abc, tempo_bpm, pins={note: pin} if pin else {}, bans={note: bans} if bans else {})
    assert changed.route.cost == pytest.approx(again.route.cost, abs=COST_TOLERANCE)
    assert changed.extra == pytest.approx(again.extra, abs=COST_TOLERANCE)
    back = changed.with_offer(n, offer)
    assert back.extra == pytest.approx(table.extra, abs=COST_TOLERANCE)
    assert table.route == table_of(abc, tempo_bpm).route  # the table itself was not touched


@given(lines, st.booleans(), st.floats(40, 200))
def test_the_strands_of_a_reason_add_up_to_the_difference_of_two_routes(midis, slur, tempo_bpm):
    weights = {"pitch": 0.5, "hands": 2.0}
    table = table_of(abc_of(midis, slur), tempo_bpm, weights=weights)
    for n in range(len(midis)):
        why = reason(table, n)
        if why.rival is None:
            continue
        rival = tables.added_cost(table.problem, route_through(table, n, why.rival))
        assert why.saved.total + why.head_start == pytest.approx(rival - table.route.cost, abs=COST_TOLERANCE)
        assert why.extra == pytest.approx(table.extra_at(n)[why.rival], abs=COST_TOLERANCE)


def test_a_change_sweeps_only_what_lies_beside_it(monkeypatch):
    table = table_of("L:1/16\nK:C\n" + "(=B_B=B_B) ADEF|" * 40)
    swept = []
    lay_out = tables.lay_out
    monkeypatch.setattr(
        tables,
        "lay_out",
        lambda problem, anchors: swept.append(anchors.tolist()) or lay_out(problem, anchors),
    )
    n = 8 * 20 + 1
    alto, pitch = alto_with(), table.problem.events[n].written_pitch
    table.with_offer(n, offer_for(alto, pitch, "Bb4-bis", frozenset()))
    assert swept == [[n, n + 1, n + 2]]  # the note itself leaves no choice now


def test_a_reason_counts_speaking_out_of_a_note_too(monkeypatch):
    """The slurs into and out of the trill fingering cross no partial: that is lost with the other one."""
    monkeypatch.setattr(candidates, "TRILLED_ONLY", frozenset())
    clarinet = in_hand_of("b-flat-clarinet")
    only = {"n2": {"Cs6-trill", "Cs6-ab-half"}, "n3": {"Cs6-trill"}}
    bans = {n: [e.id for e in clarinet.catalogue.by_midi[85] if e.id not in ids] for n, ids in only.items()}
    events = events_of("L:1/8\nQ:1/4=120\nK:C\n(b ^c' c')|")
    table = solve(events, clarinet, Moves(clarinet.catalogue), {}, bans, None, WITHOUT_MODEL)
    why = reason(table, 1)
    assert why.saved.total == pytest.approx(why.extra, abs=COST_TOLERANCE)
    assert why.saved.speaks == pytest.approx(2 * 0.0162, abs=1e-4)
    assert (why.because, why.despite) == ("hands", "tone")


def test_equal_routes_keep_the_order_of_the_catalogue():
    table = table_of("L:1/4\nK:C\n_B _B _B|", weights=dict.fromkeys(STRANDS, 0.0))
    first = CHART.by_midi[70][0].id
    assert ids(table) == [first] * 3
    assert all(route.cost == 0 for route in best_routes(table, 5))
    assert [r.slots for r in best_routes(table, 5)] == [r.slots for r in best_routes(table, 5)]


FAST_TURN = "L:1/16\nQ:1/4=132\nK:C\n(=B_B=B_B)|"


@pytest.mark.parametrize(
    ("abc", "tempo_bpm", "note", "expected"),
    [
        pytest.param(FAST_TURN, 132, 1, {"Bb4-side"}, id="B to B-flat fast: side, no slide"),
        pytest.param(
            "L:1/16\nK:C\n(F_BF_B)|", 220, 1, {"Bb4-one-one"}, id="F to B-flat very fast: one and one"
        ),
        pytest.param("L:1/16\nK:C\n(F_BF_B)|", 132, 1, {"Bb4-bis"}, id="F to B-flat: bis, which stays down"),
        pytest.param("L:1/4\nK:C\nF _B4|", 60, 1, {"Bb4-bis", "Bb4-side"}, id="held B-flat: full tone"),
        pytest.param("L:1/16\nK:C\n(F^FF^F)|", 140, 1, {"Fs4-side"}, id="F to F-sharp fast: side F-sharp"),
        pytest.param("L:1/2\nK:C\n^c4|", 60, 0, {"Cs5-covered"}, id="held C-sharp: steadied"),
        pytest.param("L:1/16\nK:C\n(_ba_ba)|", 132, 0, {"Bb5-side", "Bb5-bis"}, id="upper B-flat"),
        pytest.param("L:1/2\nK:C\na'4|", 60, 0, {"A6-hand-down", "A6-two-three"}, id="held A6"),
    ],
)
def test_choices_that_teachers_make(abc, tempo_bpm, note, expected):
    assert ids(table_of(abc, tempo_bpm))[note] in expected


def test_speed_changes_the_choice():
    abc = (shipped.settings.DATA / "demo" / "over-the-top-sluice.abc").read_text()
    slow, fast = (ids(table_of(abc, bpm)) for bpm in (60, 160))
    assert sum(a != b for a, b in zip(slow, fast, strict=True)) >= 5


def test_a_pin_is_kept_and_the_rest_follows():
    abc = "L:1/16\nQ:1/4=132\nK:C\n(A_BA_B)|"
    table = table_of(abc, pins={"n2": "Bb4-one-two"})
    assert ids(table)[1] == "Bb4-one-two"
    bars = {c.entry.id: c.bar for c in table.problem.given.offered[1].candidates}
    assert bars["Bb4-one-two"] == ""
    assert set(bars.values()) == {"", NOT_PINNED}
    assert table.route.cost >= table_of(abc).route.cost


def test_a_ban_is_kept_and_priced():
    table = table_of(FAST_TURN, bans={"n2": ["Bb4-side"]})
    assert ids(table)[1] != "Bb4-side"
    candidates = table.problem.given.offered[1].candidates
    slot = next(n for n, c in enumerate(candidates) if c.entry.id == "Bb4-side")
    assert candidates[slot].bar == BANNED
    saves = table_of(FAST_TURN).route.cost - table.route.cost
    assert saves < 0
    only_there = table_of(FAST_TURN, pins={"n2": "Bb4-side"}).route.cost - table.route.cost
    assert table.extra_at(1)[slot] == pytest.approx(only_there, abs=COST_TOLERANCE)


@pytest.mark.parametrize("pin", ["B4-plain", "no-such-row", "Fs6-palm"])
def test_a_pin_that_cannot_be_had(pin):
    with pytest.raises(RouteError, match="cannot serve"):
        offered_for("K:C\n_B^f'|", pins={"n1": pin} if pin != "Fs6-palm" else {"n2": pin})


def test_a_fingering_that_needs_a_missing_touch_is_never_offered():
    without, with_it = (offered_for("K:C\n^f'|", f)[0] for f in (frozenset(), HIGH_F_SHARP))
    assert "Fs6-palm" not in [c.entry.id for c in without.candidates]
    assert [(c.entry.id, c.bar) for c in without.refused] == [
        (name, "needs high F-sharp, which is not fitted") for name in ("Fs6-palm", "Fs6-front-high")
    ]
    assert "Fs6-palm" in [c.entry.id for c in with_it.candidates]


def test_colour_and_practice_fingerings_are_taken_on_purpose_only():
    offer = offered_for("K:C\n_b|")[0]
    barred = {c.entry.id for c in offer.candidates if c.bar == PURPOSE}
    assert barred == {c.entry.id for c in offer.candidates if c.entry.kind in ON_PURPOSE} != set()
    assert ids(table_of("K:C\n_b|", pins={"n1": "Bb5-fourth-of-Bb3"})) == ["Bb5-fourth-of-Bb3"]
    # With all others left out, what is for colour is not "something else": the route may take it.
    plain = [c.entry.id for c in offer.candidates if c.entry.kind not in ON_PURPOSE]
    left = offered_for("K:C\n_b|", bans={"n1": plain})[0]
    assert {c.entry.id for c in left.candidates if not c.bar} == barred


def bars_of(offer):
    return {candidate.entry.id: candidate.bar for candidate in offer.candidates}


def test_a_lead_is_taken_only_where_nothing_better_is_known():
    taught, only_leads = (offered_for(f"K:C\n{note}|")[0] for note in ("g'", "^c''"))
    leads = {c.entry.id for c in taught.candidates if c.entry.is_lead}
    assert {name for name, bar in bars_of(taught).items() if bar == LEAD} == leads
    assert not taught.nothing_better
    assert set(bars_of(only_leads).values()) == {""}
    assert only_leads.nothing_better


def test_the_same_touches_are_not_taken_for_two_notes_close_by():
    """Accounts differ whether all palm touches sound C-sharp or D: they cannot sound both."""
    rows = ids(table_of("L:1/4\nQ:1/4=84\nK:C\n^c'' d''|"))
    first, second = (CHART.by_id[row].fingering for row in rows)
    assert first != second


def test_a_teacher_speaks_for_a_lead_by_pinning_or_preferring_it():
    lead = "C7-palmEb-palmD"
    pinned = offered_for("K:C\nc''|", pins={"n1": lead})[0]
    assert bars_of(pinned)[lead] == ""
    alto = in_hand_of("alto-saxophone", preferred=frozenset({lead}))
    preferred = offer_for(alto, spell(96), None, frozenset())
    assert {name for name, bar in bars_of(preferred).items() if not bar} == {lead}
    assert not preferred.nothing_better
    assert not alto.is_open_lead(alto.catalogue.by_id[lead])


def test_a_position_may_keep_some_fingerings_for_slurs_and_soft_entries():
    """Who half-holes only there lifts the first finger elsewhere, and rolls it down there."""
    mixed = frozenset({"half-hole only for slurs and soft entries"})
    clarinet = in_hand_of("b-flat-clarinet", positions=mixed)
    moves = Moves(clarinet.catalogue)

    def halves(line):
        events = events_of(f"L:1/4\nK:C\n{line}|")
        table = solve(events, clarinet, moves)
        return [bool(chosen(table, n).entry.fingering.half) for n in range(len(events))]

    assert halves("c' ^c' d' e'") == [False] * 4
    assert halves("(c' ^c' d' e')") == halves("!pp!c' ^c' d' e'") == [False, True, True, True]


def test_another_school_comes_before_leads():
    """Who half-holes has lifts at hand before anything that nobody vouches for."""
    clarinet = in_hand_of("b-flat-clarinet", positions=frozenset({"half-hole"}))
    half = [e.id for e in clarinet.catalogue.by_midi[88] if e.fingering.half]
    bars = bars_of(offer_for(clarinet, spell(88), None, frozenset(half)))
    assert {bars[row] for row in ("E6-lift", "E6-L2-L3")} == {""}
    assert bars["E6-L1-L2-L3"] == LEAD


@pytest.mark.parametrize(
    ("note", "why"),
    [
        ("^d'''", "outside the range kept here, B♭3 to D8"),
        ("C,,", "outside the range"),
        ("a''", "no fingering for written A7 is known, nor a lead"),
    ],
)
def test_a_note_without_fingering_is_marked_and_the_rest_solved(note, why):
    table = table_of(f"L:1/16\nQ:1/4=132\nK:C\n(=B_B) {note} (=B_B)|")
    found, offered = ids(table), table.problem.given.offered
    assert found[2] is None
    assert found[:2] == found[3:] == ["B4-plain", "Bb4-side"]
    assert why in offered[2].gap
    assert [offer.gap for place, offer in enumerate(offered) if place != 2] == [""] * 4


def test_all_gaps_cost_nothing():
    table = table_of("K:C\na''b''|")
    assert (table.route.slots, table.route.cost) == ((None, None), 0.0)
    assert [reason(table, n).because for n in (0, 1)] == ["", ""]
    assert all(offer.gap for offer in table.problem.given.offered)


def test_a_head_start_in_a_gap_costs_nothing():
    every = [entry.id for entry in CHART.by_midi[62]]
    alto = in_hand_of("alto-saxophone", preferred=frozenset(every))
    table = solve(events_of("K:C\nD|"), alto, MOVES, {}, {"n1": every}, None, WITHOUT_MODEL)
    assert table.route.cost == 0.0
    assert solve(events_of("K:C\nD|"), alto, MOVES, {}, {}, None, WITHOUT_MODEL).route.cost < 0


def test_banning_everything_is_a_gap_that_says_so():
    every = [entry.id for entry in CHART.by_midi[62]]
    assert "left out here" in offered_for("K:C\nD|", bans={"n1": every})[0].gap


def test_reasons_name_what_decides():
    table = table_of(FAST_TURN, bans={"n2": ["Bb4-one-one", "Bb4-one-two", "Bb4-one-three"]})
    why = reason(table, 1)
    assert table.problem.given.offered[1].candidates[why.rival].entry.id == "Bb4-bis"
    assert why.because == "hands"
    assert why.extra > 0


@pytest.mark.parametrize(
    ("saved", "expected"),
    [
        (Faults(pitch=0.0051), ("pitch", "")),
        (Faults(pitch=0.0049), ("", "")),
        (Faults(tone=0.1, hands=-0.0051), ("tone", "hands")),
        (Faults(tone=0.1, hands=-0.0049), ("tone", "")),
    ],
)
def test_a_fault_in_two_hundred_playings_is_the_least_worth_a_word(saved, expected):
    sure = dict.fromkeys(STRANDS, 0.5) | {s: float(v > 0) for s, v in saved.by_strand.items() if v}
    assert decisive(saved, sure) == expected


def test_head_starts_add_up():
    bassoon = in_hand_of(
        "bassoon", positions=frozenset({"flick the vent"}), preferred=frozenset({"A3-flick-A", "A3-plain"})
    )
    starts = bassoon.head_starts
    assert starts["A3-flick-A"] == pytest.approx(PREFERRED + OF_SCHOOL)
    assert starts["A3-plain"] == pytest.approx(PREFERRED)
    assert "A3-held-A" not in starts
    assert "A3-held-A" in bassoon.aside


def test_strand_faults_add_up_to_the_cost():
    table = table_of(FAST_TURN)
    assert route_faults(table).total == pytest.approx(table.route.cost, abs=COST_TOLERANCE)
    one_by_one = [faults_between(table, n, slot)[0].total for n, slot in enumerate(table.route.slots)]
    assert sum(one_by_one) == pytest.approx(table.route.cost, abs=COST_TOLERANCE)


def test_hard_moves_stand_the_worst_first_and_say_what_they_ask():
    table = table_of("L:1/16\nQ:1/4=200\nK:C\n(=B_B=B_B) (cBcB) (C^CC^C)|")
    moves = hardest(table, 6)
    chances = [move.stumble for move in moves]
    assert chances == sorted(chances, reverse=True)
    assert chances[0] == max(stumble(table, n) for n in range(1, 12))
    fingers = [move_between(*move.fingerings, CHART.instrument).fingers for move in moves]
    assert all(fingers)
    assert "fingers of one hand move against each other" in moves[0].asks
    assert moves[1].asks == ("heavy touches move",)
    assert not any("slowest finger" in move.asks for move in moves)  # of every move, so worth no word
    assert stumble(table, 0) is None is move_into(table, 0)
    assert len(hardest(table, 2)) == 2


def test_own_fingerings_by_the_hundred_for_one_note_are_weighed_and_too_many_are_refused(monkeypatch):
    low = ["lowB", "lowC#", "lowBb", "G#"]
    touches = [
        " ".join(t for t in ("octave", "L1", "L2", "L3", little, *right) if t)
        for little in ("", *low)
        for right in [
            ("|", *c) for k in range(5) for c in itertools.combinations(("R1", "R2", "R3", "Eb", "sideC"), k)
        ]
    ]
    rows = tuple(own_row(n, "G5", text) for n, text in enumerate(touches[:150]))
    alto = alto_with(own=rows)
    assert len(alto.catalogue.by_midi[79]) > 150
    table = solve(events_of("L:1/8\nK:C\ngagb g2|"), alto, Moves(alto.catalogue))
    assert table.route.cost <= table_of("L:1/8\nK:C\ngagb g2|").route.cost + 1
    monkeypatch.setattr("core.routes.problem.MOVES_LIMIT", 1000)
    with pytest.raises(RouteError, match="too many fingerings"):
        solve(events_of("L:1/8\nK:C\ngagb g2|"), alto, Moves(alto.catalogue))


@pytest.mark.parametrize("strand", STRANDS)
def test_weights_scale_one_strand(strand):
    abc = "L:1/16\nQ:1/4=132\nK:C\n(F^F)e'f'|"
    plain = table_of(abc)
    twice, only = (
        table_of(abc, weights=weights)
        for weights in ({strand: 2.0}, {s: float(s == strand) for s in STRANDS})
    )
    slots = plain.route.slots
    assert cost_of(twice, slots) - cost_of(plain, slots) == pytest.approx(
        cost_of(only, slots), abs=COST_TOLERANCE
    )


@pytest.mark.parametrize("weights", [{"pitch": -1}, {"pitch": 11}, {"pitch": float("nan")}, {"luck": 1}])
def test_weights_out_of_range(weights):
    with pytest.raises(RouteError):
        table_of("K:C\nB|", weights=weights)


@pytest.mark.parametrize("k", [0, 51])
def test_k_out_of_range(k):
    with pytest.raises(RouteError, match="from 1 to 50"):
        best_routes(table_of("K:C\nB|"), k)


def test_a_route_needs_a_note():
    with pytest.raises(RouteError, match="at least one note"):
        make_table(make_problem([], [], MOVES, {}))


def test_tied_notes_are_one_event():
    events = events_of("L:1/4\nK:C\nB-|B-B2 B|")
    assert [(e.id, e.seconds) for e in events] == [("n1", 4 * 60 / 96), ("n4", 60 / 96)]
    assert Fraction(len(events[0].notes)) == 3
