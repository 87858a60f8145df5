import pytest
from hypothesis import given
from hypothesis import strategies as st

from catalogue import shipped
from core.errors import FingeringError
from core.instruments.fingering import Fingering, format_fingering, parse_fingering

ALTO = shipped.instrument("alto-saxophone")
TOUCHES = st.dictionaries(st.sampled_from(list(ALTO.touch_by_name)), st.sampled_from(["", "/2", "!"]))


@given(TOUCHES)
def test_notation_round_trip(held):
    text = " ".join(name + mark for name, mark in held.items()) or "open"
    fingering = parse_fingering(text, ALTO)
    assert fingering.touches == set(held)
    assert parse_fingering(format_fingering(fingering, ALTO), ALTO) == fingering


def test_order_does_not_matter(alto):
    assert parse_fingering("R1 L2 octave", alto) == parse_fingering("octave L2 | R1", alto)
    assert format_fingering(parse_fingering("R1 L2 octave", alto), alto) == "octave L2 | R1"


def test_no_touch_is_a_valid_fingering(alto):
    assert parse_fingering("open", alto) == Fingering()
    assert format_fingering(Fingering(), alto) == "open"


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "must name its touches"),
        ("|", "must name its touches"),
        ("L9", "not one of this instrument's"),
        ("L1 L1", "named once"),
        ("L1 L1/2", "named once"),
        ("open L1", "not one of"),
        ("L1/3", "not one of"),
    ],
)
def test_no_fingering(alto, text, message):
    with pytest.raises(FingeringError, match=message):
        parse_fingering(text, alto)


def test_a_touch_is_held_in_one_way():
    with pytest.raises(FingeringError, match="in one way only"):
        Fingering(full=frozenset({"L1"}), half=frozenset({"L1"}))
