"""Notes of an ABC text: pitches, lengths, tuplets, slurs, and the bars that they fill."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction

from core.errors import NotationError, PassageError
from core.music.notation.score import single_notes
from core.music.passage import NOTES_LIMIT, Bar, Note
from core.music.pitch import Pitch

SIGNS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}


# (p means p notes in the time of q; where q depends on the metre it is None.)
TUPLETS: dict[int, int | None] = {2: 3, 3: 2, 4: 3, 5: None, 6: 2, 7: None, 8: 3, 9: None}


@dataclass
class AbcState:
    """What runs on from token to token."""

    title: str = ""
    unit: Fraction | None = None
    time: tuple[int, int] = (4, 4)
    key: int = 0
    in_body: bool = False
    bars: list[Bar] = field(default_factory=list)
    notes: list[Note] = field(default_factory=list)
    new_key: int | None = None
    new_time: tuple[int, int] | None = None
    bar_signs: tuple[int | None, tuple[int, int] | None] = (None, None)
    signs: dict[tuple[str, int], int] = field(default_factory=dict)
    tuplet: tuple[int, int] = (1, 1)
    tuplet_left: int = 0
    broken: Fraction = Fraction(1)
    slurs: int = 0
    slur_start: bool = False
    articulations: set[str] = field(default_factory=set)
    dynamic: str = ""
    tempo_bpm: float | None = None
    voice: str | None = None
    count: int = 0
    notices: dict[str, int] = field(default_factory=dict)

    @property
    def beat(self) -> Fraction:
        return 1 + sum((note.quarters for note in self.notes), Fraction(0)) * self.time[1] / 4

    @property
    def bar(self) -> int:
        """Number of the bar that is being read; an upbeat at the start is bar 0."""
        return len(self.bars) + (0 if self.bars and self.bars[0].is_short else 1)

    def fail(self, message: str) -> NotationError:
        if not self.in_body:
            return NotationError(message)
        return NotationError(message, self.bar, self.beat)

    def notice(self, message: str) -> None:
        self.notices[message] = self.notices.get(message, 0) + 1

    @property
    def unit_length(self) -> Fraction:
        """Length of a plain note in quarters: as L: says, else by the metre."""
        if self.unit is not None:
            return self.unit
        return Fraction(1, 4) if Fraction(*self.time) < Fraction(3, 4) else Fraction(1, 2)


def slur_token(match: re.Match[str], state: AbcState) -> None:
    if match["slur"] == "(":
        state.slur_start = state.slur_start or state.slurs == 0
        state.slurs += 1
    elif state.slurs:
        state.slurs -= 1
        if state.slurs == 0:
            mend_last(state, slur_stop=True)


def _multiple(text: str, state: AbcState) -> Fraction:
    match = re.fullmatch(r"(\d{0,4})(/*)(\d{0,4})", text)
    if match is None:
        raise state.fail(f"the length {text[:12]!r} cannot be read")
    slashes = len(match[2])
    below = int(match[3]) if match[3] else 2 ** min(slashes, 10)
    above = int(match[1] or 1)
    if below == 0 or above == 0 or slashes > 8:
        raise state.fail(f"the length {text[:12]!r} cannot be read")
    return Fraction(above, below)


def _pitch(match: re.Match[str], state: AbcState) -> Pitch:
    letter = match["letter"]
    octave = (5 if letter.islower() else 4) + match["octave"].count("'") - match["octave"].count(",")
    if not 0 <= octave <= 9:
        raise state.fail(f"the note {match['note'][:12]!r} lies beyond all instruments")
    step = letter.upper()
    line = (step, octave)
    if match["sign"]:
        state.signs[line] = SIGNS[match["sign"]]
    sharps = "FCGDAEB"
    own = int(step in sharps[: state.key]) if state.key >= 0 else -int(step in sharps[state.key :])
    alter = state.signs.get(line, own)
    last = state.notes[-1] if state.notes else state.bars[-1].notes[-1] if state.bars else None
    # A tie carries its sign over the bar.
    tied = last.written_pitch if last and last.tied and not match["sign"] else None
    if tied and (tied.step, tied.octave) == line:
        alter = tied.alter
    return Pitch(step, alter, octave)


def note_token(match: re.Match[str], state: AbcState) -> None:
    _append(_pitch(match, state), _multiple(match["length"], state) * state.unit_length, state)


def rest_token(match: re.Match[str], state: AbcState) -> None:
    multiple = _multiple(match["rest_length"], state)
    if match["rest"] in "zx":
        _append(None, multiple * state.unit_length, state)
        return
    if multiple.denominator != 1 or multiple > 200:
        raise state.fail("rests of whole bars must count from 1 to 200 bars")
    for place in range(int(multiple)):
        if place:
            close_bar(state)
        _append(None, Fraction(4 * state.time[0], state.time[1]), state)


def _append(pitch: Pitch | None, quarters: Fraction, state: AbcState) -> None:
    tuplet = state.tuplet if state.tuplet_left else (1, 1)
    quarters = quarters * state.broken * tuplet[1] / tuplet[0]
    state.broken = Fraction(1)
    if quarters > 64:
        raise state.fail(f"a note must last at most 64 quarters, got {float(quarters):g}")
    note = Note(
        id=f"n{state.count + 1}",
        written_pitch=pitch,
        quarters=quarters,
        tuplet=tuplet,
        slur_start=state.slur_start and pitch is not None,
        articulations=frozenset(state.articulations) if pitch is not None else frozenset(),
        dynamic=state.dynamic,
        tempo_bpm=state.tempo_bpm,
    )
    state.slur_start = state.slur_start and pitch is None
    state.articulations, state.dynamic, state.tempo_bpm = set(), "", None
    state.tuplet_left = max(0, state.tuplet_left - 1)
    if not state.notes:
        state.bar_signs = (state.new_key, state.new_time)
    for part in single_notes(note, state.fail):
        state.notes.append(part)
        state.count += 1
    if state.count > NOTES_LIMIT:
        raise PassageError(
            f"a passage must have at most {NOTES_LIMIT:,} notes and rests; this one goes on after bar "
            f"{state.bar}; bring in the part that is worked on"
        )


def tuplet_token(match: re.Match[str], state: AbcState) -> None:
    text = match["tuplet"]
    numbers = [int(part) if part else 0 for part in text[1:].split(":")]
    played = numbers[0]
    if not 2 <= played <= 9:
        raise state.fail(f"a tuplet must have from 2 to 9 notes, got {text}")
    compound = state.time[1] == 8 and state.time[0] % 3 == 0
    usual = TUPLETS[played] or (3 if compound else 2)
    into = (numbers[1] if len(numbers) > 1 else 0) or usual
    left = (numbers[2] if len(numbers) > 2 else 0) or played
    if not 1 <= into <= 32 or left > 64:
        raise state.fail(f"the tuplet {text} cannot be read")
    state.tuplet, state.tuplet_left = (played, into), left


def broken_token(match: re.Match[str], state: AbcState) -> None:
    text = match["broken"]
    if not state.notes or len(text) > 3:
        raise state.fail(f"{text[:8]!r} must stand between two notes")
    small = Fraction(1, 2 ** len(text))
    first, second = (2 - small, small) if text[0] == ">" else (small, 2 - small)
    last = state.notes.pop()
    state.count -= 1
    for part in single_notes(replace(last, quarters=last.quarters * first), state.fail):
        state.notes.append(part)
        state.count += 1
    state.broken = second


def mend_last(state: AbcState, *, tied: bool | None = None, slur_stop: bool | None = None) -> None:
    """Change the note read last, which may stand in the bar before."""
    if state.notes:
        home = state.notes
    elif state.bars:
        home = list(state.bars[-1].notes)
    else:
        raise state.fail("a slur ends before the first note")
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
    if not state.notes:
        return
    state.bars.append(Bar(tuple(state.notes), state.new_key, state.new_time))
    state.notes, state.signs = [], {}
    state.new_key = state.new_time = None
