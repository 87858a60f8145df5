"""How an instrument tends: what was read on it, along its range."""

from collections.abc import Sequence
from dataclasses import dataclass

from core.instruments.instrument import Instrument
from core.music.pitch import spell
from drawing.svg import tag

WIDTH, HEIGHT, LEFT, RIGHT = 900.0, 260.0, 60.0, 890.0
TOP, BOTTOM = 16.0, 226.0
CENTS_SHOWN = 50.0
# How far to the left of its note what belongs to another set-up stands.
APART = 10.0


@dataclass(frozen=True)
class Point:
    """What the readings of one fingering come to, in cents, and how it is said."""

    midi: int
    cents: float
    spread: float
    words: str


def tendency_svg(
    title: str, instrument: Instrument, points: Sequence[Point], beside: Sequence[Point] = ()
) -> str:
    """A filled disc with its spread for every fingering, and a hollow square for those of another set-up."""
    low, count = instrument.written_low.midi, len(instrument.semitones)

    def x(midi):
        return LEFT + (RIGHT - LEFT) * (midi - low + 0.5) / count

    def y(cents):
        cut = max(-CENTS_SHOWN, min(CENTS_SHOWN, cents))
        return TOP + (BOTTOM - TOP) * (CENTS_SHOWN - cut) / (2 * CENTS_SHOWN)

    parts = [tag("title", title)]
    for cents, label in ((40, "+40"), (20, "+20"), (0, "in tune"), (-20, "−20"), (-40, "−40")):
        name = "axis" if cents else "zero"
        parts.append(tag("path", class_=name, d=f"M{LEFT:g} {y(cents):g}H{RIGHT:g}"))
        parts.append(tag("text", label, x=LEFT - 8, y=y(cents) + 5, text_anchor="end"))
    for midi in instrument.semitones:
        if midi % 12 in (0, 4, 7):
            parts.append(tag("text", spell(midi), x=x(midi), y=HEIGHT - 6, text_anchor="middle"))
    for point, is_beside in [(p, True) for p in beside] + [(p, False) for p in points]:
        at, cents = x(point.midi) - (APART if is_beside else 0), y(point.cents)
        ends = y(point.cents - point.spread), y(point.cents + point.spread)
        shape = (
            tag("rect", class_="mark-beside", x=at - 4.5, y=cents - 4.5, width=9, height=9)
            if is_beside
            else tag("circle", class_="mark", cx=at, cy=cents, r=5)
        )
        whisker = tag("path", class_="whisker", d=f"M{at:.1f} {ends[0]:.1f}V{ends[1]:.1f}")
        parts.append(tag("g", tag("title", point.words), whisker, shape))
    return tag("svg", *parts, class_="tendency", viewBox=f"0 0 {WIDTH:g} {HEIGHT:g}", role="img")
