"""One rung of the ladder as a drawing: where the partial lies, and how readily it answers."""

import math

from core.evidence.modelled import TrustedPrediction
from core.overtones.ladder import LadderRung
from drawing.strands import CENTS_SHOWN
from drawing.svg import tag

WIDTH, HEIGHT, LEFT, RIGHT, MIDDLE = 200.0, 26.0, 6.0, 194.0, 13.0


def rung_svg(rung: LadderRung, trusted: TrustedPrediction | None) -> str:
    """An axis of cents from equal temperament; the ring is modelled, its line what must be reckoned with.

    The upright stroke is the pure harmonic of the lowest resonance. Dashed and empty where nothing
    may be shown.
    """
    pitch = trusted.pitch if trusted else None
    axis = f"axis{'' if pitch else ' dashed'}"
    parts = [
        tag("path", class_=axis, d=f"M{LEFT:g} {MIDDLE:g}H{RIGHT:g}"),
        tag("path", class_="zero", d=f"M{_x(0):g} {MIDDLE - 8:g}v16"),
    ]
    if pitch:
        low, high = _x(pitch.value - pitch.spread), _x(pitch.value + pitch.spread)
        parts.append(tag("path", class_="spread", d=f"M{low:.1f} {MIDDLE:g}H{high:.1f}"))
        if rung.from_pure is not None:
            pure = f"M{_x(pitch.value - rung.from_pure):.1f} {MIDDLE - 6:g}v12"
            parts.append(tag("path", class_="pure", d=pure))
        parts.append(tag("circle", class_="mark ring", cx=_x(pitch.value), cy=MIDDLE, r=5))
    view_box = f"0 0 {WIDTH:g} {HEIGHT:g}"
    return tag("svg", *parts, class_="strands partial-axis", viewBox=view_box, aria_hidden="true")


def _x(cents: float) -> float:
    part = (max(-CENTS_SHOWN, min(CENTS_SHOWN, cents)) + CENTS_SHOWN) / (2 * CENTS_SHOWN)
    return LEFT + (RIGHT - LEFT) * part if math.isfinite(part) else LEFT
