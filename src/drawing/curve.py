"""The input impedance of a fingering as a curve: what the reed meets, with its axes named."""

import numpy as np

from core.acoustics.model import Model
from core.instruments.fingering import Fingering
from core.overtones.ladder import LadderRung
from drawing.svg import tag

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
    parts = [tag("path", class_="frame", d=f"M{LEFT:g} {TOP:g}V{BOTTOM:g}H{RIGHT:g}")]
    for down in range(0, RANGE_DB + 1, STEP_DB):
        at = TOP + (BOTTOM - TOP) * down / RANGE_DB
        parts.append(tag("path", class_="grid", d=f"M{LEFT:g} {at:g}H{RIGHT:g}"))
        parts.append(tag("text", RANGE_DB - down, x=LEFT - 6, y=at + 4, text_anchor="end"))
    for hertz in MARKS_HZ:
        if frequency[0] <= hertz <= frequency[-1]:
            parts.append(tag("path", class_="grid", d=f"M{x(hertz):.1f} {TOP:g}V{BOTTOM + 4:g}"))
            parts.append(_text(x(hertz), BOTTOM + 18, hertz))
    for place, n in enumerate(families.values()):
        points = " ".join(f"{a:.1f},{b:.1f}" for a, b in zip(x(frequency), y(level[n]), strict=True))
        parts.append(tag("polyline", class_=f"curve family-{place}", points=points))
    for rung in rungs:
        parts.append(_text(x(rung.rung.frequency), TOP - 8, rung.rung.partial, "partial"))
    parts.append(_text((LEFT + RIGHT) / 2, HEIGHT - 6, "sounding frequency, Hz"))
    upright = f"translate(12 {(TOP + BOTTOM) / 2:g}) rotate(-90)"
    parts.append(tag("text", "impedance, dB", transform=upright, text_anchor="middle"))
    title = tag("title", "Input impedance over frequency, partials numbered above their peaks")
    return tag("svg", title, *parts, class_="impedance", viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}", role="img")


def _text(x, y, words, kind="name"):
    return tag("text", words, class_=kind, x=float(x), y=float(y), text_anchor="middle")
