"""How far a student reaches on an instrument: every note, where it stands and what was counted."""

from dataclasses import dataclass
from math import exp

from core.music.pitch import Pitch, spell
from core.practice.attempts import Place
from core.practice.learning import Learning
from core.practice.reach import HowItHolds, holding, reach, standings, try_next
from core.practice.stage import StillToCome, still_to_come
from drawing.chance import chance_bar
from studio.address import Address

# Rungs shown below the lowest note that was tried or does not hold, and above the reach.
BELOW, ABOVE = 5, 9
# Attempts at a note so near tell something of it.
CLOSE_BY = 2
INSIDE = 1.2816  # eight times of ten


@dataclass(frozen=True)
class ReachNote:
    """A note of the range.

    Parameters
    ----------
    bar : str
        The chance of a clean attempt, drawn; `chance` says it with its spread.
    room, stage : str
        What was counted there; empty for nothing.
    guessed : bool
        Whether nothing was counted on it, or close by.
    """

    note: Pitch
    standing: HowItHolds
    bar: str
    chance: str
    room: str
    stage: str
    query: str
    next: bool
    guessed: bool


@dataclass(frozen=True)
class ReachPage:
    """The ladder of a student's reach.

    Parameters
    ----------
    said : str
        The reach in a sentence.
    stage : str
        What a stage asks at the top of the reach, in a sentence.
    guesses : tuple of (str, str)
        Notes that the teacher may guess, in plain letters and as they are said.
    """

    said: str
    stage: str
    rungs: tuple[ReachNote, ...]
    attempts: int
    guess: str
    guesses: tuple[tuple[str, str], ...]
    next_query: str
    next_note: Pitch
    left_out: int


def reach_page(in_hand, learning: Learning, counts, guess: int) -> ReachPage:
    """Build the page."""
    tried = sorted({midi for midi, _ in counts})
    found, stands = reach(learning), standings(learning, tried)
    following = try_next(learning)
    top = found.top if found.top is not None else guess
    unsure = [learning.low + n for n, standing in enumerate(stands) if standing is not HowItHolds.HOLDS]
    first = max(learning.low, min([top, *unsure, *tried[:1]]) - BELOW if tried or unsure else top - BELOW)
    first = max(first, top - 24)
    last = min(learning.high, max([top + ABOVE, *tried[-1:]]))
    holds = holding(learning)

    def rung(midi):
        at = midi - learning.low
        mean, spread = float(learning.odds[at]), float(learning.spread[at])
        low, high = (100 * _chance(mean + way * INSIDE * spread) for way in (-1, 1))
        chance, note = 100 * _chance(mean), spell(midi)
        return ReachNote(
            note=note,
            standing=stands[at],
            bar=chance_bar(chance, low, high),
            chance=f"{chance:.0f}, likely {low:.0f} to {high:.0f}",
            room=_counted(counts, midi, (Place.ROOM, Place.LESSON)),
            stage=_counted(counts, midi, (Place.STAGE,)),
            query=Address(on=in_hand.name, note=note.ascii).query(),
            next=midi == following,
            guessed=all(abs(midi - other) > CLOSE_BY for other in tried),
        )

    return ReachPage(
        said=_said(found, holds, learning, tried),
        stage=_stage_said(top, still_to_come(learning, top)) if tried and found.top is not None else "",
        rungs=tuple(rung(midi) for midi in range(last, first - 1, -1)),
        attempts=sum(one.total for one in counts.values()),
        guess=spell(guess).ascii,
        guesses=tuple((spell(m).ascii, str(spell(m))) for m in range(learning.high, learning.low - 1, -1)),
        next_query=Address(on=in_hand.name, note=spell(following).ascii).query(),
        next_note=spell(following),
        left_out=first - learning.low,
    )


def _chance(log_odds):
    return 1 / (1 + exp(-log_odds))


def _counted(counts, midi, places):
    some = [counts[midi, place] for place in places if (midi, place) in counts]
    total = sum(one.total for one in some)
    return f"{sum(one.clean for one in some)} of {total}" if total else ""


def _said(found, holds, learning, tried):
    if not tried:
        return "Nothing is counted yet: what stands here comes from your guess."
    if found.top is None:
        return "Nothing is likely to hold yet."
    sure = holds[found.top - learning.low]
    words = "surely" if sure >= 0.9 else "likely"
    but = f", but for {spell(found.missing)}" if found.missing is not None else ""
    return f"The reach is {words} {spell(found.top)}{but}."


def _stage_said(top, count: StillToCome):
    note = spell(top)
    if count.likely is None:
        return f"On stage {note} will not be hit nine times of ten while it is no surer in the practice room."
    if count.likely == 0 and count.most == 0:
        return f"On stage {note} may be expected nine times of ten."
    most = "many more" if count.most is None else str(count.most)
    more = f"{count.fewest} to {most} more attempts there"
    return f"On stage {note} may be expected nine times of ten after {more}."
