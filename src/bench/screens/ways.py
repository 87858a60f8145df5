"""Other ways through a passage: near ones, habits, exchanges between strands, and what is worth a reading."""

from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.bench import At, note_at
from bench.screens.changes import Way, named, way
from bench.screens.tempo import TempoStrip, tempo_strip
from bench.systems import View
from core.instruments.fingering import Fingering
from core.music.events import where
from core.music.pitch import Pitch
from core.routes.alternatives import AS_GOOD, by_habit, by_stretch, families, near
from core.routes.faults import STRANDS
from core.routes.most_worth import most_worth
from core.routes.sureness import Footing, founded
from core.routes.trade_offs import exchanges
from core.words import in_100
from studio.address import Address

HABITS_SHOWN = 10


@dataclass(frozen=True)
class NearWay:
    """Another way that costs little more."""

    extra: str
    way: Way


@dataclass(frozen=True)
class HabitShown:
    """A habit: never, or always, a way of fingering."""

    always: bool
    name: str
    extra: str
    notes: int
    on: str
    entries: str


@dataclass(frozen=True)
class ExchangeShown:
    """What is gained in a strand, what the others pay, and where."""

    gains: str
    pays: str
    price: str
    way: Way


@dataclass(frozen=True)
class StrandShown:
    """Exchanges of one strand: ways to gain in it, and ways in which it pays."""

    strand: str
    gaining: tuple[ExchangeShown, ...]
    paying: tuple[ExchangeShown, ...]


@dataclass(frozen=True)
class Reading:
    """A fingering that is worth a reading, and where it is taken."""

    note: Pitch
    name: str
    where: str
    saves: str
    trial: str
    tuner: str


@dataclass(frozen=True)
class WaysPage(At):
    """Everything that could be chosen otherwise."""

    near: tuple[NearWay, ...]
    as_good: int
    habits: tuple[HabitShown, ...]
    strands: tuple[StrandShown, ...]
    readings: tuple[Reading, ...]
    standings: dict[str, int]
    tempo: TempoStrip


def ways_page(opened: Opened, note_id="") -> WaysPage:
    """Build the page; what does not depend on the note is found once."""
    found = opened.solution().once(("ways", opened.state.pk), lambda: _ways(opened))
    return WaysPage(**vars(note_at(opened, note_id)), **found)


def _ways(opened):
    solution = opened.solution()
    view, table = View(opened, solution, None, frozenset()), solution.table
    ways = by_stretch(table)
    closest = near(ways)
    traded = exchanges(table)
    shown = [
        StrandShown(
            strand,
            tuple(_exchange(view, one) for one in traded[strand].gaining),
            tuple(_exchange(view, one) for one in traded[strand].paying),
        )
        for strand in STRANDS
    ]
    standings = [one.footing for one in founded(table).values()]
    return {
        "near": tuple(
            NearWay(in_100(one.extra), way(view, one.notes, one.before, one.after)) for one in closest
        ),
        "as_good": sum(one.extra < AS_GOOD for one in ways),
        "habits": _habits(view),
        "strands": tuple(one for one in shown if one.gaining or one.paying),
        "readings": tuple(_reading(view, one) for one in most_worth(table)),
        "standings": {standing.value: standings.count(standing) for standing in Footing},
        "tempo": tempo_strip(opened),
    }


def _exchange(view, one):
    gains, pays = (one.gains, one.pays) if one.gains > 0 else (-one.pays, -one.gains)
    change = one.change
    return ExchangeShown(
        gains=in_100(gains),
        pays=in_100(pays),
        price=f"{one.price:.1f}",
        way=way(view, change.notes, change.before, change.after),
    )


def _habits(view):
    table = view.solution.table
    family = families(table.problem.given.chart)
    found = [one for one in by_habit(table, dict(enumerate(family))) if one.extra >= AS_GOOD]
    return tuple(_habit(view, one, family) for one in found[:HABITS_SHOWN])


def _habit(view, habit, family):
    entries = view.solution.table.problem.given.chart.entries
    members = [entries[n] for n in sorted(habit.entries)]
    apart: Fingering | None = family[min(habit.entries)].apart
    name = view.opened.in_hand.said(apart) if apart else named(view, members[0])
    notes = dict.fromkeys(str(entry.note) for entry in members)
    return HabitShown(
        always=habit.always,
        name=name,
        extra=in_100(habit.extra),
        notes=len(habit.notes),
        on=", ".join(notes),
        entries=" ".join(entry.id for entry in members),
    )


def _reading(view, wanted):
    entry = view.solution.table.problem.given.chart.entries[wanted.entry]
    closely = Address(on=view.opened.in_hand.name, note=entry.note.ascii)
    return Reading(
        note=entry.note,
        name=named(view, entry),
        where=where(view.solution.events[wanted.note]),
        saves=in_100(wanted.saves),
        trial=closely.to("catalogue:trial-begin"),
        tuner=closely.at(entry=entry.id).to("catalogue:note"),
    )
