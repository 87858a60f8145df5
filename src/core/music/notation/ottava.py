"""Where notes are written an octave lower, under 8va: too many leger lines are not read at a stand."""

from __future__ import annotations

from collections.abc import Sequence

from core.music.notation.clefs import leger_lines_above
from core.music.passage import Note, Passage

# A note with so many leger lines above begins one; those around that have so many stay under it.
TOO_MANY, GOES_ALONG = 6, 3


def ottavas(passage: Passage, clefs: Sequence[str]) -> tuple[frozenset[str], frozenset[str]]:
    """Where an 8va begins and where it ends.

    Parameters
    ----------
    passage : Passage
    clefs : sequence of str
        The clef of each bar.

    Returns
    -------
    (frozenset of str, frozenset of str)
        Ids of the first notes, and of the last.
    """
    starts, stops = set(), set()
    run: list[tuple[Note, int]] = []

    def close() -> None:
        if any(lines >= TOO_MANY for _, lines in run):
            starts.add(run[0][0].id)
            stops.add(run[-1][0].id)
        run.clear()

    for bar, clef in zip(passage.bars, clefs, strict=True):
        for note in bar.notes:
            if note.written_pitch is None:
                continue  # an 8va goes on over a rest
            lines = leger_lines_above(note.written_pitch, clef)
            if lines < GOES_ALONG:
                close()
            else:
                run.append((note, lines))
    close()
    return frozenset(starts), frozenset(stops)
