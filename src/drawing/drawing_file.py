"""A line of a score with its drawings as an SVG file that stands by itself."""

from typing import Protocol

from drawing.svg import join, tag

# By how much a file is larger than the page, so that no thin line of the staff is lost.
LARGER = 2.0
# What the pages' styles say of the same marks, for paper.
STYLE = """
.staff path, .staff polygon, .staff polyline, .staff rect, .staff ellipse { stroke: #000 }
.staff .dynam, .staff .mNum, .staff .dir { font-style: italic }
.staff .placeholder { visibility: hidden }
.rule { stroke: #777; stroke-width: 0.8 }
.held { fill: #000 }
.half, .free, .tick { fill: none; stroke: #000; stroke-width: 1.2 }
.free { stroke: #777 }
.tick { stroke-width: 1.8 }
text { font-family: sans-serif }
.letters { font-weight: 700 }
.no-fingering { font-size: 26px; font-weight: 700; text-anchor: middle }
"""


class DrawnLine(Protocol):
    """A system with what stands under it, as `bench.systems.ScoreLine`."""

    svg: str
    width: float
    staff_height: float
    height: float
    view_box: str
    under: str


def drawing_file(line: DrawnLine, glyphs: str, symbols: str) -> str:
    """The file; `glyphs` and `symbols` are what the line points at."""
    staff = tag(
        "svg",
        line.svg,
        class_="staff",
        width=line.width,
        height=line.staff_height,
        viewBox=line.view_box,
        style="overflow: visible",
    )
    return tag(
        "svg",
        tag("style", STYLE),
        tag("defs", join([glyphs, symbols])),
        staff,
        line.under,
        xmlns="http://www.w3.org/2000/svg",
        width=line.width * LARGER,
        height=line.height * LARGER,
        viewBox=f"0 0 {line.width:g} {line.height:g}",
    )
