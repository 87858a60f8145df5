"""Read ABC text: one tune, one voice.

References
----------
The ABC notation standard, version 2.1. Read here: fields X T M L Q K V, notes, rests,
accidentals, lengths, broken rhythm, ties, slurs, tuplets, decorations, bars, inline fields.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction

from core.errors import NotationError, PassageError
from core.music.notation.abc_fields import key, length_field, metre, tempo
from core.music.notation.score import Score, single_notes
from core.music.passage import LOUDNESS, NOTES_LIMIT, Bar, Note, Passage
from core.music.pitch import Pitch

TOKEN = re.compile(
    r"""
    (?P<space>[\s`\\]+|y\d*)
  | (?P<inline>\[[A-Za-z]:[^\]]*\])
  | (?P<bar>:*\|+[\]:]*|\[\||::+|:\||\|\])(?P<ending>\[?\d[\d,.-]*)?
  | (?P<repeat>\[\d[\d,.-]*)
  | (?P<decoration>![^!\n]*!|\+[^+\n]*\+)
  | (?P<text>"[^"\n]*")
  | (?P<grace>\{[^}\n]*\})
  | (?P<chord>\[)
  | (?P<tuplet>\(\d{1,3}(?::\d{0,3}){0,2})
  | (?P<slur>[()])
  | (?P<note>(?P<sign>\^\^?|__?|=)?(?P<letter>[A-Ga-g])(?P<octave>[,']*)(?P<length>\d*/*\d*))
  | (?P<rest>[zxZX])(?P<rest_length>\d*/*\d*)
  | (?P<tie>-)
  | (?P<broken>>+|<+)
  | (?P<mark>[.~HLMOPSTuv])
  | (?P<overlay>&)
    """,
    re.VERBOSE,
)
FIELD = re.compile(r"([A-Za-z+]):(.*)")
SIGNS = {"^^": 2, "^": 1, "=": 0, "_": -1, "__": -2}
MARKS = {".": "staccato", "L": "accent"}
DECORATIONS = {"accent": "accent", ">": "accent", "emphasis": "accent", "tenuto": "tenuto"}
DECORATIONS |= {"marcato": "strong-accent", "^": "strong-accent", "wedge": "staccatissimo"}
# (p means p notes in the time of q; where q depends on the metre it is None.)
TUPLETS: dict[int, int | None] = {2: 3, 3: 2, 4: 3, 5: None, 6: 2, 7: None, 8: 3, 9: None}


@dataclass
class _State:
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


def read_abc(text: str) -> Score:
    """Read the first tune of an ABC text.

    Raises
    ------
    NotationError, PassageError
        As `core.music.notation.formats.read_score`.
    """
    state = _State()
    for line in text.splitlines():
        stripped = re.sub(r"(?<!\\)%.*", "", line).strip()
        match = FIELD.fullmatch(stripped)
        # In the music itself a line may begin with a note and a repeat sign, as in "C:|".
        if match and not (state.in_body and match[1] in "ABCDEFGabcdefg"):
            if match[1] == "X" and state.in_body:
                state.notice("Only the first tune was read")
                break
            _field(match[1], match[2].strip(), state)
        elif stripped:
            if not state.in_body:
                state.in_body = True
                state.new_key, state.new_time = state.key, state.time
            _music(stripped, state)
    _close_bar(state)
    if not state.count:
        raise NotationError("no notes were found; type notes as letters, for example: K:G then G2 AB c2 d2 |")
    return Score(
        passage=Passage(tuple(state.bars), state.title[:200]).numbered(),
        notices=tuple(f"{text} ({n})" if n > 1 else text for text, n in state.notices.items()),
    )


def _field(letter: str, value: str, state: _State) -> None:
    match letter:
        case "T" if not state.title:
            state.title = value
        case "L":
            state.unit = length_field(value, state.fail)
        case "M":
            state.time = state.new_time = metre(value, state.fail)
            _between_bars(state)
        case "Q":
            state.tempo_bpm = tempo(value, state.fail)
        case "K":
            state.key = state.new_key = key(value, state.fail)
            _between_bars(state)
            if not state.in_body:
                state.in_body, state.new_time = True, state.time
        case "V":
            voice = value.split()[0] if value else ""
            if state.voice is not None and voice != state.voice:
                raise state.fail("a second voice stands here; keep one voice")
            state.voice = voice


def _between_bars(state: _State) -> None:
    """A key or time signature given inside a bar closes what stands before it as a bar of its own."""
    if state.notes:
        key, time = state.new_key, state.new_time
        state.new_key, state.new_time = state.bar_signs
        _close_bar(state)
        state.new_key, state.new_time = key, time


def _music(line: str, state: _State) -> None:
    place = 0
    while place < len(line):
        match = TOKEN.match(line, place)
        if match is None:
            raise state.fail(f"{line[place : place + 12]!r} cannot be read")
        _token(match, state)
        place = match.end()


def _token(match: re.Match[str], state: _State) -> None:
    name = next(name for name in TOKEN.groupindex if match[name] is not None)
    if name in NOT_READ:
        raise state.fail(NOT_READ[name])
    if name in LEFT_OUT:
        state.notice(LEFT_OUT[name])
    elif name in HANDLERS:
        HANDLERS[name](match, state)


def _bar_line(match: re.Match[str], state: _State) -> None:
    if ":" in match["bar"] or match["ending"]:
        state.notice(LEFT_OUT["repeat"])
    _close_bar(state)


def _inline(match: re.Match[str], state: _State) -> None:
    _field(match["inline"][1], match["inline"][3:-1].strip(), state)


def _tie(_: re.Match[str], state: _State) -> None:
    if not state.notes and not state.bars:
        raise state.fail("a tie stands before the first note")
    _mend_last(state, tied=True)


def _mark(match: re.Match[str], state: _State) -> None:
    state.articulations |= {MARKS[match["mark"]]} if match["mark"] in MARKS else set()


def _decoration(match: re.Match[str], state: _State) -> None:
    name = match["decoration"][1:-1]
    state.dynamic = name if name in LOUDNESS else state.dynamic
    state.articulations |= {DECORATIONS[name]} if name in DECORATIONS else set()


def _slur(match: re.Match[str], state: _State) -> None:
    if match["slur"] == "(":
        state.slur_start = state.slur_start or state.slurs == 0
        state.slurs += 1
    elif state.slurs:
        state.slurs -= 1
        if state.slurs == 0:
            _mend_last(state, slur_stop=True)


def _multiple(text: str, state: _State) -> Fraction:
    match = re.fullmatch(r"(\d{0,4})(/*)(\d{0,4})", text)
    if match is None:
        raise state.fail(f"the length {text[:12]!r} cannot be read")
    slashes = len(match[2])
    below = int(match[3]) if match[3] else 2 ** min(slashes, 10)
    above = int(match[1] or 1)
    if below == 0 or above == 0 or slashes > 8:
        raise state.fail(f"the length {text[:12]!r} cannot be read")
    return Fraction(above, below)


def _pitch(match: re.Match[str], state: _State) -> Pitch:
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


def _note(match: re.Match[str], state: _State) -> None:
    _append(_pitch(match, state), _multiple(match["length"], state) * state.unit_length, state)


def _rest(match: re.Match[str], state: _State) -> None:
    multiple = _multiple(match["rest_length"], state)
    if match["rest"] in "zx":
        _append(None, multiple * state.unit_length, state)
        return
    if multiple.denominator != 1 or multiple > 200:
        raise state.fail("rests of whole bars must count from 1 to 200 bars")
    for place in range(int(multiple)):
        if place:
            _close_bar(state)
        _append(None, Fraction(4 * state.time[0], state.time[1]), state)


def _append(pitch: Pitch | None, quarters: Fraction, state: _State) -> None:
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


def _tuplet(match: re.Match[str], state: _State) -> None:
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


def _broken(match: re.Match[str], state: _State) -> None:
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


def _mend_last(state: _State, *, tied: bool | None = None, slur_stop: bool | None = None) -> None:
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


def _close_bar(state: _State) -> None:
    if not state.notes:
        return
    state.bars.append(Bar(tuple(state.notes), state.new_key, state.new_time))
    state.notes, state.signs = [], {}
    state.new_key = state.new_time = None


NOT_READ = {
    "chord": "a chord stands here; a reed plays one note at a time, so leave one note",
    "overlay": "a second voice stands here; keep one voice",
}
LEFT_OUT = {
    "repeat": "Repeats and endings are read once, in the order of the page",
    "grace": "Grace notes were left out",
}
HANDLERS: dict[str, Callable[[re.Match[str], _State], None]] = {
    "note": _note,
    "rest": _rest,
    "bar": _bar_line,
    "inline": _inline,
    "tuplet": _tuplet,
    "slur": _slur,
    "tie": _tie,
    "broken": _broken,
    "mark": _mark,
    "decoration": _decoration,
}
