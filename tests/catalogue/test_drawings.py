"""The hands drawing and the four strands: every touch there, every state told apart, words for all."""

import re
from xml.etree import ElementTree as ET

import pytest

from catalogue.drawings import describe, hands, small_hands, symbol
from catalogue.strands import sentence, strands_of, strands_svg
from core.fingering import Fingering, parse_fingering
from core.moves import move_between


def count(svg, name):
    return len(re.findall(rf'class="{name}"', svg))


def test_every_touch_of_every_row_is_drawn(alto, chart):
    for entry in chart.entries:
        svg = symbol(entry.fingering, alto, f"f-{entry.id}")
        ET.fromstring(svg)
        assert count(svg, "held") == len(entry.fingering.touches)
        assert count(svg, "held") + count(svg, "free") == len(alto.touches)


def test_half_and_momentary_look_different(alto):
    svg = small_hands(parse_fingering("L1/2 L2 L3!", alto), alto)
    assert (count(svg, "half"), count(svg, "tick")) == (1, 1)
    assert count(svg, "held") == 2  # the pressed one, and the lower half of the half-holed one


def test_no_touch_is_said(alto):
    assert ">open<" in small_hands(Fingering(), alto)
    assert ">open<" not in small_hands(parse_fingering("L1", alto), alto)
    assert describe(Fingering(), alto) == "No touch: all fingers off."


def test_the_large_drawing_names_every_touch_and_shows_the_move(alto):
    before, after = parse_fingering("frontF L2", alto), parse_fingering("L1 L2 L3", alto)
    svg = hands(after, alto, move_between(before, after, alto).touches)
    ET.fromstring(svg)
    assert all(f">{touch.short}<" in svg for touch in alto.touches)
    assert count(svg, "slide") == 1
    assert count(svg, "arrow") == 3
    assert "Left hand: first touch, second touch, third touch" in svg


@pytest.mark.parametrize(
    ("row", "into", "out", "said"),
    [
        (
            "D5-plain",
            0.2,
            0.004,
            "Pitch: 12 cents sharp (+5 to +20), taught; Tone: full, taught; Speaks: sure, taught; "
            "Hands: in 20, out <1 in 100 stumble, modelled",
        ),
        (
            "E6-front",
            None,
            None,
            "Pitch: unknown; Tone: even, taught; Speaks: ready, taught; Hands: unknown",
        ),
        (
            "A4-plain",
            0.0,
            None,
            "Pitch: in tune (−10 to +10), taught; Tone: full, taught; Speaks: sure, taught; "
            "Hands: in 0 in 100 stumble, modelled",
        ),
    ],
)
def test_four_strands_in_words(chart, row, into, out, said):
    strands = strands_of(chart.by_id[row], into, out)
    assert [strand.name for strand in strands] == ["Pitch", "Tone", "Speaks", "Hands"]
    assert sentence(strands) == said


def test_unknown_has_no_mark(chart):
    svg = strands_svg(strands_of(chart.by_id["E6-front"], None, None))
    ET.fromstring(svg)
    assert count(svg, "axis dashed") == 2
    assert count(svg, "mark") == 2
