"""How sure a choice is, and that what is heard of a fingering moves its twins."""

import numpy as np
import pytest

from catalogue.in_hand import moves_of
from core.charts.entry import Speaks
from core.evidence.sources import ALL_SOURCES, Basis, Heard, Judgement, Readings, Tuning
from core.evidence.weigh import TWIN_CENTS
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.explain import Sure, chosen, reason
from core.routes.solve import solve
from core.routes.sureness import DRAWS, _drawn, quantiles, sureness
from core.routes.table import route_through
from core_shapes import in_hand_of

FLAT = (-28.0, -30.0, -29.0)


def heard(name, cents=(), judged=()):
    """What was read and judged of a fingering under the first set-up."""
    return name, Heard(tuple(judged), (Readings(1, cents),) if cents else ())


def table_of(in_hand, abc, tempo=100.0, **more):
    events = sounding_events(read_abc(abc).passage, tempo)
    return solve(events, in_hand, moves_of(in_hand.catalogue), **more)


def test_draws_are_the_fingerings_own_and_lie_as_the_normal_law_does():
    assert (quantiles(7, 1) == quantiles(7, 1)).all()
    assert (quantiles(7, 1) != quantiles(8, 1)).any()
    assert quantiles(7, 1).mean() == pytest.approx(0.0, abs=1e-9)
    assert quantiles(7, 1).std() == pytest.approx(1.0, abs=0.02)
    assert len(quantiles(7, 1)) == DRAWS


def test_the_mean_over_all_draws_is_what_the_table_says():
    table = table_of(in_hand_of("alto-saxophone"), "K:C\n c2 ^c2 d2 _B2|")
    rows, moves = np.arange(1, 5), np.arange(1, 6)
    drawn = _drawn(table.problem, table.slots, rows, moves)
    told = table.node_faults.summed() + table.move_faults.summed()
    for strand, faults in told.by_strand.items():
        assert getattr(drawn, strand).mean() == pytest.approx(faults, abs=0.01), strand


def test_a_route_is_never_surer_than_itself_and_the_two_sides_add_up():
    table = table_of(in_hand_of("alto-saxophone"), "K:C\n c2 _B2 c2|")
    other = route_through(table, 1, int(table.slots[2] == 0))
    one, two = (sureness(table.problem, *pair) for pair in ((table.slots, other), (other, table.slots)))
    assert one.whole + two.whole == pytest.approx(1.0, abs=0.01)
    assert sureness(table.problem, table.slots, table.slots).whole == 0.0


def test_readings_make_a_choice_clear():
    read = heard("Bb4-bis", (1.0, 0.0, 2.0)), heard("Bb4-side", FLAT)
    alto = in_hand_of("alto-saxophone", heard=read)
    rivals = {"n1": [e.id for e in alto.catalogue.by_midi[70] if e.id not in ("Bb4-bis", "Bb4-side")]}
    why = reason(table_of(alto, "K:C\n _B8|", 60.0, bans=rivals), 0)
    assert (why.sure, why.because) == (Sure.CLEARLY, "pitch")


def test_pitch_is_no_reason_where_nothing_is_known_of_it():
    bassoon = in_hand_of("bassoon")
    assert all(entry.tendency is None for entry in bassoon.catalogue.by_midi[66] if not entry.is_lead)
    why = reason(table_of(bassoon, "K:C\n ^F4|", use=ALL_SOURCES - {Basis.MODELLED}), 0)
    assert why.pitch_known == (False, False)
    assert why.because != "pitch"


def test_a_reading_moves_the_twin_with_a_spread_of_its_own():
    alto = in_hand_of("alto-saxophone", heard=(heard("D5-plain", FLAT),))
    measured, twin = alto.evidence([alto.catalogue.by_id[name] for name in ("D5-plain", "D5-gheld")])
    assert measured.kin == twin.kin
    told = [source for source in twin.pitch.sources if source.count]
    read = [source for source in measured.pitch.sources if source.basis is Basis.MEASURED]
    assert [source.basis for source in told] == [Basis.MODELLED]  # that they are twins is the model's word
    assert told[0].value == read[0].value
    assert told[0].spread == pytest.approx((read[0].spread ** 2 + TWIN_CENTS**2) ** 0.5)


@pytest.mark.parametrize("off", [Basis.MODELLED, Basis.MEASURED])
def test_a_twin_hears_nothing_while_the_model_or_what_was_heard_is_off(off):
    alto = in_hand_of("alto-saxophone", heard=(heard("D5-plain", FLAT),))
    (twin,) = alto.evidence([alto.catalogue.by_id["D5-gheld"]], ALL_SOURCES - {off})
    assert not any(source.count for source in twin.pitch.sources)


def test_the_fingering_measured_does_not_lose_to_its_twin():
    alto = in_hand_of("alto-saxophone", heard=(heard("D5-plain", FLAT),))
    table = table_of(alto, "K:C\n d4 e4 d4|", 60.0)
    found = [chosen(table, note).entry.id for note in (0, 2)]
    assert found == ["D5-plain"] * 2
    assert reason(table, 0).because != "pitch"


def test_a_flick_shares_the_pitch_of_its_twin_and_not_how_it_speaks():
    judged = heard("A3-plain", judged=[Judgement(1, pitch=Tuning.SHARP, speaks=Speaks.SURE)])
    bassoon = in_hand_of("bassoon", heard=(judged,))
    (flick,) = bassoon.evidence([bassoon.catalogue.by_id["A3-flick-A"]])
    assert any(source.count for source in flick.pitch.sources)
    assert not any(source.count for source in flick.speaks.sources)
