"""Trills and the like: pairs of fingerings, judged by their own criteria.

A pair is the better the fewer fingers move, the faster they can go to and fro, the more evenly, and the truer
both notes are. How fast hands can go is told with it.

References
----------
Aoki, Furuya & Kinoshita (2005), Finger-tapping ability in male and female pianists and nonmusician controls,
Motor Control 9. (About six strokes a second with the index finger, five with the ring finger: a stroke comes
back later than one that need not be repeated.)
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from core.charts.entry import Entry
from core.evidence.sources import SLURRED
from core.instruments.actions import Action
from core.instruments.fingering import ON_PURPOSE
from core.instruments.moves import move_between
from core.music.ornaments import LIVELY_PER_S, Ornament
from core.routes.demands import Demands, Moves
from core.routes.facility import LOG_SPREAD
from core.routes.faults import ACROSS_PARTIALS, NOT_SPEAKING, Faults, Qualities, off_pitch

# What a finger needs beside a single stroke before it can come back.
REPEATED_S = 0.043
# Each note of a trill sounds for a tenth of a second or so: what lies a quarter of a half step off passes.
HEARD_S = 0.12
# What each finger beyond the first adds, and strokes of which one takes longer than the other.
FINGER, UNEVEN = 0.03, 0.1


@dataclass(frozen=True)
class Pair:
    """Two fingerings that alternate.

    Parameters
    ----------
    other : Entry
        For the note beside the one written.
    fingers : int
        How many move.
    per_s : float
        Notes a second that the hands reach; half of all hands, more or less.
    even : float, 0 to 1
        1 where both strokes take the same time.
    cents : float or None
        Where the other note lies; None where it is not known.
    faults : Faults
        Unweighted.
    """

    other: Entry
    fingers: int
    per_s: float
    even: float
    cents: float | None
    faults: Faults


def pairs(
    entry: Entry,
    offered: Sequence[Entry],
    moves: Moves,
    known: Qualities,
    per_s: float = LIVELY_PER_S,
) -> list[Pair]:
    """Every way to alternate a fingering with a note beside it, the best first.

    Parameters
    ----------
    entry : Entry
    offered : sequence of Entry
        Fingerings for the other note, those for trills among them.
    moves : Moves
    known : Qualities
        Of all entries of the chart.
    per_s : float
        Notes a second that are wanted.

    Returns
    -------
    list of Pair
    """
    found = [
        _pair(entry, other, moves, known, per_s) for other in offered if other.fingering != entry.fingering
    ]
    return sorted(found, key=lambda pair: (float(pair.faults.total), pair.other.id))


def partners(at_hand: list[Entry]) -> list[Entry]:
    """Of fingerings at hand those that may be trilled to: neither leads nor for colour, if there are such.

    Parameters
    ----------
    at_hand : list of Entry

    Returns
    -------
    list of Entry
    """
    plain = [entry for entry in at_hand if entry.kind not in ON_PURPOSE and not entry.is_lead]
    return plain or at_hand


def _pair(entry: Entry, other: Entry, moves: Moves, known: Qualities, wanted_per_s: float) -> Pair:
    there, forth = _move(entry, other, moves), _move(other, entry, moves)
    row = moves.chart.index[other.id]
    strokes = np.array([there.again_s[0], forth.again_s[0]]) + REPEATED_S
    per_s = float(2 / strokes.sum())
    moved = move_between(entry.fingering, other.fingering, moves.chart.instrument).fingers
    fingers = sum(one.action is not Action.STAYS for one in moved)
    uneven = float(abs(strokes[0] - strokes[1]) / strokes.sum())
    hands = float(ndtr(np.log(wanted_per_s / per_s) / LOG_SPREAD))
    hands += FINGER * max(0, fingers - 1) + UNEVEN * uneven
    mean, spread = known.pitch[[row]], known.pitch_spread[[row]]
    crosses = bool(there.crosses[0])
    return Pair(
        other=other,
        fingers=fingers,
        per_s=per_s,
        even=1 - uneven,
        cents=float(mean[0]) if known.pitch_known[row] else None,
        faults=Faults(
            pitch=float(off_pitch(mean, spread, np.array([HEARD_S]))[0]),
            tone=0.0,
            speaks=float(NOT_SPEAKING * SLURRED * (ACROSS_PARTIALS if crosses else 1.0) * known.silence[row]),
            hands=hands,
        ),
    )


def partner_of(note_id: str) -> str:
    """The name under which the other fingering of a note's trill is pinned.

    Parameters
    ----------
    note_id : str
        Id of the note.

    Returns
    -------
    str
    """
    return f"{note_id}.trill"


def _move(entry: Entry, other: Entry, moves: Moves) -> Demands:
    asked, _ = moves.between([(entry.note.midi, other.note.midi)])
    width, index = len(moves.rows[other.note.midi]), moves.chart.index
    return asked[[moves.position[index[entry.id]] * width + moves.position[index[other.id]]]]


def faults_with(ornament: Ornament, found: Sequence[Sequence[Pair]]) -> Faults:
    """Faults of an ornament with the best pair for each other note; one that does not last counts half.

    A note that cannot be trilled to is a fault of the hands.

    Parameters
    ----------
    ornament : Ornament
    found : sequence of sequence of Pair

    Returns
    -------
    Faults
    """
    share = 1.0 if ornament.lasting else 0.5
    together = Faults()
    for some in found:
        together = together + (some[0].faults if some else Faults(hands=1.0))
    return Faults(*(share * part for part in together.parts))
