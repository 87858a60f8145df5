"""From notes and an instrument in hand to the table of their route, in one step."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from core.charts.entry import Entry
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import ALL_SOURCES, Basis
from core.evidence.weigh import Evidence
from core.music.events import Event
from core.routes.candidates import NOTHING_BANNED, NOTHING_PINNED, Offer, offers
from core.routes.demands import Moves
from core.routes.one_way import one_way
from core.routes.problem import make_problem
from core.routes.table import Table, make_table
from core.routes.trills import partners


def solve(
    events: Sequence[Event],
    in_hand: InstrumentInHand,
    moves: Moves,
    pins: Mapping[str, str] = NOTHING_PINNED,
    bans: Mapping[str, Collection[str]] = NOTHING_BANNED,
    weights: Mapping[str, float] | None = None,
    use: Collection[Basis] = ALL_SOURCES,
) -> Table:
    """Solve a passage.

    Parameters
    ----------
    events : sequence of Event
    in_hand : InstrumentInHand
    moves : Moves
        Of the chart of the instrument in hand.
    pins : mapping of note id to entry id
    bans : mapping of note id to collection of entry id
    weights : mapping of strand to number, 0 to 10, optional
    use : collection of Basis
        Sources of evidence that count.

    Returns
    -------
    Table

    Raises
    ------
    RouteError
        If they ask for what cannot be.
    """
    offered = offers(events, in_hand, pins, bans)
    trilled = trilled_to(events, in_hand)
    known = known_of(offered, in_hand, use, [entry for entries in trilled.values() for entry in entries])
    return one_way(make_table(make_problem(events, offered, moves, known, weights, trilled, pins)))


def trilled_to(events: Sequence[Event], in_hand: InstrumentInHand) -> dict[int, list[Entry]]:
    """Fingerings for the notes that ornaments go to, by their semitone.

    Parameters
    ----------
    events : sequence of Event
    in_hand : InstrumentInHand

    Returns
    -------
    dict of int to list of Entry
        By semitone.
    """
    midis = {pitch.midi for event in events if event.ornament for pitch in event.ornament.others}
    return {midi: partners(list(in_hand.at_hand(midi))) for midi in midis}


def known_of(
    offered: Sequence[Offer],
    in_hand: InstrumentInHand,
    use: Collection[Basis],
    more: Sequence[Entry] = (),
) -> Mapping[str, Evidence]:
    """What is known of every candidate, and of more entries, by their ids; worked out together.

    Parameters
    ----------
    offered : sequence of Offer
    in_hand : InstrumentInHand
    use : collection of Basis
    more : sequence of Entry

    Returns
    -------
    mapping of str to Evidence
    """
    entries = {c.entry.id: c.entry for offer in offered for c in offer.candidates}
    entries |= {entry.id: entry for entry in more}
    return dict(zip(entries, in_hand.evidence(list(entries.values()), use), strict=True))
