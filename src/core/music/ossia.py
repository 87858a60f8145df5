"""The ossia of a passage: other pitches for some of its notes, played until they are within reach.

It has the rhythm of the notes that it stands for. What stands about a note goes along an octave away; over
another tone its grace notes and ornaments are left out.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import groupby

from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch

OSSIA_ID = "ossia-"


def with_ossia(passage: Passage, pitches: Mapping[str, Pitch]) -> Passage:
    """The same passage with these pitches, by note id, and no others, as its ossia.

    Parameters
    ----------
    passage : Passage
    pitches : mapping of str to Pitch
        Written pitches by note id.

    Returns
    -------
    Passage
    """
    bars = tuple(
        replace(bar, notes=tuple(replace(note, ossia=pitches.get(note.id)) for note in bar.notes))
        for bar in passage.bars
    )
    return replace(passage, bars=bars)


def ossia_of(passage: Passage) -> dict[str, Pitch]:
    """Pitches of the ossia by note id.

    Parameters
    ----------
    passage : Passage

    Returns
    -------
    dict of str to Pitch
    """
    return {note.id: note.ossia for note in passage if note.ossia is not None}


def as_played(passage: Passage) -> Passage:
    """The passage with its ossia in place of the notes that it stands for.

    Parameters
    ----------
    passage : Passage

    Returns
    -------
    Passage

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
        return replace(
            note, written_pitch=ossia, ossia=None, grace=(), ornaments=frozenset(), trilled_to=None
        )
    octaves = ossia.octave - pitch.octave
    grace = tuple(by_octaves(one, octaves) for one in note.grace)
    trilled_to = by_octaves(note.trilled_to, octaves) if note.trilled_to else None
    return replace(note, written_pitch=ossia, ossia=None, grace=grace, trilled_to=trilled_to)


def small_staff(passage: Passage) -> dict[int, Bar]:
    """The bars in which there is an ossia, by their place, as they stand on a small staff above.

    Notes have their ids with `OSSIA_ID` before them; ties and slurs that lead out of these bars are left out.

    Parameters
    ----------
    passage : Passage

    Returns
    -------
    dict of int to Bar
        By the place of the bar, from 0.
    """
    played = as_played(passage).bars
    has = [any(note.ossia for note in bar.notes) for bar in passage.bars]
    found: dict[int, Bar] = {}
    for there, run in groupby(range(len(has)), key=has.__getitem__):
        places = list(run) if there else []
        bars = [replace(played[n], notes=tuple(map(_plain, played[n].notes))) for n in places]
        found |= dict(zip(places, _closed(bars), strict=True)) if bars else {}
    return found


def _closed(bars: Sequence[Bar]) -> list[Bar]:
    """Bars without the ties and slurs that lead out of them."""
    notes = [note for bar in bars for note in bar.notes]
    begun: int | None = None
    for place, note in enumerate(notes):
        if note.slur_stop and begun is None:
            notes[place] = replace(note, slur_stop=False)
        elif note.slur_stop:
            begun = None
        begun = place if note.slur_start else begun
    if begun is not None:
        notes[begun] = replace(notes[begun], slur_start=False)
    notes[-1] = replace(notes[-1], tied=False)
    left = iter(notes)
    return [replace(bar, notes=tuple(next(left) for _ in bar.notes)) for bar in bars]


def _plain(note: Note) -> Note:
    return Note(
        f"{OSSIA_ID}{note.id}",
        note.written_pitch,
        note.quarters,
        note.tuplet,
        note.tied,
        note.slur_start,
        note.slur_stop,
        note.articulations,
        grace=note.grace,
        ornaments=note.ornaments,
        trilled_to=note.trilled_to,
    )


def by_octaves(pitch: Pitch, octaves: int) -> Pitch:
    """A pitch so many octaves higher.

    Parameters
    ----------
    pitch : Pitch
    octaves : int
        Down where it is below 0.

    Returns
    -------
    Pitch
    """
    return replace(pitch, octave=min(max(pitch.octave + octaves, -1), 9))
