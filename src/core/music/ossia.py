"""The ossia of a passage: other pitches for some of its notes, played until they are within reach.

It has the rhythm of the notes that it stands for. What stands about a note goes along an octave away; over
another tone its grace notes and ornaments are left out.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from core.music.passage import Note, Passage
from core.music.pitch import Pitch


def with_ossia(passage: Passage, pitches: Mapping[str, Pitch]) -> Passage:
    """The same passage with these pitches, by note id, and no others, as its ossia."""
    bars = tuple(
        replace(bar, notes=tuple(replace(note, ossia=pitches.get(note.id)) for note in bar.notes))
        for bar in passage.bars
    )
    return replace(passage, bars=bars)


def ossia_of(passage: Passage) -> dict[str, Pitch]:
    """Pitches of the ossia by note id."""
    return {note.id: note.ossia for note in passage if note.ossia is not None}


def as_played(passage: Passage) -> Passage:
    """The passage with its ossia in place of the notes that it stands for.

    Examples
    --------
    >>> from core.music.notation.abc import read_abc
    >>> high = with_ossia(read_abc("K:C" + chr(10) + "{d'}e'|").passage, {"n1": Pitch("E", 0, 5)})
    >>> [(str(note.written_pitch), str(note.grace[0])) for note in as_played(high)]
    [('E5', 'D5')]
    """
    bars = tuple(replace(bar, notes=tuple(map(_played, bar.notes))) for bar in passage.bars)
    return replace(passage, bars=bars)


def _played(note: Note) -> Note:
    ossia, pitch = note.ossia, note.written_pitch
    if ossia is None or pitch is None:
        return note
    if (ossia.step, ossia.alter) != (pitch.step, pitch.alter):
        return replace(note, written_pitch=ossia, ossia=None, grace=(), ornaments=frozenset())
    octaves = ossia.octave - pitch.octave
    grace = tuple(by_octaves(one, octaves) for one in note.grace)
    return replace(note, written_pitch=ossia, ossia=None, grace=grace)


def by_octaves(pitch: Pitch, octaves: int) -> Pitch:
    """A pitch so many octaves higher."""
    return replace(pitch, octave=min(max(pitch.octave + octaves, -1), 9))
