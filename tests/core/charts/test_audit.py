"""Charts brought in from outside: read tolerantly, believed in nothing."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from catalogue import shipped
from core.charts.audit import IMPORTABLE, Finding, audit_chart
from core.charts.catalogue import parse_catalogue
from core.charts.chart_format import read_chart, read_touches, template_csv, write_csv, write_json
from core.charts.own_entry import entry_of
from core.errors import CatalogueError, FingeringError
from core.instruments.fingering import Fingering, format_fingering, parse_fingering
from core.music.pitch import parse_pitch
from core_shapes import in_hand_of
from studio.shipped import INSTRUMENTS

ALTO, CHART = shipped.instrument("alto-saxophone"), shipped.catalogue("alto-saxophone")
NONE_FITTED = frozenset()


def audited(rows, model="alto-saxophone", fitted=NONE_FITTED):
    text = "note,touches,cents\n" + "\n".join(rows)
    return audit_chart(read_chart(text.encode()), shipped.catalogue(model), fitted, ask(model))


def ask(model):
    return in_hand_of(model).acoustics


FINDINGS = {
    "Bb4,1 bis,": (Finding.AGREES, "as in the catalogue"),
    "Bb4,1 bis,25": (Finding.DIFFERS, "the same touches, but +25 cents; known from −10 to +10"),
    "G6,octave 1 3 | side Bb 1 2,": (
        Finding.OPEN,
        "the keywork cannot tell: try it; against the altissimo fingering it adds right second touch",
    ),
    "C5,1 | side C 3,": (Finding.DIFFERS, "against the side fingering it adds right third touch"),
    "G4,1 2,": (Finding.CONTRADICTED, "by the keywork it sounds written A4, not G4"),
    "B4,octave 1,": (Finding.CONTRADICTED, "by the keywork it sounds written B5, not B4"),
    "B3,1 2 3 G# low B | 1 2 3 C,": (
        Finding.IMPOSSIBLE,
        "left little finger cannot hold G-sharp and low B at once",
    ),
    "A4,1/2 2,": (Finding.IMPOSSIBLE, "first touch cannot be half-holed"),
    "F#6,octave palm D palm Eb palm F | side E high F#,": (
        Finding.NOT_FITTED,
        "the catalogue's row needs high F-sharp",
    ),
    "D4,1 2 3 | sidd Bb,": (
        Finding.UNKNOWN_TOUCH,
        "'sidd' is no touch of the alto saxophone; 'side E' may be meant",
    ),
    "D4,1 1,": (Finding.UNKNOWN_TOUCH, "touch 'L1' must be named once"),
    "E8,1,": (Finding.OUT_OF_RANGE, "written E8 lies outside B♭3 to D8"),
    "H4,1,": (Finding.UNREADABLE, "a pitch must read like F#6 or Bb3, got 'H4'"),
    "Bb4,1 bis,sharp": (Finding.UNREADABLE, "cents must be numbers, got 'sharp'"),
}


@pytest.mark.parametrize(("row", "finding", "words"), [(row, *said) for row, said in FINDINGS.items()])
def test_what_is_found_of_a_row(row, finding, words):
    found = audited([row]).rows[0]
    assert (found.finding, found.words.strip()) == (finding, words)
    assert found.importable == (finding in IMPORTABLE)


def test_a_hand_is_named_once():
    (row,) = audited(["A4,A | R1 RF,"], "b-flat-clarinet").rows
    assert "right first hole, right F/C" in row.words
    assert "right right" not in row.words


@pytest.mark.parametrize("row", ["F2,1 2 3 | 1 2 3 F,", "A2,1 2 3 | 1 2,", "F3,open,"])
def test_low_notes_without_the_whisper_are_less_safe_and_not_contradicted(row):
    (found,) = audited([row], "bassoon").rows
    assert (found.finding, found.words) == (
        Finding.AGREES,
        "as derived from the keywork; less safe for soft attacks, first notes",
    )
    assert not found.is_refuted


def test_a_row_that_stands_twice_is_said_with_the_first():
    found = audited(["F#4,L1 L2 L3 | R2,", "Gb4,1 2 3 | 2,"]).rows[1]
    assert (found.finding, found.words) == (Finding.DUPLICATE, "the same note and touches stand in row 2")


def test_where_the_chart_stops_short_of_the_range():
    found = audited(["C4,1 2 3 | 1 2 3 C,", "C#4,1 2 3 low C# | 1 2 3 C,", "E4,1 2 3 | 1 2,"])
    assert [str(p) for p in found.short_below] == ["B♭3", "B3"]
    assert [str(p) for p in found.holes] == ["D4", "E♭4"]
    assert (str(found.short_above[0]), str(found.short_above[-1])) == ("F4", "D7")
    assert found.counts == {Finding.AGREES: 3}


@pytest.mark.parametrize("model", INSTRUMENTS)
@pytest.mark.parametrize("write", [write_csv, write_json])
def test_the_shipped_chart_agrees_with_itself_in_both_formats(model, write):
    chart = shipped.catalogue(model)
    text = write(chart.entries, chart.instrument)
    found = audit_chart(read_chart(text.encode()), chart, frozenset(chart.instrument.optional), ask(model))
    leads = sum(entry.is_lead for entry in chart.entries)
    counts = {Finding.AGREES: len(chart.entries) - leads, Finding.LEAD: leads}
    assert found.counts == {finding: count for finding, count in counts.items() if count}


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_the_template_can_be_read_as_it_is(model):
    chart = shipped.catalogue(model)
    text = template_csv(chart.entries, chart.instrument)
    assert parse_catalogue([text], chart.instrument).entries == chart.entries[:5]
    assert len(read_chart(text.encode())) == 5


SPELLINGS = [
    ("alto-saxophone", "1 2 3 | 4 5 6 low C", "L1 L2 L3 | R1 R2 R3 lowC"),
    ("alto-saxophone", "LH1, LH2 + RH1", "L1 L2 | R1"),
    ("alto-saxophone", "octave key palm D key", "octave palmD"),
    ("alto-saxophone", "1 2 | side B♭", "L1 L2 | sideBb"),
    ("alto-saxophone", "front-F 2 3", "frontF L2 L3"),
    ("alto-saxophone", "1 2 3 Ab", "L1 L2 L3 G#"),
    ("alto-saxophone", "1 2 3 | 1 2 3 Eb", "L1 L2 L3 | R1 R2 R3 Eb"),
    ("alto-saxophone", "none", "open"),
    ("b-flat-clarinet", "R T 1½ 2 3 | 1 2", "reg T L1/2 L2 L3 | R1 R2"),
    ("b-flat-clarinet", "T 1 2 3 left E/B | 1 2 3", "T L1 L2 L3 LE | R1 R2 R3"),
    ("b-flat-clarinet", "thumb 1 | side 1 side 2", "T L1 | sideF# sideEb"),
    ("b-flat-clarinet", "A key | sliver 1", "A | R1 sliverB"),
    ("oboe", "half? ", None),
    ("oboe", "1st octave 1 2 3 | 1 2 regular F", "thumb8 L1 L2 L3 | R1 R2 F"),
    ("bassoon", "whisper 1 2 3 | pancake 1 2 3 low F", "W L1 L2 L3 | E R1 R2 R3 F"),
    ("bassoon", "A flick! 1 2 3 | 1 2", "A! L1 L2 L3 | R1 R2"),
    ("alto-saxophone", "1 | 2 | 3", None),
    ("alto-saxophone", "", None),
    ("alto-saxophone", "| | |", None),
]


@pytest.mark.parametrize(("model", "text", "touches"), SPELLINGS)
def test_the_ways_in_which_charts_spell_touches(model, text, touches):
    instrument = shipped.instrument(model)
    if touches is None:
        with pytest.raises(FingeringError):
            read_touches(text, instrument)
    else:
        assert read_touches(text, instrument) == parse_fingering(touches, instrument)


@given(st.sampled_from(list(INSTRUMENTS)), st.data())
def test_the_canonical_notation_is_always_understood(model, data):
    instrument = shipped.instrument(model)
    held = data.draw(st.dictionaries(st.sampled_from(list(instrument.touch_by_name)), st.sampled_from("fhm")))
    groups = [frozenset(name for name, how in held.items() if how == which) for which in "fhm"]
    fingering = Fingering(*groups)
    assert read_touches(format_fingering(fingering, instrument), instrument) == fingering


@given(st.text(max_size=60))
def test_any_text_is_touches_or_a_clear_no(text):
    try:
        read = read_touches(text, ALTO)
    except FingeringError as error:
        read = str(error)
    assert isinstance(read, Fingering) or len(read) < 200


FILES = {
    "semicolons": b"Note;Fingering\nBb4;1 bis\n",
    "tabs": b"# mine\nnote\ttouches\nBb4\t1 bis\n",
    "BOM": "\ufeffnote,touches\nBb4,1 bis\n".encode(),
    "columns anywhere": b"kind,touches,note\nside,1 bis,Bb4\n",
    "json": json.dumps({"fingerings": [{"note": "Bb4", "touches": ["L1", "bis"]}]}).encode(),
    "json list": b'[{"Note": "Bb4", "Touches": "1 bis", "cents": null}]',
}


@pytest.mark.parametrize("data", FILES.values(), ids=FILES.keys())
def test_charts_that_can_be_read(data):
    assert audit_chart(read_chart(data), CHART, NONE_FITTED, ask("alto-saxophone")).counts == {
        Finding.AGREES: 1
    }


BAD = {
    "empty": (b"  \n", "has no rows"),
    "heading only": (b"note,touches\n", "has no rows"),
    "no touches": (b"note,kind\nBb4,side\n", "touches is not there"),
    "binary": (b"\xff\xfe\x00", "UTF-8"),
    "null": (b"note,touches\nBb4,\x00\n", "binary"),
    "too large": (b"x" * 1_000_001, "at most 1 MB"),
    "too many": (b"note,touches\n" + b"Bb4,1\n" * 2_001, "at most 2,000 rows, got 2,001"),
    "a long field": (b"note,touches\nBb4," + b"1 " * 200, "at most 300 characters"),
    "broken json": (b'{"fingerings": [', "no whole JSON at line 1"),
    "deep json": (b"[" * 100_000, "no JSON that can be read"),
    "json of another kind": (b'{"fingerings": 3}', "must be a list of fingerings"),
    "json of strings": (b'["L1"]', "must be a list of fingerings"),
    "open quote": (b'note,touches\nBb4,"1 bis\n', "not whole CSV|several lines"),
    "line break in a field": (b'note,touches\n"Bb4","1\nbis"\n', "not whole CSV|several lines"),
}


@pytest.mark.parametrize(("data", "message"), BAD.values(), ids=BAD.keys())
def test_charts_that_cannot_be_read(data, message):
    with pytest.raises(CatalogueError, match=message):
        read_chart(data)


@pytest.mark.parametrize(
    ("values", "message"),
    [
        ({"kind": "odd"}, "kind must be one of"),
        ({"tone": "golden"}, "tone must be one of"),
        ({"cents": "200"}, "cents must lie from"),
        ({"cents": "nan"}, "cents must lie from"),
        ({"cents": "5", "cents_low": "9"}, "cents must lie within"),
        ({"cents": "5", "cents_high": "x"}, "cents must be numbers"),
    ],
)
def test_an_own_entry_with_what_cannot_be_is_refused(values, message):
    with pytest.raises(CatalogueError, match=message):
        entry_of(values, parse_pitch("Bb4"), Fingering(), ALTO)


def test_an_own_entry_takes_its_partial_from_the_keywork():
    made = entry_of({"cents": "8"}, parse_pitch("A6"), parse_fingering("octave palmD", ALTO), ALTO, "own-1")
    assert (made.partial, made.reason, made.tendency.low, made.source) == (3, "", -2, "teacher's own")
    kept = entry_of({}, parse_pitch("A6"), parse_fingering("octave L1 L3", ALTO), ALTO)
    assert kept.partial is None
    assert "does not settle" in kept.reason


def test_own_and_hidden_entries_leave_the_shipped_chart_as_it_is():
    made = entry_of({}, parse_pitch("A4"), parse_fingering("L1 L2 | Eb lowC", ALTO), ALTO, "own-1")
    changed = CHART.with_own([made], {"A4-plain"})
    assert "A4-plain" not in changed.by_id
    assert changed.by_id["own-1"] is made
    assert "A4-plain" in CHART.by_id
