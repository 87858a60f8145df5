import pytest

from core.music.notation.formats import read_score


def notes(abc):
    return list(read_score(abc.encode()).passage)


def lengths(abc):
    return [str(n.quarters) for n in notes(abc)]


def pitches(abc):
    return [n.written_pitch.ascii if n.written_pitch else "z" for n in notes(abc)]


@pytest.mark.parametrize(
    ("abc", "expected"),
    [
        pytest.param("K:C\nC, C c c' c''|", "C3 C4 C5 C6 C7", id="octaves"),
        pytest.param("K:D\nF C =F F|F|", "F#4 C#4 F4 F4 F#4", id="key, and a sign that lasts the bar"),
        pytest.param("K:C\n^F f F|", "F#4 F5 F#4", id="a sign holds in its octave only"),
        pytest.param("K:C\n__B ^^F _e|", "Bbb4 F##4 Eb5", id="double signs"),
        pytest.param("K:Bb\nB e|", "Bb4 Eb5", id="flat key"),
        pytest.param("K:Dm\nB|", "Bb4", id="minor"),
        pytest.param("K:A mixolydian\nG|", "G4", id="mode"),
        pytest.param("K:C\n^F-|F F|", "F#4 F#4 F4", id="a tie carries its sign over the bar"),
        pytest.param("K:C\nF [K:G] F|", "F4 F#4", id="key change in the line"),
        pytest.param("K:C clef=treble\nF|", "F4", id="clef in the key field"),
        pytest.param("K:none\nF|", "F4", id="no key"),
        pytest.param(
            'K:C\n"Am"C {d}E !trill!F ~G y2 a % words\n|', "C4 E4 F4 G4 A5", id="extras passed over"
        ),
        pytest.param("K:C\nC z x2 D|", "C4 z z D4", id="rests"),
        pytest.param("K:C\nC|Z2|D|", "C4 z z D4", id="whole bars of rest"),
    ],
)
def test_pitches(abc, expected):
    assert " ".join(pitches(abc)) == expected


@pytest.mark.parametrize(
    ("abc", "expected"),
    [
        pytest.param("K:C\nC C2 C/ C// C3/2|", "1/2 1 1/4 1/8 3/4", id="lengths"),
        pytest.param("M:2/4\nK:C\nC|", "1/4", id="unit length by the metre"),
        pytest.param("L:1/4\nK:C\nC|", "1", id="unit length as said"),
        pytest.param("K:C\nC>D E<F|", "3/4 1/4 1/4 3/4", id="broken rhythm"),
        pytest.param("K:C\n(3CDE F|", "1/3 1/3 1/3 1/2", id="triplet"),
        pytest.param("K:C\n(3:2:2C2D E|", "2/3 1/3 1/2", id="triplet of two notes"),
        pytest.param("M:6/8\nL:1/8\nK:C\n(2CD|", "3/4 3/4", id="duplet"),
        pytest.param("K:C\nC5|", "2 1/2", id="five eighths become tied notes"),
    ],
)
def test_lengths(abc, expected):
    assert " ".join(lengths(abc)) == expected


def test_header():
    reading = read_score(b'X:1\nT:Sluice\nT:second title\nM:C|\nQ:"Lively" 1/2=60\nK:Em\nE4|')
    first = next(iter(reading.passage))
    assert (reading.passage.title, first.tempo_bpm) == ("Sluice", 120)
    assert (reading.passage.bars[0].time, reading.passage.bars[0].key_fifths) == ((2, 2), 1)


def test_slurs_and_articulation():
    first, second, third, _ = notes("K:C\n(.C !>!D) !tenuto!E F|")
    assert (first.slur_start, second.slur_stop, third.slur_start) == (True, True, False)
    assert [*first.articulations, *second.articulations, *third.articulations] == [
        "staccato",
        "accent",
        "tenuto",
    ]


def test_a_time_change_inside_a_line_starts_a_bar():
    bars = read_score(b"M:4/4\nK:C\nC4 [M:3/4] D6|").passage.bars
    assert [bar.time for bar in bars] == [(4, 4), (3, 4)]


def test_what_is_left_out_is_said():
    reading = read_score(b"K:C\n|:C {d}E {f}F:|1 G:|2 A|]")
    assert reading.notices == (
        "Repeats and endings are read once, in the order of the page (3)",
        "Grace notes were left out (2)",
    )


def test_only_the_first_tune_is_read():
    reading = read_score(b"X:1\nK:C\nCDE|\nX:2\nK:C\nFGA|")
    assert len(list(reading.passage)) == 3
    assert reading.notices == ("Only the first tune was read",)
