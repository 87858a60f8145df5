"""How evidence is weighed: priors, judgements, readings, set-ups, and sources switched off."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from catalogue import shipped
from core.charts.entry import Speaks, Tone
from core.errors import EvidenceError, NumberError
from core.evidence.setups import only
from core.evidence.sources import (
    ALL_SOURCES,
    UNKNOWN_PITCH,
    Basis,
    Estimate,
    Handling,
    Heard,
    Judgement,
    Modelled,
    Readings,
    Tuning,
    parse_readings,
    pitch_estimate,
    read_estimate,
)
from core.evidence.weigh import combine, evidence
from core.numbers import decimal

SAME = 1e-9  # sums in another order
CHART = shipped.catalogue("alto-saxophone")
KNOWN, UNKNOWN = CHART.by_id["D5-plain"], CHART.by_id["Fs6-front"]
cents = st.floats(-60, 60).map(lambda value: round(value, 1))


def heard(*readings, setup=1, judged=()):
    return Heard(tuple(judged), (Readings(setup, readings),) if readings else ())


def test_nothing_heard_leaves_the_chart():
    found = evidence(KNOWN)
    assert found.pitch.combined == pitch_estimate(KNOWN)
    assert [source.basis for source in found.pitch.sources] == [Basis.TAUGHT]
    assert found.hands.sources == ()
    assert (found.hands_factor, found.earlier) == (1.0, 0)


def test_two_sources_by_inverse_variance():
    strand = combine([Estimate(0, 6, Basis.TAUGHT), Estimate(9, 3, Basis.MEASURED, 4)], UNKNOWN_PITCH)
    assert strand.combined.value == pytest.approx((0 / 36 + 9 / 9) / (1 / 36 + 1 / 9), abs=SAME)
    agreed = 1 / math.sqrt(1 / 36 + 1 / 9)
    birge = math.sqrt((7.2 / 6) ** 2 + (1.8 / 3) ** 2)  # they disagree by more than their spreads
    assert strand.combined.spread == pytest.approx(agreed * birge, abs=SAME)
    assert (strand.combined.basis, strand.combined.count) == (Basis.MEASURED, 4)


def test_sources_that_agree_are_surer_than_each():
    strand = combine([Estimate(4, 6, Basis.TAUGHT), Estimate(5, 5, Basis.JUDGED, 1)], UNKNOWN_PITCH)
    assert strand.combined.spread < 5


def test_unknown_does_not_pull():
    found = evidence(UNKNOWN, heard(20, 22, 21))
    assert found.pitch.combined.value == pytest.approx(21, abs=0.5)
    assert [source.basis for source in found.pitch.sources] == [Basis.MEASURED]


@given(st.lists(cents, min_size=4, max_size=12), st.sampled_from([-100.0, 100.0]))
def test_one_wild_reading_does_not_rule(usual, wild):
    before, after = read_estimate(usual), read_estimate([*usual, wild])
    spread = max(usual) - min(usual)
    assert min(usual) - 5 <= after.value <= max(usual) + 5 or abs(after.value - before.value) <= spread


def test_a_wild_reading_among_steady_ones_moves_little():
    assert abs(read_estimate([5, 6, 4, 5, 90]).value - 5) < 3
    assert read_estimate([-90]).spread > 12


def test_one_wild_first_reading_does_not_overrule_the_chart():
    found = evidence(KNOWN, heard(-60))
    assert found.pitch.combined.value > -12
    assert found.pitch.combined.spread > pitch_estimate(KNOWN).spread


@given(st.lists(cents, min_size=1, max_size=8), st.floats(-20, 20))
def test_readings_move_with_the_instrument(readings, shift):
    there = read_estimate([value + shift for value in readings])
    here = read_estimate(readings)
    assert there.value == pytest.approx(here.value + shift, abs=1e-3)
    assert there.spread == pytest.approx(here.spread, abs=1e-6)


def test_more_readings_are_surer_but_never_beyond_the_day():
    few, many = read_estimate([3, 5, 4]), read_estimate([3, 5, 4] * 10)
    assert few.spread > many.spread > 3.0


def test_an_earlier_set_up_is_kept_apart():
    both = Heard((Judgement(1, tone=Tone.THIN),), (Readings(1, (30, 31)), Readings(2, (-5, -6, -4))))
    found = evidence(UNKNOWN, both, only(2))
    assert found.pitch.combined.value == pytest.approx(-5, abs=0.5)
    assert found.earlier == 3
    assert [source.basis for source in found.tone.sources] == [Basis.TAUGHT]
    assert evidence(UNKNOWN, both, only(1)).pitch.combined.value == pytest.approx(30.5, abs=0.5)


@pytest.mark.parametrize(
    ("off", "bases"),
    [
        (Basis.TAUGHT, [Basis.JUDGED, Basis.MEASURED]),
        (Basis.JUDGED, [Basis.TAUGHT, Basis.MEASURED]),
        (Basis.MEASURED, [Basis.TAUGHT, Basis.JUDGED]),
    ],
)
def test_each_source_can_be_switched_off(off, bases):
    judged = (Judgement(1, pitch=Tuning.SHARP, tone=Tone.THIN, hands=Handling.AWKWARD),)
    found = evidence(KNOWN, heard(4, 6, judged=judged), use=ALL_SOURCES - {off})
    assert [source.basis for source in found.pitch.sources] == bases
    assert (found.hands_factor == 1.0) == (off is Basis.JUDGED)


def test_with_everything_off_all_is_unknown():
    found = evidence(KNOWN, heard(4), use=())
    assert {s.combined.basis for s in (found.pitch, found.tone, found.speaks, found.hands)} == {Basis.UNKNOWN}


def test_judgements_by_ear():
    judged = (Judgement(1, Tuning.VERY_FLAT, Tone.THIN, Speaks.UNSURE, Handling.AWKWARD),)
    found = evidence(UNKNOWN, heard(judged=judged))
    assert found.pitch.combined.value == -30
    assert found.tone.combined.value < 0.63  # taught: even
    assert found.hands.combined.value == pytest.approx(0.1)
    once, thrice = found.hands_factor, evidence(UNKNOWN, heard(judged=judged * 3)).hands_factor
    assert 1 < once < thrice < 1.35


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("12 -8 5", (12, -8, 5)),
        ("−3,5", (-3.5,)),
        ("-8,5", (-8.5,)),
        ("12, -8, 5", (12, -8, 5)),
        ("12;-8,5", (12, -8.5)),
        ("+4; 0", (4, 0)),
        (" 7 ", (7,)),
    ],
)
def test_readings_typed_in(text, found):
    assert parse_readings(text) == found


@pytest.mark.parametrize(
    "text",
    [
        "",
        "sharp",
        "12 x",
        "101",
        "-500",
        "nan",
        "inf",
        "1 " * 51,
        "1e9",
        "12,-8,5",
        "1,2,3",
        "1.5,2",
        "12,345",
    ],
)
def test_bad_readings_are_refused(text):
    with pytest.raises(EvidenceError):
        parse_readings(text)


def test_a_model_alone_is_held_by_what_any_fingering_may_do(chart):
    entry = chart.by_id["Bb5-one-one"]
    said = Modelled(pitch=Estimate(-36.0, 18.0, Basis.MODELLED), speaks=Estimate(0.9, 0.22, Basis.MODELLED))
    found = evidence(entry, modelled=said)
    assert found.pitch.combined == Estimate(pytest.approx(-18.0), pytest.approx(18 / 2**0.5), Basis.MODELLED)
    assert [source.value for source in found.pitch.sources] == [-36.0]
    assert [source.basis for source in found.speaks.sources] == [Basis.TAUGHT, Basis.MODELLED]
    assert found.speaks.combined.value < 0.75  # the chart, which is surer, leads
    off = evidence(entry, use=ALL_SOURCES - {Basis.MODELLED}, modelled=said)
    assert off == evidence(entry)
    read = evidence(entry, Heard(readings=(Readings(1, (4.0, 5.0, 6.0)),)), modelled=said)
    assert abs(read.pitch.combined.value - 5) < 4


@pytest.mark.parametrize(
    ("readings", "value", "spread"),
    [
        # The scale is 1.4826 times the median departure, and never below 5 cents; 3 cents for the day.
        ((0, 20), 10, math.hypot(1.4826 * 10 / math.sqrt(2), 3)),
        ((0, 1, 2), 1, math.hypot(5 / math.sqrt(3), 3)),
        ((7,), 7, math.hypot(12, 3)),
    ],
)
def test_what_readings_come_to(readings, value, spread):
    found = read_estimate(readings)
    assert found.value == pytest.approx(value, abs=1e-6)
    assert found.spread == pytest.approx(spread, abs=1e-6)


@pytest.mark.parametrize("text", ["12,8,5", "1,000", "1.000,5"])
def test_a_number_that_may_be_two_is_asked_back(text):
    with pytest.raises(NumberError, match="two ways"):
        decimal(text)
