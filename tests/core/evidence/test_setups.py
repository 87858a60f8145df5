"""Set-ups of reed and mouthpiece: what counts on after a change, and what a change does."""

import numpy as np
import pytest

from core.charts.entry import Speaks, Tone
from core.evidence.setups import in_force, only
from core.evidence.setups_beside import Parts, change_between, learned, pooled, shifts, strength
from core.evidence.sources import Basis, Estimate, Handling, Heard, Hits, Judgement, Readings, Tuning

HEARD = Heard(
    (Judgement(1, Tuning.SHARP, Tone.FULL, Speaks.SURE, Handling.EASY), Judgement(2, tone=Tone.THIN)),
    (Readings(1, (9.0, 11.0)), Readings(2, (1.0,))),
    (Hits(1, 3, 4), Hits(2, 1, 5)),
)


@pytest.mark.parametrize(
    ("kept", "pitch", "tone", "speaks"),
    [
        ({1: (None, []), 2: (1, [])}, {2}, {2}, {2}),
        ({1: (None, []), 2: (1, ["pitch"])}, {1, 2}, {2}, {2}),
        ({1: (None, []), 2: (1, ["tone", "speaks"])}, {2}, {1, 2}, {1, 2}),
    ],
)
def test_what_a_change_kept_counts_on(kept, pitch, tone, speaks):
    found = in_force(2, kept)
    assert (found.pitch, found.tone, found.speaks) == (pitch, tone, speaks)


def test_nothing_is_kept_across_a_change_that_kept_nothing():
    kept = {1: (None, []), 2: (1, ["pitch"]), 3: (2, []), 4: (3, ["pitch"]), 5: (1, ["pitch"])}
    assert in_force(4, kept).pitch == {3, 4}
    assert in_force(1, kept).pitch == {1}  # taken up again
    assert in_force(5, kept).pitch == {1, 5}  # which followed the first, taken up again


def test_hands_know_no_reed_and_the_rest_is_told_apart():
    counts = only(2).counting(HEARD)
    assert counts.judgements[0] == Judgement(1, hands=Handling.EASY)
    assert [readings.setup for readings in counts.readings] == [2]
    assert [hits.setup for hits in counts.hits] == [2]
    assert only(2).left_out(HEARD) == 1 + 2 + 4
    pitch = in_force(2, {2: (1, ["pitch"])})
    assert pitch.counting(HEARD).judgements[0] == Judgement(1, Tuning.SHARP, hands=Handling.EASY)
    assert pitch.left_out(HEARD) == 1 + 4


@pytest.mark.parametrize(
    ("reed", "told"),
    [
        ("strength 2½, cane", 2.5),
        ("3", 3.0),
        ("3,5 blue", 3.5),
        ("no. 2 1/2", 2.5),
        ("V12 3.5", 3.5),
        ("medium, hand-made", None),
        ("cut 47", None),
    ],
)
def test_the_strength_of_a_reed_is_read_where_it_is_told(reed, told):
    found = strength(reed)
    assert (found and found[0]) == told


@pytest.mark.parametrize(
    ("before", "after", "words", "steps"),
    [
        (("cane 2½", "close"), ("Cane 3", "close"), "a reed half a strength harder", 1),
        (("3½", "close"), ("2.5", "close"), "a reed half a strength harder", -2),
        (("medium", "crook 2"), ("medium", "crook 1"), "crook “crook 2” instead of “crook 1”", -1),
        (("2½", ""), ("3", ""), "a reed half a strength harder", 1),
        (("cane 3", "close"), ("plastic 3", "close"), "reed “plastic 3” instead of “cane 3”", 1),
    ],
)
def test_what_a_change_consists_of(before, after, words, steps):
    found = change_between(Parts(*before), Parts(*after), "crook")
    assert (found.words, found.steps) == (words, steps)


@pytest.mark.parametrize(
    ("before", "after"),
    [
        (("2½", "close"), ("3", "open")),  # both: no telling which of them did it
        (("", "close"), ("3", "close")),
        (("2½", ""), ("3", "close")),
        (("3", "close"), ("3", "close")),
    ],
)
def test_a_change_that_cannot_be_told_teaches_nothing(before, after):
    assert change_between(Parts(*before), Parts(*after), "mouthpiece") is None


def read(values, spread=4.0):
    return {name: Estimate(cents, spread, Basis.MEASURED, 3) for name, cents in values.items()}


def register_of(name):
    return "" if name == "gone" else "high" if name.startswith("h") else "low"


def test_differences_are_told_by_register_from_three_fingerings_on():
    first = read({"h1": 0, "h2": 10, "h3": -5, "l1": 0, "l2": 0, "gone": 0, "h9": 3})
    second = read({"h1": 20, "h2": 31, "h3": 14, "l1": 1, "l2": 2, "gone": 40})
    found = shifts(first, second, register_of)
    assert set(found) == {"high", "low"}
    count, high = found["high"]
    assert count == high.count == 3
    assert high.cents == pytest.approx(20, abs=0.5)
    assert 0 < high.low < 20 < high.high
    assert found["low"] == (2, None)


def test_bounds_hold_nineteen_times_of_twenty_on_few_notes_of_one_day_each():
    rng, held = np.random.default_rng(4), 0
    for _ in range(2000):
        days = rng.normal(0, 3, 2)
        spreads = rng.uniform(3, 9, 4)
        own = rng.normal(0, rng.choice([0.0, 8.0]), 4)
        differences = 7 + own + rng.normal(0, spreads) + days[1] - days[0]
        found = pooled(list(differences), list(spreads), np.sqrt(18))
        held += found.low <= 7 <= found.high
    assert 0.94 <= held / 2000 <= 0.999


def instruments(effect, count, *, back=0, noise=3.0):
    """Clarinets that went from one reed to one half a strength harder, and some of them to and fro."""
    rng = np.random.default_rng(11)
    taken, noted = {}, {}
    for key in range(count):
        own = {f"h{n}": rng.normal(0, 15) for n in range(5)}
        taken[key], noted[key] = {}, {}
        for number in range(1, 3 + back):
            harder = number % 2 == 0
            cents = {n: c + effect * harder + rng.normal(0, noise) for n, c in own.items()}
            taken[key][number] = read(cents, noise)
            noted[key][number] = Parts("3" if harder else "2½", "close")
    return taken, noted


def test_what_a_change_does_is_learned_over_instruments():
    (found,) = learned(*instruments(12.0, 6), register_of, "mouthpiece")
    assert (found.change, found.register, found.instruments) == ("a reed half a strength harder", "high", 6)
    assert found.shift.low < 12 < found.shift.high
    assert found.shift.low > 4


def test_one_instrument_that_changes_to_and_fro_is_one_witness():
    (found,) = learned(*instruments(12.0, 1, back=6), register_of, "mouthpiece")
    assert (found.instruments, found.shift) == (1, None)
    (three,) = learned(*instruments(12.0, 3, back=6), register_of, "mouthpiece")
    assert three.shift.count == 3
    assert three.shift.cents == pytest.approx(12, abs=3)


def test_what_of_a_judgement_does_not_count_is_named():
    kept = in_force(2, {2: (1, ["tone"])})
    assert kept.without(1, {"pitch", "tone", "hands"}) == ["pitch"]
    assert kept.without(2, {"pitch", "tone", "speaks"}) == []
    assert kept.without(1, {"hands"}) == []
