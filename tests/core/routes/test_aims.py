"""What an aim changes, against what a teacher would expect."""

import csv
from dataclasses import replace
from pathlib import Path

import pytest

from catalogue.in_hand import moves_of
from core.charts.entry import Colour
from core.evidence.sources import Heard, Judgement
from core.instruments.fingering import Kind
from core.music.aims import COLOURS, Aim
from core.music.events import Manner, sounding_events
from core.music.notation.abc import read_abc
from core.routes.explain import chosen, reason
from core.routes.solve import solve
from core_shapes import in_hand_of

TABLE = Path(__file__).parent / "aims.csv"
with TABLE.open() as lines:
    ROWS = list(csv.DictReader(line for line in lines if not line.startswith("#")))


def solved(name, abc, bpm, aims=None, in_hand=None):
    in_hand = in_hand or in_hand_of(name)
    passage = read_abc("X:1\nL:1/4\nM:4/4\n" + abc.replace("|", "\n", 1)).passage
    events = sounding_events(passage, float(bpm), Manner(aims=aims or {}))
    return solve(events, in_hand, moves_of(in_hand.catalogue))


def taken(row, aim=None):
    at = int(row["note"])
    table = solved(row["instrument"], row["abc"], row["bpm"], {f"n{at}": Aim(aim)} if aim else None)
    return chosen(table, at - 1).entry.id


@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row['instrument']} {row['abc']} {row['aim']}")
def test_what_a_teacher_expects_of_an_aim(row):
    plain = taken(row)
    assert not row["plain"] or plain in row["plain"].split()
    assert taken(row, row["aim"]) in (row["expected"].split() or [plain])


def fault(table, strand):
    """Faults of one strand that the first note has by itself."""
    return float(getattr(table.node_faults, strand)[0])


def test_a_colour_that_is_aimed_at_is_no_fault():
    pinned = solve(
        solved("alto-saxophone", "K:C|c4|", 60).problem.events,
        in_hand_of("alto-saxophone"),
        moves_of(in_hand_of("alto-saxophone").catalogue),
        {"n1": "C5-second-of-C4"},
    )
    covered = solved("alto-saxophone", "K:C|c4|", 60, {"n1": Aim.COVERED})
    assert chosen(covered, 0).entry.kind is Kind.FALSE
    assert fault(covered, "tone") < 0.06 < 0.15 < fault(pinned, "tone")
    assert fault(covered, "pitch") == fault(pinned, "pitch")


def test_what_is_for_colour_comes_in_for_a_colour_alone():
    for aim in (None, *Aim):
        table = solved("alto-saxophone", "K:C|c4|", 60, {"n1": aim} if aim else None)
        offered = {c.entry.id: c.bar for c in table.problem.given.offered[0].candidates}
        assert bool(offered["C5-second-of-C4"]) == (aim not in COLOURS), aim


def test_the_notes_around_keep_their_faults():
    line = "K:C|G2A2 B2c2|"
    plain, aimed = solved("alto-saxophone", line, 60), solved("alto-saxophone", line, 60, {"n2": Aim.IN_TUNE})
    assert plain.slots.tolist() == aimed.slots.tolist()
    for strand in ("pitch", "tone", "speaks"):
        before, after = (getattr(table.node_faults, strand) for table in (plain, aimed))
        assert before[[0, 2, 3]].tolist() == after[[0, 2, 3]].tolist()
    assert aimed.node_faults.pitch[1] > plain.node_faults.pitch[1]
    assert plain.move_faults.hands.tolist() == aimed.move_faults.hands.tolist()


def test_an_aim_that_nothing_known_meets_is_no_fault():
    line = "K:C|e4|"
    plain, aimed = solved("oboe", line, 60), solved("oboe", line, 60, {"n1": Aim.COVERED})
    assert fault(aimed, "tone") <= fault(plain, "tone")
    met = solved("alto-saxophone", "K:C|c4|", 60, {"n1": Aim.COVERED}).problem
    slots = [c.entry.id for c in met.given.offered[0].candidates]
    by = met.by_note.tone[slice(*met.trellis.first[1:3])]
    assert by[slots.index("C5-plain")] > 0.5 > 0.01 > by[slots.index("C5-second-of-C4")]


def test_what_a_teacher_judged_turns_a_choice():
    name = "b-flat-clarinet"
    judged = replace(
        in_hand_of(name), heard={"A4-resonance-right": Heard((Judgement(1, colour=Colour.BRIGHT),) * 3)}
    )
    aims = {"n1": Aim.BRIGHTER}
    assert chosen(solved(name, "K:F|A4|", 60, aims), 0).entry.id != "A4-resonance-right"
    table = solved(name, "K:F|A4|", 60, aims, judged)
    assert chosen(table, 0).entry.id == "A4-resonance-right"
    assert reason(table, 0).because == "tone"
