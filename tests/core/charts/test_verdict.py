"""What is said of fingerings that no chart has: nothing right is called wrong, nothing wrong right."""

import pytest

from catalogue import shipped
from core.charts.audit import Finding, audit_chart
from core.charts.chart_format import read_chart
from core.charts.verdict import Verdict, is_plain, judge
from core.instruments.fingering import parse_fingering
from core.music.pitch import parse_pitch

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
    (row,) = audit_chart(rows, blind, fitted, shipped.model(model).would_sound).rows
    return row


def test_how_many_they_are():
    assert (len(RIGHT), len(WRONG)) == (40, 20)


@pytest.mark.parametrize(("model", "note", "touches"), RIGHT)
def test_nothing_right_is_called_wrong(model, note, touches):
    row = found(model, note, touches)
    assert row.finding in (Finding.PLAUSIBLE, Finding.OPEN, Finding.DIFFERS), row.words
    assert row.importable


@pytest.mark.parametrize(("model", "note", "touches", "sure"), WRONG)
def test_nothing_wrong_is_called_right(model, note, touches, sure):
    row = found(model, note, touches)
    assert row.finding is (Finding.CONTRADICTED if sure else Finding.OPEN), row.words
    chart = shipped.catalogue(model).instrument
    assert is_plain(chart, parse_fingering(touches, chart), parse_pitch(note)) or not sure


def test_most_of_what_is_right_is_plausible_and_says_how_far_off():
    said = [found(*row) for row in RIGHT]
    assert sum(row.finding is Finding.OPEN for row in said) <= 4
    row = found(ALTO, "G5", "octave L1 L2 L3 | R2 R3 lowC")
    assert row.words.startswith("plausible: the model puts it 20 cents sharp; against the")


def test_the_model_is_asked_once_and_only_where_the_keywork_is_not_enough():
    alto, asked = shipped.instrument(ALTO), []

    def ask(rows):
        asked.append(len(rows))
        return [None] * len(rows)

    rows = [("G4", "L1 L2 L3"), ("G5", "octave L1 L2 L3"), ("G4", "L1 L2"), ("B6", "octave L2 L3")]
    said = judge(alto, [(parse_fingering(touches, alto), parse_pitch(note)) for note, touches in rows], ask)
    assert [one.verdict for one in said] == [
        Verdict.FITS,
        Verdict.FITS,
        Verdict.CONTRADICTED,
        Verdict.OPEN,
    ]
    assert asked == [2]
    assert said[3].words == "the keywork cannot tell, and the model finds nothing near: try it"


def test_a_lowest_resonance_under_a_stronger_one_would_not_sound():
    alto, clarinet = shipped.model(ALTO), shipped.model(CLARINET)

    def sounds(model, note, touches):
        return model.would_sound([(parse_fingering(touches, model.instrument), parse_pitch(note))])[0]

    assert sounds(alto, "B4", "octave L1") is None
    assert sounds(alto, "C#5", "octave L3") == pytest.approx(-22, abs=5)
    assert sounds(clarinet, "Bb4", "reg A") == pytest.approx(0, abs=15)
