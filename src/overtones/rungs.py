"""One rung of the ladder as a drawing: where the partial lies, and how readily it answers."""

import math

from catalogue.strands import CENTS_SHOWN
from core.evidence.modelled import Told
from core.overtones.ladder import LadderRung

WIDTH, HEIGHT, LEFT, RIGHT, MIDDLE = 200.0, 26.0, 6.0, 194.0, 13.0


def rung_svg(rung: LadderRung, told: Told | None) -> str:
    """An axis of cents from equal temperament; the ring is modelled, its line what must be reckoned with.

    The upright stroke is the pure harmonic of the lowest resonance. Dashed and empty where nothing
    may be told.
    """
    pitch = told.pitch if told else None
    parts = [
        f'<path class="axis{"" if pitch else " dashed"}" d="M{LEFT:g} {MIDDLE:g}H{RIGHT:g}"/>',
        f'<path class="zero" d="M{_x(0):g} {MIDDLE - 8:g}v16"/>',
    ]
    if pitch:
        low, high = _x(pitch.value - pitch.spread), _x(pitch.value + pitch.spread)
        parts.append(f'<path class="spread" d="M{low:.1f} {MIDDLE:g}H{high:.1f}"/>')
        if rung.from_pure is not None:
            parts.append(
                f'<path class="pure" d="M{_x(pitch.value - rung.from_pure):.1f} {MIDDLE - 6:g}v12"/>'
            )
        parts.append(f'<circle class="mark ring" cx="{_x(pitch.value):.1f}" cy="{MIDDLE:g}" r="5"/>')
    size = f'viewBox="0 0 {WIDTH:g} {HEIGHT:g}"'
    return f'<svg class="strands partial-axis" {size} aria-hidden="true">{"".join(parts)}</svg>'


def _x(cents: float) -> float:
    part = (max(-CENTS_SHOWN, min(CENTS_SHOWN, cents)) + CENTS_SHOWN) / (2 * CENTS_SHOWN)
    return LEFT + (RIGHT - LEFT) * part if math.isfinite(part) else LEFT
