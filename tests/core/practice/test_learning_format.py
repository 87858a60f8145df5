"""What is known of a student goes to bytes and back, and the next attempt goes on from it as before."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PracticeError
from core.practice.attempts import Attempt, Place, Result
from core.practice.learning import after, begin
from core.practice.learning_format import from_bytes, to_bytes

attempts = st.lists(
    st.builds(
        lambda midi, result, place, fingering: Attempt(midi, result, 739_000, place, fingering),
        st.integers(60, 90),
        st.sampled_from([Result.CLEAN, Result.SILENT]),
        st.sampled_from(list(Place)),
        st.sampled_from(["", "a", "b", "c"]),
    ),
    max_size=30,
)


@given(attempts, attempts)
def test_a_state_goes_on_after_its_bytes_as_before(some, more):
    learning = after(begin(60, 90, 80), some)
    again = from_bytes(to_bytes(learning))
    expected, found = after(learning, more), after(again, more)
    assert np.array_equal(found.mean, expected.mean)
    assert np.array_equal(found.cov, expected.cov)
    assert (found.first, found.others, found.day, found.today) == (
        expected.first,
        expected.others,
        expected.day,
        expected.today,
    )


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"x" * 50, to_bytes(begin(60, 90, 80))[:-40]])
def test_what_is_torn_is_said(data):
    with pytest.raises(PracticeError):
        from_bytes(data)
