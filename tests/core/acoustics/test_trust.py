"""Hold-out, trust, offset from readings, and what may be shown: honest to the figures."""

import math
import tomllib

import numpy as np
import pytest
from tests.core.acoustics.shipped_models import predicted
from tests.core_shapes import DATA

from catalogue import shipped
from core.acoustics.holdout import (
    Cell,
    HoldOut,
    area_under,
    one_touch_away,
    rank,
    without_own_offset,
)
from core.acoustics.prediction import Prediction, SoundsAs
from core.acoustics.trust import (
    NO_TRUST,
    Level,
    TriedModel,
    Trust,
    format_table,
    level_of,
    parse_table,
    trust_in,
)
from core.evidence.modelled import as_trusted, speaks_from
from core.evidence.offset import Beside, Offset, corrected, offset_from
from core.evidence.sources import Basis, Estimate
from core.instruments.fingering import Fingering, parse_fingering
from core.instruments.keywork import unholdable
from core.music.pitch import parse_pitch

LOW = Fingering(frozenset({"L1"}))
TABLE = tomllib.loads((DATA / "acoustics" / "trust.toml").read_text())
DOCS = (DATA.parent.parent / "docs" / "holdout.md").read_text()


def cell(**changes):
    plain = {
        "register": "low",
        "form": "first",
        "count": 6,
        "bias": 2.0,
        "median": 4.0,
        "scatter": 6.0,
        "within": 1.0,
        "within_offset": 1.0,
        "random": 0.1,
        "neighbours": 0.3,
        "auc": (0.9, 0.8, 0.95),
        "auc_random": (0.99, 0.98, 1.0),
        "anchors": 4,
        "top": parse_pitch("C5"),
        "base": parse_pitch("C5"),
        "partial": 5,
    }
    return Cell(**plain | changes)


def prediction(*each, use=SoundsAs.VENTED, margin=3.0, base="C4", forked=False, partial=2):
    known = [value for value in each if value is not None]
    middle, spread = float(np.median(known)), float(np.std(known))
    return Prediction(middle, spread, partial, use, parse_pitch(base), forked, margin, 200.0, each)


def row(name, register, form):
    return next(r for r in TABLE[name]["cell"] if (r["register"], r["form"]) == (register, form))


def trial(name):
    split = shipped.split(name)
    return HoldOut(shipped.model(name), shipped.catalogue(name), split["anchors"], split["held_out"])


def at_most(name, row):
    """What may be shown of a row once what is known of the family is taken off, from the files."""
    family = name if name == "saxophone" else shipped.instrument(name).family
    known = tomllib.loads((DATA / "acoustics" / "families.toml").read_text("utf-8"))[family]
    if row["register"] in known.get("no_cents", ()) and row["level"] != "nothing":
        return "response only"
    after = row["register"] in known.get("after_readings", ())
    return "response, and pitch after readings" if after and "pitch and" in row["level"] else row["level"]


@pytest.mark.parametrize("name", [*shipped.INSTRUMENTS, "saxophone"])
def test_the_page_tells_what_the_table_says(name):
    title = shipped.INSTRUMENTS.get(name, "Saxophones together, by form")
    part = DOCS.split(f"## {title}\n")[1].split("\n## ")[0]
    lines = [line for line in part.splitlines() if line.startswith("| ")][2:]
    assert len(lines) == len(TABLE[name]["cell"])
    for line, row in zip(lines, TABLE[name]["cell"], strict=True):
        fields = [field.strip() for field in line.strip("|").split("|")]
        assert fields[:5] == [
            row["register"],
            row["form"],
            str(row["anchors"]),
            str(row["count"]),
            row["top"],
        ]
        assert fields[-1] == at_most(name, row)
        if row["count"]:
            assert float(fields[8].rstrip("%")) == pytest.approx(100 * row["within"], abs=1)


def test_what_may_be_claimed():
    """The figures that the documentation rests on; where they fall, its words must."""
    for name in ("alto-saxophone", "tenor-saxophone"):
        assert row(name, "middle", "vented")["within"] > 0.93  # all but the covered A
        assert row(name, "low", "overtone")["within"] == 1.0
        assert row(name, "middle", "overtone")["within"] > 0.85
        assert row(name, "middle", "first")["level"] == "nothing"  # palm touches without the octave touch
    for form in ("front", "split", "open"):
        tried = row("saxophone", "altissimo", form)
        assert tried["count"] >= 8
        assert tried["within"] >= 0.87 > 0.2 > tried["random"]
        assert tried["auc"][1] > 0.5
    front = row("saxophone", "palm", "front")
    assert (front["count"], front["anchors"], front["within"]) == (16, 0, 1.0)
    clarinet = row("b-flat-clarinet", "altissimo", "vented")
    assert clarinet["within"] >= 0.89 > 0.25 > clarinet["random"]
    assert clarinet["auc"][1] > 0.75
    assert row("bassoon", "high", "vented")["level"] == "nothing"
    for name, data in TABLE.items():
        for found in data["cell"]:
            if found["level"] == "pitch and response":
                assert found["within"] >= 0.8, name
                assert found["within"] >= 2 * found["random"], name
                assert found["count"] > 0, name


@pytest.mark.parametrize(
    ("changes", "level"),
    [
        ({}, Level.PITCH),
        ({"count": 2, "anchors": 5}, Level.PITCH),
        ({"count": 2, "anchors": 4}, Level.RESPONSE),
        ({"count": 0, "anchors": 9, "within": math.nan, "within_offset": math.nan}, Level.RESPONSE),
        ({"within": 0.7}, Level.READINGS),
        ({"within": 0.7, "within_offset": 0.7}, Level.RESPONSE),
        ({"within": 0.9, "random": 0.6, "within_offset": 0.9}, Level.RESPONSE),
        ({"within": 0.5, "within_offset": 0.5, "anchors": 0}, Level.RESPONSE),
        ({"within": 0.5, "within_offset": 0.5, "anchors": 0, "auc": (0.6, 0.4, 0.8)}, Level.NONE),
    ],
)
def test_levels_are_earned(changes, level):
    assert level_of(cell(**changes)) is level


def test_trust_ends_where_nothing_was_tried(alto):
    earned = parse_table(format_table({"x": [cell(form="overtone", base=parse_pitch("C#4"))]}))["x"]
    table = TriedModel(shipped.model("alto-saxophone"), earned)
    overtone = prediction(1.0, use=SoundsAs.OVERTONE, base="Bb3")
    assert trust_in(table, overtone, LOW, parse_pitch("C5")).level is Level.PITCH
    assert trust_in(table, overtone, LOW, parse_pitch("C#5")) is NO_TRUST
    assert (
        trust_in(table, prediction(1.0, use=SoundsAs.OVERTONE, base="D4"), LOW, parse_pitch("C5")) is NO_TRUST
    )
    assert trust_in(table, prediction(1.0), LOW, parse_pitch("C5")) is NO_TRUST  # another use
    beyond = prediction(1.0, use=SoundsAs.OVERTONE, base="Bb3", partial=6)
    assert trust_in(table, beyond, LOW, parse_pitch("C5")) is NO_TRUST


@pytest.mark.parametrize(
    ("name", "note", "touches", "forked", "level"),
    [
        ("oboe", "D6", "L2 L3 | R1 C", False, Level.NONE),
        ("english-horn", "D6", "L2 L3 | C", False, Level.RESPONSE),
        ("oboe", "F5", "thumb8 L1 L2 L3 | R1 R3", True, Level.RESPONSE),
        ("oboe", "F5", "thumb8 L1 L2 L3 | R1 R2 F", False, Level.PITCH),
        ("bassoon", "A3", "L1 L2 L3 | R1 R2", False, Level.READINGS),
        ("b-flat-clarinet", "F6", "reg T L2 L3 C# | Ab", True, Level.PITCH),
        ("b-flat-clarinet", "F#6", "reg T L2 | Ab", False, Level.READINGS),
        ("b-flat-clarinet", "A6", "reg T L2 | R2 Ab", False, Level.NONE),
        ("alto-saxophone", "F6", "octave frontF L2", False, Level.PITCH),
        ("alto-saxophone", "A6", "octave L2 L3", False, Level.READINGS),
        ("tenor-saxophone", "G6", "octave frontF | sideBb R1", False, Level.READINGS),
        ("alto-saxophone", "B6", "octave palmD", False, Level.NONE),
        ("alto-saxophone", "B6", "octave L2 L3", False, Level.NONE),  # higher than any that was tried
    ],
)
def test_no_cents_where_models_fail(name, note, touches, forked, level):
    found, instrument = prediction(1.0, forked=forked), shipped.instrument(name)
    fingering = parse_fingering(touches, instrument)
    assert trust_in(shipped.tried(name, frozenset()), found, fingering, parse_pitch(note)).level is level


def test_nothing_is_told_without_trust():
    assert as_trusted(None, Trust(Level.PITCH, 5, 5), -3.0) is None
    assert as_trusted(prediction(1.0, 2.0), NO_TRUST, -3.0) is None
    trusted = as_trusted(prediction(1.0, 2.0), Trust(Level.RESPONSE, 5, 5), -3.0)
    assert trusted.pitch is None
    assert trusted.speaks == speaks_from(3.0, -3.0)
    lowest = as_trusted(prediction(1.0, use=SoundsAs.FIRST, margin=math.inf), Trust(Level.PITCH, 9, 5), -3.0)
    assert lowest.speaks is None
    assert lowest.pitch == Estimate(1.0, 9, Basis.MODELLED)  # never surer than the hold-out was


def test_readings_of_two_notes_make_pitch_told():
    trust = Trust(Level.READINGS, 40.0, 15.0)
    found = prediction(20.0, 60.0)
    one = offset_from([Beside(80, prediction(22.0, 58.0), Estimate(-10, 5, Basis.MEASURED, 3))])
    assert as_trusted(found, trust, -3.0, one).pitch is None
    two = offset_from(
        [
            Beside(midi, prediction(22.0, 58.0), Estimate(-10, 5, Basis.MEASURED, 3))
            for midi in (80, 82, 84, 86)
        ]
    )
    trusted = as_trusted(found, trust, -3.0, two)
    assert trusted.notes_read == 4
    assert trusted.pitch.value == pytest.approx(-10, abs=6)
    assert trusted.pitch.spread >= 15.0
    assert as_trusted(found, trust, -3.0).pitch is None


def test_an_offset_draws_the_families_together():
    reads = [
        Beside(80 + n, prediction(10.0 + n, 90.0 + n), Estimate(5.0 + n, 4, Basis.MEASURED, 5))
        for n in range(5)
    ]
    offset = offset_from(reads)
    assert offset.each == pytest.approx((-5, -85), abs=3)
    assert offset.left_out < 6
    cents, spread = corrected(prediction(12.0, 92.0), offset)
    assert cents == pytest.approx(7, abs=2)
    assert spread < 12 < prediction(12.0, 92.0).spread
    assert offset_from(reads[:1]).left_out is None
    assert offset_from(reads[:1]).spread > offset.spread
    assert offset_from([Beside(80, prediction(None, 4.0), reads[0].measured)]).each[0] == 0


def test_each_note_left_out_is_an_offset_from_the_others():
    """Also where a geometry is silent, and where one note was read on two fingerings."""
    reads = [
        Beside(midi, prediction(first, 60.0 + midi), Estimate(value, spread, Basis.MEASURED, 3))
        for midi, first, value, spread in (
            (1, 5.0, 9, 3),
            (1, None, 2, 5),
            (2, 14.0, -7, 4),
            (3, 0.0, 30, 12),
        )
    ]
    left = [
        read.measured.value
        - corrected(read.prediction, offset_from([other for other in reads if other.midi != read.midi]))[0]
        for read in reads
    ]
    assert offset_from(reads).left_out == pytest.approx(float(np.sqrt(np.mean(np.square(left)))))


def test_a_weak_reading_pulls_less():
    weak, strong = (
        offset_from([Beside(80, prediction(0.0), Estimate(40.0, spread, Basis.MEASURED, 1))])
        for spread in (60, 3)
    )
    assert 0 < weak.each[0] < 15 < strong.each[0] < 40
    assert corrected(prediction(0.0), Offset((7.0,), 3.0, 1, None)) == (7.0, 3.0)


def test_a_player_reads_and_the_register_comes_right():
    """A player whose clarinet is one of the ensemble with a reed that lies 18 cents higher up here."""
    rows = ["Cs6-lift", "D6-lift", "Eb6-lift", "E6-lift", "F6-lift"]
    found = {row: predicted("b-flat-clarinet", row) for row in rows}
    theirs = {row: found[row].each[-1] + 18 for row in rows}
    reads = [
        Beside(n, found[row], Estimate(theirs[row], 4, Basis.MEASURED, 5)) for n, row in enumerate(rows[:3])
    ]
    offset = offset_from(reads)
    before = [abs(found[row].cents - theirs[row]) for row in rows[3:]]
    after = [abs(corrected(found[row], offset)[0] - theirs[row]) for row in rows[3:]]
    assert np.mean(after) < 6 < 12 < np.mean(before)
    assert offset.left_out < 8


def test_figures_of_the_hold_out():
    assert area_under([1.0, 1.0], [1.0, 1.0])[0] == 0.5
    assert area_under([0.0], [1.0, 2.0])[0] == 0.0
    assert math.isnan(area_under([], [1.0])[0])
    low, high = area_under([3.0, 1.0, 2.5, 0.2], [1.0, 2.0, 0.0])[1:]
    assert 0 <= low < high <= 1
    assert without_own_offset(np.array([10.0, 12.0, 11.0]), [60, 61, 62]) == pytest.approx([-1.5, 1.5, 0.0])
    assert without_own_offset(np.array([10.0, 12.0]), [60, 60]) == pytest.approx([10.0, 12.0])
    assert rank(None) < rank(prediction(140.0, margin=-30.0)) < rank(prediction(0.0)) == 0


def test_one_touch_away_differs_by_one_that_hands_hold(alto, chart):
    fingering = chart.by_id["Bb4-bis"].fingering
    found = one_touch_away(alto, fingering)
    assert all(len(other.touches ^ fingering.touches) == 1 for other in found)
    assert not any(unholdable(alto, other) for other in found)
    assert len(found) > 15
