"""The moves of a route: which are hard and why, what each asks of the fingers, and what would ease it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from core.instruments.fingering import Fingering
from core.music.events import Event
from core.routes.alternatives import Change, by_stretch, with_change
from core.routes.demands import HIDDEN_BY_TONGUE, entry_grips
from core.routes.explain import chosen
from core.routes.facility import EFFECT_WORDS, IntArray, move_effects
from core.routes.faults import BLIP, BROKEN_SLUR, RESHAPED, RESHAPED_SLUR, Faults
from core.routes.table import Table

# Chance of a stumble from which a move is one to work on, and a hard one.
CARE, HARD = 0.05, 0.20
SLOWEST_BPM = 20
# Parts of a move's time that are named: those of at least this share of the whole.
NAMED_SHARE = 0.15
# A way eases a move if it lowers the chance of a stumble by so much; how many are told.
EASED, EASINGS = 0.02, 4


class Ease(StrEnum):
    """How a move stands with the hands."""

    EASY = "easy"
    CARE = "care"
    HARD = "hard"


@dataclass(frozen=True)
class MoveInto:
    """The move into a note of the route.

    Parameters
    ----------
    before, after : Event
    stumble : float, 0 to 1
        Chance that the hands stumble, or a slur is heard to break.
    fingerings : (Fingering, Fingering)
        From which to which the hands move.
    asks : tuple of str
        What makes the move slower than a finger alone, the most first, in the words of
        `core.routes.facility.EFFECT_WORDS`.
    """

    before: Event
    after: Event
    stumble: float
    fingerings: tuple[Fingering, Fingering]
    asks: tuple[str, ...]


def stumble(table: Table, note: int) -> float | None:
    """Chance that the hands stumble on the way into a note; None for the first one and beside a gap.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    float or None, 0 to 1
    """
    gap = table.problem.trellis.gap
    return None if gap[note] or gap[note + 1] else min(1.0, float(table.move_faults.hands[note]))


def ease(chance: float) -> Ease:
    """How hard a chance of stumbling is taken to be.

    Parameters
    ----------
    chance : float, 0 to 1

    Returns
    -------
    Ease
    """
    return Ease.HARD if chance >= HARD else Ease.CARE if chance >= CARE else Ease.EASY


def hardest(table: Table, count: int) -> list[MoveInto]:
    """The moves that the hands find hardest, the worst first; only those to be worked on.

    Parameters
    ----------
    table : Table
    count : int, from 1
        So many at most.

    Returns
    -------
    list of MoveInto
    """
    chances = [(stumble(table, note) or 0.0, note) for note in range(1, len(table.route.slots))]
    worst = sorted(chances, key=lambda pair: (-pair[0], pair[1]))[:count]
    return [move for chance, note in worst if chance >= CARE and (move := move_into(table, note))]


def move_into(table: Table, note: int) -> MoveInto | None:
    """The move into a note of the route; None for the first one and beside a gap.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    MoveInto or None
    """
    before, after, chance = chosen(table, note - 1), chosen(table, note), stumble(table, note)
    if before is None or after is None or chance is None:
        return None
    events, index = table.problem.events, table.problem.given.chart.index
    parts = _effects(table, np.array([index[before.entry.id], index[after.entry.id]]))
    whole = sum(parts.values())
    # The slowest finger is part of every move, so it explains none.
    named = [name for name in parts if name != "finger" and parts[name] > NAMED_SHARE * whole]
    named.sort(key=lambda name: -parts[name])
    fingerings = before.entry.fingering, after.entry.fingering
    asks = tuple(EFFECT_WORDS[name] for name in named)
    return MoveInto(events[note - 1], events[note], chance, fingerings, asks)


def safe_bpm(table: Table, first: int, last: int, bpm: float) -> int:
    """The fastest tempo, up to one, at which the hands are called safe on every move of a spot.

    What does not depend on the tempo, as a finger that jumps, is left out: no tempo takes it away.

    Parameters
    ----------
    table : Table
    first, last : int
        The places of the first and the last note of the spot.
    bpm : float, quarter notes a minute
        Tempo of the passage, and the one that is aimed at.

    Returns
    -------
    int, quarter notes a minute
    """
    problem, tempi = table.problem, np.arange(SLOWEST_BPM, max(int(bpm), SLOWEST_BPM) + 1)
    rows = np.arange(first + 1, last + 1)
    cells = problem.trellis.cells(rows, table.slots[rows], table.slots[rows + 1])
    hands = problem.faults_of_moves(cells, problem.given.known, problem.notes.at(tempi / bpm)).hands
    safe = np.all(hands - hands[:, :1] < CARE, axis=0)
    return int(tempi[safe][-1]) if safe.any() else SLOWEST_BPM


@dataclass(frozen=True)
class Easing:
    """A way that eases a move.

    Parameters
    ----------
    stumble : float, 0 to 1
        Chance that the hands stumble there with it.
    """

    change: Change
    stumble: float


@dataclass(frozen=True)
class Closely:
    """A move, and what makes it hard.

    Parameters
    ----------
    needed_s, available_s : float, seconds
        Median time that the hands need, and the time that there is.
    parts : tuple of (str, float)
        What the time is made of, in words and seconds, the most first.
    besides : tuple of (str, float)
        What else may be heard, in words, and how often.
    faults : Faults
        Unweighted faults of the move.
    avoided : bool
        Whether the row of one of the two says that it is to be avoided beside the other note.
    easings : tuple of Easing
        Ways that lower the chance of a stumble, the cheapest first.
    """

    move: MoveInto
    needed_s: float
    available_s: float
    parts: tuple[tuple[str, float], ...]
    besides: tuple[tuple[str, float], ...]
    faults: Faults
    avoided: bool
    easings: tuple[Easing, ...]


def closely(table: Table, note: int) -> Closely | None:
    """Look at the move into a note; None for the first one and beside a gap.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    Closely or None
    """
    move, problem = move_into(table, note), table.problem
    trellis = problem.trellis
    if move is None:
        return None
    ends = np.array([note, note + 1])
    cell = trellis.cells(ends[:1], table.slots[ends[:1]], table.slots[ends[1:]])
    entries = trellis.rows[trellis.first[ends] + table.slots[ends]]
    asked, factor = (
        problem.given.demands[cell],
        float(np.sqrt(problem.given.known.hands_factor[entries].prod())),
    )
    slurred = bool(problem.notes.slurred[note])
    missed = asked.missed[0] * (1.0 if slurred else HIDDEN_BY_TONGUE)
    besides = [
        ("fingers do not come together, or do not cover, at any tempo", missed),
        ("a finger jumps, and the slur breaks", BROKEN_SLUR * slurred * float(asked.jumps[0])),
        ("a wrong note slips between", BLIP * slurred * float(asked.contrary[0])),
        ("the hands go over to another shape", (RESHAPED_SLUR if slurred else RESHAPED) * asked.reshapes[0]),
    ]
    parts = [(EFFECT_WORDS[name], factor * value) for name, value in _effects(table, entries).items()]
    return Closely(
        move=move,
        needed_s=float(asked.needed_s[0]) * factor,
        available_s=float(problem.notes.available_s[note]),
        parts=tuple(sorted((part for part in parts if part[1] > 0), key=lambda part: -part[1])),
        besides=tuple((words, float(chance)) for words, chance in besides if chance > 0),
        faults=table.move_faults[note],
        avoided=bool(asked.avoided[0]),
        easings=_easings(table, note),
    )


def _effects(table: Table, entries: IntArray) -> dict[str, float]:
    """What a move is made of, in seconds by name; `entries` are its two ends as places in the chart."""
    chart = table.problem.given.chart
    before, after = (entry_grips(chart, [chart.entries[one]]) for one in entries.tolist())
    effects = move_effects(chart.instrument, before, after, table.problem.given.hand)
    return {name: float(value[0]) for name, value in effects.items()}


def _easings(table: Table, note: int) -> tuple[Easing, ...]:
    now, found = float(table.move_faults.hands[note]), []
    for change in by_stretch(table, table.stretches.around([note - 1, note])):
        there = float(table.problem.move_faults(with_change(table, change)).hands[note + 1])
        if now - there >= EASED:
            found.append(Easing(change, min(1.0, there)))
    return tuple(found[:EASINGS])
