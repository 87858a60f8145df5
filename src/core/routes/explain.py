"""Why a fingering stands in a route.

One rule of counting for reasons: two whole routes are compared, the chosen one and the best one through
the rival, strand by strand. So what the strands say adds up to what the route's cost says.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from core.charts.entry import ONE_FINGER
from core.music.aims import COLOURS, Aim
from core.routes.candidates import Candidate
from core.routes.facility import IntArray
from core.routes.faults import STRANDS, Faults
from core.routes.problem import Problem
from core.routes.sureness import sureness
from core.routes.table import Table, route_through

# One fault in two hundred playings is not worth a word; what is clearly better saves one in twenty.
NOTEWORTHY, MATTERS = 0.005, 0.05
# The reason where it is no strand: a row that is taught to be avoided there.
NEIGHBOURS = "neighbours"
# Shares of all draws from which a choice is clearly, or probably, the better one; and from which a strand
# stands clear of what is not known of it.
CLEAR, PROBABLE, PLAIN = 0.9, 0.6, 0.75


class Sure(StrEnum):
    """How sure it is that the choice is the better one."""

    CLEARLY = "clearly"
    PROBABLY = "probably"
    OPEN = "open"
    HARDLY = "hardly any difference"


@dataclass(frozen=True)
class Reason:
    """Why a candidate stands in the route.

    Parameters
    ----------
    rival : int or None
        Slot of the next cheapest candidate; None if there is no other.
    saved : Faults
        Weighted faults of the whole passage that the chosen route saves against the best one through
        the rival, strand by strand; below zero where it costs more.
    head_start : float
        Head starts that the chosen route takes more than the other, and what it costs less by rows that are
        to be avoided.
    extra : float
        Faults that the passage would cost more with the rival: the sum of the two.
    because, despite : str
        Strand in which the choice saves most, and in which it loses most, where either stands clear of
        what is not known; `NEIGHBOURS` if what is taught beside them is kept instead, empty if it is nothing.
    sure : Sure
    pitch_known : (bool, bool)
        Whether anything is known of the pitch of the candidate chosen, and of the rival.
    notes : int
        Notes that would be fingered otherwise with the rival, this one among them.
    """

    rival: int | None
    saved: Faults
    head_start: float
    extra: float
    because: str
    despite: str
    sure: Sure
    pitch_known: tuple[bool, bool] = (True, True)
    notes: int = 1


NO_REASON = Reason(None, Faults(), 0.0, 0.0, "", "", Sure.HARDLY)


def chosen(table: Table, note: int) -> Candidate | None:
    """The candidate of a note in the best route; None for a gap, or beyond the ends.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    Candidate or None
    """
    if not 0 <= note < len(table.route.slots):
        return None
    slot = table.route.slots[note]
    return None if slot is None else table.problem.given.offered[note].candidates[slot]


def route_faults(table: Table) -> Faults:
    """Unweighted faults of the best route, strand by strand.

    Parameters
    ----------
    table : Table

    Returns
    -------
    Faults
    """
    return table.node_faults.summed() + table.move_faults.summed()


def faults_between(table: Table, note: int, slot: int) -> tuple[Faults, float | None, float | None]:
    """Faults of a candidate between the route's neighbours, unweighted.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.
    slot : int, from 0
        Place of a candidate among those of its note.

    Returns
    -------
    Faults
        Of the note itself and of the move into it.
    float or None, float or None
        Stumbles of the hands into it and out of it; None at an end or beside a gap.
    """
    slots = table.slots.copy()
    slots[note + 1] = slot
    problem = table.problem
    nodes, moves = problem.node_faults(slots), problem.move_faults(slots)
    into, out = moves[note + 1], moves[note + 2]
    gap = problem.trellis.gap
    return (
        nodes[note + 1] + into,
        None if gap[note] or gap[note + 1] else float(into.hands),
        None if gap[note + 2] or gap[note + 1] else float(out.hands),
    )


def reason(table: Table, note: int) -> Reason:
    """Say for a note of the route what speaks for its fingering against the next cheapest one.

    Parameters
    ----------
    table : Table
    note : int, from 0
        Place of the note in the passage.

    Returns
    -------
    Reason
    """
    slot, problem = table.route.slots[note], table.problem
    trellis = problem.trellis
    usable = trellis.usable[slice(*trellis.first[note + 1 : note + 3])]
    if slot is None:
        return NO_REASON
    # the same fingering with a finger that stays down, or without, is nothing to choose between
    plain_of = problem.given.chart.plain
    entries = [candidate.entry for candidate in problem.given.offered[note].candidates]
    plain = [plain_of[entry.id] for entry in entries]
    others = [
        other
        for other in np.flatnonzero(usable).tolist()
        if plain[other] != plain[slot] and entries[other].source != ONE_FINGER
    ]
    if not others:
        return NO_REASON
    through = table.extra_at(note)
    rival = min(others, key=lambda other: float(through[other]))
    other = route_through(table, note, rival)
    saved = (_faults(problem, other) - _faults(problem, table.slots)).weighted(problem.weights)
    head_start = problem.preferred(table.slots) - problem.preferred(other)
    extra = float(saved.total + head_start)
    sure = sureness(problem, table.slots, other, head_start)
    places = trellis.rows[trellis.first[note + 1] + [slot, rival]]
    known, other_known = problem.given.known.pitch_known[places].tolist()
    stated = _stated(problem, places, problem.events[note].aim)
    because, despite = decisive(saved, sure.by_strand, stated)
    if not because and problem.avoided_by(other) - problem.avoided_by(table.slots) > NOTEWORTHY:
        because = NEIGHBOURS
    return Reason(
        rival=rival,
        saved=saved,
        head_start=head_start,
        extra=extra,
        because=because,
        despite=despite,
        sure=how_sure(extra, sure.whole),
        pitch_known=(known, other_known),
        notes=int(np.sum(table.slots != other)),
    )


def how_sure(extra: float, share: float) -> Sure:
    """From what a choice saves, and in what share of all draws it saves at all.

    Parameters
    ----------
    extra : float, faults
    share : float, 0 to 1

    Returns
    -------
    Sure

    Examples
    --------
    >>> [how_sure(extra, share).value for extra, share in ((0.2, 0.95), (0.02, 0.95), (0.2, 0.5))]
    ['clearly', 'probably', 'open']
    >>> how_sure(0.001, 1.0).value
    'hardly any difference'
    """
    if extra < NOTEWORTHY:
        return Sure.HARDLY
    if share < PROBABLE:
        return Sure.OPEN
    return Sure.CLEARLY if share >= CLEAR and extra >= MATTERS else Sure.PROBABLY


def _stated(problem: Problem, places: IntArray, aim: Aim | None) -> frozenset[str]:
    """Strands of which something is known of each of two fingerings; of the hands it always is.

    Where a colour is aimed at it is enough that the first is known to have it.
    """
    known = problem.given.known
    stated = {"pitch": known.pitch_known, "tone": known.tone_known, "speaks": known.speaks_known}
    found = {"hands", *(strand for strand, of in stated.items() if of[places].all())}
    if aim in COLOURS:
        found = found - {"tone"} | ({"tone"} if known.colour_known[places[0]] else set())
    return frozenset(found)


def decisive(saved: Faults, share: Mapping[str, float], stated: Collection[str] = STRANDS) -> tuple[str, str]:
    """The strand in which most is saved, and the one in which most is lost; empty where none stands clear.

    Parameters
    ----------
    saved : Faults
    share : mapping of strand to number from 0 to 1
        In what share of all draws it saves.
    stated : collection of str
        Strands of which something is known of both; no other is a reason.

    Returns
    -------
    (str, str)
        Names of strands.

    Examples
    --------
    >>> share = {"pitch": 0.6, "tone": 0.9, "speaks": 0.5, "hands": 0.0}
    >>> decisive(Faults(pitch=0.4, tone=0.3, hands=-0.1), share), decisive(Faults(tone=0.004), share)
    (('tone', 'hands'), ('', ''))
    """
    by_strand = {s: v for s, v in saved.by_strand.items() if s in stated}
    gains = [s for s, v in by_strand.items() if v > NOTEWORTHY and share[s] >= PLAIN]
    losses = [s for s, v in by_strand.items() if v < -NOTEWORTHY and share[s] <= 1 - PLAIN]
    best, worst = (
        max(gains, key=by_strand.__getitem__, default=""),
        min(losses, key=by_strand.__getitem__, default=""),
    )
    return best, worst


def _faults(problem: Problem, slots: IntArray) -> Faults:
    return problem.node_faults(slots).summed() + problem.move_faults(slots).summed()
