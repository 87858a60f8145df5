"""What attempts tell of notes: laws of the filter, and one result against a sum done otherwise."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PracticeError
from core.practice.attempts import Attempt, Place, Result
from core.practice.learning import HOLDS_LOG_ODDS, after, begin, chance_of, lost_in, on_day

LOW, HIGH, GUESS = 58, 96, 80
notes = st.integers(LOW, HIGH)
places = st.sampled_from(Place)


def attempt(midi, clean=True, day=1, **more):
    return Attempt(midi, Result.CLEAN if clean else Result.CRACKED, day, **more)


@st.composite
def logs(draw, size=25):
    days = sorted(draw(st.lists(st.integers(1, 60), max_size=size)))
    return [
        attempt(draw(notes), draw(st.booleans()), day, place=draw(places), by_heart=draw(st.booleans()))
        for day in days
    ]


@given(logs(), notes, places)
def test_a_hit_never_lowers_its_note_and_a_miss_raises_it_by_no_more_than_is_learned(log, midi, place):
    before = on_day(after(begin(LOW, HIGH, GUESS), log), 61)
    at = midi - LOW
    hit, miss = (after(before, [attempt(midi, clean, 61, place=place)]) for clean in (True, False))
    learned = (
        4 * before.chance(midi, place) * (1 - before.chance(midi, place)) * abs(miss.mean[before.n_notes + 2])
    )
    least = min(0.0, float(hit.mean[before.n_notes + 2]))  # one who unlearns by playing
    assert hit.odds[at] >= before.odds[at] + least - 1e-9
    assert miss.odds[at] <= before.odds[at] + learned + 1e-9
    assert hit.odds[at] > miss.odds[at]


@given(logs())
def test_what_is_not_known_stays_a_spread(log):
    known = after(begin(LOW, HIGH, GUESS), log)
    assert np.allclose(known.cov, known.cov.T, atol=1e-9)
    assert np.linalg.eigvalsh(known.cov).min() > -1e-9
    assert np.isfinite(known.mean).all()
    assert all(0 < known.chance(midi, place) < 1 for midi in (LOW, GUESS, HIGH) for place in Place)


@given(logs(), st.integers(0, 25))
def test_it_does_not_matter_in_how_many_goes_a_log_is_read(log, cut):
    whole = after(begin(LOW, HIGH, GUESS), log)
    parted = after(after(begin(LOW, HIGH, GUESS), log[:cut]), log[cut:])
    assert np.array_equal(whole.mean, parted.mean)
    assert np.array_equal(whole.cov, parted.cov)


def test_one_result_is_told_as_bayes_has_it():
    """Against a fine sum over the log odds of one note; the others are taught by it and looked away from."""
    prior = begin(LOW, HIGH, GUESS)
    at, day = GUESS - LOW, prior.n_notes + 1
    mean, variance = prior.mean[at], prior.cov[at, at] + prior.cov[day, day]
    grid = np.linspace(mean - 12, mean + 12, 20001)
    weights = np.exp(-((grid - mean) ** 2) / (2 * variance)) / (1 + np.exp(-grid))
    wanted = (grid * weights).sum() / weights.sum()
    posterior = after(prior, [attempt(GUESS)])
    taught = 4 * prior.chance(GUESS) * (1 - prior.chance(GUESS)) * posterior.mean[prior.n_notes + 2]
    told = posterior.mean[at] + posterior.mean[day] - taught
    assert told == pytest.approx(wanted, abs=0.01)


def test_neighbours_share_and_a_stage_is_told_apart():
    known = after(begin(LOW, HIGH, GUESS), [attempt(84, False, day=1 + n // 10) for n in range(30)])
    start = begin(LOW, HIGH, GUESS)
    drops = start.odds - known.odds
    assert drops[84 - LOW] > drops[82 - LOW] > drops[78 - LOW]
    staged = after(start, [attempt(70, False, day=1 + n // 5, place=Place.STAGE) for n in range(15)])
    assert staged.stage[0] < start.stage[0] or staged.odds[70 - LOW] < start.odds[70 - LOW]
    assert staged.chance(70, Place.STAGE) < staged.chance(70)


def test_what_was_looked_up_teaches_and_tells_nothing():
    start = begin(LOW, HIGH, GUESS)
    hit, miss = (after(start, [attempt(82, clean, by_heart=False)]) for clean in (True, False))
    assert np.array_equal(hit.mean, miss.mean)
    assert hit.odds[82 - LOW] > start.odds[82 - LOW]


def test_two_fingerings_of_a_note_are_told_apart():
    log = [attempt(84, n % 2 == 0, 1 + n // 8, fingering="one" if n % 2 == 0 else "other") for n in range(32)]
    found = after(begin(LOW, HIGH, GUESS), log).fingered(84)
    assert found["one"][0] > found["other"][0] + 1
    alone = after(begin(LOW, HIGH, GUESS), [attempt(84, fingering="one")])
    assert len(alone.mean) == len(begin(LOW, HIGH, GUESS).mean)


def test_a_break_loses_something_and_makes_less_sure():
    known = after(begin(LOW, HIGH, GUESS), [attempt(80, True, 1) for _ in range(20)])
    later = on_day(known, 29)
    assert (later.odds < known.odds).all()
    assert (later.spread > known.spread).all()
    assert [lost_in(days) for days in (1, 3, 4, 15, 20, 365)] == pytest.approx([0, 0, 0.025, 0.3, 0.325, 0.8])


def test_the_guess_is_where_a_note_holds_as_likely_as_not():
    start = begin(LOW, HIGH, GUESS)
    assert start.odds[GUESS - LOW] == pytest.approx(HOLDS_LOG_ODDS)
    assert start.odds[0] == pytest.approx(4.5)
    assert chance_of(0.0, 5.0) == 0.5


def test_what_cannot_be_is_refused():
    known = after(begin(LOW, HIGH, GUESS), [attempt(80, day=10)])
    for wrong in (attempt(LOW - 1, day=10), attempt(HIGH + 1, day=10), attempt(80, day=9)):
        with pytest.raises(PracticeError):
            after(known, [wrong])
    for low, high in ((60, 59), (0, 127)):
        with pytest.raises(PracticeError, match="range"):
            begin(low, high, GUESS)
    with pytest.raises(PracticeError, match="cracked"):
        Attempt(80, Result.CLEAN, 1, cracked_to=68)
    with pytest.raises(PracticeError, match="pitch"):
        Attempt(200, Result.CLEAN, 1)
