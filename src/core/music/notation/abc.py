"""Read ABC text: one tune, one voice.

References
----------
The ABC notation standard, version 2.1. Read here: fields X T M L Q K V, notes, rests,
accidentals, lengths, broken rhythm, ties, slurs, tuplets, decorations, bars, inline fields.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from core.errors import NotationError
from core.music.events import LOUDNESS
from core.music.notation.abc_fields import key, length_field, metre, tempo
from core.music.notation.abc_notes import (
    AbcState,
    broken_token,
    close_bar,
    mend_last,
    note_token,
    rest_token,
    slur_token,
    tuplet_token,
)
from core.music.notation.score import Score
from core.music.passage import Passage

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
MARKS = {".": "staccato", "L": "accent"}
DECORATIONS = {"accent": "accent", ">": "accent", "emphasis": "accent", "tenuto": "tenuto"}
DECORATIONS |= {"marcato": "strong-accent", "^": "strong-accent", "wedge": "staccatissimo"}


def read_abc(text: str) -> Score:
    """Read the first tune of an ABC text.

    Raises
    ------
    NotationError, PassageError
        As `core.music.notation.formats.read_score`.
    """
    state = AbcState()
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
    close_bar(state)
    if not state.count:
        raise NotationError("no notes were found; type notes as letters, for example: K:G then G2 AB c2 d2 |")
    return Score(
        passage=Passage(tuple(state.bars), state.title[:200]).numbered(),
        notices=tuple(f"{text} ({n})" if n > 1 else text for text, n in state.notices.items()),
    )


def _field(letter: str, value: str, state: AbcState) -> None:
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


def _between_bars(state: AbcState) -> None:
    """A key or time signature given inside a bar closes what stands before it as a bar of its own."""
    if state.notes:
        key, time = state.new_key, state.new_time
        state.new_key, state.new_time = state.bar_signs
        close_bar(state)
        state.new_key, state.new_time = key, time


def _music(line: str, state: AbcState) -> None:
    place = 0
    while place < len(line):
        match = TOKEN.match(line, place)
        if match is None:
            raise state.fail(f"{line[place : place + 12]!r} cannot be read")
        _token(match, state)
        place = match.end()


def _token(match: re.Match[str], state: AbcState) -> None:
    name = next(name for name in TOKEN.groupindex if match[name] is not None)
    if name in NOT_READ:
        raise state.fail(NOT_READ[name])
    if name in LEFT_OUT:
        state.notice(LEFT_OUT[name])
    elif name in HANDLERS:
        HANDLERS[name](match, state)


def _bar_line(match: re.Match[str], state: AbcState) -> None:
    if ":" in match["bar"] or match["ending"]:
        state.notice(LEFT_OUT["repeat"])
    close_bar(state)


def _inline(match: re.Match[str], state: AbcState) -> None:
    _field(match["inline"][1], match["inline"][3:-1].strip(), state)


def _tie(_: re.Match[str], state: AbcState) -> None:
    if not state.notes and not state.bars:
        raise state.fail("a tie stands before the first note")
    mend_last(state, tied=True)


def _mark(match: re.Match[str], state: AbcState) -> None:
    state.articulations |= {MARKS[match["mark"]]} if match["mark"] in MARKS else set()


def _decoration(match: re.Match[str], state: AbcState) -> None:
    name = match["decoration"][1:-1]
    state.dynamic = name if name in LOUDNESS else state.dynamic
    state.articulations |= {DECORATIONS[name]} if name in DECORATIONS else set()


NOT_READ = {
    "chord": "a chord stands here; a reed plays one note at a time, so leave one note",
    "overlay": "a second voice stands here; keep one voice",
}
LEFT_OUT = {
    "repeat": "Repeats and endings are read once, in the order of the page",
    "grace": "Grace notes were left out",
}
HANDLERS: dict[str, Callable[[re.Match[str], AbcState], None]] = {
    "note": note_token,
    "rest": rest_token,
    "bar": _bar_line,
    "inline": _inline,
    "tuplet": tuplet_token,
    "slur": slur_token,
    "tie": _tie,
    "broken": broken_token,
    "mark": _mark,
    "decoration": _decoration,
}
