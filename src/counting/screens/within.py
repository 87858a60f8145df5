"""What the passage says of a spot that is counted and stands in it."""

from dataclasses import dataclass

from core.practice.attempts import SPOT_MOST, TEMPO_LEAST, TEMPO_MOST
from core.routes.hard_moves import CARE, safe_bpm
from core.routes.tempo_map import holds
from counting.asked import Opening, spot_asked
from studio.address import Address


@dataclass(frozen=True)
class Context:
    """What the passage says of a spot that stands in it; as it is where nothing does.

    Parameters
    ----------
    back : str
        Address of the bench, at the note or move; empty without a passage.
    other : str
        Address of the spot as it would be fingered now, where that is otherwise.
    wider : tuple of (str, str, str)
        Addresses of the spot with a note more or fewer, their words, and the key that presses each.
    risk : str
        How often the hands stumble at the note at the tempo.
    switches : tuple of str
        Where, on the way up to the tempo of the passage, other fingerings would serve better.
    start, target : int
        Tempo from which a ladder may begin, and where it goes.
    """

    title: str = ""
    back: str = ""
    drills: str = ""
    other: str = ""
    wider: tuple[tuple[str, str, str], ...] = ()
    risk: str = ""
    switches: tuple[str, ...] = ()
    start: int = 60
    target: int = 100


def within(opening: Opening, bpm) -> Context:
    """What the passage says of a spot at a tempo."""
    opened, asked, drawn = opening.within, opening.asked, opening.asked.drawn
    solution, first, last = opened.solution(), drawn.first, drawn.first + len(drawn.steps) - 1
    events = solution.events[first : last + 1]
    chosen = [entry.id if entry else "" for entry in solution.entries[first : last + 1]]
    same, alone = chosen == [step.fingering for step in drawn.steps], first == last
    there = Address(opened.passage.pk, state=asked.state)
    address = there.at(first=events[0].id, last=events[-1].id)
    target = round(min(max(opened.settings.tempo_bpm, TEMPO_LEAST), TEMPO_MOST))
    safe = min(safe_bpm(solution.table, first, last, target), target) if not alone else target
    event = events[drawn.at]
    return Context(
        title=_title_in(events),
        back=there.at(note=event.id, move="into" if drawn.at else "").to("bench:bench"),
        drills=address.to("practice:drills"),
        other="" if same else _as_now(opening, events),
        wider=_wider(opening, first, last),
        risk=_risk(solution.table, first + drawn.at, bpm / opened.settings.tempo_bpm)
        if drawn.at and same
        else "",
        switches=_switches(opened, range(first, last + 1), safe) if same and not alone else (),
        start=safe if not alone else 60,
        target=target if not alone else 100,
    )


def _title_in(events):
    bars = events[0].notes[0].bar, events[-1].notes[0].bar
    if len(events) == 1:
        return f"{events[0].written_pitch}, bar {bars[0]}"
    if len(events) == 2:
        return f"{events[0].written_pitch} to {events[1].written_pitch}"
    return f"{len(events)} notes, bar {bars[0]}" + (f" to {bars[1]}" if bars[1] != bars[0] else "")


def _as_now(opening, events):
    """The address of the same notes as they would be fingered now, played as here."""
    drawn = opening.asked.drawn
    now = spot_asked(opening.within, events[0].id, events[-1].id, events[drawn.at].id).drawn
    return opening.asked.to(steps=now.steps)


def _wider(opening: Opening, first, last):
    """The spot with a note more or fewer at either end, as far as there are notes."""
    opened, asked = opening.within, opening.asked
    events = opened.solution().events

    def at(begin, end):
        opens = spot_asked(opened, events[begin].id, events[end].id, events[first + asked.drawn.at].id)
        new = opens.drawn
        return asked.to(steps=new.steps, first=new.first, at=new.at, began=new.began)

    found = []
    if first > 0 and last - first + 1 < SPOT_MOST:
        found.append((at(first - 1, last), "A note more before", "b B"))
    if last < len(events) - 1 and last - first + 1 < SPOT_MOST:
        found.append((at(first, last + 1), "A note more after", "a A"))
    if last > first:
        found.append((at(first + 1, last), "One fewer before", ""))
        found.append((at(first, last - 1), "One fewer after", ""))
    return tuple(found)


def _risk(table, n, faster):
    """How often the hands stumble on the way into a note, so many times as fast."""
    gap = table.problem.trellis.gap
    if gap[n] or gap[n + 1]:
        return ""
    chance = min(1.0, float(table.problem.quicker(faster).move_faults(table.slots).hands[n + 1]))
    often = f"{100 * chance:.0f} stumbles in 100" if chance >= CARE else "hardly a stumble"
    return f"{often} expected at this tempo"


def _switches(opened, notes, start):
    """Where on the ladder another fingering would be easier, and that the one of the target is learned."""
    solution, found = opened.solution(), {}
    for n in notes:
        slower, _ = holds(solution.table, opened.settings.tempo_bpm, n)
        if slower is not None and slower.bpm >= start:
            at = slower.notes.index(n)
            other = solution.table.problem.given.chart.entries[slower.after[at]]
            note = solution.events[n].written_pitch
            found.setdefault(
                (note, slower.bpm, other.id),
                f"Up to ♩ = {slower.bpm}, {named(opened.in_hand, other)} serves {note} better",
            )
    return tuple(found.values())


def named(in_hand, entry):
    """A fingering by its kind and its touches, in words."""
    return f"{entry.kind_words} ({in_hand.said(entry.fingering)})"
