"""A passage solved under one state of the bench; the same question is not worked out twice."""

import json
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

from catalogue.hand import Hand
from core.charts.catalogue import Entry
from core.errors import place as place_words
from core.evidence.sources import Basis
from core.instruments.fingering import format_fingering
from core.music.notation.musicxml import read_musicxml
from core.music.passage import Event, Passage, sounding_events
from core.routes.candidates import Offer, offers
from core.routes.faults import STRANDS
from core.routes.route import (
    Problem,
    Reason,
    Route,
    best_route,
    cost_through,
    make_problem,
    reason_for,
    strand_faults,
)
from passages.settings import BenchSettings


@lru_cache(maxsize=64)
def read_passage(musicxml: str) -> Passage:
    """The passage stored as our own MusicXML."""
    return read_musicxml(musicxml.encode()).passage


def settings_of(hand: Hand, state) -> BenchSettings:
    """The settings of a stored state as they hold for the instrument in hand.

    A student's instrument says itself what is fitted and how it is tuned. Pins that the chart no
    longer has, or that need what is not fitted, are left out.
    """
    settings = BenchSettings.from_json(state.settings)
    if hand.owned is not None:
        settings = replace(settings, fitted=tuple(sorted(hand.fitted)), a4_hz=hand.a4_hz)
    by_id = hand.catalogue.by_id
    pins = {
        note: pin
        for note, pin in settings.pins.items()
        if pin in by_id and by_id[pin].requires <= set(settings.fitted)
    }
    return settings if pins == settings.pins else replace(settings, pins=pins)


@dataclass(frozen=True)
class Solution:
    """Events of a passage with what is offered for each, and the route chosen."""

    passage: Passage
    events: tuple[Event, ...]
    offered: list[Offer]
    problem: Problem
    route: Route

    @cached_property
    def through(self):
        """Cost of the best route through each candidate, see `core.routes.route.cost_through`."""
        return cost_through(self.problem)

    def reason(self, place: int) -> Reason:
        return reason_for(self.problem, self.route, place, self.through[place])

    @cached_property
    def place(self):
        """Place of the event to which a written note belongs, by note id."""
        return {part.note.id: n for n, event in enumerate(self.events) for part in event.notes}

    @cached_property
    def by_strand(self):
        """Expected faults of the route by strand, whatever the weights."""
        totals = dict.fromkeys(STRANDS, 0.0)
        for place, slot in enumerate(self.route.slots):
            if slot is not None:
                for strand, value in zip(STRANDS, self.faults(place, slot), strict=False):
                    totals[strand] += float(value)
        return totals

    def chosen(self, place: int) -> Entry | None:
        slot = self.route.slots[place]
        return None if slot is None else self.offered[place].candidates[slot].entry

    @cached_property
    def chosen_ids(self):
        """Entry chosen for each event by its id, None for a gap."""
        entries = (self.chosen(n) for n in range(len(self.events)))
        return {e.id: entry.id if entry else None for e, entry in zip(self.events, entries, strict=True)}

    def extra_faults(self, place: int, slot: int) -> float:
        """Faults a playing that the whole passage gains if a note takes another candidate."""
        if self.problem.gap[place]:
            return 0.0
        return float(self.through[place, slot] - self.route.cost)

    def faults(self, place: int, slot: int):
        """Faults by strand of a candidate between the route's neighbours."""
        return strand_faults(self.problem, self.route.slots, place, slot)


def solve(hand: Hand, musicxml: str, settings: BenchSettings) -> Solution:
    """Find the best route for a passage on the instrument in hand.

    Raises
    ------
    CoreError
        If the settings ask for what cannot be.
    """
    return _solve(hand, musicxml, json.dumps(settings.to_json(), sort_keys=True))


@lru_cache(maxsize=64)
def _solve(hand: Hand, musicxml: str, settings_json: str) -> Solution:
    settings = BenchSettings.from_json(json.loads(settings_json))
    passage = read_passage(musicxml)
    events = sounding_events(passage, settings.tempo_bpm)
    fitted = frozenset(settings.fitted)
    offered = offers(
        events, hand.catalogue, fitted, settings.pins, settings.bans, hand.head_starts, hand.aside
    )
    library = hand.library(map(Basis, settings.sources))
    problem = make_problem(library, hand.catalogue.index, events, offered, settings.weights)
    return Solution(passage, events, offered, problem, best_route(problem))


def fingered(solution: Solution, hand: Hand) -> Passage:
    """The passage with the chosen fingerings written under its notes."""
    chosen = ((event, solution.chosen(place)) for place, event in enumerate(solution.events))
    return solution.passage.with_fingerings(
        {
            event.id: format_fingering(entry.fingering, hand.instrument)
            for event, entry in chosen
            if entry is not None
        }
    )


def where(event: Event) -> str:
    """Bar and beat of an event in words."""
    return place_words(event.notes[0].bar, event.notes[0].beat)
