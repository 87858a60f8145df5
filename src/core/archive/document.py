"""Documents: JSON whose head says what it is and by which version of its form, read strictly.

JSON as RFC 8259 has it, in the narrower profile of I-JSON (RFC 7493): no name twice in one object, no number
that is none, no half of a surrogate pair. Nothing in a document is a number of some database.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from typing import Any

from core.errors import ArchiveError

FORM, VERSION = "form", "version"


def write_document(form: str, version: int, body: Mapping[str, Any]) -> str:
    """A document.

    Parameters
    ----------
    form : str
        What it is, in a word.
    version : int, from 1
        Of its form.
    body : mapping of str to Any
        What JSON can say, beside the head.

    Returns
    -------
    str

    Raises
    ------
    ArchiveError
        If it holds what a document cannot.
    """
    try:
        return json.dumps(
            {FORM: form, VERSION: version, **body}, ensure_ascii=False, allow_nan=False, indent=1
        )
    except (ValueError, TypeError) as error:
        raise ArchiveError(f"this cannot stand in a document: {error}") from error


def read_document(data: Any, form: str, newest: int) -> tuple[int, dict[str, Any]]:
    """Version and body of a document.

    Parameters
    ----------
    data : Any
        As `strict_json` gives it.
    form : str
        What is wanted.
    newest : int
        Newest version that is known.

    Returns
    -------
    tuple of (int, dict)
        The body has the head, too.

    Raises
    ------
    ArchiveError
        If it is no such document, or a newer one.
    """
    if not isinstance(data, dict) or data.get(FORM) != form:
        raise ArchiveError(f"this is no document of {form}")
    version = data.get(VERSION)
    if type(version) is not int or not 1 <= version <= newest:
        raise ArchiveError(
            f"this is version {str(version)[:10]} of {form}; up to version {newest} can be read here"
        )
    return version, data


def strict_json(text: str) -> Any:
    """What JSON says.

    Parameters
    ----------
    text : str
        Its size is the caller's to bound.

    Returns
    -------
    Any
        Of None, bool, int, float, str, list, dict.

    Raises
    ------
    ArchiveError
        If it is none that can be read; it says why.
    """
    try:
        found = json.loads(text, object_pairs_hook=_each_once, parse_constant=_no_number)
        json.dumps(found, ensure_ascii=False).encode()
    except UnicodeEncodeError as error:
        raise ArchiveError("it has half a sign where a whole one must be") from error
    except ArchiveError:
        raise
    except json.JSONDecodeError as error:
        raise ArchiveError(
            f"it is no whole JSON at line {error.lineno}, sign {error.colno}: {error.msg}"
        ) from error
    except (ValueError, RecursionError) as error:  # a number of thousands of digits, lists in lists in lists
        raise ArchiveError("it is no JSON that can be read") from error
    return found


def _each_once(pairs: Iterable[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in pairs:
        if name in found:
            raise ArchiveError(f"“{name[:40]}” stands twice where it can stand once")
        found[name] = value
    return found


def _no_number(text: str) -> float:
    raise ArchiveError(f"{text} is no number")
