"""The plan: the note of the week, whether to go on, and what can be reached by when."""

from dataclasses import dataclass
from datetime import date

from django.urls import reverse

from catalogue.high_notes import caution_for, taught_first
from core.music.pitch import Pitch, parse_pitch, spell
from core.practice.learning import Learning
from core.practice.plan import (
    WEEK,
    WHOLE,
    OnNote,
    PlannedNote,
    by_due,
    chart_notes,
    goes_on,
    is_stuck,
    next_note,
    pace,
)
from core.practice.reach import reach
from core.words import counted
from studio.address import Address

# Notes named that come too late.
LATE_NAMED = 6
# Notes that may be begun by hand reach so far below the reach.
OTHERS_BELOW = 7


@dataclass(frozen=True)
class Remedy:
    """What may help with a note that does not come, why, and where."""

    words: str
    why: str
    address: str


@dataclass(frozen=True)
class WeekOf:
    """A note at the pace shown, and its days."""

    note: Pitch
    first: date
    last: date
    late: bool


@dataclass(frozen=True)
class PlanPage:
    """A plan, or the first step to one.

    Parameters
    ----------
    says : str
        How it stands with the note that is worked on.
    coming : Pitch or None
        The note to begin next; `asked` is what is asked before it, or before notes of the whole chart, `held`
        whether the one before holds.
    others : tuple of (int, str)
        Notes up to the target that may be begun by hand instead, the highest first.
    asks : tuple of str
        What passages of the instrument go up to, where that is above the reach.
    whole : str
        Said where the whole chart is played by turns; then there is no note of the week.
    due_says : str
        What can be reached by the due date at the pace shown.
    """

    there: bool
    note: Pitch | None
    says: str
    stuck: tuple[Remedy, ...]
    coming: Pitch | None
    coming_midi: int | None
    held: bool
    asked: tuple[str, ...]
    others: tuple[tuple[int, str], ...]
    asks: tuple[str, ...]
    weeks: tuple[WeekOf, ...]
    whole: str
    due_says: str
    caution: str
    count: str
    closely: str


def plan_page(in_hand, plan, learning: Learning, sessions: int, today: date, off, music=()) -> PlanPage:
    """Build the page.

    Parameters
    ----------
    plan : practice.models.Plan or None
    sessions : int
        Days with attempts at the note since it was begun.
    off : set of int
        Days off.
    music : sequence of (str, str)
        Titles of passages for the instrument, and their highest notes.
    """
    target = plan.target_midi if plan else learning.low
    on = None
    if plan and plan.note_midi is not None and not plan.whole:
        on = OnNote(plan.note_midi, (today - plan.note_since).days, sessions)
    following = next_note(learning, target) if plan and not plan.whole else None
    held = on is None or goes_on(learning, on)
    coming = following if following is not None and (on is None or following != on.midi) else None
    days = WHOLE if plan and plan.whole else WEEK
    steps = pace(learning, target, today.toordinal(), off, days) if plan else []
    note = spell(on.midi) if on else None
    ahead = chart_notes(learning, target) if plan and plan.whole else [coming] if coming is not None else []
    asked = dict.fromkeys(words for midi in ahead for words in taught_first(in_hand, spell(midi)))
    about = note or (spell(coming) if coming is not None else None)
    at = Address(on=in_hand.name, note=about.ascii) if about else None
    return PlanPage(
        there=plan is not None,
        note=note,
        says=_says(learning, on) if on else "",
        stuck=_offers(at) if on and is_stuck(learning, on) else (),
        coming=spell(coming) if coming is not None else None,
        coming_midi=coming,
        held=held,
        asked=tuple(asked),
        others=_others(learning, target, on, coming) if plan and not plan.whole else (),
        asks=_asks(learning, music),
        weeks=tuple(_week(step, plan.due) for step in steps),
        whole=_whole_says(ahead) if plan and plan.whole else "",
        due_says=_due_says(steps, plan.due, days) if plan and plan.due else "",
        caution=caution_for(in_hand, about) if about else "",
        count=at.to("counting:count") if at else "",
        closely=at.to("catalogue:note") if at else "",
    )


def _says(learning, on):
    since = f"{counted(on.days, 'day')} ago" if on.days else "today"
    worked = f"{since}, played on {counted(on.sessions, 'day')}"
    if goes_on(learning, on):
        return f"Begun {worked}: it likely holds. Go on to the next."
    if is_stuck(learning, on):
        return f"Begun {worked}: it does not hold yet. Stay with it, or try something else."
    return f"Begun {worked}: stay with it until it holds."


def _offers(at):
    """Other ways to a note after two weeks, each with its reason."""
    trial, overtones = (at.to(name) for name in ("catalogue:trial-begin", "overtones:overtones"))
    return (
        Remedy("Another fingering", "one may speak where another does not", trial),
        Remedy("Overtones and stepping stones", "the voicing may be wanting", overtones),
        Remedy("An ossia in its passages", "the music goes on meanwhile", reverse("passages:list")),
    )


def _week(step: PlannedNote, due):
    first, last = date.fromordinal(step.first_day), date.fromordinal(step.end_day - 1)
    return WeekOf(spell(step.midi), first, last, due is not None and last >= due)


def _others(learning, target, on, coming):
    """Notes from a fifth below the reach up to the target, but for those that are on and that come."""
    top = reach(learning).top
    low = max(learning.low, (top if top is not None else target) - OTHERS_BELOW)
    taken = {coming} | ({on.midi} if on else set())
    return tuple((midi, str(spell(midi))) for midi in range(target, low - 1, -1) if midi not in taken)


def _asks(learning, music):
    """Passages that go above the reach, and whereto."""
    top = reach(learning).top
    if top is None:
        return ()
    notes = ((title, parse_pitch(highest)) for title, highest in music)
    return tuple(f"{title} goes up to {note}" for title, note in notes if note.midi > top)


def _whole_says(notes):
    """What the whole chart by turns is, and what it costs: see docs/practice.md."""
    if not notes:
        return "All of it holds already, as far as is known."
    span = f"{spell(notes[0])} to {spell(notes[-1])}" if len(notes) > 1 else str(spell(notes[0]))
    return (
        f"The whole chart by turns: {span}, another note each day. With simulated students it took about "
        "twice as long until four more notes held; none was left too early."
    )


def _due_says(steps, due, days):
    if not steps:
        return "All of it holds already, as far as is known."
    top, late = by_due(steps, due.toordinal())
    if not late:
        return f"{_pace_words(days)} there is time for all of it."
    notes = ", ".join(str(spell(step.midi)) for step in late[:LATE_NAMED])
    notes += f" and {len(late) - LATE_NAMED} more" if len(late) > LATE_NAMED else ""
    reached = f"up to {spell(top)}" if top is not None else "none of it"
    return (
        f"{_pace_words(days)} {reached} can be expected by then; {notes} too late, unless some hold sooner."
    )


def _pace_words(days):
    return "At a note a week" if days == WEEK else "At about two weeks a note"
