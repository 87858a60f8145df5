"""The hands drawing and the four strands: every touch there, every state told apart, words for all."""

import re
from xml.etree import ElementTree as ET

import pytest

from catalogue import shipped
from core.evidence.sources import ALL_SOURCES, Basis, Handling, Heard, Judgement, Readings, Tuning
from core.evidence.weigh import evidence
from core.instruments.fingering import Fingering, parse_fingering
from core.instruments.moves import move_between
from core.instruments.naming import Naming
from core.instruments.parts import HANDS
from core_shapes import in_hand_of
from drawing.body import body, placed
from drawing.compact import small_hands, symbol
from drawing.hands import describe, hands, lanes_of
from drawing.strands import DrawnStrand, Mark, cents_words, in_and_out, sentence, strands_of, strands_svg
from drawing.svg import tag
from studio.shipped import INSTRUMENTS

ALTO = in_hand_of("alto-saxophone", fitted=frozenset(shipped.instrument("alto-saxophone").optional))


def count(svg, name):
    return len(re.findall(rf'class="{name}"', svg))


def test_half_and_momentary_look_different():
    svg = small_hands(parse_fingering("L1/2 L2 G#!", ALTO.instrument), ALTO)
    assert (count(svg, "half"), count(svg, "tick"), count(svg, "letters")) == (1, 1, 1)
    assert count(svg, "held") == 2  # the pressed one, and the lower half of the half-holed one


def test_no_touch_is_said():
    assert count(small_hands(Fingering(), ALTO), "free") == 6
    assert describe(Fingering(), ALTO) == "No touch: all fingers off."


def test_the_large_drawing_names_every_touch_and_shows_the_move():
    before, after = (parse_fingering(touches, ALTO.instrument) for touches in ("frontF L2", "L1 L2 L3"))
    svg = hands(after, ALTO, move_between(before, after, ALTO.instrument).touches)
    ET.fromstring(svg)
    assert all(f">{touch.short}<" in svg for touch in ALTO.instrument.touches)
    assert count(svg, "slide") == 1
    assert count(svg, "arrow") == 3
    assert "Left hand: first touch, second touch, third touch" in svg


def test_a_touch_that_is_not_fitted_is_not_drawn_as_if_it_were():
    bare = in_hand_of("alto-saxophone", fitted=frozenset())
    for drawn in (hands, body):
        svg = drawn(Fingering(), bare)
        assert ">hF♯<" not in svg
        assert "missing" not in svg
        svg = drawn(parse_fingering("octave frontF L2 | highF#", bare.instrument), bare)
        assert count(svg, "touch full missing") == 1
        assert ">hF♯<" in svg


@pytest.mark.parametrize(
    ("naming", "touches", "shown"),
    [
        (Naming.EACH_HAND, "L1 palmD | R1 sideC", {"1", "2", "3", "D", "C"}),
        (Naming.THROUGH, "L1 palmD | R1 sideC", {"4", "5", "6", "D"}),
        (Naming.NUMBERED, "L1 palmD | R1 sideC", {"1", "2", "3", "p1", "s2"}),
    ],
)
def test_drawings_name_touches_as_the_teacher_does(naming, touches, shown):
    in_hand = in_hand_of("alto-saxophone", naming=naming)
    fingering = parse_fingering(touches, in_hand.instrument)
    for svg in (hands(fingering, in_hand), body(fingering, in_hand)):
        assert {text for text in shown if f">{text}<" in svg} == shown
    letters = set(re.findall(r'class="letters"[^>]*>([^<]+)<', small_hands(fingering, in_hand)))
    assert letters == ({"p1", "s2"} if naming is Naming.NUMBERED else {"D", "C"})


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
            "Fs6-front",
            None,
            None,
            "Pitch: unknown; Tone: even, taught; Speaks: ready, taught; Hands: unknown",
        ),
        (
            "A4-plain",
            0.0,
            None,
            "Pitch: in tune, width assumed (±10), taught; Tone: full, taught; Speaks: sure, taught; "
            "Hands: in 0 in 100 stumble, modelled",
        ),
    ],
)
def test_four_strands_in_words(chart, row, into, out, said):
    strands = strands_of(chart.by_id[row], evidence(chart.by_id[row]), in_and_out(into, out))
    assert [strand.name for strand in strands] == ["Pitch", "Tone", "Speaks", "Hands"]
    assert sentence(strands) == said


def test_unknown_has_no_mark(chart):
    svg = strands_svg(strands_of(chart.by_id["Fs6-front"], evidence(chart.by_id["Fs6-front"])))
    ET.fromstring(svg)
    assert count(svg, "axis dashed") == 2
    assert count(svg, "mark") == 2


def test_every_source_keeps_its_own_mark_and_count(chart):
    heard = Heard((Judgement(1, pitch=Tuning.SHARP, hands=Handling.EASY),) * 2, (Readings(1, (9, 12, 10)),))
    entry = chart.by_id["D5-plain"]
    strands = strands_of(entry, evidence(entry, heard), in_and_out(0.1, None))
    assert strands[0].rests_on == "taught, 2 judgements, 3 readings"
    assert strands[0].words.endswith("cents sharp, give or take 3")
    assert strands[3].rests_on == "modelled, 2 judgements"
    svg = strands_svg(strands)
    ET.fromstring(svg)
    assert count(svg, "whisker") == 5
    assert count(svg, "mark ring") == 1


MODELS = list(INSTRUMENTS)
LEGIBLE_PX = 10.0


@pytest.mark.parametrize("model", MODELS)
def test_both_drawings_show_every_touch_of_every_fingering(model):
    in_hand = in_hand_of(model)
    discs = {t.name for t in in_hand.instrument.touches if re.fullmatch("[LR][123]", t.name)}
    for entry in in_hand.catalogue.entries:
        small, held = symbol(entry.fingering, in_hand, "f"), entry.fingering
        ET.fromstring(small)
        assert count(small, "held") == len((held.full | held.half) & discs)
        assert count(small, "held") + count(small, "free") == len(discs) == 6
        assert count(small, "letters") == len(held.touches - discs)
        assert count(small, "tick") == len(held.momentary)
        on_body = body(held, in_hand)
        ET.fromstring(on_body)
        pressed = re.findall(r'class="touch (?:full|half|momentary)(?: missing)?"', on_body)
        assert len(pressed) == len(held.touches) + len(held.half)


@pytest.mark.parametrize("model", MODELS)
def test_two_fingerings_never_look_alike_and_their_letters_can_be_read(model):
    in_hand = in_hand_of(model)
    drawn = {entry.fingering: small_hands(entry.fingering, in_hand) for entry in in_hand.catalogue.entries}
    assert len(set(drawn.values())) == len(drawn)
    sizes = re.findall(r'font-size="([\d.]+)"', "".join(drawn.values()))
    assert min(map(float, sizes)) >= LEGIBLE_PX


@pytest.mark.parametrize("model", MODELS)
def test_no_two_touches_lie_over_each_other(model):
    spots = placed(shipped.instrument(model))
    for n, (_, x, y) in enumerate(spots):
        assert 0 <= x <= 440
        assert all(abs(x - ox) >= 24 or abs(y - oy) >= 24 for _, ox, oy in spots[n + 1 :])
    for hand in HANDS:
        for _, touches in lanes_of(in_hand_of(model), hand):
            assert len({touch.column for touch in touches}) == len(touches)


def test_the_large_drawing_can_be_pressed():
    links = {touch.name: f"?touches={touch.name}" for touch in ALTO.instrument.touches}
    svg = hands(parse_fingering("L1", ALTO.instrument), ALTO, links=links)
    root = ET.fromstring(svg)
    found = {a.get("data-touch"): a for a in root.iter("a")}
    assert set(found) == set(ALTO.instrument.touch_by_name)
    assert found["L1"].get("aria-label") == "1, left first touch: pressed"
    assert found["R1"].get("aria-label") == "1, right first touch: off"


def test_everything_written_into_a_drawing_is_escaped():
    assert tag("text", "<b>", tag("a"), class_='x"y') == '<text class="x&quot;y">&lt;b&gt;<a/></text>'
    ET.fromstring(tag("g", "A & B", title="<"))


@pytest.mark.parametrize(
    ("cents", "words"),
    [(0.4, "in tune"), (1.2, "1 cent sharp"), (-1, "1 cent flat"), (-8.6, "9 cents flat")],
)
def test_cents_in_words(cents, words):
    assert cents_words(cents) == words


def test_every_source_has_a_mark_of_its_own():
    def drawn(basis):
        return strands_svg([DrawnStrand("Tone", "even", "", (Mark(basis, 0.5, 0.4, 0.6),), 0.4, 0.6)])

    assert len(set(map(drawn, ALL_SOURCES))) == len(ALL_SOURCES)
    with pytest.raises(ValueError, match="no mark of its own"):
        drawn(Basis.UNKNOWN)
