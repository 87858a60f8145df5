"""XML documents and compressed MusicXML, opened with care."""

from __future__ import annotations

import io
import posixpath
import struct
import zipfile
import zlib
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from core.errors import NotationError

UNPACKED_LIMIT = 20_000_000
ENTRIES_LIMIT = 100
CONTAINER = "META-INF/container.xml"
# As MusicXML asks; the others are not bounded so easily.
UNPACKED = {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED}
# What unpacking a damaged or protected file may end in.
DAMAGED = (zipfile.BadZipFile, zlib.error, struct.error, OSError, ValueError, RuntimeError, EOFError)


def unpack_mxl(data: bytes) -> bytes:
    """Take the score out of a compressed MusicXML file.

    Parameters
    ----------
    data : bytes

    Returns
    -------
    bytes

    Raises
    ------
    NotationError
        If it is no such file, has too many or too large entries, or points outside itself.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if any(entry.compress_type not in UNPACKED for entry in archive.infolist()):
                raise NotationError(
                    "the .mxl file is packed in an unusual way; export it again, or export plain .musicxml"
                )
            if len(archive.infolist()) > ENTRIES_LIMIT:
                raise NotationError(f"the .mxl file must have at most {ENTRIES_LIMIT} entries")
            root = _root(archive)
            if not root or root.startswith(("/", "\\")) or ".." in posixpath.normpath(root).split("/"):
                raise NotationError("the .mxl file does not say which of its entries is the score")
            return _entry(archive, root)
    except NotationError:
        raise
    except DAMAGED as error:
        raise NotationError(
            "the .mxl file is damaged or protected; export it again, or export plain .musicxml"
        ) from error


def _root(archive: zipfile.ZipFile) -> str:
    """Name of the score: as the container says, or the one score that lies in it."""
    names = archive.namelist()
    if CONTAINER in names:
        container = parse_xml(_entry(archive, CONTAINER))
        return next((e.get("full-path", "") for e in container.iter() if tag(e) == "rootfile"), "")
    scores = [
        name for name in names if name.endswith((".xml", ".musicxml")) and not name.startswith("META-INF/")
    ]
    return scores[0] if len(scores) == 1 else ""


def _entry(archive: zipfile.ZipFile, name: str) -> bytes:
    try:
        with archive.open(name) as entry:
            content = entry.read(UNPACKED_LIMIT + 1)
    except KeyError as error:
        raise NotationError(f"the .mxl file has no entry {name!r}; export it again") from error
    if len(content) > UNPACKED_LIMIT:
        raise NotationError(f"the score must unpack to at most {UNPACKED_LIMIT // 1_000_000} MB")
    return content


def parse_xml(data: bytes) -> Element:
    """Parse a document; entities are refused, whatever they stand for.

    Parameters
    ----------
    data : bytes

    Returns
    -------
    Element

    Raises
    ------
    NotationError
        If it is not whole XML, defines entities, or its encoding cannot be read.
    """
    try:
        root: Element = fromstring(data)
        return root
    except DefusedXmlException as error:
        raise NotationError("the file defines XML entities, which a score does not need; not read") from error
    except ParseError as error:
        line, column = error.position
        raise NotationError(
            f"the file is not whole XML: it breaks off or is damaged at line {line}, column {column}"
        ) from error
    except (ValueError, LookupError) as error:
        raise NotationError(f"the file's text encoding cannot be read: {error}") from error


def tag(element: Element) -> str:
    """Name of an element without its namespace.

    Parameters
    ----------
    element : Element

    Returns
    -------
    str
    """
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""
