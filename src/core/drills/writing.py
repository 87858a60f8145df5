"""Drills put into bars: sections with a key of their own, full bars, tuplets that go together."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from core.drills.material import Drill, DrillKind, Material
from core.music.barring import rebarred
from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch
from core.music.scale import major_tonic, tonic_name

FOUR = (4, 4)
BAR = Fraction(4)
WHOLE, HALF, QUARTER, EIGHTH, SIXTEENTH = (Fraction(4, part) for part in (1, 2, 4, 8, 16))
AS_WRITTEN, TRIPLET, SEXTUPLET = (1, 1), (3, 2), (6, 4)
OCTAVE = 12


@dataclass(frozen=True)
class Section:
    """Notes that belong together, in whole bars.

    Parameters
    ----------
    words : str
        What stands above its first note.
    """

    notes: tuple[Note, ...]
    fifths: int
    words: str = ""


def tone(material: Material, pitch: Pitch, quarters: Fraction, fingering: str = "", **more: object) -> Note:
    """A note with the fingering that the music has for it, unless another is asked for.

    Parameters
    ----------
    material : Material
    pitch : Pitch
    quarters : Fraction
    fingering : str
        Touches; empty for that of the music.
    **more : object
        Other fields of the note.

    Returns
    -------
    Note
    """
    fingering = fingering or material.fingerings.get(pitch.midi, "")
    return Note("", pitch, quarters, fingering=fingering, **more)  # type: ignore[arg-type]


def rest(quarters: Fraction) -> Note:
    """A rest of so many quarters.

    Parameters
    ----------
    quarters : Fraction

    Returns
    -------
    Note
    """
    return Note("", None, quarters)


def slurred(notes: Sequence[Note]) -> list[Note]:
    """Notes under one slur.

    Parameters
    ----------
    notes : sequence of Note

    Returns
    -------
    list of Note
    """
    if len(notes) < 2:
        return list(notes)
    first, last = replace(notes[0], slur_start=True), replace(notes[-1], slur_stop=True)
    return [first, *notes[1:-1], last]


def drill_of(
    material: Material, kind: DrillKind, name: str, purpose: str, sections: Sequence[Section]
) -> Drill:
    """Sections as a drill.

    Parameters
    ----------
    material : Material
    kind : DrillKind
    name : str
    purpose : str
        What it is for, in a sentence.
    sections : sequence of Section

    Returns
    -------
    Drill
    """
    return Drill(kind, name, purpose, written(sections, material, name))


def key_name(fifths: int) -> str:
    """A major key by its signs, as it stands above a section.

    Parameters
    ----------
    fifths : int, -7 to 7
        Sharps of a key signature; flats negative.

    Returns
    -------
    str
    """
    return f"{tonic_name(major_tonic(fifths))} major"


def written(sections: Iterable[Section], material: Material, title: str) -> Passage:
    """Sections as a passage in four-four: the last bar of each is filled with rests.

    Parameters
    ----------
    sections : iterable of Section
    material : Material
    title : str

    Returns
    -------
    Passage
    """
    bars: list[Bar] = []
    fifths: int | None = None
    for section in sections:
        first = replace(section.notes[0], words=section.words)
        into = Fraction(sum(note.quarters for note in section.notes)) % BAR
        filled = [first, *section.notes[1:], *_rests(into)]
        barred, _ = rebarred(Passage((Bar((), section.fifths, FOUR),)), filled, -1)
        signs = None if section.fifths == fifths else section.fifths
        bars += [
            replace(barred.bars[0], key_fifths=signs, time=None if bars else FOUR),
            *barred.bars[1:],
        ]
        fifths = section.fifths
    return with_tempo(Passage(tuple(bars), title).numbered(), material.tempo_bpm)


def with_tempo(passage: Passage, bpm: float) -> Passage:
    """The passage with its first tempo in quarter notes a minute.

    Parameters
    ----------
    passage : Passage
    bpm : float, quarter notes a minute, above 0

    Returns
    -------
    Passage
    """
    head = passage.bars[0]
    begun = replace(head.notes[0], tempo_bpm=bpm)
    return replace(passage, bars=(replace(head, notes=(begun, *head.notes[1:])), *passage.bars[1:]))


def _rests(into: Fraction) -> list[Note]:
    """Rests from a place in a bar to its end: up to the beat, the half of the bar, the end."""
    found = []
    while 0 < into < BAR:
        fitting = (part for part in (HALF, QUARTER, EIGHTH, SIXTEENTH) if into % part == 0)
        found.append(rest(next(fitting)))
        into += found[-1].quarters
    return found
