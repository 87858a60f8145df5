"""Truth tables of the linkages; pitches are written pitches of the alto saxophone."""

import re

import pytest

from catalogue import shipped
from core.errors import InstrumentError
from core.instruments.fingering import parse_fingering
from core.instruments.instrument_format import parse_instrument
from core.instruments.keywork import mechanism, unholdable
from core.music.pitch import parse_pitch
from core_shapes import DATA

PLAIN_SCALE = {
    "open": "C#5",
    "L2": "C5",
    "L1": "B4",
    "L1 L2": "A4",
    "L1 L2 L3": "G4",
    "L1 L2 L3 | R2": "F#4",
    "L1 L2 L3 | R1": "F4",
    "L1 L2 L3 | R1 R2": "E4",
    "L1 L2 L3 | R1 R2 R3": "D4",
    "L1 L2 L3 | R1 R2 R3 Eb": "Eb4",
    "L1 L2 L3 | R1 R2 R3 lowC": "C4",
    "L1 L2 L3 lowC# | R1 R2 R3 lowC": "C#4",
    "L1 L2 L3 lowB | R1 R2 R3 lowC": "B3",
    "L1 L2 L3 lowBb | R1 R2 R3 lowC": "Bb3",
}
LINKAGES = {
    "bis cup by its own touch": ("L1 bis", "Bb4"),
    "bis cup closed by the first right finger": ("L1 | R1", "Bb4"),
    "bis cup closed by the second right finger": ("L1 | R2", "Bb4"),
    "side B-flat": ("L1 L2 | sideBb", "Bb4"),
    "side C": ("L1 | sideC", "C5"),
    "chromatic F-sharp": ("L1 L2 L3 | R1 sideF#", "F#4"),
    "G-sharp opens": ("L1 L2 L3 G#", "G#4"),
    "articulated: the right stack holds G-sharp shut": ("L1 L2 L3 G# | R1", "F4"),
    "articulated, second finger": ("L1 L2 L3 G# | R2", "F#4"),
    "low B opens G-sharp": ("L1 L2 L3 lowB", "G#4"),
    "low B-flat opens G-sharp": ("L1 L2 L3 lowBb", "G#4"),
    "low C-sharp opens G-sharp": ("L1 L2 L3 lowC#", "G#4"),
    "low B needs low C down": ("L1 L2 L3 lowB | R1 R2 R3", "D4"),
    "low B-flat closes B by itself": ("L1 L2 L3 lowBb | R1 R2 R3 lowC", "Bb3"),
    "palm D": ("palmD", "D5"),
    "palm D and E-flat": ("palmD palmEb", "Eb5"),
    "palms and side E": ("palmD palmEb | sideE", "E5"),
    "all palms": ("palmD palmEb palmF | sideE", "F5"),
    "high F-sharp": ("palmD palmEb palmF | sideE highF#", "F#5"),
    "front F opens the palm F pad": ("frontF L2", "F5"),
    "half-holed counts as down": ("L1/2 L2", "A4"),
    "momentary is no part of the steady fingering": ("L1 bis!", "B4"),
}


@pytest.mark.parametrize(("touches", "sounds"), PLAIN_SCALE.items())
def test_plain_scale(alto, touches, sounds):
    assert mechanism(alto, parse_fingering(touches, alto)).plain.ascii == sounds


@pytest.mark.parametrize(("touches", "sounds"), LINKAGES.values(), ids=LINKAGES.keys())
def test_linkage(alto, touches, sounds):
    assert mechanism(alto, parse_fingering(touches, alto)).plain.ascii == sounds


# Front F opens the palm F pad and takes the cups under the first finger, C and small C-sharp, down with it.
FRONT_F = {
    "frontF": (True, False, False),
    "octave frontF L2": (True, False, False),
    "octave frontF L2 L3": (True, False, False),
    "octave frontF | sideBb R1": (True, False, False),
    "palmF": (True, True, True),
    "L1": (False, False, False),
    "L2": (False, True, False),
    "open": (False, True, True),
}


@pytest.mark.parametrize(("touches", "open_"), FRONT_F.items())
@pytest.mark.parametrize("model", [f"{size}-saxophone" for size in ("soprano", "alto", "tenor", "baritone")])
def test_front_f_shuts_the_cups_under_the_first_finger(model, touches, open_):
    instrument = shipped.instrument(model)
    read = mechanism(instrument, parse_fingering(touches, instrument))
    assert tuple(h in read.open_holes for h in ("palm F hole", "C hole", "C-sharp hole")) == open_


LOW_A = [
    ("lowA L1 L2 L3 | R1 R2 R3 lowC", {"lowA", "lowAcloses"}, "A3"),
    ("lowA L1 L2 L3 | R1 R2 R3 lowC", {"lowA"}, "C4"),
    ("lowA L1 L2 L3 lowBb | R1 R2 R3 lowC", {"lowA"}, "A3"),
    ("L1 L2 L3 lowBb | R1 R2 R3 lowC", {"lowA", "lowAcloses"}, "Bb3"),
]


@pytest.mark.parametrize(("touches", "fitted", "sounds"), LOW_A)
def test_low_a_of_the_baritone_shuts_the_bell_cups_where_it_does(touches, fitted, sounds):
    baritone = shipped.instrument("baritone-saxophone")
    assert mechanism(baritone, parse_fingering(touches, baritone), fitted).plain.ascii == sounds


def test_high_g_of_the_soprano_opens_above_high_f_sharp():
    soprano = shipped.instrument("soprano-saxophone")
    touches = parse_fingering("palmF palmEb palmD | sideE highF# highG", soprano)
    assert mechanism(soprano, touches).plain.ascii == "G5"
    assert "highG" not in soprano.usually_fitted


@pytest.mark.parametrize(
    ("touches", "vents"),
    [
        ("L1 L2", ()),
        ("octave L1 L2", ("neck vent",)),
        ("octave L1 L2 L3", ("body vent",)),
        ("octave", ("neck vent",)),
        ("octave L3", ("body vent",)),
    ],
)
def test_one_octave_touch_two_vents_chosen_by_the_third_finger(alto, touches, vents):
    assert mechanism(alto, parse_fingering(touches, alto)).open_vents == vents


@pytest.mark.parametrize(
    ("touches", "fingers"),
    [
        pytest.param("L1 bis", 0, id="one finger stands on both"),
        pytest.param("palmD palmEb palmF", 0, id="a palm rolls onto all"),
        pytest.param("| sideC sideBb", 0, id="side holds two"),
        pytest.param("L1 frontF", 1, id="front F or the first touch"),
        pytest.param("G# lowB", 1, id="one little finger"),
        pytest.param("| Eb lowC", 1, id="right little finger"),
        pytest.param("| R3 sideF#", 1, id="ring finger"),
        pytest.param("G# lowC# | Eb lowC", 2, id="both little fingers"),
    ],
)
def test_what_a_hand_can_hold(alto, touches, fingers):
    assert len(unholdable(alto, parse_fingering(touches, alto))) == fingers


WHOLE = (
    (DATA / "instruments" / "saxophone.toml")
    .read_text()
    .replace('clefs = ["treble"]', 'clefs = ["treble"]\nto_sounding = { steps = -5, semitones = -9 }')
)


@pytest.mark.parametrize(
    ("old", "new", "message"),
    [
        ('finger = "left thumb"', 'finger = "left toe"', "must have a finger"),
        ('moved_by = ["highF#"]', 'moved_by = ["highG"]', "touches it does not have"),
        ('rest = "closed"', 'rest = "ajar"', "rest open or closed"),
        ('digit = "thumb"', 'digit = "toe"', "hand and a digit"),
        ('name = "L2"', 'name = "L1"', "named once"),
        ('written_high = "D7"', 'written_high = "A3"', "below written_high"),
        ('bell = "Bb3"', 'bell = "H3"', "must read like"),
        ('short = "8"', 'shirt = "8"', "not known"),
        ('label = "Saxophone"', "", "must have the field"),
        ("finger = [", "finger = [[", "TOML"),
        ("column = -1", "column = -9", "from -2 to 3"),
        ("column = 0, at", "column = 0, row = 2, at", "row of touch"),
        ("at = [16, 3]", "at = [160, 3]", "must lie on the instrument"),
        ('["L1", "bis"]', '["L1", "L2"]', "touches it does not have"),
        ('partials = "all"', 'partials = "some"', "partials must be all or odd"),
        ('clefs = ["treble"]', 'clefs = ["alto"]', "clefs must be of"),
        ('family = "saxophone"', 'family = "saxophone"\ncolour = "gold"', "not known: colour"),
        ('low = "D5"', 'low = "D9"', "from the lowest up"),
        ('unless = ["L3"]', 'unless = ["L3"], fitting = "x"', "names a fitting"),
    ],
)
def test_data_that_contradicts_itself_is_refused(old, new, message):
    assert old in WHOLE
    with pytest.raises(InstrumentError, match=re.escape(message)):
        parse_instrument(WHOLE.replace(old, new, 1))


@pytest.mark.parametrize(
    ("model", "pitch", "register"),
    [
        ("alto-saxophone", "C#5", "low"),
        ("alto-saxophone", "D5", "middle"),
        ("baritone-saxophone", "A3", "low"),
        ("b-flat-clarinet", "Bb4", "throat"),
        ("b-flat-clarinet", "B4", "clarion"),
        ("bass-clarinet", "C3", "chalumeau"),
        ("oboe", "C6", "second octave"),
        ("english-horn", "B3", "low"),
        ("bassoon", "F3", "middle"),
        ("bassoon", "F5", "high"),
    ],
)
def test_registers(model, pitch, register):
    assert shipped.instrument(model).register_of(parse_pitch(pitch)).name == register


SIBLING = """
extends = "saxophone"
name = "sibling"
without = ["bis", "high F-sharp hole"]
touch = [
  { name = "L2", label = "second" },
  { name = "extra", finger = "left thumb", label = "extra", short = "x", column = 1, after = "octave" },
]
hole = [{ name = "crook hole", rest = "closed", moved_by = ["extra"], after = "" }]
"""


def test_a_sibling_says_only_what_differs():
    made = parse_instrument(SIBLING, lambda name: WHOLE)
    names = list(made.touch_by_name)
    assert names[:2] == ["octave", "extra"]
    assert "bis" not in names
    assert made.touch_by_name["L2"].label == "second"
    assert made.touch_by_name["L2"].short == "2"
    assert made.holes[0].name == "crook hole"
    b_hole = next(hole for hole in made.holes if hole.name == "B hole")
    assert b_hole.moved_by == ("L2", "R1", "R2", "R3")
    assert made.finger("left index finger").together == (frozenset({"L1"}),)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        (SIBLING.replace('after = "octave"', 'after = "nothing"'), "must stand after"),
        (SIBLING.replace('finger = "left thumb"', 'finger = "left toe"'), "must have a finger"),
    ],
)
def test_a_sibling_that_does_not_fit_is_refused(text, message):
    with pytest.raises(InstrumentError, match=message):
        parse_instrument(text, lambda name: WHOLE)
    with pytest.raises(InstrumentError, match="read beside it"):
        parse_instrument(text)
