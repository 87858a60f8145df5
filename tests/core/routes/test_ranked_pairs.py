"""The hands against moves that were ranked by hand before any cost was looked at."""

import csv
from itertools import groupby
from operator import itemgetter
from pathlib import Path

import numpy as np
import pytest
from scipy.stats import kendalltau

from catalogue import shipped
from catalogue.in_hand import moves_of
from core.music.events import sounding_events
from core.music.notation.abc import read_abc
from core.routes.demands import demands, entry_grips
from core.routes.explain import chosen
from core.routes.solve import solve
from core_shapes import in_hand_of

TABLE = Path(__file__).parent / "ranked_pairs.csv"
with TABLE.open() as lines:
    ROWS = list(csv.DictReader(line for line in lines if not line.startswith("#")))
FAMILIES = {family: list(rows) for family, rows in groupby(ROWS, key=itemgetter("family"))}
LEAST_TAU = 0.7


@pytest.mark.parametrize("family", FAMILIES)
def test_the_time_a_move_needs_goes_as_it_was_ranked(family):
    chart, rows = shipped.catalogue(family), FAMILIES[family]
    before, after = ([chart.by_id[row[side]] for row in rows] for side in ("before", "after"))
    one, other = entry_grips(chart, before), entry_grips(chart, after)
    needed = np.mean([demands(chart, *way).needed_s for way in ((one, other), (other, one))], axis=0)
    assert kendalltau([int(row["level"]) for row in rows], needed).statistic >= LEAST_TAU


def test_a_slurred_line_stays_in_one_form_however_slow():
    for tempo in (60.0, 120.0):
        line = "L:1/4\nK:C\n(f' ^f' g' ^f' =f')|"
        assert forms_of("alto-saxophone", line, tempo) == ["front"] * 5
        assert forms_of("tenor-saxophone", "L:1/4\nK:C\n(^f' e')|", tempo) == ["front"] * 2


def forms_of(model, abc, tempo):
    in_hand = in_hand_of(model)
    table = solve(sounding_events(read_abc(abc).passage, tempo), in_hand, moves_of(in_hand.catalogue))
    return [chosen(table, note).entry.form for note in range(len(table.problem.events))]
