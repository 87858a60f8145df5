"""The hands drawing: every finger and thumb a lane, with the touches it can reach in order.

One renderer for every instrument and size: `symbol` draws the compact form that stands under a
staff, `hands` the large form with words, which can also show the move to another fingering.
What is held is solid, half-holed half, momentary a tick; stack touches are round, touches of
thumbs, palms, sides and little fingers square.
"""

from functools import lru_cache

from core.instruments.fingering import Fingering, Held
from core.instruments.instrument import Instrument
from core.instruments.moves import STACK_DIGITS
from core.instruments.naming import said
from core.instruments.parts import HANDS, Finger, Touch
from drawing.svg import join, tag

# The compact form, in its own units.
PITCH_X, PITCH_Y, HAND_GAP, MARGIN = 8.8, 9.4, 7.0, 1.0
# The large form.
MARK_RADIUS = 4.1
LARGE_X, LARGE_Y, LABEL_WIDTH, HAND_TITLE, BETWEEN_HANDS, RADIUS = 28.5, 31.0, 52.0, 26.0, 20.0, 12.8

WORDS = {
    Held.FULL: "pressed",
    Held.HALF: "half-holed",
    Held.MOMENTARY: "touched at the attack",
}
MOVING = ("lifts", "presses", "slides-from", "slides-to", "rolls", "flicks")


def describe(fingering: Fingering, instrument: Instrument) -> str:
    """Say a fingering in words, hand by hand."""
    if not fingering.touches:
        return "No touch: all fingers off."
    parts = []
    for hand in HANDS:
        words = []
        for touch in instrument.touches:
            held = fingering.held(touch.name)
            if held is not None and instrument.finger(touch.finger).hand == hand:
                words.append(touch.label if held is Held.FULL else f"{touch.label} {WORDS[held]}")
        parts.append(f"{hand.capitalize()} hand: {', '.join(words) if words else 'off'}")
    return ". ".join(parts) + "."


def lanes_of(instrument: Instrument, hand: str = "") -> list[tuple[Finger, list[Touch]]]:
    """The lanes of one hand, or both: a finger with its touches, twice where they fill two rows."""
    lanes = []
    for finger in instrument.fingers:
        if hand and finger.hand != hand:
            continue
        touches = instrument.reach(finger)
        rows = sorted({touch.row for touch in touches})
        lanes += [(finger, [touch for touch in touches if touch.row == row]) for row in rows]
    return lanes


def _columns(instrument):
    columns = [touch.column for touch in instrument.touches]
    return min(columns), max(columns)


def compact_size(instrument: Instrument) -> tuple[float, float]:
    """Width and height of the compact form."""
    low, high = _columns(instrument)
    width = (high - low + 1) * PITCH_X + 2 * MARGIN
    return width, len(lanes_of(instrument)) * PITCH_Y + HAND_GAP + 2 * MARGIN


def home_x(instrument: Instrument) -> float:
    """How far from the left edge of the compact form the fingers are at home."""
    low, _ = _columns(instrument)
    return MARGIN + (0.5 - low) * PITCH_X


def _view_box(instrument):
    width, height = compact_size(instrument)
    return f"0 0 {width:g} {height:g}"


def symbol(fingering: Fingering, instrument: Instrument, symbol_id: str) -> str:
    """The compact form as an SVG symbol, to be placed with ``<use>``."""
    body = compact(Drawn(instrument, fingering))
    return tag("symbol", body, id=symbol_id, viewBox=_view_box(instrument))


def small_hands(fingering: Fingering, instrument: Instrument) -> str:
    """The compact form on its own; the words for it stand beside it."""
    body = compact(Drawn(instrument, fingering))
    return tag("svg", body, class_="small-hands", viewBox=_view_box(instrument), aria_hidden="true")


class Drawn:
    """A fingering of an instrument, to be drawn once: an instrument is known by its name."""

    def __init__(self, instrument: Instrument, fingering: Fingering):
        self.instrument, self.fingering = instrument, fingering

    def __eq__(self, other):
        return (self.instrument.name, self.fingering) == (other.instrument.name, other.fingering)

    def __hash__(self):
        return hash((self.instrument.name, self.fingering))


@lru_cache(maxsize=4000)
def compact(drawn: Drawn) -> str:
    """What is inside the compact form."""
    instrument, fingering = drawn.instrument, drawn.fingering
    low, _ = _columns(instrument)
    parts = []
    for lane, (finger, touches) in enumerate(lanes_of(instrument)):
        y = MARGIN + (lane + 0.5) * PITCH_Y + (HAND_GAP if finger.hand == "right" else 0.0)
        xs = [MARGIN + (touch.column - low + 0.5) * PITCH_X for touch in touches]
        if len(xs) > 1:
            parts.append(tag("path", class_="lane", d=f"M{min(xs):g} {y:g}H{max(xs):g}"))
        for touch, x in zip(touches, xs, strict=True):
            parts.append(_mark(x, y, MARK_RADIUS, finger.digit in STACK_DIGITS, fingering.held(touch.name)))
    width, _ = compact_size(instrument)
    gap_y = MARGIN + HAND_GAP / 2 + PITCH_Y * len(lanes_of(instrument, "left"))
    parts.append(tag("path", class_="rule", d=f"M{MARGIN:g} {gap_y:g}H{width - MARGIN:g}"))
    if not fingering.touches:  # otherwise it would look like a drawing left empty by mistake
        parts.append(tag("text", "open", class_="open-word", x=width / 2, y=gap_y - 18))
    return join(parts)


def _mark(x, y, radius, is_round, held):
    if held is None:
        return tag("circle", class_="free", cx=x, cy=y, r=1.2)
    if held is Held.MOMENTARY:
        stroke = f"M{x - radius:g} {y:g}l{radius * 0.8:g} {radius:g}l{radius:g} {-2 * radius:g}"
        return tag("path", class_="tick", d=stroke)
    shape = _shape(x, y, radius, is_round)
    if held is Held.FULL:
        return tag("path", class_="held", d=shape)
    return join([tag("path", class_="half", d=shape), tag("path", class_="held", d=half_disc(x, y, radius))])


def _shape(x, y, r, is_round):
    if is_round:
        return f"M{x - r:g} {y:g}a{r:g} {r:g} 0 1 0 {2 * r:g} 0a{r:g} {r:g} 0 1 0 {-2 * r:g} 0z"
    side = r * 0.9
    return f"M{x - side:g} {y - side:g}h{2 * side:g}v{2 * side:g}h{-2 * side:g}z"


def half_disc(x: float, y: float, r: float) -> str:
    """Path of the lower half of a disc: what is half-holed."""
    return f"M{x - r:g} {y:g}a{r:g} {r:g} 0 0 0 {2 * r:g} 0z"


def hands(
    fingering: Fingering,
    instrument: Instrument,
    marks: dict[str, str] | None = None,
    links: dict[str, str] | None = None,
) -> str:
    """The large form, left hand beside right, with the names of fingers and touches.

    `marks` says what each touch does in a move: stays, lifts, presses, slides-from, slides-to, rolls,
    flicks. `links` gives an address to each touch, to press it or let it go.
    """
    parts, left, most = [], 0.0, 0
    for hand in HANDS:
        lanes = lanes_of(instrument, hand)
        columns = [touch.column for _, touches in lanes for touch in touches]
        parts.append(tag("text", f"{hand.capitalize()} hand", class_="hand", x=left, y=17))
        named = ""
        for lane, (finger, touches) in enumerate(lanes):
            y = HAND_TITLE + (lane + 0.5) * LARGE_Y
            home = left + LABEL_WIDTH + (0.5 - min(columns)) * LARGE_X
            if finger.name != named:
                busy = any(
                    fingering.held(t.name) or (marks or {}).get(t.name, "stays") != "stays"
                    for t in instrument.reach(finger)
                )
                name = "finger busy" if busy else "finger"
                parts.append(tag("text", finger.digit, class_=name, x=left, y=y + 5))
            named = finger.name
            parts.append(_large_lane(fingering, finger, touches, marks or {}, links or {}, home, y))
        left += LABEL_WIDTH + (max(columns) - min(columns) + 1) * LARGE_X + BETWEEN_HANDS
        most = max(most, len(lanes))
    title = f"{said(fingering, instrument)}. {describe(fingering, instrument)}"
    return tag(
        "svg",
        tag("title", title),
        *parts,
        class_="hands",
        viewBox=f"0 0 {left - BETWEEN_HANDS:g} {HAND_TITLE + most * LARGE_Y:g}",
        role="group" if links else "img",
    )


def _large_lane(fingering, finger, touches, marks, links, home, y):
    xs = {touch.name: home + touch.column * LARGE_X for touch in touches}
    start, end = min(xs.values()) - LARGE_X / 2, max(xs.values()) + LARGE_X / 2
    lane = {"x": start, "y": y - LARGE_Y * 0.45, "width": end - start, "height": LARGE_Y * 0.9}
    parts = [tag("rect", class_="finger-lane", **lane, rx=LARGE_Y * 0.4)]
    slides = {marks.get(name): x for name, x in xs.items()}
    if "slides-from" in slides and "slides-to" in slides:
        stroke = f"M{slides['slides-from']:g} {y:g}H{slides['slides-to']:g}"
        parts.append(tag("path", class_="slide", d=stroke))
    for touch in touches:
        held, mark = fingering.held(touch.name), marks.get(touch.name, "")
        drawn = _large_touch(xs[touch.name], y, touch, held, mark, finger.digit in STACK_DIGITS)
        if touch.name in links:
            drawn = _toggle(xs[touch.name], y, finger, touch, held, links[touch.name], drawn)
        parts.append(drawn)
    return join(parts)


def _toggle(x, y, finger, touch, held, address, drawn):
    hit = {"x": x - LARGE_X / 2, "y": y - LARGE_Y / 2, "width": LARGE_X, "height": LARGE_Y}
    return tag(
        "a",
        tag("rect", class_="hit", **hit),
        drawn,
        class_="toggle",
        href=address,
        hx_get=address,
        id=f"touch-{touch.name}",
        data_touch=touch.name,
        # What stands on the touch begins its name, so that it can be called by voice.
        aria_label=f"{touch.short}, {finger.hand} {touch.label}: {WORDS[held] if held else 'off'}",
    )


def _large_touch(x, y, touch, held, mark, is_round):
    state = held.value if held else "off"
    parts = [tag("path", class_=f"touch {state} {mark}", d=_shape(x, y, RADIUS, is_round))]
    if held is Held.HALF:
        parts.append(tag("path", class_="touch full", d=half_disc(x, y, RADIUS)))
    if held is Held.MOMENTARY:
        parts.append(_mark(x, y - RADIUS, MARK_RADIUS, is_round, held))
    tone = "on" if held is Held.FULL else "off"
    parts.append(tag("text", touch.short, class_=f"touch-name {tone}", x=x, y=y + 4.6))
    if mark in MOVING:
        tip = -5 if mark in ("lifts", "slides-from") else 5
        ax, ay = x + 11, y - 11 - tip / 2
        parts.append(tag("path", class_="arrow", d=f"M{ax - 4:g} {ay:g}h8l-4 {tip:g}z"))
    return join(parts)
