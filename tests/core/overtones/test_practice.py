"""What the model offers to try and to practise: near fingerings, stepping stones, overtones, tones."""

import io
import itertools
import wave

import numpy as np
import pytest
from tests.core_shapes import DATA, in_hand_of
from tools import search_table

from catalogue import shipped
from catalogue.in_hand import family_rows
from core.acoustics.prediction import SoundsAs
from core.errors import AcousticsError, VoicingError
from core.instruments.fingering import Fingering, Kind, parse_fingering
from core.instruments.keywork import mechanism, unholdable
from core.instruments.variants import Variants
from core.music.pitch import parse_pitch
from core.overtones.ladder import ladder, nearest_note, path, same_pitch
from core.overtones.near_search import FORMS, LIMIT, near_search
from core.overtones.sound import LEVEL, RATE, SECONDS, tone, wav
from core.overtones.stepping_stones import MOST_TOUCHES, stepping_stones
from core.overtones.voicing import parse_guide

ALTO = "alto-saxophone"


def near(name, note, around=(), **more):
    instrument, chart = shipped.instrument(name), shipped.catalogue(name)
    rows = [chart.by_id[row] for row in around]
    family = family_rows(in_hand_of(name))
    fitted = instrument.usually_fitted
    return near_search(shipped.model(name), family, chart, parse_pitch(note), fitted, rows, **more)


@pytest.mark.parametrize(
    ("name", "note"), [(ALTO, "C5"), (ALTO, "G6"), ("b-flat-clarinet", "Eb6"), ("bassoon", "Eb4")]
)
def test_near_fingerings_are_few_touches_from_known_ones(name, note):
    instrument, chart = shipped.instrument(name), shipped.catalogue(name)
    found = near(name, note)
    known = {entry.fingering for entry in chart.by_midi[parse_pitch(note).midi]}
    assert 3 < len(found) <= LIMIT
    states = shipped.model(name).states([row.fingering for row in found])
    assert len({state.tobytes() for state in states}) == len(found)
    for row in found:
        assert row.fingering not in known
        assert not unholdable(instrument, row.fingering)
        assert row.fingering.touches ^ row.base.fingering.steady.touches <= set(row.changed)
        assert (
            row.prediction.sounds_as is not SoundsAs.FIRST
            or not mechanism(instrument, row.fingering).open_vents
        )
        assert not row.fingering.touches & (instrument.optional_touches - instrument.usually_fitted)


def test_a_gap_is_searched_from_the_notes_around():
    assert 99 not in shipped.catalogue(ALTO).by_midi
    assert {row.base.note.midi for row in near(ALTO, "D#7")} <= {96, 97, 98}


def test_one_is_varied_by_a_touch():
    chart, whole = shipped.catalogue(ALTO), near(ALTO, "C#7")
    variants = Variants(chart.instrument, chart.instrument.usually_fitted)
    around = near(ALTO, "C#7", vary=whole[0].fingering)
    assert around
    for row in around:
        assert (variants.row(row.fingering) ^ variants.row(whole[0].fingering)).sum() <= 1


def test_different_forms_stand_first():
    chart = shipped.catalogue(ALTO)
    variants = Variants(chart.instrument, chart.instrument.usually_fitted)
    first = [variants.row(row.fingering) for row in near(ALTO, "G6")[:FORMS]]
    assert all((one ^ other).sum() >= 2 for one, other in itertools.combinations(first, 2))


@pytest.mark.parametrize(("family", "least"), [("saxophone", 17), ("oboe", 6), ("bassoon", 4)])
def test_taught_fingerings_are_found_though_nobody_has_them(family, least):
    _, hits, _ = search_table.line(family, search_table.families()[family], ways=("both",))
    assert hits["both"][1] >= least


def test_hands_count_in_the_search():
    plain = near(ALTO, "C6")
    assert {row.stumble for row in plain} == {0.0}
    placed = near(ALTO, "C6", ["B5-plain", "D6-palm"])
    assert max(row.stumble for row in placed) > 0.2
    assert [row.fingering for row in plain] != [row.fingering for row in placed]


def test_a_touch_beside_the_point_is_no_other_fingering():
    """G-sharp held under a fork changes nothing worth trying."""
    for row in near(ALTO, "G6"):
        if len(row.changed) == 2:
            assert not {"G#"} >= set(row.changed)
    assert not any(set(row.changed) == {"Eb"} for row in near(ALTO, "A5"))


def test_a_note_without_anything_around_it_gives_nothing():
    assert near("bassoon", "F5")
    assert near("bassoon", "E6") == []


def stones(start, goal):
    chart = shipped.catalogue(ALTO)
    ends = [(chart.by_id[row].fingering, chart.by_id[row].note) for row in (start, goal)]
    return stepping_stones(shipped.model(ALTO), *ends)


@pytest.mark.parametrize(
    ("start", "goal"),
    [
        ("F6-front", "G6-frontF-sideBb-R1"),
        ("Cs6-open", "A6-two-three"),
        ("F6-palm", "G6-split"),
        ("A5-plain", "B5-plain"),
    ],
)
def test_stepping_stones_change_one_touch_at_a_time(start, goal, alto, chart):
    found = stones(start, goal)
    ends = chart.by_id[start].fingering, chart.by_id[goal].fingering
    assert (found[0].fingering, found[-1].fingering) == ends
    assert len(found) == 1 + len(ends[0].touches ^ ends[1].touches)  # no chain is shorter
    for before, after in itertools.pairwise(found):
        assert before.fingering.touches ^ after.fingering.touches == {after.changed}
        assert not unholdable(alto, after.fingering)
        assert after.margin > -25
        assert abs(1200 * np.log2(after.frequency / before.frequency)) <= 450


@pytest.mark.parametrize("name", [n for n in shipped.INSTRUMENTS if n.endswith("saxophone")])
def test_the_chain_into_the_altissimo_goes_by_what_is_taught(name):
    """Front F, side B-flat added, the first finger of the right hand added, the second lifted: G."""
    model, chart = shipped.model(name), shipped.catalogue(name)
    known = {(entry.fingering, entry.note.midi) for entry in chart.entries}

    def chain(*ends):
        pairs = [(parse_fingering(touches, model.instrument), parse_pitch(note)) for touches, note in ends]
        return [step.changed for step in stepping_stones(model, *pairs, known)]

    assert chain(("octave frontF L2", "F6"), ("octave frontF | sideBb R1", "G6")) == [
        "",
        "sideBb",
        "R1",
        "L2",
    ]
    assert chain(("octave frontF L2 L3", "E6"), ("octave L2 L3", "A6")) == ["", "frontF"]


def test_half_holes_are_steps_too():
    model, chart = shipped.model("b-flat-clarinet"), shipped.catalogue("b-flat-clarinet")
    rows = [chart.by_id[row] for row in ("B5-plain", "Cs6-half")]
    found = stepping_stones(model, *((row.fingering, row.note) for row in rows))
    assert found[-1].fingering.half == {"L1"}


def test_a_chain_that_cannot_be_is_said(chart):
    with pytest.raises(AcousticsError, match=f"{MOST_TOUCHES} at most"):
        stones("Bb3-low", "F6-palm")
    same = stones("B4-plain", "B4-plain")
    assert [step.changed for step in same] == [""]
    low, high = (chart.by_id[row] for row in ("B4-plain", "C6-plain"))
    with pytest.raises(AcousticsError, match="no order of changes"):  # an octave is no step
        stepping_stones(shipped.model(ALTO), (low.fingering, low.note), (high.fingering, parse_pitch("D7")))


def test_the_ladder_of_low_b_flat(alto):
    rows = ladder(shipped.model(ALTO), shipped.catalogue(ALTO).by_id["Bb3-low"].fingering)
    assert [str(row.note) for row in rows[:4]] == ["B♭3", "B♭4", "F5", "B♭5"]
    assert [row.rung.partial for row in rows] == list(range(1, len(rows) + 1))
    assert len(rows) <= 8
    assert rows[0].from_pure == 0
    assert not any(row.favoured for row in rows)
    margins = [row.margin for row in rows[1:]]
    assert margins == sorted(margins, reverse=True)


def test_a_vent_favours_the_second_partial(alto, chart):
    rows = ladder(shipped.model(ALTO), chart.by_id["G5-plain"].fingering)
    assert [row.rung.partial for row in rows if row.favoured] == [2]
    assert {row.from_pure for row in rows} == {None}
    shut = shipped.catalogue("b-flat-clarinet").by_id["G5-plain"].fingering
    rows = ladder(shipped.model("b-flat-clarinet"), shut)
    assert [(row.rung.partial, str(row.note)) for row in rows if row.favoured] == [(3, "G5")]


def test_notes_are_written_notes():
    bassoon, alto = shipped.instrument("bassoon"), shipped.instrument(ALTO)
    assert (str(nearest_note(bassoon, 220.0)[0]), str(nearest_note(alto, 220.0)[0])) == ("A3", "F♯4")
    assert nearest_note(bassoon, 220.0 * 2 ** (30 / 1200))[1] == pytest.approx(30)


def test_one_pitch_on_many_tubes(alto, chart):
    pairs = same_pitch(shipped.model(ALTO), chart, parse_pitch("F5"), alto.usually_fitted)
    assert ("Bb3-low", 3) in {(pair.base.id, pair.prediction.partial) for pair in pairs}
    assert [pair.prediction.partial for pair in pairs] == sorted(pair.prediction.partial for pair in pairs)
    assert all(pair.base.kind is Kind.STANDARD and pair.base.partial == 1 for pair in pairs)
    assert same_pitch(shipped.model(ALTO), chart, parse_pitch("C4"), alto.usually_fitted) == []


@pytest.mark.parametrize("name", shipped.INSTRUMENTS)
def test_the_path_begins_with_the_first_overtone(name):
    instrument = shipped.instrument(name)
    found = path(shipped.model(name), shipped.catalogue(name), instrument.usually_fitted)
    partials = [exercise.partial for exercise in found]
    assert partials == sorted(partials)
    assert partials[0] == (2 if instrument.partials == "all" else 3)
    assert len(found) >= 6
    first = [exercise for exercise in found if exercise.partial == partials[0]]
    margins = [exercise.prediction.margin for exercise in first]
    assert margins == sorted(margins, reverse=True)


def test_a_tone_is_the_note_and_no_louder_than_meant():
    frequency = np.linspace(50, 3000, 500)
    level = 40 - 20 * np.abs(np.sin(frequency / 200))
    samples = tone(frequency, level, 440.0)
    assert len(samples) == int(RATE * SECONDS)
    assert np.abs(samples).max() <= LEVEL + 1e-9
    assert abs(samples[0]) + abs(samples[-1]) < 0.01
    spectrum = np.abs(np.fft.rfft(samples))
    assert abs(np.argmax(spectrum) / SECONDS - 440) < 2
    with wave.open(io.BytesIO(wav(samples))) as file:
        assert (file.getnchannels(), file.getframerate(), file.getnframes()) == (1, RATE, len(samples))
    with pytest.raises(ValueError, match="above 0"):
        tone(frequency, level, 0.0)


def test_a_bore_that_refuses_a_multiple_weakens_it():
    frequency = np.linspace(50, 3000, 3000)
    even = tone(frequency, np.zeros_like(frequency), 300.0)
    dull = tone(frequency, np.where(np.abs(frequency - 600) < 50, -25.0, 0.0), 300.0)
    second = [np.abs(np.fft.rfft(samples))[int(600 * SECONDS)] for samples in (even, dull)]
    assert second[1] < 0.2 * second[0]


GUIDE = (DATA / "voicing.toml").read_text()


@pytest.mark.parametrize("name", shipped.INSTRUMENTS)
def test_every_register_has_cues_and_schools_stand_by_name(name):
    instrument, guide, in_hand = shipped.instrument(name), parse_guide(GUIDE), in_hand_of(name)
    for register in instrument.registers:
        cues = guide.cues_for(in_hand, register.low)
        assert {"tongue", "lip"} <= {cue.about for cue in cues}
        for about in ("tongue", "vowel", "mouthpiece", "reed"):
            several = [cue for cue in cues if cue.about == about]
            assert len(several) < 2 or all(cue.position for cue in several)
    top = {cue.position for cue in guide.cues_for(in_hand, instrument.written_high)}
    assert {"ever higher, as in whistling", "open and low, air does the work"} <= top
    follows = in_hand_of(name, positions=frozenset({"ever higher, as in whistling"}))
    tongue = {c.position for c in guide.cues_for(follows, instrument.written_high) if c.about == "tongue"}
    assert tongue == {"ever higher, as in whistling"}
    checks = {check.name for check in guide.checks_for(instrument)}
    assert "Tuner dip" in checks
    assert ("Teeth off" in checks) == (instrument.family in ("saxophone", "clarinet"))
    assert all(check.caution for check in guide.checks_for(instrument))


@pytest.mark.parametrize(
    ("name", "note", "said"),
    [
        ("alto-saxophone", "C#6", {"tongue", "vowel", "attack", "mouthpiece"}),
        ("alto-saxophone", "C7", {"tongue", "vowel", "attack", "mouthpiece"}),
        ("b-flat-clarinet", "C#6", {"tongue", "vowel", "attack", "mouthpiece"}),
        ("oboe", "C#6", {"tongue", "vowel", "attack", "reed"}),
        ("bassoon", "F4", {"tongue", "vowel", "attack", "reed"}),
    ],
)
def test_high_notes_have_vowel_and_attack_by_school(name, note, said):
    guide, in_hand = parse_guide(GUIDE), in_hand_of(name)
    cues = guide.cues_for(in_hand, parse_pitch(note))
    assert said <= {cue.about for cue in cues}
    attacks = [cue for cue in cues if cue.about == "attack"]
    assert any("throat" in cue.text and not cue.position for cue in attacks)
    assert "attack" not in {cue.about for cue in guide.cues_for(in_hand, in_hand.instrument.written_low)}


def test_a_cue_for_one_note_and_a_zone_that_begins_within_a_register(alto):
    guide, bassoon = parse_guide(GUIDE), in_hand_of("bassoon")

    def runs_sharp(note):
        return any("G3 runs sharp" in cue.text for cue in guide.cues_for(bassoon, parse_pitch(note)))

    assert [runs_sharp(note) for note in ("F#3", "G3", "G#3")] == [False, True, False]
    assert [guide.zone_of(alto, parse_pitch(note)) for note in ("C6", "C#6", "D6", "G6")] == [
        "middle",
        "high",
        "high",
        "top",
    ]


def test_what_a_school_asks_before_the_top_register():
    guide, top = parse_guide(GUIDE), parse_pitch("G6")
    asked = guide.before(in_hand_of(ALTO), top)
    assert [position.name for position in asked] == ["voicing and overtones first"]
    assert "double octave" in asked[0].before
    assert guide.before(in_hand_of(ALTO), parse_pitch("F6")) == []
    follows = in_hand_of(ALTO, positions=frozenset({"fingerings first"}))
    assert guide.before(follows, top) == []


@pytest.mark.parametrize(
    "text", ["cue =", "caution = 'x'", GUIDE.replace('about = "vowel"', 'about = "nose"')]
)
def test_a_guide_that_cannot_be_read_is_refused(text):
    with pytest.raises(VoicingError):
        parse_guide(text)


def test_open_is_a_fingering_like_any_other(alto):
    assert parse_fingering("open", alto) == Fingering()
    assert ladder(shipped.model(ALTO), Fingering())[0].note == parse_pitch("C#5")
