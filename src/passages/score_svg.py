"""What stands under a staff, as SVG: drawings to choose, the links between them, drawings to print."""

from dataclasses import dataclass
from html import escape

NO_FINGERING_DROP = 55


@dataclass(frozen=True)
class Slot:
    """A chosen fingering at its place under the staff, in pixels."""

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


@dataclass(frozen=True)
class LinkMark:
    """The link to the next note of the same line."""

    x1: float
    x2: float
    y: float
    level: str
    label: str


def drawing_svg(slot: Slot) -> str:
    """The drawing alone, as it is printed; a question mark for a gap."""
    if not slot.symbol:
        y = slot.top + NO_FINGERING_DROP
        return f'<text class="no-fingering" x="{slot.x:.1f}" y="{y:.1f}">?</text>'
    return (
        f'<use href="#{escape(slot.symbol)}" x="{slot.left:.1f}" y="{slot.top:.1f}" '
        f'width="{slot.width:.1f}" height="{slot.height:.1f}"/>'
    )


def slot_svg(slot: Slot, line_height: float, link_y: float) -> str:
    """The drawing as a link that selects its note, with marks for pinned, changed and foreign."""
    marks = {
        "selected": slot.selected,
        "pinned": slot.pinned,
        "changed": slot.changed,
        "gap": not slot.symbol,
    }
    names = " ".join(["slot", *(name for name, on in marks.items() if on)])
    here = 'aria-current="true"' if slot.selected else 'tabindex="-1"'
    parts = [
        f'<a class="{names}" href="{escape(slot.query)}" data-note="{escape(slot.note_id)}" '
        f'aria-label="{escape(slot.label)}" {here}><rect class="hit" x="{slot.left:.1f}" y="0" '
        f'width="{slot.width:.1f}" height="{line_height:.1f}" rx="5"/>{drawing_svg(slot)}'
    ]
    if slot.foreign:
        y = slot.top - 2
        parts.append(f'<path class="foreign" d="M{slot.x - 9:.1f} {y:.1f}h18"/>')
    if slot.pinned:
        parts.append(f'<path class="pin" d="M{slot.x:.1f} {slot.top - 1:.1f}l-5 -8h10z"/>')
    if slot.changed:
        parts.append(f'<circle class="changed-mark" cx="{slot.x:.1f}" cy="{link_y:.1f}" r="4"/>')
    return "".join(parts) + "</a>"


def link_svg(link: LinkMark) -> str:
    """A stroke between two drawings, the stronger the harder the move."""
    title = f"<title>{escape(link.label)}</title>" if link.label else ""
    return f'<path class="link {link.level}" d="M{link.x1:.1f} {link.y:.1f}H{link.x2:.1f}">{title}</path>'
