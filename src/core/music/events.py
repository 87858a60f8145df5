"""Sounding notes: tied notes taken together, timed, with what bears on their fingering."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import zip_longest

from core.errors import PassageError
from core.music.passage import Note, Passage, PlacedNote
from core.music.pitch import Pitch

TEMPO_MIN_BPM, TEMPO_MAX_BPM = 20.0, 400.0
DYNAMICS = ("pppp", "ppp", "pp", "p", "mp", "mf", "f", "ff", "fff", "ffff")
# Loudness of a mark on a scale from 0 (softest) to 1 (loudest).
LOUDNESS = {mark: place / (len(DYNAMICS) - 1) for place, mark in enumerate(DYNAMICS)}
LOUDNESS |= {"sf": 0.7, "sfz": 0.7, "fz": 0.7, "fp": 0.4}
# Before the first mark, about mezzo-forte; and how far a hairpin goes that leads to no mark: two marks.
PLAIN_LOUDNESS, HAIRPIN_WAY = 0.55, 2 / (len(DYNAMICS) - 1)


@dataclass(frozen=True)
class Event:
    """A sounding note: tied notes taken together, with what bears on its fingering.

    Parameters
    ----------
    notes : tuple of PlacedNote
        The written notes that make it up.
    seconds : float
        How long it sounds.
    available_s : float
        From the start of the note before to the start of this one; infinite for the first.
    after_rest, slurred : bool
        How it begins; tongued if neither.
    loudness : float, 0 to 1
        From the last dynamic mark, or on the way of a hairpin; see `loudnesses`.
    fingering : str
        The first fingering written under one of its notes.
    """

    notes: tuple[PlacedNote, ...]
    seconds: float
    available_s: float
    after_rest: bool
    slurred: bool
    loudness: float

    @property
    def id(self) -> str:
        return self.notes[0].note.id

    @property
    def written_pitch(self) -> Pitch:
        pitch = self.notes[0].note.written_pitch
        if pitch is None:
            raise PassageError(f"an event must begin with a note, got the rest {self.id}")
        return pitch

    def quicker(self, factor: float) -> Event:
        """The same note so many times as fast."""
        seconds, available_s = self.seconds / factor, self.available_s / factor
        return Event(self.notes, seconds, available_s, self.after_rest, self.slurred, self.loudness)

    @property
    def fingering(self) -> str:
        return next((placed.note.fingering for placed in self.notes if placed.note.fingering), "")


def check_tempo(tempo_bpm: float) -> float:
    """Return a tempo that can be played.

    Raises
    ------
    PassageError
        If `tempo_bpm` is not from 20 to 400 quarter notes a minute.
    """
    if not TEMPO_MIN_BPM <= tempo_bpm <= TEMPO_MAX_BPM:
        raise PassageError(
            f"the tempo must be from {TEMPO_MIN_BPM:.0f} to {TEMPO_MAX_BPM:.0f} quarter notes a minute, "
            f"got {tempo_bpm:g}"
        )
    return tempo_bpm


def sounding_events(passage: Passage, tempo_bpm: float | None = None) -> tuple[Event, ...]:
    """Take tied notes together and time them.

    Parameters
    ----------
    tempo_bpm : float, 20 to 400, optional
        Tempo at the start; later changes keep their proportion to it. Default: as written.
    """
    first_bpm = passage.tempo_bpm
    factor = check_tempo(tempo_bpm if tempo_bpm is not None else first_bpm) / first_bpm
    events: list[Event] = []
    open_tie: list[PlacedNote] = []
    bpm, clock, last_onset, onset = first_bpm, 0.0, -float("inf"), 0.0
    in_slur = slurred = False
    after_rest = True
    louder = loudnesses(passage)
    for (placed, following), loudness in zip(
        zip_longest(passage.placed, passage.placed[1:]), louder, strict=True
    ):
        note = placed.note
        bpm = note.tempo_bpm if note.tempo_bpm is not None else bpm
        seconds = float(note.quarters) * 60.0 / (bpm * factor)
        if note.is_rest:
            after_rest, in_slur = True, False
        elif not open_tie:
            onset, slurred, entry_loudness, started_after_rest = clock, in_slur, loudness, after_rest
        clock += seconds
        if note.is_rest:
            continue
        in_slur = (in_slur and not note.slur_stop) or note.slur_start
        open_tie.append(placed)
        if note.tied and following is not None and _same_pitch(note, following.note):
            continue
        seconds, available_s = clock - onset, onset - last_onset
        events.append(
            Event(tuple(open_tie), seconds, available_s, started_after_rest, slurred, entry_loudness)
        )
        last_onset, after_rest, open_tie = onset, False, []
    return tuple(events)


def loudnesses(passage: Passage) -> list[float]:
    """Loudness of every note and rest at its beginning.

    A hairpin leads evenly to the mark at its end, or right after it; without one, by two marks. It ends where
    it says so, and at the latest before the next mark or hairpin.
    """
    notes = list(passage)
    found: list[float] = []
    level = PLAIN_LOUDNESS
    while len(found) < len(notes):
        start = len(found)
        level = LOUDNESS.get(notes[start].dynamic, level)
        if not notes[start].hairpin:
            found.append(level)
            continue
        end = _hairpin_end(notes, start)
        after = notes[end].dynamic if end < len(notes) else ""
        way = HAIRPIN_WAY if notes[start].hairpin == "crescendo" else -HAIRPIN_WAY
        target = LOUDNESS.get(after, min(max(level + way, 0.0), 1.0))
        whole = float(sum(note.quarters for note in notes[start:end]))
        gone = 0.0
        for note in notes[start:end]:
            found.append(level + (target - level) * gone / whole)
            gone += float(note.quarters)
        level = target
    return found


def _hairpin_end(notes: list[Note], start: int) -> int:
    """Place of the first note after the hairpin that begins at a note."""
    for place in range(start, len(notes)):
        if place > start and (notes[place].dynamic or notes[place].hairpin):
            return place
        if notes[place].hairpin_stop:
            return place + 1
    return len(notes)


def _same_pitch(note: Note, other: Note) -> bool:
    if note.written_pitch is None or other.written_pitch is None:
        return False
    return note.written_pitch.midi == other.written_pitch.midi
