"""Attempts as CSV and JSON: lossless, and clear about what cannot be read."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PracticeError
from core.practice.attempt_format import Logged, read_attempts, write_csv, write_json
from core.practice.attempts import Attempt, Began, Place, Result


@st.composite
def logged(draw):
    result = draw(st.sampled_from(Result))
    made = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(seconds=draw(st.integers(0, 10**7)))
    attempt = Attempt(
        draw(st.integers(30, 110)),
        result,
        made.date().toordinal(),
        draw(st.sampled_from(Place)),
        draw(st.sampled_from(["", "Bb4-bis", "own-3, new; one"])),
        draw(st.none() | st.integers(30, 110)) if result is Result.CRACKED else None,
        draw(st.sampled_from(Began)),
        draw(st.booleans()),
    )
    return Logged(attempt, draw(st.uuids()), made, draw(st.none() | st.integers(1, 9)))


@given(st.lists(logged(), min_size=1, max_size=8))
def test_what_is_written_is_read_as_the_same(attempts):
    assert read_attempts(write_csv(attempts).encode()) == attempts
    assert read_attempts(write_json(attempts).encode()) == attempts


def test_a_table_of_three_columns_will_do_and_is_known_again():
    table = b"made;note;result\n2026-11-26T16:00:00+01:00;F#6;clean\n"
    (one,) = read_attempts(table)
    assert (one.attempt.midi, one.attempt.by_heart, one.setup) == (90, True, None)
    assert read_attempts(table) == [one]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "columns"),
        (b"made,note,result\n", "no attempt"),
        (b"when,note,result\nx,G6,clean", "made is missing"),
        (b"made,note,result\n2026-11-26,G6,clean", "attempt 1: made must have its zone"),
        (b"made,note,result\nnow,G6,clean", "attempt 1: made"),
        (b"made,note,result\n2026-11-26T10:00:00Z,H6,clean", "attempt 1: note"),
        (b"made,note,result\n2026-11-26T10:00:00Z,G6,great", "result must be one of clean"),
        (b'[{"made": "2026-11-26T10:00:00Z", "note": "G6", "result": "clean", "setup": 0}]', "setup"),
        (b'[{"made": "2026-11-26T10:00:00Z", "note": ["G6"], "result": "clean"}]', "note must be text"),
        (b'[{"made": "2026-11-26T10:00:00Z", "note": "G6", "result": "clean", "key": "x"}]', "UUID"),
        (b"[" * 100_000, "JSON"),
        (b'{"attempts": 5}', "list"),
        (b"\xff\xfe", "UTF-8"),
        (b"x" * 10_000_001, "10 MB"),
    ],
)
def test_what_cannot_be_read_is_said(data, said):
    with pytest.raises(PracticeError, match=said):
        read_attempts(data)
