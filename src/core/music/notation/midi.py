"""Read a Standard MIDI File: one track, its times drawn to a grid, its key guessed where it says none.

A MIDI file knows when keys were pressed, not what was written: bars, lengths and names of notes are worked
out.

References
----------
MIDI Association, Standard MIDI Files 1.0.
"""

from __future__ import annotations

import io
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

import mido

from core.errors import NotationError, PassageError, PitchError
from core.music.events import check_tempo
from core.music.key_guess import guess_key
from core.music.notation.score import (
    CHORD_PLACE,
    Choices,
    Chord,
    Losses,
    Offered,
    Score,
    arranged,
    single_notes,
    taken,
    writable,
)
from core.music.passage import NOTES_LIMIT, Bar, Note, Passage
from core.music.pitch import Pitch, parse_pitch, spell
from core.music.playing_order import Signs
from core.words import counted

# Messages that are read: bounds the time that a file may take.
BYTES_LIMIT, MESSAGES_LIMIT, TRACKS_LIMIT = 500_000, 200_000, 200
GRIDS = (2, 3, 4, 6, 8, 12)
PERCUSSION = 9
NAME_LIMIT = 60
# A pause shorter than this, in quarters, after a note that was held at least so much of its time, is none.
NO_PAUSE, HELD = Fraction(1, 2), Fraction(2, 5)
# What a damaged file may end in.
DAMAGED = (OSError, EOFError, ValueError, KeyError, IndexError, TypeError, AttributeError, OverflowError)


@dataclass(frozen=True)
class Pressed:
    """A key that was pressed, in quarters from the beginning."""

    start: Fraction
    end: Fraction
    midi: int


@dataclass
class Played:
    """What a file says, in quarters from the beginning; `lines` by (track, channel)."""

    names: dict[int, str] = field(default_factory=dict)
    lines: dict[tuple[int, int], list[Pressed]] = field(default_factory=dict)
    tempi: dict[Fraction, float] = field(default_factory=dict)
    times: dict[Fraction, tuple[int, int]] = field(default_factory=dict)
    keys: dict[Fraction, int] = field(default_factory=dict)

    def name(self, track: int) -> str:
        """Name of a track; a number where it has none.

        Parameters
        ----------
        track : int, from 0

        Returns
        -------
        str
        """
        return self.names.get(track) or f"Track {track + 1}"


def read_midi(data: bytes, choices: Choices) -> Score:
    """Read a Standard MIDI File.

    Parameters
    ----------
    data : bytes
    choices : Choices

    Returns
    -------
    Score

    Raises
    ------
    NotationError, PassageError
        As `core.music.notation.formats.read_score`.
    """
    played, losses = _played(data), Losses()
    options = tuple(
        (f"{track}.{channel}", f"{played.name(track)}, {counted(len(line), 'note')}")
        for (track, channel), line in sorted(played.lines.items())
    )
    if not options:
        raise NotationError("no key was pressed in the MIDI file, but for percussion")
    key = taken(choices.part, options)
    line = played.lines[tuple(int(part) for part in key.split("."))]  # type: ignore[index]  # two numbers
    grid = choices.grid if choices.grid in GRIDS else 4
    single, chords = _one_at_a_time(line, grid, choices.chord)
    fifths = _fifths(played, single, losses)
    lines = list(_bar_lines(played, single[0].start, max(key.end for key in single)))
    begun = [begins for begins, _ in lines]
    for start in chords:
        number = bisect_right(begun, start)
        begins, (_, beat_type) = lines[number - 1]
        what = f"Of chords all but the {choices.chord.value} note"
        losses.add(what, number, 1 + (start - begins) * beat_type / 4)
    bars = _bars(single, lines, played, fifths, losses)
    numbers = list(range(1, len(bars) + 1))
    ordered = arranged(bars, numbers, [Signs() for _ in bars], choices, losses)
    return Score(
        passage=Passage(ordered, played.names.get(0, "")[:200]).numbered(),
        concert=True,
        from_file=True,
        notices=losses.notices(),
        offered=Offered(parts=options, part=key, chord_notes=max(chords.values(), default=1), timed=True),
    )


def _played(data: bytes) -> Played:
    if len(data) > BYTES_LIMIT:
        raise NotationError(
            f"a MIDI file must have at most {BYTES_LIMIT // 1_000} kB, got {len(data) / 1e3:,.0f} kB; "
            "export the one part that is worked on"
        )
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
    except DAMAGED as error:
        raise NotationError("the MIDI file is damaged; export it again") from error
    if not 0 < file.ticks_per_beat < 0x8000:
        raise NotationError("the MIDI file counts in frames of a film, not in beats; export it again")
    played = Played()
    read = 0
    for track, messages in enumerate(file.tracks[:TRACKS_LIMIT]):
        read += len(messages)
        if read > MESSAGES_LIMIT:
            raise NotationError(f"a MIDI file must have at most {MESSAGES_LIMIT:,} messages; export one part")
        _track(track, messages, file.ticks_per_beat, played)
    return played


def _track(track: int, messages: Sequence[mido.Message], ticks: int, played: Played) -> None:
    at = 0
    down: dict[tuple[int, int], int] = {}
    for message in messages:
        at += max(0, int(message.time))
        here = Fraction(at, ticks)
        match message.type:
            case "track_name":
                name = "".join(letter for letter in message.name if letter.isprintable())
                played.names.setdefault(track, " ".join(name.split())[:NAME_LIMIT])
            case "set_tempo" if message.tempo:
                played.tempi[here] = 60e6 / message.tempo
            case "time_signature":
                played.times[here] = (message.numerator, message.denominator)
            case "key_signature":
                played.keys[here] = _signature(message.key)
            case "note_on" | "note_off" if message.channel != PERCUSSION:
                pressed = message.channel, message.note
                begun = down.pop(pressed, None)
                if begun is not None and at > begun:
                    key = Pressed(Fraction(begun, ticks), here, message.note)
                    played.lines.setdefault((track, message.channel), []).append(key)
                if message.type == "note_on" and message.velocity:
                    down[pressed] = at


def _signature(name: str) -> int:
    """Sharps of a key as the file names it, flats negative."""
    minor = name.endswith("m")
    return parse_pitch(f"{name.removesuffix('m')}4").fifths - 3 * minor


def _one_at_a_time(
    line: Sequence[Pressed], grid: int, chord: Chord
) -> tuple[list[Pressed], dict[Fraction, int]]:
    """One key after the other, on the grid; and where several were pressed at once, and how many."""
    together: dict[Fraction, list[Pressed]] = {}
    for key in line:
        together.setdefault(Fraction(round(key.start * grid), grid), []).append(key)
    starts = sorted(together)
    found: list[Pressed] = []
    chords: dict[Fraction, int] = {}
    for place, start in enumerate(starts):
        keys = sorted(together[start], key=lambda key: -key.midi)
        if (count := len({key.midi for key in keys})) > 1:
            chords[start] = count
        wanted = CHORD_PLACE[chord]
        key = keys[wanted] if wanted < len(keys) else keys[-1]
        step = Fraction(1, grid)
        end = max(Fraction(round(key.end * grid), grid), start + step)
        if place + 1 < len(starts):
            following = starts[place + 1]
            held = (key.end - key.start) >= HELD * (following - start)
            if end > following or (held and following - end < NO_PAUSE):
                end = following
        found.append(Pressed(start, end, key.midi))
    return found, chords


def _fifths(played: Played, line: Sequence[Pressed], losses: Losses) -> int:
    """Key signature at the beginning: as the file says, else the one that the notes fit best."""
    if len(played.keys) > 1:
        losses.add("Changes of the key signature")
    if played.keys:
        return next(played.keys[at] for at in sorted(played.keys))
    losses.add("The file names no key; it was guessed")
    return guess_key([(key.midi, float(key.end - key.start)) for key in line])


def _bar_lines(
    played: Played, begins: Fraction, ends: Fraction
) -> Iterator[tuple[Fraction, tuple[int, int]]]:
    """Where bars begin, with their time signatures, from the first with a note; no more than are read."""
    times = sorted(played.times.items())
    at, place, time, given = Fraction(0), 0, (4, 4), 0
    while at < ends and given <= NOTES_LIMIT:
        while place < len(times) and times[place][0] <= at:
            beats, kind = times[place][1]
            time = (beats, kind) if 1 <= beats <= 64 and kind in (1, 2, 4, 8, 16, 32) else time
            place += 1
        length = Fraction(4 * time[0], time[1])
        upcoming = times[place][0] if place < len(times) else None
        if begins >= at + length and upcoming is None:
            at += length * ((begins - at) // length)  # many empty bars at once
            continue
        if at + length > begins:
            given += 1
            yield at, time
        at += length


def _bars(
    line: Sequence[Pressed],
    lines: Sequence[tuple[Fraction, tuple[int, int]]],
    played: Played,
    fifths: int,
    losses: Losses,
) -> list[Bar]:
    if lines and lines[0][0] > 0:
        losses.add("The silence before the first bar with notes")
    tempi = sorted(played.tempi.items())
    bars: list[Bar] = []
    place = 0
    time_before: tuple[int, int] | None = None
    tempo_place = 0
    for number, (start, time) in enumerate(lines, start=1):
        end = start + Fraction(4 * time[0], time[1])
        notes: list[Note] = []
        at = start
        while at < end:
            while place < len(line) and line[place].end <= at:
                place += 1
            key = line[place] if place < len(line) and line[place].start < end else None
            sounds = key is not None and key.start <= at
            upto = min(end, key.end if key and sounds else key.start if key else end)
            tempo, tempo_place = _tempo(tempi, tempo_place, at, number, losses)
            goes_on = key is not None and key.end > upto
            notes += _note(key if sounds else None, upto - at, goes_on, tempo, fifths)
            at = upto
        bars.append(Bar(tuple(notes), fifths if not bars else None, time if time != time_before else None))
        time_before = time
    return bars


def _tempo(
    tempi: Sequence[tuple[Fraction, float]], place: int, at: Fraction, number: int, losses: Losses
) -> tuple[float | None, int]:
    """The last tempo set up to a moment that was not taken yet, and how many are taken."""
    found: float | None = None
    while place < len(tempi) and tempi[place][0] <= at:
        try:
            found = check_tempo(round(tempi[place][1], 3))
        except PassageError:
            losses.add("A tempo that cannot be played", number)
        place += 1
    return found, place


def _note(
    key: Pressed | None, length: Fraction, goes_on: bool, tempo: float | None, fifths: int
) -> list[Note]:
    quarters, tuplet = writable(length)
    pitch: Pitch | None = None
    if key is not None:
        try:
            pitch = spell(key.midi, fifths)
        except PitchError:
            pitch = None
    note = Note("n", pitch, quarters, tuplet, tied=goes_on and pitch is not None, tempo_bpm=tempo)
    return single_notes(note, NotationError)
