"""Why a fingering stands where it does, in words."""

import numpy as np

from core.music.aims import COLOURS, Aim
from core.routes.explain import NOTEWORTHY, Sure, reason
from core.routes.faults import WANTED
from core.words import capital, in_100

GAINS = {
    "pitch": "better in tune",
    "tone": "the better tone",
    "speaks": "surer to speak",
    "hands": "fewer slips",
    "neighbours": "better beside its neighbours",
}
LOSSES = {
    "pitch": "less in tune",
    "tone": "of poorer tone",
    "speaks": "less sure to speak",
    "hands": "with more slips",
}
# What a fingering is that is known to have a colour; what is gained in tone, and lost, by an aim.
KNOWN_TO_BE = {Aim.DARKER: "darker", Aim.BRIGHTER: "brighter", Aim.COVERED: "covered"}
AIMED = {
    Aim.FULLER: ("fuller", "less full"),
    Aim.THINNER: ("thinner", "less thin"),
    Aim.DARKER: ("darker", "less dark"),
    Aim.BRIGHTER: ("brighter", "less bright"),
    Aim.COVERED: ("more covered", "less covered"),
}
# How near a colour must be known to be to one that is aimed at, to serve for it.
SERVES = 0.25


def said_of(aim: Aim | None) -> tuple[dict[str, str], dict[str, str]]:
    """What is gained in each strand, and what is lost, where something is aimed at."""
    gain, loss = AIMED.get(aim, (GAINS["tone"], LOSSES["tone"]))
    return GAINS | {"tone": gain}, LOSSES | {"tone": loss}


def why(note, tried) -> str:
    """Why the chosen fingering stands here, or what the one tried would do, in words."""
    return f"{_why(note, tried)}{_colour_known(note) if tried.chosen else ''}"


def _why(note, tried):
    if tried.chosen and tried.entry.is_lead and note.offer.nothing_better:
        return "Nothing better known: a lead, to be tried."
    if not tried.chosen:
        return f"With it the passage has {tried.more} than with the chosen route."
    if tried.pinned:
        return "Pinned by you."
    if tried.preferred:
        return "Preferred on this instrument."
    found = reason(note.solution.table, note.n)
    if position := note.in_hand.position_for(tried.entry):
        return f"As you teach it on this instrument: {position}.{_price(note, found)}"
    if found.rival is None:
        alone = len(note.offer.candidates) == 1
        return f"The only one to choose here{'' if alone else ', unless you pin another'}."
    without = note.in_hand.without_row(note.event.written_pitch)
    lacking = "".join(f" “{name}” has no taught fingering here." for name in without)
    return f"{_against(note, tried.entry, found)}{_unknown_pitch(found.pitch_known)}{lacking}"


def _colour_known(note):
    """What is known where a colour is aimed at and the chosen one is not known to have it."""
    if note.event.aim not in COLOURS:
        return ""
    problem, row = note.solution.table.problem, note.n + 1
    known, wanted = problem.given.known, WANTED[note.event.aim].colour
    entries = problem.trellis.rows[slice(*problem.trellis.first[row : row + 2])]
    serves = known.colour_known[entries] & (np.abs(known.colour[entries] - wanted) <= SERVES)
    word = KNOWN_TO_BE[note.event.aim]
    if serves[note.solution.table.slots[row]]:
        return ""
    if not serves.any():
        return f" None here is known to be {word}: try them at the stand, and judge."
    slot = min(np.flatnonzero(serves).tolist(), key=lambda slot: note.solution.table.extra_at(note.n)[slot])
    other = note.in_hand.said(note.offer.candidates[slot].entry.fingering)
    more = more_faults(float(note.solution.table.extra_at(note.n)[slot]))
    return f" {capital(word)} is {other}, with {more}."


def _price(note, why):
    """What a fingering costs that is taken because it is taught; empty where it costs nothing."""
    if why.rival is None or why.saved.total > -NOTEWORTHY:
        return ""
    rival = note.offer.candidates[why.rival].entry
    return f" It costs {in_100(-why.saved.total)} against {note.in_hand.said(rival.fingering)}."


def _against(note, entry, why):
    """What speaks for a fingering against the next best, and how surely."""
    rival = note.offer.candidates[why.rival].entry
    named = f"{rival.kind_words} ({note.in_hand.said(rival.fingering)})"
    if why.sure is Sure.HARDLY:
        first = note.in_hand.rank(entry) < note.in_hand.rank(rival)
        return f"Hardly any difference to {named}{': it comes first in your order' if first else ''}."
    if why.sure is Sure.OPEN:
        return f"Open whether it is better than {named}: too little is known. Try both."
    gains, losses = said_of(note.event.aim)
    gain = gains.get(why.because, "better all in all")
    gain += f" over {why.notes} notes" if why.notes > 1 else ""
    return (
        f"Chosen over {named}: {why.sure} {gain}{f', though {losses[why.despite]}' if why.despite else ''}."
    )


def _unknown_pitch(known):
    return {
        (True, True): "",
        (False, True): " Its own pitch is not known.",
        (True, False): " The other's pitch is not known.",
        (False, False): " The pitch of neither is known.",
    }[known]


def more_faults(extra: float) -> str:
    """A difference in expected faults as a teacher would say it."""
    if abs(100 * extra) < 0.5:
        return "no more faults"
    count = round(abs(100 * extra))
    return f"{count} {'more' if extra > 0 else 'fewer'} fault{'' if count == 1 else 's'} in 100 playings"
