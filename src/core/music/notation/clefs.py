"""Clefs of an instrument through a passage: as few leger lines as can be, without restless changes."""

from __future__ import annotations

from collections.abc import Sequence

from core.music.passage import Passage
from core.music.pitch import STEPS, Pitch

# MusicXML sign and line, and the steps of the bottom and the top line of the staff.
CLEFS = {
    "treble": ("G", 2, "E4", "F5"),
    "tenor": ("C", 4, "D3", "E4"),
    "bass": ("F", 4, "G2", "A3"),
}
# A change of clef is worth it when it saves more leger lines than this; from the third on each counts more.
CHANGE_COST, EASY_LINES = 6, 2


def clefs_through(passage: Passage, clefs: Sequence[str]) -> list[str]:
    """Choose a clef for every bar.

    Parameters
    ----------
    passage : Passage
    clefs : sequence of str
        Names of `CLEFS`, the instrument's usual one first; it wins ties.

    Returns
    -------
    list of str
        Shortest path over the bars: what leger lines cost to read, and `CHANGE_COST` for every change.
    """
    cost = dict.fromkeys(clefs, 0.0)
    came_from: list[dict[str, str]] = []
    for bar in passage.bars:
        pitches = [note.written_pitch for note in bar.notes if note.written_pitch is not None]
        arrived, step = {}, {}
        for clef in clefs:
            before = min(clefs, key=lambda old: cost[old] + CHANGE_COST * (old != clef))
            step[clef] = before
            arrived[clef] = (
                cost[before]
                + CHANGE_COST * (before != clef)
                + sum(reading_cost(pitch, clef) for pitch in pitches)
            )
        cost = arrived
        came_from.append(step)
    clef = min(clefs, key=lambda name: cost[name])
    chosen = []
    for step in reversed(came_from):
        chosen.append(clef)
        clef = step[clef]
    return chosen[::-1]


def reading_cost(pitch: Pitch, clef: str) -> int:
    """Leger lines of a note, those beyond two at a growing price.

    Parameters
    ----------
    pitch : Pitch
    clef : str
        One of `CLEFS`.

    Returns
    -------
    int, from 0

    Examples
    --------
    >>> from core.music.pitch import parse_pitch
    >>> [reading_cost(parse_pitch(note), "tenor") for note in ("C3", "G2", "Bb1")]
    [0, 2, 8]
    """
    lines = leger_lines(pitch, clef)
    return lines + max(0, lines - EASY_LINES) ** 2


def leger_lines(pitch: Pitch, clef: str) -> int:
    """Leger lines that a note needs in a clef.

    Parameters
    ----------
    pitch : Pitch
    clef : str
        One of `CLEFS`.

    Returns
    -------
    int, from 0

    Examples
    --------
    >>> from core.music.pitch import parse_pitch
    >>> [leger_lines(parse_pitch("C4"), clef) for clef in ("treble", "tenor", "bass")]
    [1, 0, 1]
    """
    _, _, bottom, _ = CLEFS[clef]
    below = _place(bottom[0], int(bottom[1])) - _place(pitch.step, pitch.octave)
    return max(below // 2, leger_lines_above(pitch, clef))


def leger_lines_above(pitch: Pitch, clef: str) -> int:
    """Leger lines that a note needs above the staff of a clef.

    Parameters
    ----------
    pitch : Pitch
    clef : str
        One of `CLEFS`.

    Returns
    -------
    int, from 0
    """
    _, _, _, top = CLEFS[clef]
    return max(0, (_place(pitch.step, pitch.octave) - _place(top[0], int(top[1]))) // 2)


def _place(step: str, octave: int) -> int:
    return 7 * octave + STEPS.index(step)
