"""Alternate colours on a run of one pitch: two fingerings that differ in sound and go to and fro.

What is asked for is a difference that is heard, so a pair is ranked by how far its two tones, and its two
pitches, lie apart, less what the hands pay at the tempo of the run.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from core.charts.entry import Entry
from core.routes.demands import Moves, stumbles
from core.routes.table import Table

# A run is of so many notes at least; so many pairs are told.
RUN, TOLD = 3, 5
# Tones as far apart as can be are worth as much as two stumbles; pitches so many cents apart as much again.
TONE_WORTH, CENTS_WORTH, CENTS_APART = 2.0, 0.5, 30.0


@dataclass(frozen=True)
class Colours:
    """Two fingerings of one note that alternate.

    Parameters
    ----------
    contrast : float, 0 to 1
        How far their tones lie apart, as far as they are known.
    cents : float
        How far their pitches lie apart.
    stumble : float, 0 to 1
        Chance that the hands stumble on a change.
    known : bool
        Whether the tone of both is known.
    """

    one: Entry
    other: Entry
    contrast: float
    cents: float
    stumble: float
    known: bool

    @property
    def worth(self) -> float:
        """The more, the better: what is heard less what the hands pay."""
        apart = TONE_WORTH * self.contrast + CENTS_WORTH * min(1.0, self.cents / CENTS_APART)
        return apart - 2 * self.stumble


def run_about(table: Table, note: int) -> range:
    """The notes of one pitch about a note, one after the other without a rest.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    range
    """
    events = table.problem.events
    midi = events[note].written_pitch.midi
    begin = end = note
    while begin > 0 and events[begin - 1].written_pitch.midi == midi and not events[begin].after_rest:
        begin -= 1
    while (
        end + 1 < len(events)
        and events[end + 1].written_pitch.midi == midi
        and not events[end + 1].after_rest
    ):
        end += 1
    return range(begin, end + 1)


def colours(table: Table, note: int, moves: Moves) -> list[Colours]:
    """Pairs of fingerings for the run about a note, the best first; none where there is no run.

    False fingerings are among them: they are for this.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.
    moves : Moves

    Returns
    -------
    list of Colours
    """
    run, problem = run_about(table, note), table.problem
    if len(run) < RUN:
        return []
    entries = [candidate.entry for candidate in problem.given.offered[note].candidates]
    midi = problem.events[note].written_pitch.midi
    asked, _ = moves.between([(midi, midi)])
    width, index = len(moves.rows.get(midi, ())), problem.given.chart.index
    available = float(problem.notes.available_s[run[1]])
    found = []
    for one, other in combinations(entries, 2):
        rows = [index[one.id], index[other.id]]
        places = moves.position[rows]
        there = asked[[places[0] * width + places[1], places[1] * width + places[0]]]
        factor = np.sqrt(problem.given.known.hands_factor[rows].prod())
        risk = float(stumbles(there, available, factor).max())
        tones, cents = problem.given.known.tone[rows], problem.given.known.pitch[rows]
        known = one.tone is not None and other.tone is not None
        apart = abs(float(tones[0] - tones[1])), abs(float(cents[0] - cents[1]))
        found.append(Colours(one, other, *apart, stumble=risk, known=known))
    return sorted(found, key=lambda pair: (-pair.worth, pair.one.id, pair.other.id))[:TOLD]
