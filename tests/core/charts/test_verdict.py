"""What is said of fingerings that no chart has: nothing right is called wrong, nothing wrong right."""

import csv
import re
from pathlib import Path

import pytest

from catalogue import shipped
from core.charts.audit import Finding, audit_chart
from core.charts.chart_format import read_chart
from core.charts.verdict import Verdict, is_plain, judge
from core.instruments.fingering import Kind, format_fingering, parse_fingering
from core.music.pitch import parse_pitch
from core_shapes import in_hand_of

TABLE = Path(__file__).with_name("audit_rows.csv")
with TABLE.open() as lines:
    ROWS = list(csv.DictReader(line for line in lines if not line.startswith("#")))
FINE = {Finding.AGREES, Finding.LEAD, Finding.DIFFERS, Finding.OPEN}
REFUTED = {Finding.CONTRADICTED, Finding.IMPOSSIBLE}
# Touches of a note an octave or more below, which may in truth be overblown so far, or a fork to them.
MISSED = {
    ("bassoon", "Bb4", "A L1 L2 L3 | R1 R2"),
    ("bassoon", "C5", "C L1 L2 L3"),
}
ALTO, TENOR, CLARINET, BASSOON = "alto-saxophone", "tenor-saxophone", "b-flat-clarinet", "bassoon"
# Known to players; the rule of the first open hole alone would call the first seven wrong.
RIGHT = [
    (ALTO, "F#6", "octave L1 L3 | R1 Eb"),
    (ALTO, "F6", "octave L1 L2 | R1 R2"),
    (ALTO, "E6", "octave L1 L2 L3 | R1 R2 R3 Eb"),
    (ALTO, "G5", "octave L1 L2 L3 | R2 R3 lowC"),
    (CLARINET, "B4", "reg A | sideBb"),
    (CLARINET, "Bb4", "reg A L3 | R2 R3"),
    (BASSOON, "Eb3", "W L1 L3 | Bb R2"),
    (ALTO, "E6", "octave frontF L2 L3"),
    (ALTO, "F6", "octave frontF L2"),
    (ALTO, "F#6", "octave frontF L2 | sideBb"),
    (ALTO, "F#6", "octave frontF L2 | highF#"),
    (ALTO, "F#6", "octave palmF palmEb palmD | sideE highF#"),
    (ALTO, "G6", "octave L1 L3 | sideBb R1"),
    (ALTO, "G6", "octave frontF | sideBb R1"),
    (ALTO, "G#6", "octave L1 L3 | sideBb"),
    (ALTO, "A6", "octave L2 L3"),
    (ALTO, "A6", "octave L2 L3 | R1 R2 R3"),
    (ALTO, "Bb6", "octave L3"),
    (TENOR, "F#6", "octave frontF L2 | sideBb"),
    (TENOR, "F#6", "octave L1 L3 | R1"),
    (TENOR, "G6", "octave frontF | sideBb R1"),
    (TENOR, "A6", "octave L2 L3"),
    ("soprano-saxophone", "G6", "octave L1 L3 | sideBb R1"),
    ("baritone-saxophone", "A6", "octave L2 L3"),
    (CLARINET, "C#6", "reg T L2 L3 | R1 R2"),
    (CLARINET, "C#6", "reg T L1/2 L2 L3 | R1 R2"),
    (CLARINET, "C#6", "reg T | sideF#"),
    (CLARINET, "D6", "reg T L2 L3 | R1 Ab"),
    (CLARINET, "Eb6", "reg T L2 L3 | R2 Ab"),
    (CLARINET, "E6", "reg T L2 L3"),
    (CLARINET, "F6", "reg T L2 L3 C# | Ab"),
    (CLARINET, "F#6", "reg T L2"),
    (CLARINET, "G6", "reg T L2 | R1 R2 Ab"),
    (CLARINET, "G#6", "reg T L2 | R1 Ab"),
    ("bass-clarinet", "E6", "reg T L1/2 L2 L3 | Ab"),
    ("oboe", "D6", "L2 L3 | R1 C"),
    ("oboe", "E6", "thumb8 L2 L3 G# | R2 R3 Eb"),
    ("english-horn", "D6", "L2 L3 | C"),
    (BASSOON, "F4", "L1 L3 lowEb | Bb R1 R2"),
    (BASSOON, "G4", "L2 L3 lowEb | R1 F"),
]
# True where the keywork alone is sure.
WRONG = [
    (ALTO, "Eb6", "octave palmD", True),
    (ALTO, "C#6", "octave palmD", True),
    (ALTO, "E6", "octave palmD palmEb", True),
    (ALTO, "F6", "octave palmD palmEb | sideE", True),
    (ALTO, "E6", "octave palmD palmEb palmF | sideE", True),
    (ALTO, "F6", "octave palmD palmEb palmF | sideE highF#", True),
    (ALTO, "B5", "octave L1 L2", True),
    (ALTO, "F6", "octave frontF L2 L3", False),
    (ALTO, "G6", "octave frontF L2", False),
    (ALTO, "B6", "octave L2 L3", False),
    (TENOR, "Eb6", "octave palmD", True),
    (CLARINET, "B5", "reg T", True),
    (CLARINET, "C6", "reg T L1", True),
    (CLARINET, "C6", "reg T L2 L3 | R1 R2", False),
    (CLARINET, "Eb6", "reg T L2 L3 | R1 R2", False),
    ("oboe", "B5", "side8 L1 | R1", False),
    ("oboe", "Bb5", "side8 L1", True),
    (BASSOON, "Eb4", "L1 L2", True),
    (BASSOON, "D4", "L1 L2 L3", True),
    (BASSOON, "C4", "L1 L2", True),
]


def found(model, note, touches):
    """The finding of an audit against a chart that has never heard of the row."""
    chart = shipped.catalogue(model)
    known = chart.find(parse_pitch(note), parse_fingering(touches, chart.instrument))
    blind = chart.with_own((), {known.id}) if known else chart
    rows = read_chart(f"note,touches\n{note},{touches}\n".encode())
    fitted = frozenset(chart.instrument.optional)
    (row,) = audit_chart(rows, blind, fitted, in_hand_of(model).acoustics).rows
    return row


def test_how_many_they_are():
    assert (len(RIGHT), len(WRONG)) == (40, 20)


@pytest.mark.parametrize(("model", "note", "touches"), RIGHT)
def test_nothing_right_is_called_wrong(model, note, touches):
    row = found(model, note, touches)
    assert row.finding in (Finding.OPEN, Finding.DIFFERS), row.words
    assert row.importable


@pytest.mark.parametrize(("model", "note", "touches", "sure"), WRONG)
def test_nothing_wrong_is_called_right(model, note, touches, sure):
    row = found(model, note, touches)
    assert row.finding in (REFUTED if sure else {Finding.OPEN, Finding.DOUBTFUL}), row.words
    chart = shipped.catalogue(model).instrument
    assert is_plain(chart, parse_fingering(touches, chart), parse_pitch(note)) or not sure


@pytest.mark.parametrize("row", ROWS, ids=lambda row: f"{row['model']} {row['note']} {row['touches']}")
def test_what_is_said_of_a_printed_row(row):
    finding = audited(row)
    if not row["cause"]:
        assert finding.finding in FINE, finding.words
    else:
        assert (finding.finding in {*REFUTED, Finding.DOUBTFUL}) == (cause_of(row) not in MISSED), (
            finding.words
        )
        assert named(finding.words, row["cause"]) == (cause_of(row) not in MISSED), finding.words


def test_sixty_and_sixty_and_hardly_one_slips_through():
    assert sum(not row["cause"] for row in ROWS) == 60
    assert sum(bool(row["cause"]) for row in ROWS) == 60
    assert len(MISSED) == 2


def audited(row):
    in_hand = in_hand_of(row["model"])
    text = f"note,touches\n{row['note']},{row['touches']}\n"
    (found,) = audit_chart(
        read_chart(text.encode()), in_hand.catalogue, in_hand.fitted, in_hand.acoustics
    ).rows
    return found


def cause_of(row):
    return row["model"], row["note"], row["touches"]


def named(words, cause):
    """Whether words tell a cause; a note by either of its names."""
    told = re.search(r"sounds written (\S+),", words)
    meant = re.fullmatch(r"sounds written (\S+)", cause)
    if told and meant:
        return parse_pitch(told[1]).midi == parse_pitch(meant[1]).midi
    return cause in words


def test_a_number_is_told_only_where_the_model_has_earned_it():
    """Of the same rows the bare model would tell a number for several times as many."""
    told = untold = 0
    for model in ("alto-saxophone", "bassoon"):
        in_hand = in_hand_of(model)
        high = [e for e in in_hand.catalogue.entries if e.kind is Kind.ALTISSIMO]
        asked = [(entry.fingering, entry.note) for entry in high]
        bare, earned = in_hand.acoustics.would_sound(asked), in_hand.acoustics.told_cents(asked)
        for entry, cents, trusted in zip(high, bare, earned, strict=True):
            row = found(model, entry.note.ascii, format_fingering(entry.fingering, in_hand.instrument))
            assert "cents" not in row.words or trusted is not None
            told += trusted is not None
            untold += cents is not None and trusted is None
    assert untold > 10 > told


def test_the_model_is_asked_once_and_only_where_the_keywork_is_not_enough():
    chart, asked = shipped.catalogue(ALTO), []

    class Asked:
        def would_sound(self, rows):
            asked.append(len(rows))
            return [None] * len(rows)

        told_cents = would_sound

    rows = [("G4", "L1 L2 L3"), ("G5", "octave L1 L2 L3"), ("G4", "L1 L2"), ("B6", "octave L2 L3 G#")]
    wanted = [(parse_fingering(touches, chart.instrument), parse_pitch(note)) for note, touches in rows]
    said = judge(chart, wanted, Asked())
    assert [one.verdict for one in said] == [
        Verdict.FITS,
        Verdict.FITS,
        Verdict.CONTRADICTED,
        Verdict.OPEN,
    ]
    assert asked == [2, 2]
    assert said[3].words == "the keywork cannot tell: try it"


def test_a_lowest_resonance_under_a_stronger_one_would_not_sound():
    alto, clarinet = shipped.model(ALTO), shipped.model(CLARINET)

    def sounds(model, note, touches):
        return model.would_sound([(parse_fingering(touches, model.instrument), parse_pitch(note))])[0]

    assert sounds(alto, "B4", "octave L1") is None
    assert sounds(alto, "C#5", "octave L3") == pytest.approx(-22, abs=5)
    assert sounds(clarinet, "Bb4", "reg A") == pytest.approx(0, abs=15)
