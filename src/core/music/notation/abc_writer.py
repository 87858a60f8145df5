"""Write a passage as ABC text that `read_abc` reads as the same passage.

References
----------
The ABC notation standard, version 2.1.
"""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from itertools import groupby

from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch, key_alter

SIGNS = {-2: "__", -1: "_", 0: "=", 1: "^", 2: "^^"}
KEYS = ("Cb", "Gb", "Db", "Ab", "Eb", "Bb", "F", "C", "G", "D", "A", "E", "B", "F#", "C#")
ARTICULATIONS = {"staccato": ".", "tenuto": "!tenuto!", "accent": "!accent!"}
ARTICULATIONS |= {"strong-accent": "!marcato!", "staccatissimo": "!wedge!"}
ARTICULATIONS |= {"breath-mark": "!breath!", "caesura": "!shortphrase!"}
ORNAMENTS = {"trill-mark": "!trill!", "mordent": "!mordent!", "inverted-mordent": "!uppermordent!"}
ORNAMENTS |= {"turn": "!turn!", "inverted-turn": "!invertedturn!", "tremolo": "!///!"}
# Notes of one tuplet that are put together; more begin another.
TOGETHER = 60


def write_abc(passage: Passage, fingerings: Mapping[str, str] | None = None) -> str:
    """Write a passage.

    Parameters
    ----------
    passage : Passage
    fingerings : mapping of note id to str, optional
        What stands below notes; it is for the eye, and not read again.

    Returns
    -------
    str
    """
    bars, first = passage.bars, passage.bars[0]
    head = ["X:1", f"T:{_plain(passage.title)}"]
    if passage.composer:
        head.append(f"C:{_plain(passage.composer)}")
    head += [f"M:{_time(first.time)}", "L:1/4", f"K:{_key(first.key_fifths or 0)}"]
    writer = _Writer(fingerings or {}, first.key_fifths or 0)
    lines = []
    for place, bar in enumerate(bars):
        lines.append(writer.bar(bar, signs=place > 0) + (" |]" if place == len(bars) - 1 else " |"))
        lines += writer.words(bar)
    return "\n".join([*head, *lines]) + "\n"


def _plain(text: str) -> str:
    """Text on one line that begins no comment."""
    return " ".join(text.replace("%", "\\%").split())


def _time(time: tuple[int, int] | None) -> str:
    return f"{time[0]}/{time[1]}" if time else "none"


def _key(fifths: int) -> str:
    return KEYS[fifths + 7]


class _Writer:
    """What runs on from bar to bar while a passage is written."""

    def __init__(self, fingerings: Mapping[str, str], fifths: int) -> None:
        self.fingerings, self.fifths = fingerings, fifths
        self.before: Note | None = None
        self.shown: dict[tuple[str, int], int] = {}
        self.goes_on = False

    def bar(self, bar: Bar, *, signs: bool) -> str:
        parts = []
        if signs and bar.time is not None:
            parts.append(f"[M:{_time(bar.time)}]")
        if bar.key_fifths is not None:
            self.fifths, self.before = bar.key_fifths, None  # no sign is carried over into another key
            parts += [f"[K:{_key(bar.key_fifths)}]"] if signs else []
        self.shown = {}
        for tuplet, run in groupby(bar.notes, key=lambda note: note.tuplet):
            notes = list(run)
            for start in range(0, len(notes), TOGETHER):
                some = notes[start : start + TOGETHER]
                if tuplet != (1, 1):
                    parts.append(f"({tuplet[0]}:{tuplet[1]}:{len(some)}")
                parts += [self._note(note) for note in some]
        return " ".join(parts)

    def _note(self, note: Note) -> str:
        marks = [f"[Q:1/4={note.tempo_bpm:.3f}]"] if note.tempo_bpm is not None else []
        if note.chord:
            marks.append(f'"{note.chord}"')
        if note.words:
            marks.append('"^' + note.words.replace('"', "'") + '"')
        if self.fingerings.get(note.id):
            marks.append('"_' + self.fingerings[note.id].replace('"', "'") + '"')
        marks += [f"!{note.dynamic}!"] if note.dynamic else []
        marks += [f"!{'<' if note.hairpin == 'crescendo' else '>'}(!"] if note.hairpin else []
        marks += ["!<)!"] if note.hairpin_stop else []
        marks += ["!fermata!"] if note.fermata else []
        marks += [ORNAMENTS[name] for name in sorted(note.ornaments)]
        marks += [ARTICULATIONS[name] for name in sorted(note.articulations)]
        carried = self.before.written_pitch if self.before and self.before.tied else None
        grace = "{" + "".join(self._pitch(pitch, carried) for pitch in note.grace) + "}" if note.grace else ""
        body = "z" if note.written_pitch is None else self._pitch(note.written_pitch, carried)
        text = f"{'(' if note.slur_start else ''}{grace}{''.join(marks)}{body}{_length(note.nominal)}"
        self.before = note
        return text + ("-" if note.tied else "") + (")" if note.slur_stop else "")

    def _pitch(self, pitch: Pitch, carried: Pitch | None = None) -> str:
        """A pitch with its sign, if it needs one; a tie carries that of a note on the same line."""
        line = (pitch.step, pitch.octave)
        known: int | None = self.shown.get(line, key_alter(pitch.step, self.fifths))
        if carried is not None and (carried.step, carried.octave) == line:
            known = None if line in self.shown else carried.alter  # what is meant is said where both stand
        sign = "" if pitch.alter == known else SIGNS[pitch.alter]
        if sign:
            self.shown[line] = pitch.alter
        letter = pitch.step.lower() if pitch.octave >= 5 else pitch.step
        octave = "'" * (pitch.octave - 5) if pitch.octave >= 5 else "," * (4 - pitch.octave)
        return f"{sign}{letter}{octave}"

    def words(self, bar: Bar) -> list[str]:
        """The line of syllables under a bar; none where it has none."""
        found = []
        goes_on = self.goes_on
        for note in bar.notes:
            if not note.is_rest and not goes_on:
                found.append(note.lyric.replace(" ", "~") or "*")
            goes_on = note.tied
        self.goes_on = goes_on
        return [f"w:{' '.join(found)}"] if any(word != "*" for word in found) else []


def _length(quarters: Fraction) -> str:
    if quarters == 1:
        return ""
    return (
        str(quarters) if quarters.numerator > 1 or quarters.denominator == 1 else f"/{quarters.denominator}"
    )
