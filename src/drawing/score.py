"""What stands under a staff, as SVG: drawings to choose, the moves between them, drawings to print."""

from collections.abc import Sequence
from dataclasses import dataclass

from drawing.svg import join, tag

NO_FINGERING_DROP = 55
NODE_R, CHOSEN_R = 2.6, 4.2
# Room about a move that is to be pressed.
MOVE_TARGET = 24.0


@dataclass(frozen=True)
class Node:
    """A candidate in the lanes under a note: chosen, as good, near or far; in pixels."""

    y: float
    standing: str


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
    nodes: tuple[Node, ...] = ()
    drawn: bool = True


@dataclass(frozen=True)
class MoveMark:
    """The move from the chosen candidate of a note to that of the next in the same line.

    `query` is the address of what is said of it; empty where there is nothing to say.
    """

    x1: float
    y1: float
    x2: float
    y2: float
    level: str
    label: str
    note_id: str = ""
    query: str = ""


def choosable(notes: Sequence[UnderNote], moves: Sequence[MoveMark], height: float) -> str:
    """Moves and drawings of a line, as they stand on the bench."""
    between = [move_target(move) for move in moves if move.query]
    return join([*map(move_svg, moves), *(note_svg(note, height) for note in notes), *between])


def printed(notes: Sequence[UnderNote]) -> str:
    """Drawings of a line, as they stand on the sheet."""
    return join(map(drawing_svg, notes))


def drawing_svg(note: UnderNote) -> str:
    """The drawing alone, as it is printed; a question mark for a gap."""
    if not note.symbol:
        return tag("text", "?", class_="no-fingering", x=note.x, y=note.top + NO_FINGERING_DROP)
    size = {"x": note.left, "y": note.top, "width": note.width, "height": note.height}
    return tag("use", href=f"#{note.symbol}", **size)


def note_svg(note: UnderNote, line_height: float) -> str:
    """The drawing as a link that selects its note, with its candidates and marks for pinned and the like."""
    marks = {
        "selected": note.selected,
        "pinned": note.pinned,
        "changed": note.changed,
        "gap": not note.symbol,
    }
    parts = [
        tag("rect", class_="hit", x=note.left, y=0, width=note.width, height=line_height, rx=5),
        *([drawing_svg(note)] if note.drawn or not note.symbol else []),
    ]
    x, top = round(note.x, 1), round(note.top, 1)
    if note.foreign:
        parts.append(tag("path", class_="foreign", d=f"M{x - 9:g} {top - 2:g}h18"))
    if note.pinned:
        parts.append(tag("path", class_="pin", d=f"M{x:g} {top - 1:g}l-5 -8h10z"))
    parts += [node_svg(note.x, node) for node in note.nodes]
    if note.changed:
        at = next((node.y for node in note.nodes if node.standing == "chosen"), top + note.height)
        parts.append(tag("circle", class_="changed-mark", cx=x, cy=round(at, 1), r=6))
    return tag(
        "a",
        *parts,
        class_=" ".join(["slot", *(name for name, on in marks.items() if on)]),
        href=note.query,
        data_note=note.note_id,
        data_look="",
        aria_label=note.label,
        aria_current="true" if note.selected else None,
        tabindex=None if note.selected else "-1",
    )


def move_svg(move: MoveMark) -> str:
    """A stroke between two drawings, the stronger the harder the move."""
    stroke = f"M{move.x1:.1f} {move.y1:.1f}L{move.x2:.1f} {move.y2:.1f}"
    return tag("path", class_=f"link {move.level}", d=stroke)


def move_target(move: MoveMark) -> str:
    """What is pressed to look at a move: the room between two notes, about the stroke."""
    left, right = move.x1 + MOVE_TARGET / 2, move.x2 - MOVE_TARGET / 2
    if right - left < MOVE_TARGET:
        middle = (move.x1 + move.x2) / 2
        left, right = middle - MOVE_TARGET / 2, middle + MOVE_TARGET / 2
    low, high = sorted((move.y1, move.y2))
    return tag(
        "a",
        tag("title", move.label),
        tag(
            "rect",
            class_="hit",
            x=left,
            y=low - MOVE_TARGET / 2,
            width=right - left,
            height=high - low + MOVE_TARGET,
            rx=5,
        ),
        class_="between",
        href=move.query,
        data_note=move.note_id,
        data_look="",
        aria_label=move.label,
        tabindex="-1",
    )


def node_svg(x: float, node: Node) -> str:
    """A candidate in its lane; what it stands for is said by its shape."""
    if node.standing == "far":
        return tag("path", class_="node far", d=f"M{x - NODE_R:.1f} {node.y:.1f}h{2 * NODE_R:g}")
    radius = CHOSEN_R if node.standing == "chosen" else NODE_R
    return tag("circle", class_=f"node {node.standing}", cx=round(x, 1), cy=round(node.y, 1), r=radius)


def time_bar(needed_s: float, available_s: float, level: str) -> str:
    """The time that a move needs beside the time that there is; where that is without end, nearly empty."""
    whole = max(needed_s, available_s) if available_s < float("inf") else 20 * needed_s
    width = 100 * needed_s / whole if whole else 0.0
    end = 100 * min(available_s, whole) / whole if whole else 100.0
    return tag(
        "svg",
        tag("rect", class_="time-there", width=end, height=8),
        tag("rect", class_=f"time-needed {level}", y=2, width=width, height=4),
        class_="time-bar",
        viewBox="0 0 100 8",
        preserveAspectRatio="none",
        aria_hidden="true",
    )
