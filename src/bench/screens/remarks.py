"""What a reader of a passage's fingerings is told besides, on the bench and on sheets."""

from bench.solution import Solution
from core.music.events import where
from core.routes.remarks import levers_set, same_touches
from core.words import capital

SAME_MOST = 4


def remarks(solution: Solution) -> tuple[str, ...]:
    """The sentences; none where there is nothing to say."""
    in_hand, events, entries = solution.in_hand, solution.events, solution.entries
    said = [
        f"{capital(lever.touch.label)} on: {where(events[lever.first])} to {where(events[lever.last])}."
        for lever in levers_set(entries, in_hand.instrument)
    ]
    for one in same_touches(entries)[:SAME_MOST]:
        notes = " and ".join(map(str, one.notes))
        said.append(f"{notes} have the same touches ({in_hand.said(one.fingering)}): the player decides.")
    return tuple(said)
