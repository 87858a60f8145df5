"""The compact hands drawing: what stands under a staff, and beside the name of a fingering.

The six fingers of the stack are discs: solid, half, or an empty ring. Every other touch stands there by its
letters while it is pressed, and only then: beside the disc of its finger, above the discs for thumbs, palms
and sides, below them for little fingers. A vent only touched at the attack has a tick.
"""

from collections.abc import Sequence
from functools import lru_cache

from django.utils.safestring import SafeString

from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.naming import short
from core.instruments.parts import HANDS, LEVER, STACK_DIGITS, Touch
from drawing.svg import join, tag

# Everything in pixels as on the bench; the fingers are at home in the middle.
WIDTH, MARGIN, RULE_INSET = 48.0, 1.0, 9.0
DISC_PITCH, RADIUS = 11.2, 5.0
LETTERS_PITCH, HAND_GAP = 13.0, 4.0
LETTER_PX, BETWEEN, TICK = 13.0, 3.5, 8.0
# Widths of letters against their height, near enough to set them side by side.
LETTER_WIDTH = 0.66
WIDTHS = {"W": 0.98, "F": 0.6, "h": 0.6, "♭": 0.44, "♯": 0.56, "f": 0.38, "r": 0.4, "t": 0.36, "i": 0.28}
WIDTHS |= {"″": 0.4, "‴": 0.55}

Word = tuple[str, Held]


class FingeringDrawn:
    """A fingering as it is drawn once: an instrument is known by its name."""

    def __init__(self, in_hand: InstrumentInHand, fingering: Fingering):
        self.instrument, self.naming, self.fingering = in_hand.instrument, in_hand.naming, fingering
        self._key = self.instrument.name, self.naming, fingering

    def __eq__(self, other):
        return self._key == other._key

    def __hash__(self):
        return hash(self._key)


def symbol(fingering: Fingering, in_hand: InstrumentInHand, symbol_id: str) -> str:
    """The compact form as an SVG symbol, to be placed with ``<use>``."""
    return tag(
        "symbol",
        _compact(FingeringDrawn(in_hand, fingering)),
        id=symbol_id,
        viewBox=_view_box(in_hand.instrument),
    )


def large_symbol(fingering: Fingering, in_hand: InstrumentInHand) -> SafeString:
    """The compact form as high as what it stands in; the words for it stand beside it."""
    body, box = _compact(FingeringDrawn(in_hand, fingering)), _view_box(in_hand.instrument)
    return tag("svg", body, class_="large-hands", viewBox=box, aria_hidden="true")


def small_hands(fingering: Fingering, in_hand: InstrumentInHand) -> str:
    """The compact form on its own; the words for it stand beside it."""
    body, box = _compact(FingeringDrawn(in_hand, fingering)), _view_box(in_hand.instrument)
    return tag("svg", body, class_="small-hands", viewBox=box, aria_hidden="true")


def height(instrument: Instrument) -> float:
    """Height of the compact form; its width is `WIDTH`."""
    return sum(_hand_height(instrument, hand) for hand in HANDS) + HAND_GAP + 2 * MARGIN


def _view_box(instrument):
    return f"0 0 {WIDTH:g} {height(instrument):g}"


def _hand_height(instrument, hand):
    above, below = _loose(instrument, hand)
    return 3 * DISC_PITCH + LETTERS_PITCH * (bool(above) + bool(below))


def _loose(instrument: Instrument, hand: str) -> tuple[list[Touch], list[Touch]]:
    """Touches of thumb, palm and side, and those of the little finger, with a lever."""
    above: list[Touch] = []
    below: list[Touch] = []
    for touch in instrument.touches:
        finger = instrument.finger(touch.finger)
        if finger.hand == hand and finger.digit not in STACK_DIGITS:
            (below if finger.digit in ("little", LEVER) else above).append(touch)
    return above, below


@lru_cache(maxsize=4000)
def _compact(drawn: FingeringDrawn) -> str:
    """What is inside the compact form."""
    instrument, top, parts = drawn.instrument, MARGIN, []
    for hand in HANDS:
        above, below = _loose(instrument, hand)
        if above:
            parts.append(_letters(_words(drawn, above), WIDTH / 2, top + LETTERS_PITCH / 2))
            top += LETTERS_PITCH
        for digit in STACK_DIGITS:
            parts.append(_finger(drawn, hand, digit, top + DISC_PITCH / 2))
            top += DISC_PITCH
        if below:
            parts.append(_letters(_words(drawn, below), WIDTH / 2, top + LETTERS_PITCH / 2))
            top += LETTERS_PITCH
        if hand == HANDS[0]:
            rule = f"M{RULE_INSET:g} {top + HAND_GAP / 2:g}H{WIDTH - RULE_INSET:g}"
            parts.append(tag("path", class_="rule", d=rule))
            top += HAND_GAP
    return join(parts)


def _words(drawn: FingeringDrawn, touches: Sequence[Touch]) -> list[Word]:
    """What is pressed of touches, as it is lettered."""
    held = [(touch, drawn.fingering.held(touch.name)) for touch in touches]
    return [(short(touch, drawn.instrument, drawn.naming), how) for touch, how in held if how]


def _finger(drawn: FingeringDrawn, hand: str, digit: str, y: float) -> str:
    """A finger of the stack: its disc, and the letters of what else it holds, on their side of it."""
    touches = [
        touch
        for finger in drawn.instrument.fingers
        if (finger.hand, finger.digit) == (hand, digit)
        for touch in drawn.instrument.reach(finger)
    ]
    home = next(touch for touch in touches if touch.column == 0)
    x, room = WIDTH / 2, WIDTH / 2 - RADIUS - 1
    left, right = (_words(drawn, [touch for touch in touches if side * touch.column > 0]) for side in (-1, 1))
    return join(
        [
            disc(x, y, RADIUS, drawn.fingering.held(home.name)),
            _letters(left, room / 2, y, room),
            _letters(right, WIDTH - room / 2, y, room),
        ]
    )


def disc(x: float, y: float, radius: float, held: Held | None) -> str:
    """A finger of the stack on its own touch, or off it."""
    if held is Held.FULL:
        return tag("circle", class_="held", cx=x, cy=y, r=radius)
    ring = tag("circle", class_="half" if held is Held.HALF else "free", cx=x, cy=y, r=radius - 0.5)
    if held is Held.HALF:
        return join([ring, tag("path", class_="held", d=half_disc(x, y, radius))])
    return join([ring, tick(x - radius, y, radius)]) if held else ring


def half_disc(x: float, y: float, r: float) -> str:
    """Path of the lower half of a disc: what is half-holed."""
    return f"M{x - r:g} {y:g}a{r:g} {r:g} 0 0 0 {2 * r:g} 0z"


def tick(x: float, y: float, size: float) -> str:
    """The mark of what is only touched at the attack, from its left end."""
    return tag("path", class_="tick", d=f"M{x:g} {y:g}l{size * 0.7:g} {size * 0.9:g}l{size:g} {-2 * size:g}")


def _letters(words: Sequence[Word], x: float, y: float, room: float = WIDTH) -> str:
    """Words side by side about a place, drawn smaller where there is no room for all."""
    if not words:
        return ""
    wide = [_width(text) + (TICK if held is Held.MOMENTARY else 0.0) for text, held in words]
    whole = sum(wide) + BETWEEN * (len(words) - 1)
    scale = min(1.0, room / whole)
    left, parts = x - scale * whole / 2, []
    for (text, held), width in zip(words, wide, strict=True):
        size = LETTER_PX * scale
        parts.append(tag("text", text, class_="letters", x=left, y=y + 0.26 * size, font_size=size))
        if held is Held.MOMENTARY:
            parts.append(tick(left + scale * (width - TICK) + 1.2, y, 3.6 * scale))
        left += scale * (width + BETWEEN)
    return join(parts)


def _width(text: str) -> float:
    return LETTER_PX * sum(WIDTHS.get(letter, LETTER_WIDTH) for letter in text)
