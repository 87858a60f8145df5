"""Write a passage as a Standard MIDI File, as it sounds.

References
----------
MIDI Association, Standard MIDI Files 1.0.
"""

from __future__ import annotations

import io
from fractions import Fraction

import mido

from core.music.events import loudnesses, sounding_events
from core.music.passage import Passage
from core.music.pitch import Interval

# A quarter in ticks: every length of a note and its usual tuplets are whole.
TICKS = 20_160
# How long a tongued note is held, and a staccato one, of its time.
TONGUED, STACCATO = Fraction(15, 16), Fraction(1, 2)
SOFTEST, LOUDEST = 24, 120
KEYS = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")


def write_midi(
    passage: Passage, to_sounding: Interval, tempo_bpm: float | None = None, name: str = ""
) -> bytes:
    """Write a passage.

    Parameters
    ----------
    passage : Passage
    to_sounding : Interval
        From written to sounding pitch.
    tempo_bpm : float, 20 to 400, optional
        Tempo at the start; later ones keep their proportion to it. Default: as written.
    name : str
        Of the track.

    Returns
    -------
    bytes
    """
    sounding = passage.transposed(to_sounding)
    factor = (tempo_bpm or passage.tempo_bpm) / passage.tempo_bpm
    timed: list[tuple[int, int, mido.Message]] = []
    at = Fraction(0)
    starts: dict[str, Fraction] = {}
    meta = mido.MetaMessage
    timed.append((0, 0, meta("track_name", name=_latin(name or passage.title))))
    timed.append((0, 1, meta("set_tempo", tempo=_tempo(passage.tempo_bpm * factor))))
    for bar in sounding.bars:
        if bar.time is not None:
            beats, kind = bar.time
            timed.append((_ticks(at), 0, meta("time_signature", numerator=beats, denominator=kind)))
        if bar.key_fifths is not None:
            timed.append((_ticks(at), 0, meta("key_signature", key=KEYS[bar.key_fifths + 7])))
        for note in bar.notes:
            if note.tempo_bpm is not None:
                timed.append((_ticks(at), 1, meta("set_tempo", tempo=_tempo(note.tempo_bpm * factor))))
            starts[note.id] = at
            at += note.quarters
    timed += _keys(sounding, starts)
    return _file(timed)


def _keys(passage: Passage, starts: dict[str, Fraction]) -> list[tuple[int, int, mido.Message]]:
    """Keys pressed and let go; at one moment what ends comes before what begins."""
    loud = {note.id: loudness for note, loudness in zip(passage, loudnesses(passage), strict=True)}
    events = sounding_events(passage)
    found = []
    for place, event in enumerate(events):
        start, length = starts[event.id], sum(placed.note.quarters for placed in event.notes)
        follows_slurred = place + 1 < len(events) and events[place + 1].slurred
        short = "staccato" in event.notes[0].note.articulations
        held = length * (STACCATO if short else 1 if follows_slurred else TONGUED)
        velocity = round(SOFTEST + (LOUDEST - SOFTEST) * loud[event.id])
        key = {"note": event.written_pitch.midi}
        found.append((_ticks(start), 3, mido.Message("note_on", **key, velocity=velocity)))
        found.append((_ticks(start + held), 2, mido.Message("note_off", **key)))
    return found


def _file(timed: list[tuple[int, int, mido.Message]]) -> bytes:
    file = mido.MidiFile(type=0, ticks_per_beat=TICKS)
    track = mido.MidiTrack()
    before = 0
    for at, _, message in sorted(timed, key=lambda one: one[:2]):
        track.append(message.copy(time=at - before))
        before = at
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _ticks(quarters: Fraction) -> int:
    return round(quarters * TICKS)


def _tempo(bpm: float) -> int:
    return min(round(60e6 / bpm), 0xFFFFFF)


def _latin(text: str) -> str:
    """A name in the letters that a MIDI file has."""
    return text.encode("latin-1", "replace").decode("latin-1")[:200]
