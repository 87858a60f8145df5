"""Twenty short lines, five a family, at two tempi, against what a teacher would expect of them."""

import csv
from itertools import pairwise
from pathlib import Path

import pytest

from catalogue.in_hand import moves_of
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.explain import chosen
from core.routes.solve import solve
from core_shapes import in_hand_of

TABLE = Path(__file__).parent / "short_lines.csv"
with TABLE.open() as lines:
    ROWS = list(csv.DictReader(line for line in lines if not line.startswith("#")))[:20]
TEMPI = {"slow": 60.0, "fast": 144.0}
# Where the route keeps to something else: bis, until the eighths are faster than this.
DIFFERS = {("(F _B F _B)", "fast")}


def plain(entry):
    """Its name without what stays down besides."""
    return entry.id.partition("+")[0]


@pytest.mark.parametrize("pace", TEMPI)
@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row['family']} {row['line']}")
def test_what_a_teacher_would_expect(row, pace):
    found = fingered(row, TEMPI[pace])
    agree = [
        plain(entry) in wanted.split("|") or wanted == "*"
        for entry, wanted in zip(found, row[pace].split(), strict=True)
    ]
    assert all(agree) != ((row["line"], pace) in DIFFERS), [entry.id for entry in found]


def test_no_little_finger_goes_from_touch_to_touch_between_two_hands():
    """Of two touches for little fingers one is on the left and one on the right, whichever way round."""
    for line in ("(B ^c B ^c)", "(B c d e)", "(c _e c _e)"):
        row = next(row for row in ROWS if row["line"] == line)
        sides = [plain(entry).rpartition("-")[2] for entry in fingered(row, TEMPI["fast"])]
        hands = [side for side in sides if side in ("left", "right")]
        assert all(one != other for one, other in pairwise(hands)), sides


def fingered(row, tempo):
    in_hand, clef = in_hand_of(row["family"]), " clef=bass" * (row["family"] == "bassoon")
    passage = read_abc(f"L:1/8\nM:4/4\nK:C{clef}\n{row['line']}|").passage
    table = solve(sounding_events(passage, tempo), in_hand, moves_of(in_hand.catalogue))
    return [chosen(table, note).entry for note in range(len(table.problem.events))]
