"""Documents of records come back as they were, and say what is wrong with them where they do not."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.archive.document import write_document
from core.archive.records import Record, read_records, write_records
from core.errors import ArchiveError

texts = st.text(st.characters(exclude_categories=["Cs"]))
plain = st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | texts
values = st.recursive(plain, lambda inside: st.lists(inside) | st.dictionaries(texts, inside), max_leaves=8)


@st.composite
def records(draw):
    """Some things that name one another, themselves, or two that stand outside."""
    names = draw(st.lists(texts, unique=True, max_size=5))
    refs = st.dictionaries(texts, st.none() | st.sampled_from([*names, "out", "side"]), max_size=3)
    return [
        Record(draw(texts), name, draw(st.dictionaries(texts, values, max_size=3)), draw(refs))
        for name in names
    ]


@given(records())
def test_records_are_equal_after_out_and_in(given_records):
    assert read_records(write_records(given_records), ["out", "side"]) == given_records


@pytest.mark.parametrize("value", [float("nan"), float("inf"), {1, 2}, b"x"])
def test_what_a_document_cannot_hold_is_not_written(value):
    with pytest.raises(ArchiveError, match="cannot stand"):
        write_document("x", 1, {"value": value})


def told(*rows, **head):
    return json.dumps({"form": "records", "version": 1, "records": list(rows)} | head)


ONE = {"kind": "student", "name": "a", "fields": {}, "refs": {}}


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "no whole JSON at line 1, sign 1"),
        ('{"form": "records",\n "version": 1, "records": [}', "no whole JSON at line 2"),
        ("9" * 5_000, "no JSON that can be read"),
        ('{"form": "records", "version": 1, "records": [NaN]}', "NaN is no number"),
        ('{"form": "records", "form": "records"}', "“form” stands twice"),
        ("[]", "no document of records"),
        (told(form="attempts"), "no document of records"),
        (told(version=2), "version 2 of records; up to version 1"),
        (told(version=True), "version True"),
        (told(version=0), "version 0"),
        (told(records={}), "list of records"),
        (told(ONE, "b"), "record 2 is none"),
        (told({**ONE, "name": 3}), "record 1 is none"),
        (told({**ONE, "refs": {"teacher": 3}}), "record 1 is none"),
        (told({"kind": "student", "name": "a", "fields": {}}), "record 1 is none"),
        (told(ONE, ONE), "two records have one name"),
        (told({**ONE, "refs": {"of": "b"}}), "a names b, which is not there"),
    ],
)
def test_what_cannot_be_read_is_said(text, said):
    with pytest.raises(ArchiveError, match=said):
        read_records(text, ["c"])
