"""A passage solved under one state of the bench; the same question is not worked out twice."""

import json
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from threading import RLock
from typing import Any

from cachetools import LRUCache, cached

from bench.kept import SOLUTIONS_BYTES, solution_bytes
from catalogue.in_hand import moves_on
from core.charts.entry import Entry
from core.errors import RouteError
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import Basis
from core.instruments.fingering import format_fingering
from core.music.events import Event, sounding_events
from core.music.ossia import with_ossia
from core.music.passage import Passage
from core.music.pitch import Pitch, parse_pitch
from core.routes import solve as routes
from core.routes.candidates import offer_for
from core.routes.explain import chosen
from core.routes.one_way import one_way
from core.routes.ossia import Solved
from core.routes.table import Table, make_table
from passages.music import read_passage
from passages.settings import BenchSettings

# Things found in a solution that are kept with it.
FOUND_MOST = 12


@dataclass(frozen=True, eq=False)
class Solution:
    """A passage with the table of its route on the instrument in hand."""

    passage: Passage
    in_hand: InstrumentInHand
    table: Table
    found: dict[Hashable, Any] = field(default_factory=dict, repr=False)

    def once(self, name: Hashable, find: Callable[[], Any]) -> Any:
        """What is found in the solution, worked out once and kept with it; of many things the last few."""
        if name not in self.found:
            while len(self.found) >= FOUND_MOST:
                self.found.pop(next(iter(self.found)), None)
            self.found[name] = find()
        return self.found[name]

    @property
    def events(self) -> tuple[Event, ...]:
        return self.table.problem.events

    @cached_property
    def note_at(self) -> dict[str, int]:
        """Place of the event to which a written note belongs, by note id."""
        return {placed.note.id: n for n, event in enumerate(self.events) for placed in event.notes}

    @cached_property
    def entries(self) -> tuple[Entry | None, ...]:
        """The fingering chosen for each event; None for a gap."""
        candidates = (chosen(self.table, n) for n in range(len(self.events)))
        return tuple(candidate.entry if candidate else None for candidate in candidates)

    @property
    def chosen_ids(self) -> dict[str, str | None]:
        """Entry chosen for each event by its id."""
        pairs = zip(self.events, self.entries, strict=True)
        return {event.id: entry.id if entry else None for event, entry in pairs}


def solve(
    in_hand: InstrumentInHand, musicxml: str, settings: BenchSettings, before: BenchSettings | None = None
) -> Solution:
    """Find the best route for a passage on the instrument in hand.

    Parameters
    ----------
    before : BenchSettings, optional
        Settings solved earlier; where only one note differs, only what lies beside it is worked out.

    Raises
    ------
    CoreError
        If the settings ask for what cannot be.
    """
    solved = _solve(in_hand, musicxml, _key(settings), _key(before) if before else "")
    if not settings.ossia:
        return solved
    return replace(solved, passage=with_ossia(solved.passage, ossia_pitches(settings)))


def ossia_pitches(settings: BenchSettings) -> dict[str, Pitch]:
    """What is played in place of notes, by their ids."""
    return {note: parse_pitch(pitch) for note, pitch in settings.ossia.items()}


def _key(settings):
    settings = replace(settings, ossia={})  # the route is that of what is written
    return json.dumps(settings.to_json(), sort_keys=True)


# What was solved last, by how much memory it takes.
solutions: LRUCache = LRUCache(SOLUTIONS_BYTES, getsizeof=solution_bytes)


@cached(solutions, lock=RLock())
def _solve(in_hand, musicxml, settings_json, before_json):
    settings = BenchSettings.from_json(json.loads(settings_json))
    if before_json:
        before = BenchSettings.from_json(json.loads(before_json))
        table = _changed(before, settings, partial(_solve, in_hand, musicxml, before_json, ""))
        if table:
            return Solution(read_passage(musicxml), in_hand, table)
    passage = read_passage(musicxml)
    events = sounding_events(passage, settings.tempo_bpm, settings.manner)
    use = frozenset(map(Basis, settings.sources))
    ask = settings.pins, settings.bans, settings.weights, use
    return Solution(passage, in_hand, routes.solve(events, in_hand, moves_on(in_hand, use), *ask))


def _changed(before, settings, solved) -> Table | None:
    """The table made from that of settings before; None where everything has to be made anew.

    `solved` gives the solution under those.
    """
    if note := before.one_note_apart(settings):
        return _one_note_changed(solved(), settings, note)
    if not before.only_recosted(settings):
        return None
    solution = solved()
    if solution.in_hand.keeps_by_tempo:
        return None
    problem = solution.table.problem
    if before.tempo_bpm != settings.tempo_bpm:
        problem = problem.quicker(settings.tempo_bpm / before.tempo_bpm)
    return one_way(make_table(problem.weighing(settings.weights)))


def _one_note_changed(solution, settings, note) -> Table | None:
    """The table with another pin or other bans of one note; None where it has to be made anew."""
    place = solution.note_at.get(note)
    if place is None:
        return None
    event, bans = solution.events[place], frozenset(settings.bans.get(note, ()))
    uses = solution.table.problem.notes.met(place)
    offer = offer_for(solution.in_hand, event.written_pitch, settings.pins.get(note), bans, uses, event.aim)
    try:
        return one_way(solution.table.with_offer(place, offer))
    except RouteError:
        return None


def asked(solution: Solution, settings: BenchSettings) -> Solved:
    """The passage and how it was solved, for an ossia to be found."""
    in_hand = solution.in_hand
    return Solved(
        with_ossia(solution.passage, {}),
        solution.table,
        in_hand,
        moves_on(in_hand, settings.sources),
        settings.tempo_bpm,
        settings.manner,
        settings.pins,
        settings.bans,
        settings.weights,
        frozenset(map(Basis, settings.sources)),
    )


def fingered(solution: Solution) -> Passage:
    """The passage with the chosen fingerings written under its notes."""
    pairs = zip(solution.events, solution.entries, strict=True)
    instrument = solution.in_hand.instrument
    return solution.passage.with_fingerings(
        {event.id: format_fingering(entry.fingering, instrument) for event, entry in pairs if entry}
    )
