"""Engrave a passage with Verovio: one drawing for each system, and where every note stands in it.

Only MusicXML of our own writing is handed to the engraver, never an upload.
"""

import math
import os
import re
import sys
import threading
from collections.abc import Iterable
from dataclasses import dataclass, replace
from xml.etree import ElementTree as ET

import verovio
from cachetools import LRUCache, cached
from cachetools.keys import hashkey

from core.music.notation.musicxml_writer import write_musicxml
from core.music.ossia import small_staff, with_ossia
from core.music.passage import Passage
from core.music.pitch import Interval
from drawing.ossia import put_together
from drawing.svg import engraved

SVG = "{http://www.w3.org/2000/svg}"
SCALE = 40  # percent; ten engraver's units make a pixel at 100
UNITS_PER_PX = 1000 / SCALE
# Under every note stands a word as wide as a hands drawing; it spaces the notes and is taken out.
SPACER_PX = 9.4
NOTEHEAD_UNITS, MARGIN_UNITS = 110, 100
# So much memory engravings may take that are kept; of a note's place about so much.
KEPT_BYTES, NOTE_BYTES = 40_000_000, 200

OPTIONS = {
    "pageHeight": 100,
    "adjustPageHeight": True,
    "scale": SCALE,
    "header": "none",
    "footer": "none",
    "breaks": "auto",
    "svgViewBox": True,
    "svgRemoveXlink": True,
    "xmlIdChecksum": True,
    "smuflTextFont": "none",
    "lyricSize": 3.2,
    "pageMarginLeft": 10,
    "pageMarginRight": 10,
    "pageMarginTop": 20,
    "pageMarginBottom": 0,
    "staffLineWidth": 0.22,
    "barLineWidth": 0.4,
    "octaveAlternativeSymbols": True,
}

_local = threading.local()  # the engraver's resource path is set for each thread


@dataclass(frozen=True)
class System:
    """One line of music.

    Parameters
    ----------
    width, height : float
        Size in pixels.
    svg : str
        Inner SVG in engraver's units.
    notes : dict of note id to pixels from the left, at the middle of the notehead
    """

    width: float
    height: float
    units_width: float
    units_height: float
    svg: str
    notes: dict[str, float]


@dataclass(frozen=True)
class Engraving:
    """All systems, with the glyphs that they share, by id."""

    glyphs: dict[str, str]
    systems: tuple[System, ...]


def shared_glyphs(engravings: Iterable[Engraving]) -> str:
    """Glyphs of several engravings on one page, each once."""
    found: dict[str, str] = {}
    for engraving in engravings:
        found |= engraving.glyphs
    return engraved("".join(found.values()))


def _bytes_of(engraving: Engraving) -> int:
    """How much memory an engraving takes, about."""
    texts = [*engraving.glyphs.values(), *(system.svg for system in engraving.systems)]
    return sum(map(sys.getsizeof, texts)) + NOTE_BYTES * sum(
        len(system.notes) for system in engraving.systems
    )


# What was set last, by how much memory it takes.
kept: LRUCache = LRUCache(KEPT_BYTES, getsizeof=_bytes_of)
kept_lock = threading.RLock()


@cached(kept, key=hashkey, lock=kept_lock)
def engrave(
    passage: Passage,
    width_px: int,
    clefs: tuple[str, ...] = ("treble",),
    drawing_px: float = 0.0,
    most: int | None = None,
) -> Engraving:
    """Engrave a passage in systems of a given width; the same question is answered from memory.

    Parameters
    ----------
    clefs : tuple of str
        Clefs of the instrument, the usual one first.
    drawing_px : float
        Room to leave under every note for its hands drawing.
    most : int, optional
        So many systems are wanted, from the first on; all by default.
    """
    spacer = "M" * math.ceil(drawing_px / SPACER_PX)

    def plain_note(note):
        return replace(note, tempo_bpm=None, fingering="", lyric="" if note.is_rest else spacer)

    bars = tuple(replace(bar, notes=tuple(map(plain_note, bar.notes))) for bar in passage.bars)
    above = small_staff(Passage(bars))
    written = with_ossia(Passage(bars), {})
    toolkit = _toolkit()
    toolkit.setOptions({**OPTIONS, "pageWidth": round(width_px * 100 / SCALE)})
    _load(toolkit, write_musicxml(written, Interval(0, 0), "", clefs))
    if above:
        whole = toolkit.getMEI()
        played = Passage(tuple(above.get(place, bar) for place, bar in enumerate(written.bars)))
        _load(toolkit, write_musicxml(played, Interval(0, 0), "", clefs))
        _load(toolkit, put_together(whole, toolkit.getMEI(), set(above)))
    glyphs: dict[str, str] = {}
    wanted = range(1, toolkit.getPageCount() + 1)[:most]
    return Engraving(glyphs, tuple(_system(toolkit.renderToSVG(page), glyphs) for page in wanted))


def _load(toolkit, score: str) -> None:
    if not toolkit.loadData(score):
        raise RuntimeError("the engraver refused a passage of our own writing")


def _toolkit():
    if not hasattr(_local, "toolkit"):
        verovio.enableLog(verovio.LOG_OFF)
        _local.toolkit = verovio.toolkit(False)
        _local.toolkit.setResourcePath(os.path.join(os.path.dirname(verovio.__file__), "data"))  # noqa: PTH118, PTH120
    return _local.toolkit


def _system(text: str, glyphs: dict[str, str]) -> System:
    ET.register_namespace("", "http://www.w3.org/2000/svg")
    root = ET.fromstring(text)  # noqa: S314 -- written by the engraver just now
    inner = root.find(f"{SVG}svg")
    for glyph in root.iterfind(f"{SVG}defs/*"):
        glyphs.setdefault(glyph.get("id"), _text(glyph))
    notes = {}
    for note in inner.iterfind(f".//{SVG}g[@class='note']"):
        use = note.find(f"{SVG}g[@class='notehead']/{SVG}use")
        x = re.match(r"translate\((-?[\d.]+)", use.get("transform"))
        notes[note.get("id")] = (float(x[1]) + MARGIN_UNITS + NOTEHEAD_UNITS) / UNITS_PER_PX
    _end_ottavas(inner, [UNITS_PER_PX * x - MARGIN_UNITS + NOTEHEAD_UNITS for x in notes.values()])
    _tidy(inner)
    _, _, width, height = map(float, inner.get("viewBox").split())
    body = "".join(_text(child) for child in inner)
    return System(width / UNITS_PER_PX, height / UNITS_PER_PX, width, height, engraved(body), notes)


def _end_ottavas(inner, edges):
    """End each 8va at its last note: the engraver draws it on over the room left for the hands.

    `edges` are the right edges of noteheads, in engraver's units.
    """
    for sign in inner.iterfind(f".//{SVG}g[@class='octave']"):
        line, hook = sign.find(f"{SVG}path"), sign.find(f"{SVG}polyline")
        if line is None or hook is None:  # it goes on in the next system
            continue
        start, end = map(float, re.findall(r"[ML](-?[\d.]+)", line.get("d")))
        wanted = max((x for x in edges if x < end), default=end)
        line.set("d", re.sub(r"L-?[\d.]+", f"L{max(wanted, start):g}", line.get("d")))
        back = end - max(wanted, start)
        points = [tuple(map(float, pair.split(","))) for pair in hook.get("points").split()]
        hook.set("points", " ".join(f"{x - back:g},{y:g}" for x, y in points))


def _tidy(element):
    """Take out spacers and empty groups; keep ids of notes only, so that none stands twice on a page."""
    for child in list(element):
        if child.get("class") in ("verse", "labelAttr") or child.tag in (
            f"{SVG}style",
            f"{SVG}desc",
            f"{SVG}title",
        ):
            element.remove(child)
            continue
        if child.get("class") == "note":
            child.set("data-note", child.attrib.pop("id"))
        else:
            child.attrib.pop("id", None)
        _tidy(child)
        if child.tag == f"{SVG}g" and not len(child):
            element.remove(child)


def _text(element) -> str:
    element.tail = None
    return re.sub(r'\s*xmlns(:\w+)?="[^"]*"|\n\s*', "", ET.tostring(element, encoding="unicode"))
