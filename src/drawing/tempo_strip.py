"""The tempo strip: faults over the tempo, and a tick wherever fingerings change."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from django.utils.safestring import SafeString

from drawing.svg import tag

HEIGHT = 40.0
# How much of the height the curve takes; the ticks stand on the ground.
CURVE, TICK, STRONG = 30.0, 8.0, 16.0


@dataclass(frozen=True)
class Tick:
    """A tempo at which fingerings change; strong where it is near the one in hand."""

    bpm: int
    strong: bool
    words: str


def strip_svg(
    tempi: np.ndarray, faults: np.ndarray, kept: np.ndarray, ticks: Sequence[Tick], bpm: float
) -> SafeString:
    """Draw the strip, one unit a beat a minute, to be stretched to any width.

    Parameters
    ----------
    faults, kept : np.ndarray [shape=(n_tempi,)]
        Of the best fingerings at every tempo, and of those of the tempo in hand.
    """
    first, width = float(tempi[0]), float(tempi[-1] - tempi[0])
    top = max(float(kept.max()), 1e-9)
    x = tempi - first

    def line(values: np.ndarray) -> str:
        return " ".join(f"{a:g},{HEIGHT - CURVE * b / top:.1f}" for a, b in zip(x, values, strict=True))

    marks = [
        tag(
            "path",
            tag("title", tick.words),
            class_="tick-strong" if tick.strong else "tick-weak",
            d=f"M{tick.bpm - first:g} {HEIGHT:g}v-{STRONG if tick.strong else TICK:g}",
        )
        for tick in ticks
    ]
    return tag(
        "svg",
        tag("polygon", class_="tempo-area", points=f"0,{HEIGHT:g} {line(faults)} {width:g},{HEIGHT:g}"),
        tag("polyline", class_="tempo-kept", points=line(kept)),
        *marks,
        tag("path", class_="tempo-here", d=f"M{bpm - first:g} 0V{HEIGHT:g}"),
        class_="tempo-strip",
        viewBox=f"0 0 {width:g} {HEIGHT:g}",
        preserveAspectRatio="none",
        aria_hidden="true",
    )
