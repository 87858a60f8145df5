"""What stands under a staff, as SVG: drawings to choose, the links between them, drawings to print."""

from collections.abc import Sequence
from dataclasses import dataclass

from drawing.svg import join, tag

NO_FINGERING_DROP = 55


@dataclass(frozen=True)
class UnderNote:
    """A chosen fingering at its place under the staff, in pixels; all its width is to be pressed."""

    note_id: str
    x: float
    left: float
    top: float
    width: float
    height: float
    symbol: str
    label: str
    selected: bool
    pinned: bool
    changed: bool
    foreign: bool
    query: str
    keys: str | None = None


@dataclass(frozen=True)
class LinkMark:
    """The link to the next note of the same line."""

    x1: float
    x2: float
    y: float
    level: str
    label: str


def choosable(notes: Sequence[UnderNote], links: Sequence[LinkMark], height: float, link_y: float) -> str:
    """Links and drawings of a line, as they stand on the bench."""
    return join([*map(link_svg, links), *(note_svg(note, height, link_y) for note in notes)])


def printed(notes: Sequence[UnderNote]) -> str:
    """Drawings of a line, as they stand on the sheet."""
    return join(map(drawing_svg, notes))


def drawing_svg(note: UnderNote) -> str:
    """The drawing alone, as it is printed; a question mark for a gap."""
    if not note.symbol:
        return tag("text", "?", class_="no-fingering", x=note.x, y=note.top + NO_FINGERING_DROP)
    size = {"x": note.left, "y": note.top, "width": note.width, "height": note.height}
    return tag("use", href=f"#{note.symbol}", **size)


def note_svg(note: UnderNote, line_height: float, link_y: float) -> str:
    """The drawing as a link that selects its note, with marks for pinned, changed and foreign."""
    marks = {
        "selected": note.selected,
        "pinned": note.pinned,
        "changed": note.changed,
        "gap": not note.symbol,
    }
    parts = [
        tag("rect", class_="hit", x=note.left, y=0, width=note.width, height=line_height, rx=5),
        drawing_svg(note),
    ]
    x, top = round(note.x, 1), round(note.top, 1)
    if note.foreign:
        parts.append(tag("path", class_="foreign", d=f"M{x - 9:g} {top - 2:g}h18"))
    if note.pinned:
        parts.append(tag("path", class_="pin", d=f"M{x:g} {top - 1:g}l-5 -8h10z"))
    if note.changed:
        parts.append(tag("circle", class_="changed-mark", cx=x, cy=link_y, r=4))
    return tag(
        "a",
        *parts,
        class_=" ".join(["slot", *(name for name, on in marks.items() if on)]),
        href=note.query,
        data_note=note.note_id,
        data_look="",
        data_keys=note.keys,
        aria_label=note.label,
        aria_current="true" if note.selected else None,
        tabindex=None if note.selected else "-1",
    )


def link_svg(link: LinkMark) -> str:
    """A stroke between two drawings, the stronger the harder the move."""
    title = [tag("title", link.label)] if link.label else []
    stroke = f"M{link.x1:.1f} {link.y:.1f}H{link.x2:.1f}"
    return tag("path", *title, class_=f"link {link.level}", d=stroke)
