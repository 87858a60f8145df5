"""What the bench says of a move: what each finger does, why it is hard, what would ease it."""

from dataclasses import dataclass
from math import isfinite

from django.utils.safestring import SafeString

from bench.screens.changes import Way, way
from bench.systems import View
from core.evidence.sources import Basis
from core.instruments.actions import Action
from core.instruments.moves import does
from core.music.events import where
from core.routes.explain import NOTEWORTHY
from core.routes.hard_moves import closely, ease
from core.words import counted, in_100
from drawing.hands import hands
from drawing.score import time_bar
from drawing.strands import per_hundred

# By how much hands must be slower, or quicker, than is usual for it to be told.
TOLD_FROM = 0.08


@dataclass(frozen=True)
class FingerShown:
    """What one finger does."""

    finger: str
    does: str


@dataclass(frozen=True)
class EasingShown:
    """A way that eases the move, and its price."""

    stumble: str
    price: str
    way: Way


@dataclass(frozen=True)
class MoveView:
    """Everything said of one move.

    Parameters
    ----------
    whose : str
        Of whose hands it is told.
    needed, available : str
        Thousandths of a second.
    bar : str
        The time needed beside the time there is, drawn.
    """

    where: str
    notes: str
    drawing: SafeString
    sentence: str
    fingers: tuple[FingerShown, ...]
    whose: str
    needed: str
    available: str
    stumble: str
    level: str
    parts: tuple[tuple[str, str], ...]
    besides: tuple[tuple[str, str], ...]
    avoided: str
    easings: tuple[EasingShown, ...]
    strands: tuple[str, ...]
    bar: SafeString
    note_query: str
    counted: str
    count: str
    drills: str


def look_at_move(view: View, n: int) -> MoveView | None:
    """Look at the move into a note; None where there is none."""
    found = closely(view.solution.table, n)
    if found is None:
        return None
    in_hand = view.opened.in_hand
    move = in_hand.move(*found.move.fingerings)
    counted_says = _counted(view, n, found)
    spot = view.address.at(first=found.move.before.id, last=found.move.after.id)
    others = {s: v for s, v in found.faults.by_strand.items() if s != "hands" and v >= NOTEWORTHY}
    return MoveView(
        where=where(found.move.after),
        notes=f"{found.move.before.written_pitch} to {found.move.after.written_pitch}",
        drawing=hands(found.move.fingerings[1], in_hand, move.touches),
        sentence=move.sentence,
        fingers=tuple(
            FingerShown(one.finger.name, does(one, in_hand.instrument, in_hand.naming))
            for one in move.fingers
            if one.action is not Action.STAYS
        ),
        whose="these hands" if counted_says else in_hand.hand.whose,
        needed=f"{1000 * found.needed_s:.0f}",
        available=f"{1000 * found.available_s:.0f}" if isfinite(found.available_s) else "",
        bar=time_bar(found.needed_s, found.available_s, ease(found.move.stumble).value),
        stumble=f"{per_hundred(found.move.stumble)} in 100",
        level=ease(found.move.stumble).value,
        parts=tuple((words, f"{1000 * seconds:.0f}") for words, seconds in found.parts),
        besides=tuple((words, f"{per_hundred(float(chance))} in 100") for words, chance in found.besides),
        avoided="One of the two is taught to be avoided beside the other." if found.avoided else "",
        easings=tuple(_easing(view, one) for one in found.easings),
        strands=tuple(f"{strand}: {in_100(value)}" for strand, value in others.items()),
        note_query=view.query(found.move.after.id),
        counted=counted_says,
        count=spot.to("counting:spot") if view.opened.owned else "",
        drills=spot.to("practice:drills"),
    )


def _counted(view, n, found):
    """What was counted of the move, and how long it takes this student by that; empty where nothing was."""
    before, after = view.solution.entries[n - 1], view.solution.entries[n]
    some = view.opened.in_hand.moved.get((before.id, after.id), ())
    if not some or Basis.COUNTED not in view.opened.settings.sources:
        return ""
    stumbled, total = sum(one.stumbled for one in some), sum(one.stumbled + one.clean for one in some)
    times = found.needed_s / sum(seconds for _, seconds in found.parts) if found.parts else 1.0
    says = f"Counted: stumbled {stumbled} of {counted(total, 'time')}"
    if abs(times - 1) < TOLD_FROM:
        return f"{says}; by that these hands take about as long as others of their level."
    return f"{says}; by that these hands take {times:.1f} times as long as others of their level."


def _easing(view, easing):
    change = easing.change
    free = change.extra < NOTEWORTHY
    return EasingShown(
        stumble=f"{per_hundred(easing.stumble)} in 100",
        price="at no price" if free else f"the passage pays {in_100(change.extra)}",
        way=way(view, change.notes, change.before, change.after),
    )
