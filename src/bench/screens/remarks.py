"""What a reader of a passage's fingerings is told besides, on the bench and on sheets."""

from bench.forms import AIM_WORDS
from bench.solution import Solution
from core.music.events import where
from core.routes.remarks import aimed_over, levers_set, same_touches
from core.words import capital, counted

SAME_MOST, AIMS_MOST = 4, 8


def _over(events, one):
    """From where to where something holds."""
    first, last = where(events[one.first]), where(events[one.last])
    return first if one.first == one.last else f"{first} to {last[0].lower()}{last[1:]}"


def remarks(solution: Solution) -> tuple[str, ...]:
    """The sentences; none where there is nothing to say."""
    in_hand, events, entries = solution.in_hand, solution.events, solution.entries
    aimed = aimed_over(events)
    said = [f"{capital(AIM_WORDS[one.aim])}: {_over(events, one)}." for one in aimed[:AIMS_MOST]]
    if len(aimed) > AIMS_MOST:
        said.append(f"Aims in {counted(len(aimed) - AIMS_MOST, 'place')} more.")
    said += [
        f"{capital(lever.touch.label)} on: {_over(events, lever)}."
        for lever in levers_set(entries, in_hand.instrument)
    ]
    for one in same_touches(entries)[:SAME_MOST]:
        notes = " and ".join(map(str, one.notes))
        said.append(f"{notes} have the same touches ({in_hand.said(one.fingering)}): the player decides.")
    return tuple(said)
