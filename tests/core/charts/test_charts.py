"""The shipped charts of all instruments: what teachers know of them, held as tests.

`KNOWN` was written down apart from the charts and in another order: by touches for each note, as a
teacher would dictate it.
"""

import pytest

from core.charts.catalogue import contradicted
from core.charts.entry import DERIVED, Confidence
from core.instruments.fingering import Held, Kind, parse_fingering
from core.instruments.keywork import missing, unholdable
from core.music.pitch import parse_pitch, spell
from core_shapes import in_hand_of
from studio.shipped import INSTRUMENTS

SAXOPHONES = [name for name in INSTRUMENTS if name.endswith("saxophone")]
CLARINETS = [name for name in INSTRUMENTS if name.endswith("clarinet")]
OBOES = ["oboe", "english-horn"]


@pytest.fixture(scope="module")
def charts():
    from catalogue import shipped

    return {name: shipped.catalogue(name) for name in INSTRUMENTS}


CLARINET_KNOWN = {
    "E3": ["T L1 L2 L3 LE | R1 R2 R3", "T L1 L2 L3 | R1 R2 R3 RE"],
    "G3": ["T L1 L2 L3 | R1 R2 R3"],
    "B3": ["T L1 L2 L3 | R2", "T L1 L2 L3 | R1 sliverB"],
    "C#4": ["T L1 L2 L3 C#"],
    "Eb4": ["T L1 L2 | sideEb", "T L1 L2 sliverEb", "T L1 | R1", "T L1 | R2"],
    "F4": ["T"],
    "F#4": ["L1", "T | sideEb sideF#"],
    "G4": ["open"],
    "G#4": ["G#"],
    "A4": ["A"],
    "Bb4": ["reg A", "A | sideBb"],
    "B4": ["reg T L1 L2 L3 LE | R1 R2 R3", "reg T L1 L2 L3 | R1 R2 R3 RE"],
    "C5": ["reg T L1 L2 L3 | R1 R2 R3 RF", "reg T L1 L2 L3 LF | R1 R2 R3"],
    "C#5": ["reg T L1 L2 L3 | R1 R2 R3 RF#", "reg T L1 L2 L3 LF# | R1 R2 R3"],
    "D5": ["reg T L1 L2 L3 | R1 R2 R3"],
    "Eb5": ["reg T L1 L2 L3 | R1 R2 R3 Ab"],
    "F#5": ["reg T L1 L2 L3 | R2", "reg T L1 L2 L3 | R1 sliverB"],
    "G5": ["reg T L1 L2 L3"],
    "G#5": ["reg T L1 L2 L3 C#"],
    "C6": ["reg T"],
    "C#6": ["reg T L2 L3 | R1 R2", "reg T L1/2 L2 L3 | R1 R2"],
    "D6": ["reg T L2 L3 | R1 Ab", "reg T L1/2 L2 L3 | R1 Ab"],
    "Eb6": ["reg T L2 L3 | R2 Ab", "reg T L2 L3 | R1 sliverB Ab"],
    "E6": ["reg T L2 L3 | Ab"],
    "F6": ["reg T L2 L3 C# | Ab"],
    "F#6": ["reg T L2 | Ab"],
}
OBOE_KNOWN = {
    "B3": ["L1 L2 L3 lowB | R1 R2 R3"],
    "C4": ["L1 L2 L3 | R1 R2 R3 C"],
    "D4": ["L1 L2 L3 | R1 R2 R3"],
    "Eb4": ["L1 L2 L3 | R1 R2 R3 Eb", "L1 L2 L3 leftEb | R1 R2 R3"],
    "F4": ["L1 L2 L3 | R1 R2 F", "L1 L2 L3 leftF | R1 R2", "L1 L2 L3 | R1 R3"],
    "F#4": ["L1 L2 L3 | R1"],
    "G4": ["L1 L2 L3"],
    "Bb4": ["L1 L2 | R1"],
    "C5": ["L1 | R1"],
    "C#5": ["L1/2 L2 L3 | R1 R2 R3 C#"],
    "D5": ["L1/2 L2 L3 | R1 R2 R3"],
    "Eb5": ["L1/2 L2 L3 | R1 R2 R3 Eb"],
    "E5": ["thumb8 L1 L2 L3 | R1 R2"],
    "G#5": ["thumb8 L1 L2 L3 G#"],
    "A5": ["side8 L1 L2"],
    "C6": ["side8 L1 | R1"],
    "D6": ["L2 L3 | R1 C"],
}
KNOWN = {
    **dict.fromkeys(CLARINETS, CLARINET_KNOWN),
    "oboe": OBOE_KNOWN | {"Bb3": ["L1 L2 L3 lowBb | R1 R2 R3"]},
    "english-horn": OBOE_KNOWN,
    "bassoon": {
        "Bb1": ["lowD lowC lowB lowBb L1 L2 L3 | E R1 R2 R3 F"],
        "C#2": ["lowD lowC L1 L2 L3 lowC# | E R1 R2 R3 F"],
        "E2": ["L1 L2 L3 | E R1 R2 R3 F"],
        "F2": ["W L1 L2 L3 | R1 R2 R3 F"],
        "F#2": ["W L1 L2 L3 | thumbF# R1 R2 R3 F", "W L1 L2 L3 | R1 R2 R3 F#"],
        "G#2": ["W L1 L2 L3 | R1 R2 R3 Ab", "W L1 L2 L3 | thumbAb R1 R2 R3"],
        "Bb2": ["W L1 L2 L3 | Bb R1 R2"],
        "C3": ["W L1 L2 L3"],
        "C#3": ["W C# L1 L2 L3", "W C# lowD L1 L2 L3"],
        "Eb3": ["W L1 L3"],
        "F3": ["W"],
        "F#3": ["W L1/2 L2 L3 | R1 R2 R3 F#", "W L1/2 L2 L3 | thumbF# R1 R2 R3 F"],
        "G3": ["W L1/2 L2 L3 | R1 R2 R3"],
        "G#3": ["W L1/2 L2 L3 | R1 R2 R3 Ab"],
        "A3": ["L1 L2 L3 | R1 R2", "A! L1 L2 L3 | R1 R2", "A L1 L2 L3 | R1 R2"],
        "C4": ["L1 L2 L3", "C! L1 L2 L3"],
        "C#4": ["C# L1 L2 L3"],
        "D4": ["L1 L2", "D! L1 L2"],
        "Eb4": ["L1 L3"],
    },
    "baritone-saxophone": {"A3": ["lowA L1 L2 L3 lowBb | R1 R2 R3 lowC"]},
    "bass-clarinet": CLARINET_KNOWN | {"Eb3": ["T L1 L2 L3 | R1 R2 R3 REb"]},
}
DICTATED = [(m, n, t) for m, notes in KNOWN.items() for n, all_ in notes.items() for t in all_]


@pytest.mark.parametrize(("model", "note", "touches"), DICTATED)
def test_known_fingerings_are_there(charts, model, note, touches):
    chart = charts[model]
    assert chart.find(parse_pitch(note), parse_fingering(touches, chart.instrument)) is not None


@pytest.mark.parametrize(
    ("model", "low", "high", "from_"),
    [
        ("soprano-saxophone", "Bb3", "C7", "F#6"),
        ("alto-saxophone", "Bb3", "D7", "F#6"),
        ("tenor-saxophone", "Bb3", "D7", "F#6"),
        ("baritone-saxophone", "A3", "C7", "F#6"),
        *((name, "E3", "C7", "C#6") for name in CLARINETS if name != "bass-clarinet"),
        ("bass-clarinet", "C3", "F#6", "C#6"),
        ("oboe", "Bb3", "A6", "C#6"),
        ("english-horn", "B3", "E6", "C#6"),
        ("bassoon", "Bb1", "D5", "Eb4"),
    ],
)
def test_the_printed_range_has_no_gap_and_the_top_two_candidates_a_note(charts, model, low, high, from_):
    chart = charts[model]
    instrument = chart.instrument
    assert (instrument.written_low.ascii, instrument.written_high.ascii) == (low, high)
    assert chart.gaps() == []
    for midi in range(parse_pitch(from_).midi, parse_pitch(high).midi + 1):
        worth_trying = [entry for entry in chart.by_midi[midi] if entry.kind is not Kind.HARMONIC]
        assert len(worth_trying) >= 2, spell(midi)
        usual = [e for e in worth_trying if e.requires <= instrument.usually_fitted]
        assert usual, spell(midi)
    above = spell(parse_pitch(high).midi + 12)
    assert instrument.accepts(above)
    assert not instrument.accepts(spell(above.midi + 1))


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_rows_hold_by_hands_keywork_and_fittings(charts, model):
    chart = charts[model]
    instrument = chart.instrument
    for entry in chart.entries:
        assert bool(contradicted(entry, instrument)) == bool(entry.reason), entry.id
        assert unholdable(instrument, entry.fingering) == []
        assert missing(instrument, entry.fingering, entry.requires, frozenset()) == entry.requires


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_the_normal_range_rests_on_more_than_low_confidence(charts, model):
    chart = charts[model]
    top = {"saxophone": "F#6", "clarinet": "F#6", "oboe": "C6", "bassoon": "D4"}[chart.instrument.family]
    low = max(chart.instrument.written_low.midi, 52 if "clarinet" in model else 0)
    for midi in range(low, parse_pitch(top).midi + 1):
        sure = [e for e in chart.by_midi[midi] if e.confidence in (Confidence.HIGH, Confidence.MEDIUM)]
        assert sure, spell(midi)


def test_no_touch_at_all_is_a_fingering(charts):
    for model, note in (("alto-saxophone", "C#5"), ("b-flat-clarinet", "G4")):
        chart = charts[model]
        assert chart.find(parse_pitch(note), parse_fingering("open", chart.instrument))


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_one_set_of_touches_may_sound_several_notes_and_several_sets_one(charts, model):
    entries = charts[model].entries
    assert len({entry.fingering for entry in entries}) < len(entries)
    assert len({entry.note.midi for entry in entries}) < len(entries)


def test_saxophones_share_up_to_f_sharp_6_and_each_has_an_altissimo_of_its_own(charts):
    top = parse_pitch("F#6").midi
    alto = charts["alto-saxophone"]
    shared = {e.id: e for e in alto.entries if e.note.midi <= top}
    for model in SAXOPHONES:
        assert {e.id: e for e in charts[model].entries if e.note.midi <= top and e.id in shared} == shared
    by_model = {
        model: {
            (e.note.ascii, e.fingering): e
            for e in charts[model].entries
            if e.note.midi > top and not e.partial
        }
        for model in SAXOPHONES
    }
    split = parse_pitch("G6").ascii, parse_fingering("octave L1 L3 | sideBb R1", alto.instrument)
    standing = {model: str(rows[split].confidence) for model, rows in by_model.items()}
    assert standing == {model: "medium" if model == "alto-saxophone" else "low" for model in SAXOPHONES}
    assert len({frozenset(rows) for rows in by_model.values()}) == len(SAXOPHONES)


FORMS = [
    ("F6", "octave frontF L2", "front"),
    ("G6", "octave frontF L3 | sideBb R1", "front"),
    ("F#6", "octave palmF palmEb palmD | sideE highF#", "palm"),
    ("D7", "octave palmF palmEb palmD | sideE", "overblown"),
    ("G6", "octave L1 L3 | sideBb R1", "split"),
    ("A6", "octave L2 L3 | R1 R2 R3", "open"),
    ("C6", "octave L2", ""),
    ("A6", "L1 L2 L3 | R1 R2 R3", ""),
]


@pytest.mark.parametrize(("note", "touches", "form"), FORMS)
def test_forms_of_the_saxophone_s_top(charts, note, touches, form):
    instrument = charts["alto-saxophone"].instrument
    assert instrument.form_of(parse_fingering(touches, instrument).touches, parse_pitch(note)) == form


@pytest.mark.parametrize("model", INSTRUMENTS)
def test_what_a_model_is_said_to_say_of_a_lead_it_does_say(charts, model):
    """Where accounts name the model's word, it is its word still."""
    from catalogue import shipped

    rows = [entry for entry in charts[model].entries if "the model has it" in entry.accounts]
    found = shipped.model(model).predict([(entry.fingering, entry.note) for entry in rows])
    for entry, prediction in zip(rows, found, strict=True):
        assert entry.is_lead
        assert abs(prediction.cents) > 50
        assert ("higher" in entry.accounts) == (prediction.cents > 0), entry.id


@pytest.mark.parametrize("model", CLARINETS)
def test_the_register_touch_gives_the_twelfth(charts, model):
    chart = charts[model]
    low = [e for e in chart.entries if e.partial == 1 and e.kind is Kind.STANDARD]
    found = 0
    for entry in low:
        if 52 <= entry.note.midi <= 65:
            touches = entry.fingering.full | {"reg"}
            twelfth = chart.by_midi[entry.note.midi + 19]
            assert any(e.fingering.full == touches for e in twelfth), entry.id
            found += 1
    assert found >= 16


@pytest.mark.parametrize("model", CLARINETS)
def test_above_c6_the_first_finger_lifts_or_is_half_holed(charts, model):
    chart = charts[model]
    if model == "bass-clarinet":
        for entry in chart.entries:
            if entry.note.midi > parse_pitch("C6").midi and entry.fingering.held("L1") is None:
                assert entry.is_lead  # half-holing is the rule there
        return
    for midi in range(parse_pitch("C#6").midi, parse_pitch("F#6").midi + 1):
        rows = [e for e in chart.by_midi[midi] if e.partial == 5 and not e.is_lead]
        assert {e.school for e in rows} >= {"lift", "half-hole"}
        for entry in rows:
            held = entry.fingering.held("L1")
            assert held is ({"lift": None, "half-hole": Held.HALF}[entry.school])
        if midi >= parse_pitch("D6").midi:
            assert any("Ab" in e.fingering.full for e in rows)
    sevenths = {e.note.ascii: e.kind for e in chart.entries if e.partial == 7}
    assert sevenths == dict.fromkeys(["G6", "G#6", "A6", "Bb6", "B6", "C7"], Kind.HARMONIC)


def test_clarinet_left_a_flat_is_optional_so_c_goes_left_before_e_flat(charts):
    chart = charts["b-flat-clarinet"]
    e_flat = [e for e in chart.by_midi[parse_pitch("Eb5").midi] if e.kind is Kind.STANDARD]
    assert [e.fingering.full & {"Ab", "LAb"} for e in e_flat] == [{"Ab"}]
    right_c, left_c = chart.by_id["C5-right"], chart.by_id["C5-left"]
    assert unholdable(chart.instrument, parse_fingering("| RF Ab", chart.instrument))
    assert "RF" in right_c.fingering.full
    assert "LF" in left_c.fingering.full


@pytest.mark.parametrize("model", CLARINETS)
def test_resonance_fingers_are_the_same_note(charts, model):
    rows = [e for e in charts[model].entries if "resonance" in e.id]
    assert len(rows) >= 12
    for entry in rows:
        plain = entry.fingering.full - {"L2", "L3", "R1", "R2", "R3"}
        bare = next(e for e in charts[model].by_midi[entry.note.midi] if e.fingering.full == plain)
        assert (bare.kind, bare.partial) == (Kind.STANDARD, 1)
        assert len(entry.fingering.full - plain) >= 2


@pytest.mark.parametrize("model", OBOES)
def test_oboe_half_hole_octaves_and_vents(charts, model):
    chart = charts[model]
    octaves = {"thumb8", "side8", "third8"}
    half = {e.note.ascii for e in chart.entries if e.fingering.half and e.source not in DERIVED}
    assert half == {"C#5", "D5", "Eb5"}
    for entry in (e for e in chart.entries if e.source not in DERIVED):
        touches, midi = entry.fingering.full, entry.note.midi
        if entry.fingering.half:
            assert not touches & octaves
        if entry.kind in (Kind.STANDARD, Kind.FORKED, Kind.ALTERNATE) and entry.partial == 2:
            by_thumb = parse_pitch("E5").midi <= midi <= parse_pitch("G#5").midi
            wanted = {"thumb8"} if by_thumb or "fullAutomatic" in entry.requires else {"side8"}
            assert touches & octaves == wanted, entry.id
            assert "L1" in touches
        if parse_pitch("C#6").midi <= midi <= parse_pitch("Eb6").midi and entry.kind is not Kind.TRILL:
            assert "L1" not in touches
            assert entry.is_lead or not touches & octaves


@pytest.mark.parametrize("model", OBOES)
def test_oboe_three_fs_and_what_each_needs(charts, model):
    for note in ("F4", "F5"):
        rows = [e for e in charts[model].by_midi[parse_pitch(note).midi] if e.kind is not Kind.HARMONIC]
        needs = {e.id.partition("-")[2]: e.requires for e in rows if "-eb" not in e.id}
        assert needs["right"] == set()
        assert needs["left"] == {"leftF"}
        assert needs["forked"] == {"forkedF"}
        assert needs["forked-plain"] == set()


@pytest.mark.parametrize("model", ["oboe", "english-horn"])
def test_the_plain_fork_stands_where_there_is_no_vent_and_only_there(model):
    for note in (65, 77):
        for fitted, stands, not_there in (({"forkedF"}, "-forked", "-plain"), (set(), "-plain", "-forked")):
            offered = {e.id for e in in_hand_of(model, fitted=frozenset(fitted)).at_hand(note)}
            forked = {name for name in offered if "forked" in name and "-eb" not in name}
            assert any(name.endswith(stands) for name in forked)
            assert not any(name.endswith(not_there) for name in forked)


def test_oboe_harmonics_are_twelfths(charts):
    rows = [e for e in charts["oboe"].entries if e.kind is Kind.HARMONIC]
    assert {e.note.ascii for e in rows} == {"F5", "F#5", "G5", "G#5", "A5", "Bb5", "B5", "C6"}
    assert {e.partial for e in rows} == {3}
    low = {e.note.midi - 19 for e in rows}
    assert low == set(range(parse_pitch("Bb3").midi, parse_pitch("F4").midi + 1))


def test_english_horn_shares_the_oboe_s_chart_but_low_b_flat_and_the_top(charts):
    oboe, horn = charts["oboe"], charts["english-horn"]
    top = parse_pitch("C6").midi
    shared = [entry for entry in horn.entries if entry.note.midi <= top]
    assert all(entry == oboe.by_id[entry.id] for entry in shared)
    assert all(
        e.confidence in (Confidence.LOW, Confidence.LEAD) for e in horn.entries if e.id not in oboe.by_id
    )
    assert "lowBb" not in horn.instrument.touch_by_name


def test_bassoon_whisper_half_hole_and_vents(charts):
    chart = charts["bassoon"]
    for entry in (e for e in chart.entries if e.source not in DERIVED):
        touches, midi = entry.fingering.full, entry.note.midi
        if entry.kind in (Kind.HARMONIC,) or entry.id == "Cs3-plain-thumb":
            continue
        if parse_pitch("F2").midi <= midi <= parse_pitch("G#3").midi:
            assert "W" in touches, entry.id
        if midi >= parse_pitch("A3").midi:
            assert "W" not in touches, entry.id
        assert bool(entry.fingering.half) == (54 <= midi <= 56) or midi >= parse_pitch("F#4").midi, entry.id
    assert chart.by_id["F3-plain"].fingering.touches == {"W"}


@pytest.mark.parametrize(("note", "vent"), [("A3", "A"), ("Bb3", "C"), ("B3", "C"), ("C4", "C"), ("D4", "D")])
def test_bassoon_vents_are_flicked_or_held_by_school(charts, note, vent):
    rows = [e for e in charts["bassoon"].by_midi[parse_pitch(note).midi] if e.kind is Kind.VENTED]
    flicked = [e for e in rows if e.fingering.momentary == {vent}]
    held = [e for e in rows if vent in e.fingering.full]
    assert [e.school for e in flicked] == ["flick the vent"]
    assert [e.school for e in held] == ["hold the vent"]
    assert all(("D" in e.requires) == (vent == "D") for e in flicked + held)


def test_bassoon_repeats_at_the_octave_with_the_whisper_off(charts):
    chart = charts["bassoon"]
    for low, high in (("C3-plain", "C4-plain"), ("Cs3-thumb", "Cs4-thumb"), ("D3-plain", "D4-plain")):
        assert chart.by_id[low].fingering.full - {"W"} == chart.by_id[high].fingering.full
