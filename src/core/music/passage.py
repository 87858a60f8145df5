"""A passage: one line of notes and rests, with everything that bears on the choice of fingerings.

Lengths and places are exact fractions of a quarter note. Pitches are written pitches of the
instrument that plays.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from itertools import count
from typing import TypeVar

from core.errors import PassageError
from core.music.chords import ChordSymbol, chord_moved, parse_chord
from core.music.pitch import Interval, Pitch, key_alter

Record = TypeVar("Record")
NOTES_LIMIT = 3_000
DEFAULT_TEMPO_BPM = 96.0
ARTICULATIONS = ("staccato", "tenuto", "accent", "strong-accent", "staccatissimo", "breath-mark", "caesura")
ORNAMENTS = ("trill-mark", "mordent", "inverted-mordent", "turn", "inverted-turn", "tremolo")
HAIRPINS = ("crescendo", "diminuendo")
WORDS_LIMIT = 100
# A length that one note can have: a power of two from a breve to a 256th, with up to two dots.
NOMINAL = {
    Fraction(2) ** power * (2 - Fraction(1, 2**dots)): (power, dots)
    for power in range(-6, 4)
    for dots in range(3)
}


@dataclass(frozen=True)
class Note:
    """A note or rest as it stands on the page.

    Parameters
    ----------
    id : str
        Name of the note in the passage; stable when the passage is written and read again.
    written_pitch : Pitch or None
        None for a rest.
    quarters : Fraction
        Length in quarter notes, tuplet included.
    tuplet : (int, int)
        Notes played, and in the time of how many; (1, 1) outside tuplets.
    tied : bool
        Tied to the next note.
    slur_start, slur_stop : bool
        A slur begins, or ends, at this note.
    dynamic : str
        Mark that stands at this note, or empty.
    hairpin : str
        One of `HAIRPINS` that begins at this note, or empty.
    hairpin_stop : bool
        A hairpin ends at this note.
    grace : tuple of Pitch
        Grace notes before it, in order.
    ornaments : frozenset of str
        Of `ORNAMENTS`.
    trilled_to : Pitch or None
        The other note of a trill or a tremolo, where it is written.
    fermata : bool
    chord : str
        Chord symbol that stands here, in plain letters, see `core.music.chords`, or empty.
    ossia : Pitch or None
        What is played in its place until it is within reach.
    words, lyric : str
        What stands above it (rehearsal mark, tempo in words) and its syllable; a syllable that goes on ends
        with a hyphen.
    tempo_bpm : float or None
        Quarter notes a minute from here on.
    fingering : str
        Touches written under the note, in the notation of `core.instruments.fingering`, or empty.
    """

    id: str
    written_pitch: Pitch | None
    quarters: Fraction
    tuplet: tuple[int, int] = (1, 1)
    tied: bool = False
    slur_start: bool = False
    slur_stop: bool = False
    articulations: frozenset[str] = frozenset()
    dynamic: str = ""
    tempo_bpm: float | None = None
    fingering: str = ""
    hairpin: str = ""
    hairpin_stop: bool = False
    grace: tuple[Pitch, ...] = ()
    ornaments: frozenset[str] = frozenset()
    fermata: bool = False
    words: str = ""
    lyric: str = ""
    chord: str = ""
    ossia: Pitch | None = None
    trilled_to: Pitch | None = None

    def __post_init__(self) -> None:
        if self.quarters <= 0:
            raise PassageError(f"a note must have a length above 0, got {self.quarters}")

    def transposed(self, interval: Interval) -> Note:
        """The same note, with all that is written of its pitch moved.

        Parameters
        ----------
        interval : Interval

        Returns
        -------
        Note
        """
        moved: dict[str, object] = {}
        for name in ("written_pitch", "ossia", "trilled_to"):
            if (pitch := getattr(self, name)) is not None:
                moved[name] = interval.apply(pitch)
        if self.grace:
            moved["grace"] = tuple(interval.apply(pitch) for pitch in self.grace)
        if self.chord:
            moved["chord"] = chord_moved(self.chord, interval)
        return with_fields(self, **moved)

    @property
    def is_rest(self) -> bool:
        """Whether nothing sounds."""
        return self.written_pitch is None

    @property
    def nominal(self) -> Fraction:
        """Length as printed, before the tuplet shortens it."""
        return self.quarters * self.tuplet[0] / self.tuplet[1]


@dataclass(frozen=True)
class Bar:
    """A bar: its notes and what changes at its start; None is unchanged."""

    notes: tuple[Note, ...]
    key_fifths: int | None = None
    time: tuple[int, int] | None = None

    @property
    def quarters(self) -> Fraction:
        """Length of all its notes, in quarters."""
        return sum((note.quarters for note in self.notes), Fraction(0))

    @property
    def is_short(self) -> bool:
        """Whether it is shorter than the time signature at its start says."""
        return self.time is not None and self.quarters < Fraction(4 * self.time[0], self.time[1])


def with_fields(record: Record, **fields: object) -> Record:
    """A record with other fields, ten times as quick as `dataclasses.replace`, which checks them again.

    Parameters
    ----------
    record : a frozen dataclass without slots or cached properties
    **fields
        As they are to be; nothing checks them.

    Returns
    -------
    the same class
    """
    made = object.__new__(type(record))
    vars(made).update(vars(record), **fields)
    return made


@dataclass(frozen=True)
class PlacedNote:
    """A note with its place: bar from 1, beat from 1 in units of the time signature."""

    note: Note
    bar: int
    beat: Fraction


@dataclass(frozen=True)
class Passage:
    """Bars of one line.

    Raises
    ------
    PassageError
        If there are more than `NOTES_LIMIT` notes and rests.
    """

    bars: tuple[Bar, ...]
    title: str = ""
    composer: str = ""

    def __hash__(self) -> int:
        return self._hash  # worked out once: what is made of a passage is kept by it

    @cached_property
    def _hash(self) -> int:
        return hash((self.bars, self.title, self.composer))

    def __post_init__(self) -> None:
        total = sum(len(bar.notes) for bar in self.bars)
        if total > NOTES_LIMIT:
            raise PassageError(
                f"a passage must have at most {NOTES_LIMIT:,} notes and rests, got {total:,}; "
                "bring in the part that is worked on"
            )

    def __iter__(self) -> Iterator[Note]:
        return (note for bar in self.bars for note in bar.notes)

    @cached_property
    def placed(self) -> tuple[PlacedNote, ...]:
        """Every note and rest with its place; an upbeat at the start is bar 0."""
        found, beat_type = [], 4
        for number, bar in enumerate(self.bars, start=0 if self.has_upbeat else 1):
            beat_type = bar.time[1] if bar.time else beat_type
            into = Fraction(0)
            for note in bar.notes:
                found.append(PlacedNote(note, number, 1 + into * beat_type / 4))
                into += note.quarters
        return tuple(found)

    @property
    def has_upbeat(self) -> bool:
        """Whether the first of several bars is shorter than its time signature says."""
        return len(self.bars) > 1 and self.bars[0].is_short

    @property
    def tempo_bpm(self) -> float:
        """First tempo of the passage in quarter notes a minute."""
        return next((note.tempo_bpm for note in self if note.tempo_bpm is not None), DEFAULT_TEMPO_BPM)

    @cached_property
    def _keys(self) -> Mapping[str, int]:
        """Key signature in force at every note, by its id."""
        found: dict[str, int] = {}
        fifths = 0
        for bar in self.bars:
            fifths = fifths if bar.key_fifths is None else bar.key_fifths
            found |= dict.fromkeys((note.id for note in bar.notes), fifths)
        return found

    def key_at(self, note_id: str) -> int:
        """Sharps of the key signature at a note, flats negative; none where there is no such note.

        Parameters
        ----------
        note_id : str
            Id of a note of the passage.

        Returns
        -------
        int, -7 to 7
        """
        return self._keys.get(note_id, 0)

    @cached_property
    def harmony(self) -> Mapping[str, ChordSymbol | None]:
        """The chord symbol in force at every note, by its id; None where there is none."""
        found: dict[str, ChordSymbol | None] = {}
        chord: ChordSymbol | None = None
        for note in self:
            chord = parse_chord(note.chord) if note.chord else chord
            found[note.id] = chord
        return found

    @cached_property
    def foreign(self) -> frozenset[str]:
        """Ids of the notes that lie outside the key signature at their place."""
        pitched = ((note.id, note.written_pitch) for note in self if note.written_pitch is not None)
        return frozenset(
            name for name, pitch in pitched if pitch.alter != key_alter(pitch.step, self.key_at(name))
        )

    def from_bar(self, place: int, count: int | None = None) -> Passage:
        """So many bars, or all, from a place on, the first with the key and the time in force there.

        Parameters
        ----------
        place : int, from 0
        count : int, from 1, optional
            None for all.

        Returns
        -------
        Passage
        """
        key: int | None = None
        time: tuple[int, int] | None = None
        for bar in self.bars[: place + 1]:
            key = key if bar.key_fifths is None else bar.key_fifths
            time = bar.time or time
        first = replace(self.bars[place], key_fifths=key, time=time)
        end = None if count is None else place + count
        return replace(self, bars=(first, *self.bars[place + 1 : end]))

    def with_fingerings(self, fingerings: dict[str, str]) -> Passage:
        """The same passage with these fingerings, by note id, and no others, under its notes.

        Parameters
        ----------
        fingerings : dict of str to str
            Touches by note id.

        Returns
        -------
        Passage
        """
        bars = tuple(
            replace(
                bar,
                notes=tuple(replace(note, fingering=fingerings.get(note.id, "")) for note in bar.notes),
            )
            for bar in self.bars
        )
        return replace(self, bars=bars)

    def numbered(self) -> Passage:
        """The same passage with its notes and rests named n1, n2 and so on, in order.

        Returns
        -------
        Passage
        """
        names = (f"n{number}" for number in count(1))
        return replace(
            self,
            bars=tuple(
                replace(bar, notes=tuple(replace(note, id=next(names)) for note in bar.notes))
                for bar in self.bars
            ),
        )

    def transposed(self, interval: Interval) -> Passage:
        """Transpose notes and key signatures; keys beyond seven signs are respelled.

        Parameters
        ----------
        interval : Interval

        Returns
        -------
        Passage
        """
        return replace(self, bars=tuple(_transposed_bar(bar, best) for bar, best in self.intervals(interval)))

    def intervals(self, interval: Interval) -> Iterator[tuple[Bar, Interval]]:
        """How far each bar is moved, so that no key has more than seven signs.

        Parameters
        ----------
        interval : Interval

        Yields
        ------
        (Bar, Interval)
        """
        fifths = 0
        for bar in self.bars:
            fifths = fifths if bar.key_fifths is None else bar.key_fifths
            moved = fifths + interval.fifths
            # A step of the staff more, for the same semitones, takes twelve sharps away.
            steps = -((7 - moved) // 12) if moved > 7 else (moved + 7) // 12 if moved < -7 else 0
            yield bar, Interval(interval.steps + steps, interval.semitones)


def _transposed_bar(bar: Bar, interval: Interval) -> Bar:
    notes = tuple(note.transposed(interval) for note in bar.notes)
    key = None if bar.key_fifths is None else bar.key_fifths + interval.fifths
    return replace(bar, notes=notes, key_fifths=key)


def split_length(quarters: Fraction) -> list[Fraction]:
    """Split a length into the fewest lengths that single notes can have, longest first.

    Parameters
    ----------
    quarters : Fraction

    Returns
    -------
    list of Fraction

    Raises
    ------
    PassageError
        If the length is no multiple of a 256th note.

    Examples
    --------
    >>> [str(length) for length in split_length(Fraction(5, 2))]
    ['2', '1/2']
    """
    parts: list[Fraction] = []
    rest = quarters
    while rest > 0:
        fitting = [length for length in NOMINAL if length <= rest]
        if not fitting:
            raise PassageError(f"a length must be made of whole 256th notes, got {quarters} quarters")
        parts.append(max(fitting))
        rest -= parts[-1]
    return parts
