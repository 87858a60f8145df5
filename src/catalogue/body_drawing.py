"""The drawing from the instrument: the same touches placed along the body, reed at the left.

Front touches lie on the tube, those of the hands' sides beside it; thumb touches stand in a band of
their own below, the back of the instrument.
"""

from html import escape

from catalogue.drawings import describe
from core.instruments.fingering import Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.moves import STACK_DIGITS

WIDTH, LEFT, RIGHT = 440.0, 22.0, 432.0
MIDDLE, ACROSS, BACK, HEIGHT = 78.0, 31.0, 172.0, 206.0
RADIUS, SIDE = 12.5, 12.0
LEAST_APART = 25.0
BELL = {"saxophone": 40.0, "clarinet": 26.0, "oboe": 18.0, "bassoon": 10.0}
BORE = {"saxophone": (5.0, 15.0), "clarinet": (11.0, 11.0), "oboe": (5.0, 11.0), "bassoon": (6.0, 14.0)}


def body(fingering: Fingering, instrument: Instrument) -> str:
    """Every touch at its place on the instrument; pressed ones filled."""
    title = escape(f"On the instrument. {describe(fingering, instrument)}")
    parts = [
        _tube(instrument),
        f'<text class="side-name" x="0" y="{BACK + 30:g}">back of the instrument: thumbs</text>',
    ]
    parts += [_touch(x, y, touch, fingering, instrument) for touch, x, y in placed(instrument)]
    return (
        f'<svg class="body-drawing" viewBox="0 0 {WIDTH:g} {HEIGHT:g}" role="img">'
        f"<title>{title}</title>{''.join(parts)}</svg>"
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
    start, end = BORE[instrument.family]
    tip, neck = LEFT - 18, RIGHT - 50
    bell = BELL[instrument.family]
    upper = f"M{tip:g} {MIDDLE - start * 0.6:g}L{LEFT:g} {MIDDLE - start:g}L{neck:g} {MIDDLE - end:g}"
    lower = f"L{neck:g} {MIDDLE + end:g}L{LEFT:g} {MIDDLE + start:g}L{tip:g} {MIDDLE + start * 0.6:g}z"
    flare = f"Q{RIGHT - 10:g} {MIDDLE - end:g} {RIGHT:g} {MIDDLE - bell:g}V{MIDDLE + bell:g}"
    flare += f"Q{RIGHT - 10:g} {MIDDLE + end:g} {RIGHT - 60:g} {MIDDLE + end:g}"
    return (
        f'<path class="tube" d="{upper}{flare}{lower}"/><path class="band" d="M{LEFT:g} {BACK:g}H{RIGHT:g}"/>'
    )


def _touch(x, y, touch, fingering, instrument):
    held = fingering.held(touch.name)
    if instrument.finger(touch.finger).digit in STACK_DIGITS and touch.column == 0:
        shape = f'<circle cx="{x:g}" cy="{y:g}" r="{RADIUS:g}"'
    else:
        shape = f'<rect x="{x - SIDE:g}" y="{y - SIDE:g}" width="{2 * SIDE:g}" height="{2 * SIDE:g}" rx="4"'
    state = held.value if held else "off"
    tone = "on" if held is Held.FULL else "off"
    half = ""
    if held is Held.HALF:
        lower = f"M{x - RADIUS:g} {y:g}a{RADIUS:g} {RADIUS:g} 0 0 0 {2 * RADIUS:g} 0z"
        half = f'<path class="touch full" d="{lower}"/>'
    return (
        f'{shape} class="touch {state}"/>{half}'
        f'<text class="touch-name {tone}" x="{x:g}" y="{y + 4.6:g}">{escape(touch.short)}</text>'
    )
