"""The shipped chart, and how a damaged one is refused."""

import pytest

from core.charts.catalogue import COLUMNS, MAY_LACK, contradicted, format_catalogue, parse_catalogue
from core.charts.entry import Tendency
from core.errors import CatalogueError
from core.instruments.fingering import Kind, parse_fingering
from core.instruments.keywork import partial_semitones
from core.music.pitch import parse_pitch, spell

HEAD = ",".join(name for name in COLUMNS if name not in MAY_LACK) + "\n"
GOOD = "Bb4-bis,Bb4,alternate,L1 bis,,1,0,-10,10,full,sure,,,,,high,general teaching practice,,\n"

# Fingerings that every teacher of the saxophone knows, written down apart from the chart.
KNOWN = {
    "Bb3": ["L1 L2 L3 lowBb | R1 R2 R3 lowC"],
    "F#4": ["L1 L2 L3 | R2", "L1 L2 L3 | R1 sideF#"],
    "Bb4": ["L1 bis", "L1 L2 | sideBb", "L1 | R1", "L1 | R2"],
    "C5": ["L2", "L1 | sideC"],
    "C#5": ["open", "octave L3"],
    "D5": ["octave L1 L2 L3 | R1 R2 R3", "palmD"],
    "Bb5": ["octave L1 bis", "octave L1 L2 | sideBb"],
    "C#6": ["octave"],
    "D6": ["octave palmD"],
    "E6": ["octave palmD palmEb | sideE", "octave frontF L2 L3"],
    "F6": ["octave palmD palmEb palmF | sideE", "octave frontF L2"],
    "F#6": ["octave palmD palmEb palmF | sideE highF#", "octave frontF L2 | sideBb"],
    "A6": ["octave L2 L3", "octave L2 L3 | R1 R2 R3"],
}


@pytest.mark.parametrize(("note", "touches"), [(n, t) for n, all_ in KNOWN.items() for t in all_])
def test_known_fingerings_are_there(chart, note, touches):
    assert chart.find(parse_pitch(note), parse_fingering(touches, chart.instrument)) is not None


def test_every_semitone_of_the_normal_range_has_a_standard_or_palm_fingering(chart):
    for midi in range(parse_pitch("Bb3").midi, parse_pitch("F6").midi + 1):
        kinds = {entry.kind for entry in chart.by_midi[midi]}
        assert kinds & {Kind.STANDARD, Kind.PALM, Kind.ALTERNATE}, spell(midi)


def test_two_fingerings_for_each_altissimo_semitone(chart):
    for midi in range(parse_pitch("F#6").midi, parse_pitch("D7").midi + 1):
        assert len([entry for entry in chart.by_midi[midi] if entry.kind is not Kind.HARMONIC]) >= 2, spell(
            midi
        )


def test_there_is_no_gap(chart):
    assert chart.gaps() == []


@pytest.mark.parametrize("partial", [2, 3, 4])
def test_false_fingerings_from_the_overtones_of_the_lowest_notes(chart, partial):
    for low in ("Bb3", "B3", "C4", "C#4"):
        fundamental = next(e for e in chart.by_midi[parse_pitch(low).midi] if e.kind is Kind.STANDARD)
        above = chart.find(spell(parse_pitch(low).midi + partial_semitones(partial)), fundamental.fingering)
        assert above is not None
        assert (above.kind, above.partial) == (Kind.FALSE, partial)


def test_one_set_of_touches_sounds_several_notes(chart):
    low_b_flat = chart.by_id["Bb3-low"].fingering
    assert len({e.note.midi for e in chart.entries if e.fingering == low_b_flat}) >= 4


def test_every_row_is_agreed_by_the_mechanism_or_says_why_not(chart):
    disputed = {entry.id for entry in chart.entries if contradicted(entry, chart.instrument)}
    assert disputed == {entry.id for entry in chart.entries if entry.reason}
    low = {row for row in disputed if chart.by_id[row].note.midi < parse_pitch("E6").midi}
    assert low == {"Cs5-covered", "D5-false-palm", "E5-false-palm"}


def test_rows_that_need_high_f_sharp_say_so(chart):
    for entry in chart.entries:
        assert ("highF#" in entry.fingering.touches) == (entry.requires == {"highF#"})


def test_round_trip(chart):
    assert (
        parse_catalogue([format_catalogue(chart.entries, chart.instrument)], chart.instrument).entries
        == chart.entries
    )


@pytest.mark.parametrize(
    ("old", "new", "message"),
    [
        ("L1 bis", "L1 bus", "not one of this instrument's"),
        ("L1 bis", "L1", "partial 1 of B4 is not B♭4"),
        ("L1 bis", "frontF L1 bis", "cannot hold"),
        (",Bb4,", ",E3,", "note must lie from"),
        (",Bb4,", ",H4,", "must read like"),
        ("alternate", "odd", "cannot be read"),
        ("L1 bis,,1,", "L1 bis,highF#,1,", "requires must be"),
        (",1,0,", ",2,0,", "partial 2 of"),
        (",1,0,", ",,0,", "partial is not settled"),
        (",1,0,", ",one,0,", "cannot be read"),
        ("0,-10,10", "0,5,10", "cents must lie within their range"),
        ("0,-10,10", "nan,-10,10", "cents must lie within their range"),
        ("0,-10,10", "0,,10", "cannot be read"),
        ("L1 bis", "octave L1 bis", "with an open neck vent"),
        ("sure,,,,", "sure,,,,other school", "school must be one of"),
        ("sure,,,,", "sure,,,R9,", "only_from must name touches"),
        ("general teaching practice,", "hearsay,", "source must be one of"),
        ("general teaching practice,,", "general teaching practice,,because", "must give no reason"),
        ("high", "lead", "a lead must state no tendency"),
        ("general teaching practice", "acoustic model", "must be a lead"),
        ("Bb4-bis,Bb4", "Bb4", "each column"),
    ],
)
def test_a_bad_row_is_refused(alto, old, new, message):
    assert old in GOOD
    with pytest.raises(CatalogueError, match=message):
        parse_catalogue([HEAD + GOOD.replace(old, new, 1)], alto)


def test_the_good_row_is_good(alto):
    assert len(parse_catalogue(["# a comment\n" + HEAD + GOOD], alto).entries) == 1


@pytest.mark.parametrize("second", [GOOD, GOOD.replace("Bb4-bis", "again")])
def test_the_same_row_twice_is_refused(alto, second):
    with pytest.raises(CatalogueError, match="stand"):
        parse_catalogue([HEAD + GOOD + second], alto)


def test_columns_are_checked(alto):
    with pytest.raises(CatalogueError, match="must have the columns"):
        parse_catalogue(["note,touches\nBb4,L1 bis\n"], alto)


def test_tendency_beyond_a_semitone_is_refused():
    with pytest.raises(CatalogueError):
        Tendency(0, -120, 120)
