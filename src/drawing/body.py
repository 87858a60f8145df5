"""The drawing from the instrument: the same touches placed along the body, reed at the left.

Front touches lie on the tube, those of the hands' sides beside it; thumb touches stand in a band of
their own below, the back of the instrument.
"""

from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.naming import short
from core.instruments.parts import STACK_DIGITS
from drawing.compact import half_disc
from drawing.hands import describe
from drawing.svg import join, tag

WIDTH, LEFT, RIGHT = 440.0, 22.0, 432.0
MIDDLE, ACROSS, BACK, HEIGHT = 78.0, 31.0, 172.0, 206.0
RADIUS, SIDE = 12.5, 12.0
LEAST_APART = 25.0


def body(fingering: Fingering, in_hand: InstrumentInHand) -> str:
    """Every touch that is fitted, or needed, at its place on the instrument; pressed ones filled."""
    there = [
        (touch, x, y)
        for touch, x, y in placed(in_hand.instrument)
        if in_hand.has(touch) or fingering.held(touch.name)
    ]
    return tag(
        "svg",
        tag("title", f"On the instrument. {describe(fingering, in_hand)}"),
        _tube(in_hand.instrument),
        tag("text", "back of the instrument: thumbs", class_="side-name", x=0, y=BACK + 30),
        *(_touch(x, y, touch, fingering, in_hand) for touch, x, y in there),
        class_="body-drawing",
        viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}",
        role="img",
    )


def placed(instrument: Instrument):
    """Touches with their place in the drawing; neighbours that would touch are moved apart."""
    spots: list[tuple] = []
    for touch in sorted(instrument.touches, key=lambda touch: touch.at):
        along, across = touch.at
        x = LEFT + (RIGHT - LEFT) * along / 100
        y = BACK if across == 3 else MIDDLE + across * ACROSS
        while any(abs(x - ox) < LEAST_APART and abs(y - oy) < LEAST_APART for _, ox, oy in spots):
            x += 1.0
        spots.append((touch, x, y))
    return spots


def _tube(instrument):
    (start, end), bell = instrument.outline.bore, instrument.outline.bell
    tip, neck = LEFT - 18, RIGHT - 50
    upper = f"M{tip:g} {MIDDLE - start * 0.6:g}L{LEFT:g} {MIDDLE - start:g}L{neck:g} {MIDDLE - end:g}"
    lower = f"L{neck:g} {MIDDLE + end:g}L{LEFT:g} {MIDDLE + start:g}L{tip:g} {MIDDLE + start * 0.6:g}z"
    flare = f"Q{RIGHT - 10:g} {MIDDLE - end:g} {RIGHT:g} {MIDDLE - bell:g}V{MIDDLE + bell:g}"
    flare += f"Q{RIGHT - 10:g} {MIDDLE + end:g} {RIGHT - 60:g} {MIDDLE + end:g}"
    band = f"M{LEFT:g} {BACK:g}H{RIGHT:g}"
    return join([tag("path", class_="tube", d=upper + flare + lower), tag("path", class_="band", d=band)])


def _touch(x, y, touch, fingering, in_hand):
    instrument, held = in_hand.instrument, fingering.held(touch.name)
    state = f"{held.value if held else 'off'}{'' if in_hand.has(touch) else ' missing'}"
    if instrument.finger(touch.finger).digit in STACK_DIGITS and touch.column == 0:
        shape = tag("circle", cx=x, cy=y, r=RADIUS, class_=f"touch {state}")
    else:
        square = {"x": x - SIDE, "y": y - SIDE, "width": 2 * SIDE, "height": 2 * SIDE, "rx": 4}
        shape = tag("rect", **square, class_=f"touch {state}")
    tone = "on" if held is Held.FULL and in_hand.has(touch) else "off"
    half = tag("path", class_="touch full", d=half_disc(x, y, RADIUS)) if held is Held.HALF else ""
    name = tag("text", short(touch, instrument, in_hand.naming), class_=f"touch-name {tone}", x=x, y=y + 4.6)
    return join([shape, half, name])
