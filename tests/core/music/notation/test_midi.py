"""Standard MIDI Files: tracks, times on a grid, keys, and what is damaged."""

import contextlib
import io
from fractions import Fraction

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.errors import CoreError
from core.music.events import sounding_events
from core.music.key_guess import guess_key
from core.music.notation.formats import read_score, written_for
from core.music.notation.midi import BYTES_LIMIT
from core.music.notation.midi_writer import write_midi
from core.music.notation.score import Choices, Chord
from core.music.pitch import Interval
from core_shapes import DATA

TICKS, ALTO = 480, Interval(-5, -9)


def midi(*tracks, ticks=TICKS):
    file = mido.MidiFile(ticks_per_beat=ticks)
    for messages in tracks:
        file.tracks.append(mido.MidiTrack(messages))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def meta(kind, time=0, **values):
    return mido.MetaMessage(kind, time=time, **values)


def keys(*notes, channel=0):
    """Keys pressed, as (wait, semitone, held) in quarters."""
    found = []
    for wait, note, held in notes:
        which = {"channel": channel, "note": note}
        found.append(mido.Message("note_on", **which, time=round(wait * TICKS)))
        found.append(mido.Message("note_off", **which, time=round(held * TICKS)))
    return found


def shown(passage):
    return " ".join(f"{n.written_pitch.ascii if n.written_pitch else 'z'}:{n.quarters}" for n in passage)


def test_times_are_drawn_to_the_grid_and_short_pauses_closed():
    data = midi(keys((0, 60, 0.9), (0.12, 62, 0.47), (0.01, 64, 0.52), (1.1, 65, 0.9)))
    assert shown(read_score(data).passage) == "C4:1 D4:1/2 E4:1/2 z:1 F4:1"


def test_a_triplet_wants_a_grid_of_three():
    data = midi(keys(*[(0, 60 + 2 * n, 1 / 3) for n in range(3)]))
    assert shown(read_score(data, Choices(grid=3)).passage) == "C4:1/3 D4:1/3 E4:1/3 z:3"
    assert read_score(data, Choices(grid=3)).passage.bars[0].notes[0].tuplet == (3, 2)


def test_a_note_over_a_bar_line_is_tied_and_time_and_tempo_are_kept():
    head = [meta("time_signature", numerator=3, denominator=4), meta("set_tempo", tempo=600_000)]
    reading = read_score(midi([*head, *keys((2, 67, 2))]))
    assert shown(reading.passage) == "z:2 G4:1 G4:1 z:2"
    assert reading.passage.bars[0].time == (3, 4)
    assert [n.tied for n in reading.passage] == [False, True, False, False]
    assert reading.passage.tempo_bpm == 100


def test_a_track_is_chosen_percussion_is_none_and_it_sounds():
    data = midi(
        [meta("track_name", name="Suite")],
        [meta("track_name", name="First"), *keys((0, 72, 4))],
        [meta("track_name", name="Second"), *keys((0, 60, 2), (0, 62, 2))],
        keys((0, 36, 4), channel=9),
    )
    reading = read_score(data)
    assert reading.offered.parts == (("1.0", "First, 1 note"), ("2.0", "Second, 2 notes"))
    assert reading.concert
    assert shown(read_score(data, Choices(part="2.0")).passage) == "C4:2 D4:2"
    assert shown(written_for(reading, Interval(-5, -9), "file")) == "A5:4"


@pytest.mark.parametrize(("chord", "note"), [("highest", "G4"), ("lowest", "C4"), ("second", "E4")])
def test_one_key_of_several_is_taken(chord, note):
    together = [mido.Message("note_on", note=n, velocity=60, time=0) for n in (60, 64, 67)]
    together += [mido.Message("note_off", note=n, time=TICKS * (n == 60)) for n in (60, 64, 67)]
    reading = read_score(midi(together), Choices(chord=Chord(chord)))
    assert next(iter(reading.passage)).written_pitch.ascii == note
    assert reading.offered.chord_notes == 3
    assert f"Of chords all but the {chord} note: bar 1, beat 1." in reading.notices


def test_the_key_is_as_said_or_guessed():
    line = keys(*[(0, n, 1) for n in (70, 72, 74, 75, 77, 79, 81, 82)])
    guessed = read_score(midi(line))
    assert guessed.passage.bars[0].key_fifths == -2
    assert "The file names no key; it was guessed." in guessed.notices
    said = read_score(midi([meta("key_signature", key="F#m"), *line]))
    assert said.passage.bars[0].key_fifths == 3


@pytest.mark.parametrize("fifths", range(-5, 7))
def test_the_scale_of_a_key_is_guessed(fifths):
    tonic = 60 + fifths * 7 % 12
    scale = [(tonic + step, 2.0 if step in (0, 7, 12) else 1.0) for step in (0, 2, 4, 5, 7, 9, 11, 12)]
    assert guess_key(scale) == fifths


def test_a_long_silence_before_is_left_out_at_once():
    reading = read_score(midi(keys((200_000, 60, 1))))
    assert len(reading.passage.bars) == 1
    assert any(notice.startswith("The silence before") for notice in reading.notices)


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"MThd", "damaged"),
        (midi(keys((0, 60, 1)))[:-20], "damaged|no key"),
        (midi([]), "no key was pressed"),
        (midi(keys((0, 40, 1), channel=9)), "no key was pressed"),
        (b"MThd" + b"\0" * BYTES_LIMIT, "at most 500 kB"),
        (midi(keys((0, 60, 1))).replace(b"\x01\xe0", b"\xe7\x28", 1), "frames of a film|damaged"),
    ],
)
def test_files_that_cannot_be_read(data, message):
    with pytest.raises(CoreError, match=message):
        read_score(data)


@given(st.binary(max_size=60), st.integers(0, 90))
def test_any_damage_is_read_or_refused(noise, at):
    whole = midi([meta("track_name", name="A"), *keys((0, 60, 1), (0.5, 62, 0.5))])
    with contextlib.suppress(CoreError):
        assert all(n.quarters > 0 for n in read_score(whole[:at] + noise + whole[at + len(noise) :]).passage)


def test_every_length_on_a_grid_can_be_written():
    for grid in (2, 3, 4, 6, 8, 12):
        data = midi(keys(*[(0, 60 + n % 7, (n % 11 + 1) / 12) for n in range(40)]))
        passage = read_score(data, Choices(grid=grid)).passage
        assert all(bar.quarters == Fraction(4) for bar in passage.bars)


@pytest.mark.parametrize("name", ["over-the-top-sluice", "mill-race", "eel-ladder", "below-the-lock"])
def test_written_as_it_sounds_it_is_read_again_with_its_notes_and_bars(name):
    """The demo's passages: pitches, onsets, time, key and tempo are there again."""
    passage = read_score((DATA / "demo" / f"{name}.abc").read_bytes()).passage
    data = write_midi(passage, ALTO, 90)
    assert mido.MidiFile(file=io.BytesIO(data)).type == 0
    again = written_for(read_score(data, Choices(grid=12)), ALTO, "file")
    one, other = sounding_events(passage, 90), sounding_events(again, 90)
    assert [event.written_pitch.midi for event in other] == [event.written_pitch.midi for event in one]
    assert again.bars[0].time == passage.bars[0].time
    assert again.bars[0].key_fifths == passage.bars[0].key_fifths
    assert again.tempo_bpm == pytest.approx(90, abs=0.01)
    assert other[-1].available_s == pytest.approx(one[-1].available_s, abs=0.05)


def test_louder_notes_are_struck_harder():
    passage = read_score(b"T:Weir\nK:C\n!p!!<(!(.c d) !<)!e-e !f!f|z4|").passage
    messages = [
        m for m in mido.MidiFile(file=io.BytesIO(write_midi(passage, ALTO))).tracks[0] if m.type == "note_on"
    ]
    velocity = [m.velocity for m in messages]
    assert velocity == sorted(velocity)
    assert velocity[0] < velocity[-1]
