"""Notes of an ABC text: pitches, lengths, chords, grace notes, tuplets, slurs, and the bars they fill."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction

from core.errors import NotationError, PitchError
from core.music.notation.abc_fields import SIGNS, Key
from core.music.notation.score import CHORD_PLACE, Chord, Losses, single_notes, writable
from core.music.passage import NOTES_LIMIT, WORDS_LIMIT, Bar, Note
from core.music.pitch import Pitch, key_alter
from core.music.playing_order import Signs

# (p means p notes in the time of q; where q depends on the metre it is None.)
TUPLETS: dict[int, int | None] = {2: 3, 3: 2, 4: 3, 5: None, 6: 2, 7: None, 8: 3, 9: None}
TUPLET_LIMIT, GRACE_LIMIT, QUARTERS_LIMIT, RESTS_LIMIT = 32, 16, 64, 200
# Notes, and signs of any kind, read of a tune before the rest of it is left alone; a passage takes fewer.
READ_LIMIT, SIGNS_LIMIT = 4 * NOTES_LIMIT, 100_000
PITCH = re.compile(r"(?P<sign>\^\^|\^/?|__|_/?|=)?(?P<letter>[A-Ga-g])(?P<octave>[,']*)")


@dataclass
class AbcState:
    """What runs on from token to token."""

    losses: Losses
    chord: Chord = Chord.HIGHEST
    unit: Fraction | None = None
    time: tuple[int, int] | None = (4, 4)
    key: Key = field(default_factory=lambda: Key(0))
    bars: list[Bar] = field(default_factory=list)
    bar_signs: list[Signs] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    signs: Signs = field(default_factory=Signs)
    endings: frozenset[int] = frozenset()
    new_key: int | None = None
    new_time: tuple[int, int] | None = None
    first_signs: tuple[int | None, tuple[int, int] | None] = (None, None)
    accidentals: dict[tuple[str, int], int] = field(default_factory=dict)
    tuplet: tuple[int, int] = (1, 1)
    tuplet_left: int = 0
    broken: Fraction = Fraction(1)
    slurs: int = 0
    slur_start: bool = False
    articulations: set[str] = field(default_factory=set)
    ornaments: set[str] = field(default_factory=set)
    grace: list[Pitch] = field(default_factory=list)
    fermata: bool = False
    dynamic: str = ""
    hairpin: str = ""
    hairpin_stop: bool = False
    words: str = ""
    symbol: str = ""
    tempo_bpm: float | None = None
    overlaid: bool = False
    filled: Fraction = Fraction(0)
    upbeat: bool = False
    count: int = 0
    odd: int = 0
    signs_read: int = 0
    largest_chord: int = 1

    @property
    def beat(self) -> Fraction:
        """The beat that has been come to, counted from 1 in quarters."""
        return 1 + self.filled * (self.time[1] if self.time else 4) / 4

    @property
    def bar(self) -> int:
        """Number of the bar that is being read; an upbeat at the start is bar 0."""
        return len(self.bars) + (0 if self.upbeat else 1)

    def lose(self, what: str) -> None:
        """List what is not understood, with its place.

        Parameters
        ----------
        what : str
            In a teacher's words.
        """
        self.losses.add(what, self.bar, self.beat)

    @property
    def unit_length(self) -> Fraction:
        """Length of a plain note in quarters: as L: says, else by the metre."""
        if self.unit is not None:
            return self.unit
        time = self.time or (4, 4)
        return Fraction(1, 4) if Fraction(*time) < Fraction(3, 4) else Fraction(1, 2)


def slur_token(match: re.Match[str], state: AbcState) -> None:
    """A slur begins or ends.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    if match["slur"] == "(":
        state.slur_start = state.slur_start or state.slurs == 0
        state.slurs = min(state.slurs + 1, 99)
    elif state.slurs:
        state.slurs -= 1
        if state.slurs == 0:
            mend_last(state, slur_stop=True)


def multiple(text: str, state: AbcState) -> Fraction:
    """The length behind a note against the unit length; 1, listed, where it cannot be.

    Parameters
    ----------
    text : str
        As ``3/2``.
    state : AbcState

    Returns
    -------
    Fraction
    """
    match = re.fullmatch(r"(\d{0,4})(/{0,8})(\d{0,4})", text)
    if match:
        below = int(match[3]) if match[3] else 2 ** len(match[2])
        above = int(match[1] or 1)
        if below and above:
            return Fraction(above, below)
    state.lose(f"The length “{text[:12]}”, which cannot be")
    return Fraction(1)


def read_pitch(match: re.Match[str], state: AbcState) -> Pitch | None:
    """A pitch with its sign, that of the bar, or that of the key; None, listed, where there is none such.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState

    Returns
    -------
    Pitch or None
    """
    letter, sign = match["letter"], match["sign"]
    octave = (5 if letter.islower() else 4) + match["octave"].count("'") - match["octave"].count(",")
    step = letter.upper()
    line = (step, octave)
    if sign:
        if sign.endswith("/"):
            state.lose("Quarter tones, to the plain note")
        state.accidentals[line] = SIGNS.get(sign, 0)
    own = state.key.signs.get(step, key_alter(step, state.key.fifths))
    alter = state.accidentals.get(line, own)
    last = state.notes[-1] if state.notes else state.bars[-1].notes[-1] if state.bars else None
    # A tie carries its sign over the bar.
    tied = last.written_pitch if last and last.tied and not sign else None
    if tied and (tied.step, tied.octave) == line:
        alter = tied.alter
    try:
        return Pitch(step, alter, octave)
    except PitchError:
        state.lose("A note beyond all instruments")
        return None


def note_token(match: re.Match[str], state: AbcState) -> None:
    """A note.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    pitch = read_pitch(match, state)
    append(pitch, multiple(match["length"], state) * state.unit_length, state)


def chord_token(match: re.Match[str], state: AbcState) -> None:
    """One note of a chord; its own length times the chord's.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    heads = []
    for inner in re.finditer(PITCH.pattern + r"(?P<length>\d*/*\d*)(?P<tie>-?)", match["chord"]):
        pitch = read_pitch(inner, state)
        if pitch is not None:
            heads.append((pitch, inner["length"], bool(inner["tie"])))
    if not heads:
        return
    lengths = [multiple(length, state) for _, length, _ in heads[:1]]
    heads.sort(key=lambda head: -head[0].midi)
    state.largest_chord = max(state.largest_chord, len(heads))
    if len(heads) > 1:
        state.lose(f"Of chords all but the {state.chord.value} note")
    place = CHORD_PLACE[state.chord]
    pitch, _, tied = heads[place] if place < len(heads) else heads[-1]
    append(pitch, lengths[0] * multiple(match["chord_length"], state) * state.unit_length, state)
    if tied:
        mend_last(state, tied=True)


def grace_token(match: re.Match[str], state: AbcState) -> None:
    """Grace notes, kept for the note that they lead to.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    for inner in PITCH.finditer(match["grace"]):
        pitch = read_pitch(inner, state)
        if pitch is not None and len(state.grace) < GRACE_LIMIT:
            state.grace.append(pitch)


def rest_token(match: re.Match[str], state: AbcState) -> None:
    """A rest, or rests of whole bars.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    length = multiple(match["rest_length"], state)
    if match["rest"] in "zx":
        append(None, length * state.unit_length, state)
        return
    if length.denominator != 1 or length > RESTS_LIMIT:
        state.lose(f"Rests of whole bars that are not from 1 to {RESTS_LIMIT}")
        return
    time = state.time or (4, 4)
    for place in range(int(length)):
        if place:
            close_bar(state)
        append(None, Fraction(4 * time[0], time[1]), state)


def append(pitch: Pitch | None, quarters: Fraction, state: AbcState) -> None:
    """Put a note or rest at the end of the bar, with all that was said before it.

    Parameters
    ----------
    pitch : Pitch or None
    quarters : Fraction
    state : AbcState
    """
    tuplet = state.tuplet if state.tuplet_left else (1, 1)
    wanted = quarters * state.broken * tuplet[1] / tuplet[0]
    state.broken, state.tuplet_left = Fraction(1), max(0, state.tuplet_left - 1)
    if state.overlaid:
        return
    if wanted > QUARTERS_LIMIT:
        state.lose(f"A note of more than {QUARTERS_LIMIT} quarters")
        return
    quarters, tuplet = writable(wanted, tuplet)
    if quarters != wanted:
        state.lose("Lengths that cannot be written, rounded")
    if quarters <= 0:
        return
    sounds = pitch is not None
    note = Note(
        id="n",
        written_pitch=pitch,
        quarters=quarters,
        tuplet=tuplet,
        slur_start=state.slur_start and sounds,
        articulations=frozenset(state.articulations) if sounds else frozenset(),
        dynamic=state.dynamic,
        tempo_bpm=state.tempo_bpm,
        hairpin=state.hairpin,
        hairpin_stop=state.hairpin_stop,
        grace=tuple(state.grace) if sounds else (),
        ornaments=frozenset(state.ornaments) if sounds else frozenset(),
        fermata=state.fermata,
        words=state.words[:WORDS_LIMIT],
        chord=state.symbol,
    )
    state.slur_start = state.slur_start and not sounds
    state.articulations, state.ornaments, state.grace, state.hairpin_stop = set(), set(), [], False
    state.dynamic, state.hairpin, state.words, state.tempo_bpm, state.fermata = "", "", "", None, False
    state.symbol = ""
    if not state.notes:
        state.first_signs = (state.new_key, state.new_time)
    parts = single_notes(note, NotationError)
    state.notes += parts
    state.count += len(parts)
    state.filled += quarters


def tuplet_token(match: re.Match[str], state: AbcState) -> None:
    """The beginning of a tuplet.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    numbers = [int(part) if part else 0 for part in match["tuplet"][1:].split(":")]
    played = numbers[0]
    time = state.time or (4, 4)
    compound = time[1] == 8 and time[0] % 3 == 0
    usual = TUPLETS.get(played) or (3 if compound else 2)
    into = (numbers[1] if len(numbers) > 1 else 0) or usual
    left = (numbers[2] if len(numbers) > 2 else 0) or played
    if not (2 <= played <= TUPLET_LIMIT and 1 <= into <= TUPLET_LIMIT and left <= 2 * TUPLET_LIMIT):
        state.lose(f"The tuplet {match['tuplet'][:12]}, which cannot be")
        return
    state.tuplet, state.tuplet_left = (played, into), left


def broken_token(match: re.Match[str], state: AbcState) -> None:
    """The note before and the one after share their time unevenly.

    Parameters
    ----------
    match : re.Match[str]
        Of the token's pattern.
    state : AbcState
    """
    text = match["broken"]
    if not state.notes or len(text) > 3:
        state.lose(f"“{text[:8]}” that does not stand between two notes")
        return
    small = Fraction(1, 2 ** len(text))
    first, second = (2 - small, small) if text[0] == ">" else (small, 2 - small)
    last = state.notes.pop()
    quarters, tuplet = writable(last.quarters * first, last.tuplet)
    parts = single_notes(replace(last, quarters=quarters, tuplet=tuplet), NotationError)
    state.notes += parts
    state.count += len(parts) - 1
    state.filled += quarters - last.quarters
    state.broken = second


def mend_last(state: AbcState, *, tied: bool | None = None, slur_stop: bool | None = None) -> None:
    """Change the note read last, which may stand in the bar before; nothing where there is none.

    Parameters
    ----------
    state : AbcState
    tied, slur_stop : bool, optional
    """
    home = state.notes or (list(state.bars[-1].notes) if state.bars else [])
    if not home or state.overlaid:
        return
    last = home[-1]
    if not last.is_rest:
        home[-1] = replace(
            last,
            tied=last.tied if tied is None else tied,
            slur_stop=last.slur_stop if slur_stop is None else slur_stop,
        )
    if not state.notes:
        state.bars[-1] = replace(state.bars[-1], notes=tuple(home))


def close_bar(state: AbcState) -> None:
    """End the bar, if there is anything in it.

    Parameters
    ----------
    state : AbcState
    """
    state.overlaid = False
    if not state.notes:
        return
    time = state.time
    if time and state.filled > Fraction(4 * time[0], time[1]):
        state.losses.add("Bars longer than their time signature, read as they stand", state.bar)
    signs = replace(state.signs, endings=state.endings)
    state.bars.append(Bar(tuple(state.notes), state.new_key, state.new_time))
    state.bar_signs.append(signs)
    state.upbeat = state.upbeat or (len(state.bars) == 1 and state.bars[0].is_short)
    state.notes, state.accidentals, state.signs, state.filled = [], {}, Signs(), Fraction(0)
    state.new_key = state.new_time = None
