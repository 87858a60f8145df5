"""A MusicXML document taken apart: its title, its parts, the bars of each; by part or by time.

References
----------
W3C Music Notation Community Group, MusicXML 4.0.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from xml.etree.ElementTree import Element

from core.errors import NotationError
from core.music.notation.mxl import parse_xml, tag

TITLE_LIMIT, NAME_LIMIT = 200, 60
PARTS_LIMIT = 400


@dataclass
class Part:
    """One part: its key, its name, and its bars in order."""

    key: str
    name: str
    measures: list[Element] = field(default_factory=list)

    @cached_property
    def notes(self) -> int:
        """Heads of notes with a pitch."""
        return sum(1 for measure in self.measures for _ in measure.iterfind("note/pitch"))


@dataclass(frozen=True)
class Document:
    """What a document says as a whole."""

    title: str
    composer: str
    concert: bool
    parts: tuple[Part, ...]


def read_document(data: bytes) -> Document:
    """Take a document apart.

    Parameters
    ----------
    data : bytes

    Returns
    -------
    Document

    Raises
    ------
    NotationError
        If it is no MusicXML, or has more parts than a score has.
    """
    root = parse_xml(data)
    parts: dict[str, Part] = {}
    names = {one.get("id", ""): _name(one) for one in root.iterfind("part-list/score-part")}
    for key in names:
        parts[key] = Part(key, names[key])
    match tag(root):
        case "score-partwise":
            for element in root.iterfind("part"):
                _part(parts, element).measures += element.findall("measure")
        case "score-timewise":
            _by_time(root, parts)
        case other:
            raise NotationError(f"the file must be MusicXML, got <{other[:40]}>")
    if len(parts) > PARTS_LIMIT:
        raise NotationError(f"a score must have at most {PARTS_LIMIT} parts, got {len(parts):,}")
    title = root.findtext("work/work-title") or root.findtext("movement-title") or _credit(root)
    composers = [
        one.text or "" for one in root.iterfind("identification/creator") if one.get("type") == "composer"
    ]
    return Document(
        title=_plain(title)[:TITLE_LIMIT],
        composer=_plain(composers[0] if composers else "")[:TITLE_LIMIT],
        concert=root.find("defaults/concert-score") is not None,
        parts=tuple(part for part in parts.values() if part.measures),
    )


def _part(parts: dict[str, Part], element: Element) -> Part:
    key = element.get("id", "")
    return parts.setdefault(key, Part(key, ""))


def _by_time(root: Element, parts: dict[str, Part]) -> None:
    """A score by time: every bar holds all parts; turned round."""
    for measure in root.iterfind("measure"):
        for element in measure.iterfind("part"):
            turned = Element("measure", measure.attrib)
            turned.extend(list(element))
            _part(parts, element).measures.append(turned)


def _name(score_part: Element) -> str:
    for path in ("part-name", "part-name-display/display-text", "score-instrument/instrument-name"):
        if name := _plain(score_part.findtext(path) or ""):
            return name[:NAME_LIMIT]
    return ""


def _credit(root: Element) -> str:
    """What stands as the title on the first page, where nothing else says one."""
    for credit in root.iterfind("credit"):
        if (credit.findtext("credit-type") or "").strip() == "title":
            return credit.findtext("credit-words") or ""
    return ""


def _plain(text: str) -> str:
    return " ".join(text.split())
