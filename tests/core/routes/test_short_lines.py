"""Eighty short lines, at two tempi and two levels, against what a teacher would expect of them."""

import csv
from dataclasses import replace
from functools import cache
from itertools import pairwise
from pathlib import Path

import pytest

from catalogue.in_hand import moves_of
from core.instruments.hand import PlayerLevel
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.explain import chosen
from core.routes.solve import solve
from core_shapes import in_hand_of

TABLE = Path(__file__).parent / "short_lines.csv"
with TABLE.open() as lines:
    ROWS = list(csv.DictReader(line for line in lines if not line.startswith("#")))
TEMPI = {"slow": 60.0, "fast": 144.0}
LEVELS = (PlayerLevel.BEGINNING, PlayerLevel.ADVANCED)
# Where the route keeps to something else, and why, with how many of the sixteen notes agree.
DIFFERS = {
    "(F _B F _B)": "bis, held through F, until the eighths are faster than this",
    "(^F ^A ^F ^A)": "bis, held through F-sharp",
    "(B c B c)": "for fast ones plain C: contrary fingers cost less here than the side touch",
    "(_B, _E F _B)": "shaded throat B-flat where the line ends on it",
    "(A B A B)": "for a beginner A with both hands half down, as many teach it before the break",
    "(D, _E, F, _E,)": "for fast ones E-flat with the thumb: the plain fork runs sharp",
}
AGREE = 1250


def plain(entry):
    """Its name without what stays down besides."""
    return entry.id.partition("+")[0]


@cache
def agreeing(family, line, pace, level):
    """Whether the fingering of each note is one of those expected; and what is taken."""
    row = next(row for row in ROWS if (row["family"], row["line"]) == (family, line))
    found = fingered(row, TEMPI[pace], level)
    wanted = [one.split("|") for one in row[pace].split()]
    agree = [plain(entry) in some or some == ["*"] for entry, some in zip(found, wanted, strict=True)]
    return agree, [entry.id for entry in found]


@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row['family']} {row['line']}")
def test_what_a_teacher_would_expect(row):
    asked = [agreeing(row["family"], row["line"], pace, level) for pace in TEMPI for level in LEVELS]
    assert all(map(all, (agree for agree, _ in asked))) != (row["line"] in DIFFERS), asked


def test_they_are_eighty_and_nearly_all_notes_agree():
    asked = [
        agreeing(row["family"], row["line"], pace, level)[0]
        for row in ROWS
        for pace in TEMPI
        for level in LEVELS
    ]
    assert len(ROWS) == 80
    assert sum(map(len, asked)) == 1280
    assert sum(map(sum, asked)) >= AGREE


def test_no_little_finger_goes_from_touch_to_touch_between_two_hands():
    """Of two touches for little fingers one is on the left and one on the right, whichever way round."""
    for line in ("(B ^c B ^c)", "(B c d e)", "(c _e c _e)"):
        row = next(row for row in ROWS if row["line"] == line)
        sides = [plain(entry).rpartition("-")[2] for entry in fingered(row, TEMPI["fast"])]
        hands = [side for side in sides if side in ("left", "right")]
        assert all(one != other for one, other in pairwise(hands)), sides


def fingered(row, tempo, level=PlayerLevel.BEGINNING):
    in_hand, clef = in_hand_of(row["family"]), " clef=bass" * (row["family"] == "bassoon")
    in_hand = replace(in_hand, hand=replace(in_hand.hand, level=level))
    passage = read_abc(f"L:1/8\nM:4/4\nK:C{clef}\n{row['line']}|").passage
    table = solve(sounding_events(passage, tempo), in_hand, moves_of(in_hand.catalogue, in_hand.hand))
    return [chosen(table, note).entry for note in range(len(table.problem.events))]
