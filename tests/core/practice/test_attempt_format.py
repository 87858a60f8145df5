"""Attempts as CSV and JSON: lossless, and clear about what cannot be read."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PracticeError
from core.practice.attempt_format import Logged, Whence, read_attempts, write_csv, write_json
from core.practice.attempts import Attempt, Began, By, Place, Result, Spot, SpotNote, sounded

steps = st.builds(
    SpotNote, st.integers(30, 110), st.sampled_from(["", "Bb4-bis", "own-3"]), st.floats(0.01, 64, width=64)
)
spots = st.builds(
    Spot,
    st.lists(steps, min_size=2, max_size=6).map(tuple),
    st.none(),
    st.integers(0, 900),
)


@st.composite
def logged(draw):
    result, spot = draw(st.sampled_from(Result)), draw(st.none() | spots)
    at = draw(st.integers(0, len(spot.steps) - 1)) if spot else 0
    midi, fingering = draw(st.integers(30, 110)), draw(st.sampled_from(["", "Bb4-bis", "own-3, new; one"]))
    if spot:
        midi, fingering = spot.steps[at].midi, spot.steps[at].fingering
    made = datetime(2026, 1, 1, tzinfo=UTC) + timedelta(seconds=draw(st.integers(0, 10**7)))
    attempt = Attempt(
        midi,
        result,
        made.date().toordinal(),
        draw(st.sampled_from(Place)),
        fingering,
        draw(st.none() | st.integers(30, 110)) if result is Result.CRACKED else None,
        draw(st.sampled_from(Began)),
        draw(st.booleans()),
        spot,
        at,
        draw(st.none() | st.integers(20, 400)),
        draw(st.sampled_from(By)),
    )
    beats = st.builds(str, st.fractions(1, 12, max_denominator=16))
    whences = st.builds(Whence, st.sampled_from(["Weir; & Sluice", "x"]), st.integers(0, 99), beats)
    whence = draw(st.none() | whences) if spot else None
    instrument = draw(st.sampled_from(["", "oboe"]))
    return Logged(attempt, draw(st.uuids()), made, draw(st.none() | st.integers(1, 9)), instrument, whence)


@given(st.lists(logged(), min_size=1, max_size=8))
def test_what_is_written_is_read_as_the_same(attempts):
    assert read_attempts(write_csv(attempts).encode()) == attempts
    assert read_attempts(write_json(attempts).encode()) == attempts


def test_a_table_of_three_columns_will_do_and_is_known_again():
    table = b"made;note;result\n2026-11-26T16:00:00+01:00;F#6;clean\n"
    (one,) = read_attempts(table)
    assert (one.attempt.midi, one.attempt.by_heart, one.setup) == (90, True, None)
    assert read_attempts(table) == [one]


def test_files_of_earlier_versions_are_read_as_they_were():
    row = '{"made": "2026-11-26T16:00:00+01:00", "note": "F#6", "result": "clean"}'
    bare, second, third = (
        read_attempts(text.encode())
        for text in (
            f"[{row}]",
            f'{{"version": 2, "attempts": [{row}]}}',
            f'{{"form": "attempts", "version": 3, "attempts": [{row}]}}',
        )
    )
    assert bare == second == third
    assert bare[0].attempt.midi == 90


def test_of_a_spot_the_note_may_be_told_by_its_number():
    table = b"made,result,note,spot,at\n2026-11-26T16:00:00Z,stumbled,,G5:0:g A5:0.5:a C6:1:c,2\n"
    (one,) = read_attempts(table)
    assert (one.attempt.midi, one.attempt.fingering, one.attempt.at) == (81, "a", 1)
    assert not one.attempt.tells_of_note


def test_what_comes_after_a_miss_was_not_played():
    steps = (SpotNote(79, "", 0), SpotNote(81, "", 0.5), SpotNote(84, "", 0.5))
    assert list(sounded(steps, 1, Result.CRACKED)) == [(0, Result.CLEAN), (1, Result.CRACKED)]
    assert [place for place, _ in sounded(steps, 1, Result.CLEAN)] == [0, 1, 2]


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
        (b'[{"made": "2026-11-26T10:00:00Z", "note": "G6", "result": "clean", "bpm": 5}]', "tempo"),
        (b"made,note,result,spot\n2026-11-26T10:00:00Z,G5,late,G5", "must read like"),
        (b"made,note,result,spot\n2026-11-26T10:00:00Z,G5,late,G5:0:g", "from 2 to 64"),
        (b"made,note,result,spot\n2026-11-26T10:00:00Z,G5,late,G5:0:g A5:nan:a", "quarters"),
        (b"made,note,result,spot\n2026-11-26T10:00:00Z,G5,late,G5:0:g A5:0:a", "comes after"),
        (b"made,note,result,spot,at\n2026-11-26T10:00:00Z,,late,G5:0:g A5:1:a,3", "at must be"),
        (b"made,note,result,spot\n2026-11-26T10:00:00Z,C5,late,G5:0:g A5:1:a", "one of its notes"),
        (b"made,note,result,spot\n2026-11-26T10:00:00Z,G5,late," + b"G5:0:g " * 9000, "at most"),
        (b"made,note,result,title,beat\n2026-11-26T10:00:00Z,G5,late,Weir,two", "beat"),
        (b"[" * 100_000, "JSON"),
        (b'[{"made": "2026-11-26T10:00:00Z", "made": "2026-11-27T10:00:00Z"}]', "stands twice"),
        (b'[{"made": "2026-11-26T10:00:00Z", "note": "\\ud800"}]', "half a sign"),
        (b'{"form": "records", "version": 1, "attempts": []}', "no document of attempts"),
        (b'{"form": "attempts", "version": 9, "attempts": []}', "version 9 of attempts; up to version 3"),
        (b'{"attempts": 5}', "list"),
        (b"\xff\xfe", "UTF-8"),
        (b"x" * 10_000_001, "10 MB"),
    ],
)
def test_what_cannot_be_read_is_said(data, said):
    with pytest.raises(PracticeError, match=said):
        read_attempts(data)
