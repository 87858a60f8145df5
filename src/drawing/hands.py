"""The large hands drawing: every finger and thumb a lane, with the touches it can reach in order.

It can also show the move to another fingering, and let touches be pressed. What is held is solid, half-holed
half, momentary a tick; stack touches are round, touches of thumbs, palms, sides and little fingers square. A
touch that is not fitted is left out, and dashed where a fingering needs it.
"""

from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import Fingering, Held
from core.instruments.naming import labelled, short
from core.instruments.parts import HANDS, STACK_DIGITS, Finger, Touch
from drawing.compact import half_disc, tick
from drawing.svg import join, tag

LANE_X, LANE_Y, LABEL_WIDTH, HAND_TITLE, BETWEEN_HANDS, RADIUS = 28.5, 31.0, 52.0, 26.0, 20.0, 12.8
TICK = 4.1

WORDS = {
    Held.FULL: "pressed",
    Held.HALF: "half-holed",
    Held.MOMENTARY: "touched at the attack",
}
MOVING = ("lifts", "presses", "slides-from", "slides-to", "rolls", "flicks")


def describe(fingering: Fingering, in_hand: InstrumentInHand) -> str:
    """Say a fingering in words, hand by hand."""
    instrument = in_hand.instrument
    if not fingering.touches:
        return "No touch: all fingers off."
    parts = []
    for hand in HANDS:
        words = []
        for touch in instrument.touches:
            held = fingering.held(touch.name)
            if held is not None and instrument.finger(touch.finger).hand == hand:
                label = labelled(touch, instrument, in_hand.naming)
                words.append(label if held is Held.FULL else f"{label} {WORDS[held]}")
        parts.append(f"{hand.capitalize()} hand: {', '.join(words) if words else 'off'}")
    return ". ".join(parts) + "."


def lanes_of(
    in_hand: InstrumentInHand, hand: str, fingering: Fingering | None = None
) -> list[tuple[Finger, list[Touch]]]:
    """The lanes of a hand: a finger with the touches that are there, twice where they fill two rows.

    A touch that is not fitted has its place there only if a fingering needs it.
    """
    lanes = []
    needed = fingering.touches if fingering else frozenset()
    for finger in in_hand.instrument.fingers:
        if finger.hand != hand:
            continue
        reach = in_hand.instrument.reach(finger)
        touches = [touch for touch in reach if in_hand.has(touch) or touch.name in needed]
        rows = sorted({touch.row for touch in touches})
        lanes += [(finger, [touch for touch in touches if touch.row == row]) for row in rows]
    return lanes


def _square(x, y, r):
    side = r * 0.9
    return f"M{x - side:g} {y - side:g}h{2 * side:g}v{2 * side:g}h{-2 * side:g}z"


def _round(x, y, r):
    return f"M{x - r:g} {y:g}a{r:g} {r:g} 0 1 0 {2 * r:g} 0a{r:g} {r:g} 0 1 0 {-2 * r:g} 0z"


def hands(
    fingering: Fingering,
    in_hand: InstrumentInHand,
    marks: dict[str, str] | None = None,
    links: dict[str, str] | None = None,
) -> str:
    """The large form, left hand beside right, with the names of fingers and touches.

    `marks` says what each touch does in a move: stays, lifts, presses, slides-from, slides-to, rolls,
    flicks. `links` gives an address to each touch, to press it or let it go.
    """
    parts, left, most = [], 0.0, 0
    drawn = _Lanes(in_hand, fingering, marks or {}, links or {})
    for hand in HANDS:
        lanes = lanes_of(in_hand, hand, fingering)
        columns = [touch.column for _, touches in lanes for touch in touches]
        parts.append(tag("text", f"{hand.capitalize()} hand", class_="hand", x=left, y=17))
        named = ""
        for lane, (finger, touches) in enumerate(lanes):
            y = HAND_TITLE + (lane + 0.5) * LANE_Y
            home = left + LABEL_WIDTH + (0.5 - min(columns)) * LANE_X
            if finger.name != named:
                name = "finger busy" if drawn.busy(finger) else "finger"
                parts.append(tag("text", finger.digit, class_=name, x=left, y=y + 5))
            named = finger.name
            parts.append(drawn.lane(finger, touches, home, y))
        left += LABEL_WIDTH + (max(columns) - min(columns) + 1) * LANE_X + BETWEEN_HANDS
        most = max(most, len(lanes))
    title = f"{in_hand.said(fingering)}. {describe(fingering, in_hand)}"
    return tag(
        "svg",
        tag("title", title),
        *parts,
        class_="hands",
        viewBox=f"0 0 {left - BETWEEN_HANDS:g} {HAND_TITLE + most * LANE_Y:g}",
        role="group" if links else "img",
    )


class _Lanes:
    """A fingering on its way to being drawn, lane by lane."""

    def __init__(self, in_hand, fingering, marks, links):
        self.in_hand, self.fingering, self.marks, self.links = in_hand, fingering, marks, links

    def busy(self, finger):
        return any(
            self.fingering.held(touch.name) or self.marks.get(touch.name, "stays") != "stays"
            for touch in self.in_hand.instrument.reach(finger)
        )

    def lane(self, finger, touches, home, y):
        xs = {touch.name: home + touch.column * LANE_X for touch in touches}
        start, end = min(xs.values()) - LANE_X / 2, max(xs.values()) + LANE_X / 2
        lane = {"x": start, "y": y - LANE_Y * 0.45, "width": end - start, "height": LANE_Y * 0.9}
        parts = [tag("rect", class_="finger-lane", **lane, rx=LANE_Y * 0.4)]
        slides = {self.marks.get(name): x for name, x in xs.items()}
        if "slides-from" in slides and "slides-to" in slides:
            stroke = f"M{slides['slides-from']:g} {y:g}H{slides['slides-to']:g}"
            parts.append(tag("path", class_="slide", d=stroke))
        for touch in touches:
            drawn = self._touch(finger, touch, xs[touch.name], y)
            if touch.name in self.links:
                drawn = self._toggle(finger, touch, xs[touch.name], y, drawn)
            parts.append(drawn)
        return join(parts)

    def _short(self, touch):
        return short(touch, self.in_hand.instrument, self.in_hand.naming)

    def _toggle(self, finger, touch, x, y, drawn):
        hit = {"x": x - LANE_X / 2, "y": y - LANE_Y / 2, "width": LANE_X, "height": LANE_Y}
        held, address = self.fingering.held(touch.name), self.links[touch.name]
        label = labelled(touch, self.in_hand.instrument, self.in_hand.naming)
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
            aria_label=f"{self._short(touch)}, {finger.hand} {label}: {WORDS[held] if held else 'off'}",
        )

    def _touch(self, finger, touch, x, y):
        held, mark = self.fingering.held(touch.name), self.marks.get(touch.name, "")
        state = held.value if held else "off"
        there = "" if self.in_hand.has(touch) else "missing"
        shape = _round if finger.digit in STACK_DIGITS else _square
        parts = [
            tag("path", class_=" ".join(filter(None, ("touch", state, mark, there))), d=shape(x, y, RADIUS))
        ]
        if held is Held.HALF:
            parts.append(tag("path", class_="touch full", d=half_disc(x, y, RADIUS)))
        if held is Held.MOMENTARY:
            parts.append(tick(x - TICK, y - RADIUS, TICK))
        tone = "on" if held is Held.FULL and not there else "off"
        parts.append(tag("text", self._short(touch), class_=f"touch-name {tone}", x=x, y=y + 4.6))
        if mark in MOVING:
            tip = -5 if mark in ("lifts", "slides-from") else 5
            ax, ay = x + 11, y - 11 - tip / 2
            parts.append(tag("path", class_="arrow", d=f"M{ax - 4:g} {ay:g}h8l-4 {tip:g}z"))
        return join(parts)
