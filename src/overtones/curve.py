"""The input impedance of a fingering as a curve: what the reed meets, with its axes named."""

import numpy as np

from core.acoustics.model import Model
from core.acoustics.overtones import LadderRung
from core.fingering import Fingering

WIDTH, HEIGHT = 520.0, 240.0
LEFT, RIGHT, TOP, BOTTOM = 46.0, 510.0, 22.0, 200.0
# What is shown below the highest point, in decibels, and the marks of the axis.
RANGE_DB, STEP_DB = 60, 20
MARKS_HZ = (50, 100, 200, 500, 1000, 2000, 3000)


def curve_svg(model: Model, fingering: Fingering, rungs: list[LadderRung]) -> str:
    """One stroke for each mouthpiece family, and a number over every partial of the ladder."""
    frequency, level = model.frequency, 20 * np.log10(np.abs(model.curves(fingering)))
    top = float(level.max())

    def x(hertz):
        low, high = np.log(frequency[0]), np.log(frequency[-1])
        return LEFT + (RIGHT - LEFT) * (np.log(hertz) - low) / (high - low)

    def y(decibels):
        return TOP + (BOTTOM - TOP) * np.clip(top - decibels, 0, RANGE_DB) / RANGE_DB

    families = {geometry.mouthpiece.family: n for n, geometry in enumerate(model.geometries)}
    parts = [f'<path class="frame" d="M{LEFT:g} {TOP:g}V{BOTTOM:g}H{RIGHT:g}"/>']
    for down in range(0, RANGE_DB + 1, STEP_DB):
        at = TOP + (BOTTOM - TOP) * down / RANGE_DB
        parts.append(f'<path class="grid" d="M{LEFT:g} {at:g}H{RIGHT:g}"/>')
        parts.append(f'<text x="{LEFT - 6:g}" y="{at + 4:g}" text-anchor="end">{RANGE_DB - down}</text>')
    for hertz in MARKS_HZ:
        if frequency[0] <= hertz <= frequency[-1]:
            parts.append(
                f'<path class="grid" d="M{x(hertz):.1f} {TOP:g}V{BOTTOM + 4:g}"/>'
                f'<text x="{x(hertz):.1f}" y="{BOTTOM + 18:g}" text-anchor="middle">{hertz}</text>'
            )
    for place, n in enumerate(families.values()):
        points = " ".join(f"{a:.1f},{b:.1f}" for a, b in zip(x(frequency), y(level[n]), strict=True))
        parts.append(f'<polyline class="curve family-{place}" points="{points}"/>')
    for rung in rungs:
        at = x(rung.rung.frequency)
        parts.append(f'<text class="partial" x="{at:.1f}" y="{TOP - 8:g}" text-anchor="middle">{rung.rung.partial}</text>')
    parts.append(f'<text x="{(LEFT + RIGHT) / 2:g}" y="{HEIGHT - 6:g}" text-anchor="middle">sounding frequency, Hz</text>')
    parts.append(
        f'<text transform="translate(12 {(TOP + BOTTOM) / 2:g}) rotate(-90)" text-anchor="middle">impedance, dB</text>'
    )
    return (
        f'<svg class="impedance" viewBox="0 0 {WIDTH:g} {HEIGHT:g}" role="img">'
        f"<title>Input impedance over frequency, partials numbered above their peaks</title>{''.join(parts)}</svg>"
    )
