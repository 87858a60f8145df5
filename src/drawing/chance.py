"""A chance with its spread on a line from never to always."""

from core.practice.learning import HOLDS_CHANCE
from drawing.svg import tag

HOLDS_PERCENT = round(100 * HOLDS_CHANCE)


def chance_bar(chance: float, low: float, high: float) -> str:
    """The bar; chances in percent. The words for it stand beside it."""
    mark = min(max(chance - 0.7, 0.0), 98.6)
    return tag(
        "svg",
        tag("rect", class_="chance-ground", width=100, height=10),
        tag("rect", class_="chance-spread", x=low, y=3, width=max(high - low, 0.5), height=4),
        tag("rect", class_="chance-holds", x=HOLDS_PERCENT, width=0.5, height=10),
        tag("rect", class_="chance-mark", x=mark, y=1, width=1.4, height=8),
        class_="chance",
        viewBox="0 0 100 10",
        preserveAspectRatio="none",
        aria_hidden="true",
    )
