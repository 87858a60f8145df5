import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import PitchError
from core.music.pitch import Interval, Pitch, cents_between, check_a4, frequency_hz, parse_pitch, spell

ALTO = Interval(steps=-5, semitones=-9)
CENTS_TOLERANCE = 1e-6  # rounding of floating point only

pitches = st.builds(Pitch, st.sampled_from("CDEFGAB"), st.integers(-1, 1), st.integers(2, 7))


@pytest.mark.parametrize(
    ("text", "midi"),
    [
        pytest.param("C4", 60, id="middle C"),
        pytest.param("A4", 69, id="tuning A"),
        pytest.param("F#6", 90, id="sharp"),
        pytest.param("Bb3", 58, id="flat"),
        pytest.param("B♭3", 58, id="printed flat"),
        pytest.param("E-flat4", 63, id="flat in words"),
        pytest.param("Cb5", 71, id="C-flat belongs to its own octave"),
        pytest.param("B#4", 72, id="B-sharp belongs to its own octave"),
        pytest.param("Fx5", 79, id="double sharp"),
    ],
)
def test_parse_pitch(text, midi):
    assert parse_pitch(text).midi == midi


@pytest.mark.parametrize("text", ["", "H4", "C", "4", "C44", "C#-#4", "Cbbb4", "c4c"])
def test_no_pitch(text):
    with pytest.raises(PitchError, match="must read like"):
        parse_pitch(text)


@given(pitches)
def test_ascii_round_trip(pitch):
    assert parse_pitch(pitch.ascii) == pitch
    assert parse_pitch(str(pitch)) == pitch


@given(pitches)
def test_transposition_is_undone_by_its_inverse(pitch):
    sounding = ALTO.apply(pitch)
    assert sounding.midi == pitch.midi - 9
    assert ALTO.inverse.apply(sounding).midi == pitch.midi


@pytest.mark.parametrize(
    ("written", "sounding"),
    [("A5", "C5"), ("F#6", "A5"), ("Bb3", "Db3"), ("C4", "Eb3"), ("B4", "D4")],
)
def test_alto_sounds_a_major_sixth_lower(written, sounding):
    assert ALTO.apply(parse_pitch(written)) == parse_pitch(sounding)


def test_transposition_changes_the_key():
    assert ALTO.inverse.fifths == 3  # concert C is written A for the alto
    assert Interval(1, 2).fifths == 2  # concert C is written D for a B-flat instrument


@given(st.integers(20, 110), st.integers(-7, 7))
def test_spell_keeps_the_sound(midi, fifths):
    assert spell(midi, fifths).midi == midi


@given(pitches, st.floats(430, 450))
def test_a_semitone_is_a_hundred_cents(pitch, a4_hz):
    above = frequency_hz(spell(pitch.midi + 1), a4_hz)
    assert cents_between(frequency_hz(pitch, a4_hz), above) == pytest.approx(100, abs=CENTS_TOLERANCE)


@pytest.mark.parametrize("a4_hz", [429.9, 450.1, 0, -440, float("nan"), float("inf")])
def test_tuning_reference_out_of_range(a4_hz):
    with pytest.raises(PitchError, match="from 430 to 450 Hz"):
        check_a4(a4_hz)


def test_cents_need_frequencies():
    with pytest.raises(PitchError, match="above 0 Hz"):
        cents_between(0, 440)
