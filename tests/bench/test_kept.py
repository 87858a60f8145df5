"""What was worked out is kept by how much memory it takes, and not worked out again."""

import numpy as np
import pytest

from bench import kept
from bench.queries import opened
from bench.screens import elsewhere, ossia, ways
from core.routes.faults import Faults
from drawing import engraving

LINE = "L:1/8\nK:C\nC2 B2 c2 d2 | _b4 g'4 |]"


def test_every_array_counts_once_wherever_it_hangs():
    large, small = np.zeros(1000), np.zeros(10, dtype=np.int8)
    fields = {"one": large, "again": (large, [large[5:]]), "deep": {"x": {"y": small}}, "word": "no array"}
    assert kept.array_bytes([fields]) == 8010
    assert kept.array_bytes([{"faults": Faults(large, small, 0.0, 0.0)}]) == 8010


@pytest.mark.django_db
def test_a_longer_passage_takes_more_room(teacher, make_passage):
    sizes = []
    for times in (1, 8):
        passage = make_passage(teacher, LINE.replace("|]", "|") + " c2 B2 A2 G2 |" * times)
        sizes.append(kept.solution_bytes(opened(passage, passage.current).solution()))
    assert 2 * sizes[0] < sizes[1] < 20 * sizes[0]


def test_what_is_kept_of_engravings_stays_within_its_room(monkeypatch, make_music):
    before = engraving.kept.maxsize
    one = engraving.engrave(make_music(0), 700)
    room = 3 * engraving._bytes_of(one)
    engraving.kept.clear()
    monkeypatch.setattr(engraving.kept, "_Cache__maxsize", room)
    for n in range(8):
        engraving.engrave(make_music(n), 700)
        assert engraving.kept.currsize <= room
    assert 0 < len(engraving.kept) < 8
    assert engraving.engrave(make_music(7), 700) is engraving.engrave(make_music(7), 700)
    engraving.kept.clear()
    monkeypatch.undo()
    assert engraving.kept.maxsize == before


@pytest.fixture
def make_music():
    from core.music.notation.abc import read_abc

    return lambda n: read_abc(f"L:1/4\nK:C\n{'CDEFGAB'[n % 7]} D E F | G A B c |]").passage


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("room", "finder", "page"),
    [
        (ways, "by_stretch", lambda at, note: ways.ways_page(at, note)),
        (ossia, "ossias", lambda at, note: ossia.ossia_page(at, note, "C5")),
        (elsewhere, "measures", lambda at, note: elsewhere.elsewhere_page(at, at.in_hand, [], note)),
    ],
    ids=["ways", "ossia", "elsewhere"],
)
def test_a_page_visited_again_is_not_worked_out_again(teacher, make_passage, monkeypatch, room, finder, page):
    passage, asked = make_passage(teacher, LINE), []
    find = getattr(room, finder)
    monkeypatch.setattr(room, finder, lambda *args: asked.append(1) or find(*args))
    first = page(opened(passage, passage.current), "n1")
    worked = len(asked)
    again = page(opened(passage, passage.current), "n3")
    assert (worked > 0, len(asked)) == (True, worked)
    assert (first.note_id, again.note_id) == ("n1", "n3")
    assert vars(first) | {"note_id": ""} == vars(again) | {"note_id": ""}
