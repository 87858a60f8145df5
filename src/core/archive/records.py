"""Records: the things of a studio and which names which, without numbers of a database."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from core.archive.document import read_document, strict_json, write_document
from core.errors import ArchiveError

FORM, VERSION = "records", 1


@dataclass(frozen=True)
class Record:
    """One thing.

    Parameters
    ----------
    kind : str
        What it is, in a word: ``student``.
    name : str
        By which others of the same document name it: ``student-1``.
    fields : mapping of str to Any
        What JSON can say.
    refs : mapping of str to str or None
        Fields that name others.
    """

    kind: str
    name: str
    fields: Mapping[str, Any]
    refs: Mapping[str, str | None]


def write_records(records: Iterable[Record]) -> str:
    """A document of records.

    Parameters
    ----------
    records : iterable of Record

    Returns
    -------
    str
    """
    return write_document(FORM, VERSION, {"records": [vars(record) for record in records]})


def read_records(text: str, known: Collection[str] = ()) -> list[Record]:
    """The records of a document, in its order.

    Parameters
    ----------
    text : str
    known : collection of str
        Names of things outside that records may name.

    Returns
    -------
    list of Record

    Raises
    ------
    ArchiveError
        If it is none, a name stands twice, or one is named that is not there.
    """
    _, body = read_document(strict_json(text), FORM, VERSION)
    rows = body.get("records")
    if not isinstance(rows, list):
        raise ArchiveError("it must hold a list of records")
    found = [_record(row, number) for number, row in enumerate(rows, start=1)]
    names = {record.name for record in found}
    if len(names) < len(found):
        raise ArchiveError("two records have one name")
    names.update(known)
    for record in found:
        if missing := {ref for ref in record.refs.values() if ref is not None} - names:
            raise ArchiveError(f"{record.name[:40]} names {min(missing)[:40]}, which is not there")
    return found


def _record(row: Any, number: int) -> Record:
    is_one = isinstance(row, dict) and {"kind", "name", "fields", "refs"} <= row.keys()
    if (
        not is_one
        or not all(isinstance(row[part], str) for part in ("kind", "name"))
        or not all(isinstance(row[part], dict) for part in ("fields", "refs"))
        or not all(ref is None or isinstance(ref, str) for ref in row["refs"].values())
    ):
        raise ArchiveError(f"record {number} is none: it needs kind, name, fields and refs")
    return Record(row["kind"], row["name"], row["fields"], row["refs"])
