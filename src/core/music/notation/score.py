"""What every reader of a score gives back, what may be chosen in it, and what the readers share."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from fractions import Fraction

from core.errors import NotationError, bar_and_beat
from core.music.passage import NOMINAL, NOTES_LIMIT, Bar, Note, Passage, split_length
from core.music.pitch import Interval
from core.music.playing_order import Signs, playing_order

# Tuplets tried for a length that no plain note has, the usual ones first.
TUPLETS = ((3, 2), (5, 4), (6, 4), (7, 4), (7, 8), (9, 8), (5, 2), (5, 6), (7, 6), (11, 8), (13, 8), (15, 8))
# What lies nearer to a length that can be written is that length.
SHORTEST, ROUNDED = Fraction(1, 64), Fraction(1, 50)
AS_ON_THE_PAGE = "Repeats and endings are read once, in the order of the page"
Option = tuple[str, str]


class Chord(StrEnum):
    """Which note of a chord is played."""

    HIGHEST = "highest"
    SECOND = "second"
    LOWEST = "lowest"


@dataclass(frozen=True)
class Choices:
    """What of a score is wanted; a key that the score does not have is as good as none.

    Parameters
    ----------
    piece, part, voice : str
        Keys of `Offered`; empty for the likeliest.
    play_out : bool
        Whether repeats, endings and jumps are played out.
    bars : (int, int) or None
        First and last bar wanted, as they are numbered in the score; all if None.
    grid : int
        Into how many a quarter is divided where a source knows times only.
    player : str
        Name of the instrument that will play, by which a part is guessed.
    rests_only : bool
        Whether rests alone will do.
    """

    piece: str = ""
    part: str = ""
    voice: str = ""
    chord: Chord = Chord.HIGHEST
    play_out: bool = False
    bars: tuple[int, int] | None = None
    grid: int = 4
    player: str = ""
    rests_only: bool = False


DEFAULT = Choices()
# Where the note wanted stands among those of a chord, from the highest down.
CHORD_PLACE = {Chord.HIGHEST: 0, Chord.SECOND: 1, Chord.LOWEST: -1}


@dataclass(frozen=True)
class Offered:
    """What there was to choose from, as (key, words), and what was taken.

    Parameters
    ----------
    chord_notes : int
        Notes of the largest chord in what was taken.
    repeats, timed : bool
        Whether there is something to play out; whether lengths had to be guessed from times.
    """

    pieces: tuple[Option, ...] = ()
    parts: tuple[Option, ...] = ()
    voices: tuple[Option, ...] = ()
    piece: str = ""
    part: str = ""
    voice: str = ""
    chord_notes: int = 1
    repeats: bool = False
    timed: bool = False


@dataclass(frozen=True)
class Score:
    """A score as read.

    Parameters
    ----------
    passage : Passage
        Pitches as they stand in the source.
    concert : bool
        The source says that it is at concert pitch.
    to_sounding : Interval or None
        The source's own transposition from written to sounding, if it names one.
    from_file : bool
        Whether a program wrote it, which may have left out to say how it is transposed.
    notices : tuple of str
        What was left out, with bar and beat, in a teacher's words.
    """

    passage: Passage
    concert: bool = False
    to_sounding: Interval | None = None
    from_file: bool = False
    notices: tuple[str, ...] = ()
    offered: Offered = Offered()

    @property
    def silent_on_pitch(self) -> bool:
        """Whether nothing says if it is written for an instrument, or as it sounds."""
        return self.from_file and not self.concert and self.to_sounding is None


@dataclass
class Losses:
    """What is left out while a score is read, with every place."""

    places: dict[str, list[tuple[int, Fraction | None]]] = field(default_factory=dict)

    def add(self, what: str, bar: int | None = None, beat: Fraction | None = None) -> None:
        """Note a loss; `beat` from 1, None for a whole bar, or for the whole score.

        Parameters
        ----------
        what : str
            In a teacher's words.
        bar : int, from 1, optional
            None for the whole score.
        beat : Fraction, optional
        """
        here = self.places.setdefault(what, [])
        if bar is not None:
            place = bar, None if beat is None else _near(beat)
            if not here or here[-1] != place:
                here.append(place)

    def notices(self) -> tuple[str, ...]:
        """One sentence for each kind of loss; bars that follow each other are said as a stretch.

        Returns
        -------
        tuple of str
        """
        return tuple(
            f"{what}: {'; '.join(_said(places))}." if places else f"{what}."
            for what, places in self.places.items()
        )


def _said(places: Sequence[tuple[int, Fraction | None]]) -> list[str]:
    found: list[str] = []
    start = 0
    for at, (bar, beat) in enumerate(places):
        following = places[at + 1] if at + 1 < len(places) else None
        if beat is not None:
            found.append(bar_and_beat(bar, beat).lower())
        elif following != (bar + 1, None):
            first = places[start][0]
            found.append(f"bar {bar}" if start == at else f"bars {first} to {bar}")
        else:
            continue
        start = at + 1
    return found


def _near(beat: Fraction) -> Fraction:
    """A beat as it is said: to the nearest quarter or third of one."""
    whole, rest = divmod(beat, 1)
    parts = (Fraction(n, d) for d in (1, 2, 3, 4) for n in range(d + 1))
    return whole + min(parts, key=lambda part: abs(part - rest))


def taken(wanted: str, options: Sequence[Option], likely: str = "") -> str:
    """The key wanted if there is such an option, else the likely one, else the first.

    Parameters
    ----------
    wanted : str
        Key of an option; empty for none.
    options : sequence of Option
    likely : str
        Key of an option.

    Returns
    -------
    str
    """
    keys = [key for key, _ in options]
    return next((key for key in (wanted, likely) if key in keys), keys[0] if keys else "")


def single_notes(note: Note, fail: Callable[[str], NotationError]) -> list[Note]:
    """Split a note whose length no single note can have into tied notes.

    Parameters
    ----------
    note : Note
    fail : callable
        Makes an error that names the place of the note.

    Returns
    -------
    list of Note

    Raises
    ------
    NotationError
        If the length is no multiple of a 256th note.
    """
    if note.nominal in NOMINAL:
        return [note]
    try:
        lengths = split_length(note.nominal)
    except ValueError as error:
        raise fail(f"a note length cannot be written: {error}") from error
    scale = Fraction(note.tuplet[1], note.tuplet[0])
    last = len(lengths) - 1
    return [
        replace(
            note if place == 0 else continued(note),
            id=note.id if place == 0 else f"{note.id}.{place}",
            quarters=length * scale,
            tied=note.tied if place == last else not note.is_rest,
            slur_start=note.slur_start and place == 0,
            slur_stop=note.slur_stop and place == last,
            hairpin_stop=note.hairpin_stop and place == last,
            fermata=note.fermata and place == last,
        )
        for place, length in enumerate(lengths)
    ]


def continued(note: Note) -> Note:
    """A note without what stands at its beginning only.

    Parameters
    ----------
    note : Note

    Returns
    -------
    Note
    """
    return Note(
        note.id,
        note.written_pitch,
        note.quarters,
        note.tuplet,
        ossia=note.ossia,
        slur_stop=note.slur_stop,
        hairpin_stop=note.hairpin_stop,
        fermata=note.fermata,
    )


def writable(quarters: Fraction, tuplet: tuple[int, int] = (1, 1)) -> tuple[Fraction, tuple[int, int]]:
    """The length nearest to a given one that notes can have, and its tuplet; 0 for one too short.

    Parameters
    ----------
    quarters : Fraction
    tuplet : (int, int)
        So many notes in the time of so many, as (3, 2); (1, 1) for none.

    Returns
    -------
    (Fraction, (int, int)), quarters
        The length and its tuplet.

    Examples
    --------
    >>> writable(Fraction(1, 3))
    (Fraction(1, 3), (3, 2))
    >>> writable(Fraction(1, 1000))[0]
    Fraction(0, 1)
    """
    if tuplet != (1, 1):  # what a program had to round to its divisions
        nominal = quarters * tuplet[0] / tuplet[1]
        near = min(NOMINAL, key=lambda length: abs(length - nominal))
        if abs(near - nominal) <= ROUNDED * near:
            return near * tuplet[1] / tuplet[0], tuplet
    for kind in dict.fromkeys((tuplet, (1, 1), *TUPLETS)):
        nominal = quarters * kind[0] / kind[1]
        if (nominal / SHORTEST).denominator == 1:
            return quarters, kind
    return round(quarters / SHORTEST) * SHORTEST, (1, 1)


def arranged(
    bars: Sequence[Bar], numbers: Sequence[int], signs: Sequence[Signs], choices: Choices, losses: Losses
) -> tuple[Bar, ...]:
    """The bars wanted in the order wanted, with key and time as there, no more than a passage may have.

    Parameters
    ----------
    bars : sequence of Bar
    numbers : sequence of int
        Number of each bar in the score.
    signs : sequence of Signs
        What each bar asks of the order.
    choices : Choices
    losses : Losses

    Returns
    -------
    tuple of Bar

    Raises
    ------
    NotationError
        If there is no note in the bars wanted.
    """
    first, last = choices.bars or (min(numbers, default=0), max(numbers, default=0))
    wanted = [place for place, number in enumerate(numbers) if first <= number <= last]
    if choices.bars and not any(bars[place].notes for place in wanted):
        raise NotationError(f"there are no notes in bars {first} to {last}; the score has {_span(numbers)}")
    asked = [place for place in wanted if signs[place].any]
    if choices.play_out and asked:
        wanted = [wanted[n] for n in playing_order([signs[place] for place in wanted])]
    for place in () if choices.play_out else asked:
        losses.add(AS_ON_THE_PAGE, numbers[place])
    found = _put_together(bars, numbers, wanted, losses)
    if not choices.rests_only and all(note.is_rest for bar in found for note in bar.notes):
        lost = losses.notices()
        raise NotationError(f"no note could be read{': ' + lost[0][:200] if lost else ''}".rstrip("."))
    return found


def _span(numbers: Sequence[int]) -> str:
    return f"bars {min(numbers)} to {max(numbers)}" if numbers else "none"


def _put_together(
    bars: Sequence[Bar], numbers: Sequence[int], order: Sequence[int], losses: Losses
) -> tuple[Bar, ...]:
    keys: list[int | None] = []
    times: list[tuple[int, int] | None] = []
    for bar in bars:
        keys.append(keys[-1] if bar.key_fifths is None and keys else bar.key_fifths)
        times.append(bar.time or (times[-1] if times else None))
    found: list[Bar] = []
    count, before = 0, -1
    for place in order:
        bar = bars[place]
        count += len(bar.notes)
        if count > NOTES_LIMIT and not any(not note.is_rest for one in found for note in one.notes):
            raise NotationError(
                f"a passage has at most {NOTES_LIMIT:,} notes; this goes on without a bar line"
            )
        if count > NOTES_LIMIT:
            losses.add(
                f"Left out, since a passage has at most {NOTES_LIMIT:,} notes, from here on", numbers[place]
            )
            break
        if place != before + 1 or not found:
            bar = replace(bar, key_fifths=keys[place], time=times[place])
        if bar.notes:
            found.append(bar)
            before = place
    return tuple(found)
