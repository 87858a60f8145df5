"""The routine of a day: its laws."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PracticeError
from core.music.scale import keys_with
from core.practice.routine import HIGH_AT_ONCE, Due, Sort, long_tones, routine

dues = st.builds(
    lambda low, down, up, new, high, overtones, moves, passage: Due(
        low, low + down, low + down + up, new and low + down + up + 1, high, overtones, moves, passage
    ),
    st.integers(40, 60),
    st.integers(0, 20),
    st.integers(0, 30),
    st.booleans() | st.none(),
    st.integers(60, 100),
    st.booleans(),
    st.booleans(),
    st.booleans(),
)


@given(dues, st.integers(10, 120), st.integers(0, 40), st.integers(700_000, 800_000))
def test_a_day_adds_up_keeps_the_cap_and_rests_after_high_notes(due, minutes, cap, day):
    blocks = routine(due, minutes, cap, day)
    assert sum(block.minutes for block in blocks) == minutes
    assert all(block.minutes > 0 for block in blocks)
    # what is high is reckoned here anew: overtones always, a new note from where notes are high
    new_is_high = due.new_note and due.new_note >= due.high_from
    asks = {Sort.OVERTONES, *([Sort.NEW_NOTE] if new_is_high else [])}
    assert sum(block.minutes for block in blocks if block.sort in asks) <= cap
    assert all(block.minutes <= HIGH_AT_ONCE for block in blocks if block.sort in asks)
    assert {block.sort for block in blocks if block.high} == {
        block.sort for block in blocks if block.sort in asks
    }
    after = {blocks[n + 1].sort for n, block in enumerate(blocks) if block.high}
    assert after <= {Sort.REST}
    assert routine(due, minutes, cap, day) == blocks


@pytest.mark.parametrize("minutes", [10, 11, 12, 15])
@pytest.mark.parametrize("cap", range(0, 13, 2))
def test_a_short_day_leaves_no_block_without_a_minute(minutes, cap):
    for moves, passage in itertools.product((False, True), repeat=2):
        blocks = routine(Due(50, 65, 85, 90, 80, True, moves, passage), minutes, cap, 7)
        assert sum(block.minutes for block in blocks) == minutes
        assert all(block.minutes >= 1 for block in blocks)
        assert Sort.LONG_TONES in {block.sort for block in blocks}


@given(dues, st.integers(1, 60))
def test_long_tones_go_from_the_middle_down_then_up_to_the_last_that_speaks(due, minutes):
    notes = long_tones(due, minutes)
    lowest = notes.index(min(notes))
    assert notes[0] == due.middle
    assert list(notes[: lowest + 1]) == sorted(set(notes[: lowest + 1]), reverse=True)
    assert list(notes[lowest + 1 :]) == sorted(set(notes[lowest + 1 :]))
    assert max(notes) == due.top
    assert due.low <= min(notes)


@given(st.integers(0, 127))
def test_a_note_lies_in_seven_keys_and_the_simplest_comes_first(midi):
    keys = keys_with(midi)
    assert len(keys) == 7
    assert [abs(fifths) for fifths in keys] == sorted(abs(fifths) for fifths in keys)
    scales = {
        fifths: {(7 * fifths + step) % 12 for step in (0, 2, 4, 5, 7, 9, 11)} for fifths in range(-5, 7)
    }
    assert set(keys) == {fifths for fifths, scale in scales.items() if midi % 12 in scale}


def test_what_is_not_due_is_left_out_and_the_key_turns_with_the_day():
    due = Due(58, 71, 84, 90, 86, overtones=False, moves=False, passage=False)
    day = routine(due, 30, 8, 739_000)
    assert {block.sort for block in day} == {Sort.LONG_TONES, Sort.ALONE, Sort.NEW_NOTE, Sort.REST}
    keys = {b.fifths for n in range(5) for b in routine(due, 30, 8, 739_000 + n) if b.fifths is not None}
    assert keys == {1, 2, 3, 4, 5}
    for minutes, high in ((9, 5), (121, 5), (30, -1)):
        with pytest.raises(PracticeError):
            routine(due, minutes, high, 739_000)
