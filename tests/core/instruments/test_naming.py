"""How touches are said, and that what is said can be typed."""

import pytest

from catalogue import shipped
from core.charts.chart_format import read_touches
from core.instruments.fingering import parse_fingering
from core.instruments.naming import Naming, said
from studio.shipped import INSTRUMENTS


@pytest.mark.parametrize(
    ("model", "touches", "naming", "words"),
    [
        (
            "alto-saxophone",
            "octave frontF L2 | sideBb R1",
            Naming.EACH_HAND,
            "octave, front F, 2 · side B♭, 1",
        ),
        ("alto-saxophone", "L1 L2 L3 lowC# | R1 R2 R3 lowC", Naming.THROUGH, "1 2 3, low C♯ · 4 5 6, low C"),
        ("alto-saxophone", "octave palmEb palmD | sideE", Naming.NUMBERED, "octave, palm 2, palm 1 · side 3"),
        ("alto-saxophone", "| R1 R2 R3", Naming.EACH_HAND, "– · 1 2 3"),
        ("alto-saxophone", "open", Naming.EACH_HAND, "open"),
        (
            "b-flat-clarinet",
            "reg T L1/2 L2 L3 | R1 Ab",
            Naming.EACH_HAND,
            "register and thumb, 1½ 2 3 · 1, right A♭/E♭",
        ),
        ("bassoon", "A! L1 L2 L3 | Bb R1 R2", Naming.EACH_HAND, "flick A vent, 1 2 3 · right thumb B♭, 1 2"),
        (
            "bassoon",
            "lowD lowC L1 L2 L3 | E R1 R2 R3 F",
            Naming.EACH_HAND,
            "low D and low C, 1 2 3 · E, 1 2 3, F",
        ),
    ],
)
def test_what_is_said(model, touches, naming, words):
    instrument = shipped.instrument(model)
    assert said(parse_fingering(touches, instrument), instrument, naming) == words


@pytest.mark.parametrize("naming", Naming)
@pytest.mark.parametrize("model", INSTRUMENTS)
def test_all_that_is_said_can_be_typed(model, naming):
    instrument = shipped.instrument(model)
    for entry in shipped.catalogue(model).entries:
        words = said(entry.fingering, instrument, naming)
        assert read_touches(words, instrument) == entry.fingering, words
