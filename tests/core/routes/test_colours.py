"""Alternate colours on a run of one pitch."""

import pytest

from catalogue.in_hand import moves_of
from core.instruments.fingering import Kind
from core.routes.colours import TOLD, colours, run_about
from core_shapes import solved


def of(abc, note=1, tempo=100.0):
    table = solved("alto-saxophone", abc, tempo)
    return table, colours(table, note, moves_of(table.problem.given.chart))


@pytest.mark.parametrize(
    ("abc", "run"),
    [("K:C\nc c c c d|", range(4)), ("K:C\nd c c z c|", range(1, 3)), ("K:C\nd c d|", range(1, 2))],
)
def test_a_run_is_of_one_pitch_without_a_rest(abc, run):
    table, _ = of(f"L:1/8\n{abc}")
    assert run_about(table, 1) == run


def test_pairs_are_told_for_runs_only_the_best_first():
    assert of("L:1/8\nK:C\n_b _b a|")[1] == []
    _, found = of("L:1/8\nK:C\n_b _b _b _b|")
    assert 0 < len(found) <= TOLD
    assert [pair.worth for pair in found] == sorted((pair.worth for pair in found), reverse=True)


def test_false_fingerings_are_among_them():
    kinds = {
        entry.kind
        for note in ("f", "g", "a", "c'")
        for pair in of(f"L:1/8\nK:C\n{note} {note} {note} {note}|")[1]
        for entry in (pair.one, pair.other)
    }
    assert Kind.FALSE in kinds


def test_the_tempo_bears_on_the_hands():
    slow, fast = (of("L:1/16\nK:C\n_b _b _b _b|", tempo=tempo)[1] for tempo in (60.0, 200.0))
    assert max(pair.stumble for pair in fast) > max(pair.stumble for pair in slow)
