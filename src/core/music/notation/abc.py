"""Read ABC text: one tune, one voice, one note of each chord.

What a passage does not hold is left out and listed. What looks like no ABC at all is refused.

References
----------
The ABC notation standard, version 2.1.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from core.errors import NotationError
from core.music.chords import chord_text
from core.music.events import LOUDNESS
from core.music.notation.abc_fields import key, length_field, metre, tempo
from core.music.notation.abc_notes import (
    READ_LIMIT,
    SIGNS_LIMIT,
    AbcState,
    broken_token,
    chord_token,
    close_bar,
    grace_token,
    mend_last,
    note_token,
    rest_token,
    slur_token,
    tuplet_token,
)
from core.music.notation.abc_tunes import TuneLine, lines_of, split_tunes, tune_options, voice_options
from core.music.notation.abc_words import put_under
from core.music.notation.score import DEFAULT, Choices, Losses, Offered, Score, arranged, taken
from core.music.passage import Passage

TOKEN = re.compile(
    r"""
    (?P<space>[\s`\\$*;~]+|y\d*)
  | (?P<inline>\[[A-Za-z]:[^\]]*\])
  | (?P<bar>\.?(?::*\|+[\]:]*|\[\||::+|:\||\|\])\|*)(?P<ending>\[?\d[\d,.-]*)?
  | (?P<repeat>\[\d[\d,.-]*)
  | (?P<decoration>![^!\n]{1,40}!|\+[^+\n]{1,40}\+)
  | (?P<text>"[^"\n]*")
  | (?P<grace>\{[^}\n]*\})
  | (?P<chord>\[[^\]\n]*\])(?P<chord_length>\d*/*\d*)
  | (?P<tuplet>\(\d{1,3}(?::\d{0,3}){0,2})
  | (?P<slur>[()])
  | (?P<misspelled>[A-Ga-g](?:\#|♯|♭|is\b|es\b)\d?)
  | (?P<note>(?P<sign>\^\^|\^/?|__|_/?|=)?(?P<letter>[A-Ga-g])(?P<octave>[,']*)(?P<length>\d*/*\d*))
  | (?P<rest>[zxZX])(?P<rest_length>\d*/*\d*)
  | (?P<tie>-)
  | (?P<broken>>+|<+)
  | (?P<mark>[.H-Yh-w])
  | (?P<overlay>&)
    """,
    re.VERBOSE,
)
MARKS = {".": "staccato", "L": "accent"}
ORNAMENT_MARKS = {"T": "trill-mark", "M": "mordent", "P": "inverted-mordent"}
DECORATIONS = {"accent": "accent", ">": "accent", "emphasis": "accent", "tenuto": "tenuto"}
DECORATIONS |= {"breath": "breath-mark", "shortphrase": "caesura", "mediumphrase": "caesura"}
DECORATIONS |= {"marcato": "strong-accent", "^": "strong-accent", "wedge": "staccatissimo"}
ORNAMENTED = {"trill": "trill-mark", "mordent": "mordent", "lowermordent": "mordent", "turn": "turn"}
ORNAMENTED |= {
    "uppermordent": "inverted-mordent",
    "pralltriller": "inverted-mordent",
    "invertedturn": "inverted-turn",
}
ORNAMENTED |= {"/": "tremolo", "//": "tremolo", "///": "tremolo"}
WEDGES = {"crescendo(": "crescendo", "<(": "crescendo", "diminuendo(": "diminuendo", ">(": "diminuendo"}
WEDGE_ENDS = {"crescendo)", "<)", "diminuendo)", ">)"}
JUMPS = {"D.C.": "da_capo", "D.S.": "dal_segno", "fine": "fine", "segno": "segno", "coda": "coda"}
JUMPS |= {"dacapo": "da_capo", "tocoda": "to_coda"}
EXAMPLE = "type notes as letters, for example: K:G then G2 AB c2 d2 |"
HOW_TO_WRITE = "a sharp stands before its note, as in ^F, a flat as in _B; f is an octave above F"


def read_abc(text: str, choices: Choices = DEFAULT) -> Score:
    """Read a tune of an ABC text.

    Parameters
    ----------
    text : str
    choices : Choices

    Returns
    -------
    Score

    Raises
    ------
    NotationError, PassageError
        As `core.music.notation.formats.read_score`.
    """
    tunes, losses = split_tunes(text), Losses()
    pieces = tune_options(tunes)
    piece = taken(choices.piece, pieces)
    tune = tunes[int(piece) - 1]
    voices = voice_options(tune)
    voice = taken(choices.part, voices)
    state = AbcState(losses, choices.chord)
    titles = _read_lines(tune, voice, state)
    close_bar(state)
    if state.signs_read >= SIGNS_LIMIT:
        losses.add(f"Not looked at, what follows the first {SIGNS_LIMIT:,} signs")
    known = any(line.startswith(("K:", "X:")) for line in tune)
    if state.odd > state.count or (state.odd > 2 and not known):
        raise NotationError(f"this cannot be read as notes; {EXAMPLE}")
    if not state.count:
        raise NotationError(f"no notes were found; {EXAMPLE}")
    upbeat = len(state.bars) > 1 and state.bars[0].is_short
    numbers = [place + (0 if upbeat else 1) for place in range(len(state.bars))]
    bars = arranged(state.bars, numbers, state.bar_signs, choices, losses)
    return Score(
        passage=Passage(bars, titles.get("T", "")[:200], titles.get("C", "")[:200]).numbered(),
        notices=losses.notices(),
        offered=Offered(
            pieces=pieces if len(pieces) > 1 else (),
            parts=voices,
            piece=piece,
            part=voice,
            chord_notes=state.largest_chord,
            repeats=any(signs.any for signs in state.bar_signs),
        ),
    )


def _read_lines(tune: list[str], voice: str, state: AbcState) -> dict[str, str]:
    """Read the fields and the music of a voice; gives the titles back."""
    titles: dict[str, str] = {}
    since: tuple[int, int] | None = None  # where the line of music read last begins: bar, and note in it
    for line in lines_of(tune):
        if line.voice not in ("", voice) or state.count > READ_LIMIT:
            continue
        if line.letter in ("T", "C"):
            titles.setdefault(line.letter, line.text)
        elif line.letter == "w":
            if since:  # the first verse
                put_under(line.text, state, since)
            since = None
        elif line.letter:
            _field(line, state)
        else:
            since = (len(state.bars), len(state.notes))
            _music(line.text, state)
    return titles


def _field(line: TuneLine, state: AbcState) -> None:
    value = line.text
    match line.letter:
        case "L":
            state.unit = length_field(value) or state.unit
        case "M":
            state.time = state.new_time = metre(value)
            if state.time is None and value.lower() not in ("none", ""):
                state.lose(f"The time signature “{value[:20]}”")
            _between_bars(state)
        case "Q":
            state.tempo_bpm, words = tempo(value, state.unit_length)
            state.words = words or state.words
            if state.tempo_bpm is None and not words:
                state.lose(f"The tempo “{value[:20]}”")
        case "K":
            found = key(value)
            if found is None:
                state.lose(f"The key “{value[:20]}”")
                return
            state.key, state.new_key = found, found.fifths
            _between_bars(state)
            if not line.in_body:
                state.new_time = state.time


def _between_bars(state: AbcState) -> None:
    """A key or time signature given inside a bar closes what stands before it as a bar of its own."""
    if state.notes:
        key, time = state.new_key, state.new_time
        state.new_key, state.new_time = state.first_signs
        close_bar(state)
        state.new_key, state.new_time = key, time


def _music(line: str, state: AbcState) -> None:
    place = 0
    while place < len(line) and state.count <= READ_LIMIT and state.signs_read < SIGNS_LIMIT:
        state.signs_read += 1
        match = TOKEN.match(line, place)
        if match is None:
            if line[place] != "!":  # the end of a line, as it was once written
                state.odd += 1
                state.lose(f"The sign “{line[place]}”")
            place += 1
            continue
        _token(match, state)
        place = match.end()


def _token(match: re.Match[str], state: AbcState) -> None:
    name = next(name for name in TOKEN.groupindex if match[name] is not None)
    if name in HANDLERS:
        HANDLERS[name](match, state)


def _misspelled(match: re.Match[str], state: AbcState) -> None:
    raise NotationError(
        f"“{match['misspelled']}” is not how ABC writes a note: {HOW_TO_WRITE}", state.bar, state.beat
    )


def _bar_line(match: re.Match[str], state: AbcState) -> None:
    sign = match["bar"].lstrip(".")
    ends = sign.startswith(":")
    if ends:
        state.signs.repeat_to = bool(state.notes) or state.signs.repeat_to
        if not state.notes and state.bar_signs:
            state.bar_signs[-1] = replace(state.bar_signs[-1], repeat_to=True)
    close_bar(state)
    if ends or match["ending"] or sign in ("||", "|]", "[|", "|:", "||:"):
        state.endings = frozenset()
    state.signs.repeat_from = state.signs.repeat_from or (sign.endswith(":") and len(sign.strip("|")) > 0)
    if match["ending"]:
        _ending(match["ending"], state)


def _repeat(match: re.Match[str], state: AbcState) -> None:
    _ending(match["repeat"], state)


def _ending(text: str, state: AbcState) -> None:
    numbers: set[int] = set()
    for part in re.findall(r"\d{1,2}(?:-\d{1,2})?", text)[:10]:
        first, _, last = part.partition("-")
        numbers |= set(range(int(first), int(last or first) + 1)[:20])
    state.endings = frozenset(numbers - {0})


def _inline(match: re.Match[str], state: AbcState) -> None:
    _field(TuneLine(match["inline"][1], match["inline"][3:-1].strip(), "", True), state)


def _tie(_: re.Match[str], state: AbcState) -> None:
    mend_last(state, tied=True)


def _mark(match: re.Match[str], state: AbcState) -> None:
    mark = match["mark"]
    state.articulations |= {MARKS[mark]} if mark in MARKS else set()
    state.ornaments |= {ORNAMENT_MARKS[mark]} if mark in ORNAMENT_MARKS else set()
    state.fermata = state.fermata or mark == "H"
    state.odd += mark not in "HLMOPSTuv."


def _decoration(match: re.Match[str], state: AbcState) -> None:
    name = match["decoration"][1:-1]
    state.dynamic = name if name in LOUDNESS else state.dynamic
    state.articulations |= {DECORATIONS[name]} if name in DECORATIONS else set()
    state.ornaments |= {ORNAMENTED[name]} if name in ORNAMENTED else set()
    state.fermata = state.fermata or name in ("fermata", "invertedfermata")
    state.hairpin = WEDGES.get(name, state.hairpin)
    state.hairpin_stop = state.hairpin_stop or name in WEDGE_ENDS
    if name in JUMPS:
        setattr(state.signs, JUMPS[name], True)


def _text(match: re.Match[str], state: AbcState) -> None:
    """What stands above a note, or a chord symbol; what stands elsewhere are no words of a passage."""
    text = match["text"][1:-1]
    if text.startswith("^") and text[1:].strip():
        state.words = f"{state.words} {text[1:].strip()}".strip()
    elif text[:1] not in "^_<>@":
        try:
            state.symbol = chord_text(text)
        except NotationError as error:
            state.lose(f"Not understood, a chord symbol: {error}")


def _overlay(_: re.Match[str], state: AbcState) -> None:
    state.losses.add("A second voice inside a bar", state.bar)
    state.overlaid = True


HANDLERS: dict[str, Callable[[re.Match[str], AbcState], None]] = {
    "misspelled": _misspelled,
    "text": _text,
    "note": note_token,
    "chord": chord_token,
    "grace": grace_token,
    "rest": rest_token,
    "bar": _bar_line,
    "repeat": _repeat,
    "inline": _inline,
    "tuplet": tuplet_token,
    "slur": slur_token,
    "tie": _tie,
    "broken": broken_token,
    "mark": _mark,
    "decoration": _decoration,
    "overlay": _overlay,
}
