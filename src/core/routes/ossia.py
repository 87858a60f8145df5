"""Ossias: what is played instead of notes beyond reach, phrase by phrase, the least change first.

Three ways are tried: the notes beyond reach, from the first to the last, an octave away; the whole phrase an
octave away; each note beyond reach on the nearest tone of the chord over it. Each is solved between the
fingerings that stay at its ends, so what it costs adds up with the rest of the route.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from core.charts.entry import Entry
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import Basis
from core.music.events import Event, Manner, sounding_events
from core.music.ossia import as_played, by_octaves, with_ossia
from core.music.passage import Passage
from core.music.phrases import phrases
from core.music.pitch import Pitch
from core.routes.candidates import offer_for
from core.routes.demands import Moves
from core.routes.explain import chosen
from core.routes.solve import solve
from core.routes.table import Table

# Phrases with notes beyond reach that are looked at.
PHRASES = 24
OCTAVE = 12


class Departure(StrEnum):
    """How an ossia departs from what is written."""

    CHORD = "chord"
    NOTES = "notes"
    PHRASE = "phrase"


@dataclass(frozen=True, eq=False)
class Solved:
    """A passage with its route, and how it was solved.

    Parameters
    ----------
    passage : Passage
        As written; an ossia that it has is not looked at.
    table : Table
        Of its route.
    pins, bans, weights, use
        As `core.routes.solve.solve` takes them.
    """

    passage: Passage
    table: Table
    in_hand: InstrumentInHand
    moves: Moves
    tempo_bpm: float
    manner: Manner
    pins: Mapping[str, str]
    bans: Mapping[str, Collection[str]]
    weights: Mapping[str, float] | None
    use: Collection[Basis]

    @property
    def events(self) -> Sequence[Event]:
        """The notes of its route."""
        return self.table.problem.events


@dataclass(frozen=True, eq=False)
class Ossia:
    """Notes played otherwise, solved between their neighbours.

    Parameters
    ----------
    first, last : int
        Places of its first and last event in the passage.
    pitches : dict of note id to Pitch
        What changes.
    table : Table
        Of them with a neighbour on each side where there is one.
    inside : range
        Its events in the table.
    written_faults : float
        What the same notes cost as written; a note beyond reach costs nothing there.
    """

    first: int
    last: int
    pitches: Mapping[str, Pitch]
    table: Table
    inside: range
    written_faults: float

    @property
    def events(self) -> tuple[Event, ...]:
        """As they are played."""
        return tuple(self.table.problem.events[n] for n in self.inside)

    @cached_property
    def entries(self) -> tuple[Entry | None, ...]:
        """The fingering of each event; None where there is none."""
        found = (chosen(self.table, n) for n in self.inside)
        return tuple(candidate.entry if candidate else None for candidate in found)

    @property
    def faults(self) -> float:
        """Expected faults of its notes, of the way into them and out of them."""
        return _cost(self.table, self.inside)


@dataclass(frozen=True, eq=False)
class OssiaOffer:
    """One ossia for a phrase.

    Parameters
    ----------
    changed : int
        Notes that are played otherwise.
    far : int
        Semitones by which they are moved, added up.
    """

    way: Departure
    ossia: Ossia
    changed: int
    far: int


@dataclass(frozen=True, eq=False)
class Phrase:
    """A phrase with notes beyond reach; `offers` are its ossias, the least change first."""

    notes: range
    beyond: tuple[int, ...]
    offers: tuple[OssiaOffer, ...]


def beyond(table: Table, top: Pitch | None = None) -> list[int]:
    """Events without a fingering, or above the highest note that is to be played.

    Parameters
    ----------
    table : Table
    top : Pitch, optional

    Returns
    -------
    list of int, from 0
        Places of events.
    """
    limit = top.midi if top else 10_000
    return [
        n
        for n, event in enumerate(table.problem.events)
        if chosen(table, n) is None or event.written_pitch.midi > limit
    ]


def ossias(asked: Solved, top: Pitch | None = None, within: range | None = None) -> list[Phrase]:
    """Phrases with notes beyond reach, and what can be played instead.

    Parameters
    ----------
    asked : Solved
    top : Pitch, optional
        Highest written note that is to be played.
    within : range, optional
        A phrase for which an ossia is wanted whether or not anything in it is beyond reach.

    Returns
    -------
    list of Phrase
    """
    far = set(beyond(asked.table, top))
    found = [(phrase, [n for n in phrase if n in far]) for phrase in phrases(asked.events)]
    wanted = [(phrase, hard or list(phrase)) for phrase, hard in found if hard or phrase == within][:PHRASES]
    picked = [
        (way, phrase, _moved(asked, way, phrase, hard, top))
        for phrase, hard in wanted
        for way in Departure
        if way is not Departure.CHORD or not far.isdisjoint(hard)
    ]
    offers: dict[range, list[OssiaOffer]] = {}
    for way in Departure:  # those of one way do not touch each other: they are timed together
        some = [(phrase, moved) for one, phrase, moved in picked if one is way and moved]
        together = {note: pitch for _, moved in some for note, pitch in moved.items()}
        events = _timed(asked, together)
        for phrase, moved in some:
            ossia = _ossia(asked, events, moved)
            if ossia and None not in ossia.entries and _is_new(offers.get(phrase, []), ossia):
                offers.setdefault(phrase, []).append(_offered(asked, way, ossia))
    return [
        Phrase(phrase, tuple(n for n in hard if n in far), tuple(sorted(offers.get(phrase, []), key=_rank)))
        for phrase, hard in wanted
    ]


def kept(asked: Solved, pitches: Mapping[str, Pitch]) -> list[Ossia]:
    """The ossia that is kept with a passage, solved phrase by phrase; phrases that meet are one ossia.

    Parameters
    ----------
    asked : Solved
    pitches : mapping of str to Pitch
        Written pitches by note id.

    Returns
    -------
    list of Ossia
    """
    if not pitches:
        return []
    phrase_of = {n: place for place, phrase in enumerate(phrases(asked.events)) for n in phrase}
    runs: list[dict[str, Pitch]] = []
    before: int | None = None
    for n, event in enumerate(asked.events):
        notes = [placed.note.id for placed in event.notes]
        some = {note: pitches[note] for note in notes if note in pitches}
        if not some:
            continue
        if before is None or (before < n - 1 and phrase_of[before] != phrase_of[n]):
            runs.append({})
        runs[-1] |= some
        before = n
    events = _timed(asked, pitches)
    return [ossia for run in runs if (ossia := _ossia(asked, events, run))]


def _rank(offered: OssiaOffer) -> tuple[int, int]:
    return offered.changed, offered.far


def _is_new(offers: Sequence[OssiaOffer], ossia: Ossia) -> bool:
    return all(one.ossia.pitches != ossia.pitches for one in offers)


def _moved(
    asked: Solved, way: Departure, phrase: range, hard: Sequence[int], top: Pitch | None
) -> dict[str, Pitch] | None:
    """Other pitches for the notes of a phrase by note id; None where this way does not help."""
    found: dict[str, Pitch] = {}
    places = (
        hard if way is Departure.CHORD else range(hard[0], hard[-1] + 1) if way is Departure.NOTES else phrase
    )
    down = _goes_down(asked, hard, top)
    for n in places:
        event = asked.events[n]
        if event.grace:
            continue
        pitch = (
            _chord_tone(asked, event, down, top)
            if way is Departure.CHORD
            else by_octaves(event.written_pitch, -1 if down else 1)
        )
        if pitch is None or not _in_reach(asked, pitch, top):
            return None
        found |= {placed.note.id: pitch for placed in event.notes}
    return found


def _goes_down(asked: Solved, hard: Sequence[int], top: Pitch | None) -> bool:
    """Whether what is beyond reach is too high, and not too low."""
    middle = asked.in_hand.instrument.middle.midi
    return max(asked.events[n].written_pitch.midi for n in hard) >= min(middle, top.midi if top else middle)


def _in_reach(asked: Solved, pitch: Pitch, top: Pitch | None) -> bool:
    within = top is None or pitch.midi <= top.midi
    return within and not offer_for(asked.in_hand, pitch, None, frozenset()).gap


def _chord_tone(asked: Solved, event: Event, down: bool, top: Pitch | None) -> Pitch | None:
    """The nearest tone within reach of the chord over a note, within an octave; None where there is none."""
    chord, written = asked.passage.harmony.get(event.id), event.written_pitch
    tones = chord.tones if chord else ()
    near = [by_octaves(tone, octave - tone.octave) for tone in tones for octave in range(-1, 10)]
    way = -1 if down else 1
    near = [tone for tone in near if 0 < way * (tone.midi - written.midi) <= OCTAVE]
    near.sort(key=lambda tone: abs(tone.midi - written.midi))
    return next((tone for tone in near if _in_reach(asked, tone, top)), None)


def _timed(asked: Solved, pitches: Mapping[str, Pitch]) -> tuple[Event, ...]:
    """The passage as it is played with an ossia."""
    played = as_played(with_ossia(asked.passage, pitches))
    return sounding_events(played, asked.tempo_bpm, asked.manner)


def _ossia(asked: Solved, played: Sequence[Event], pitches: Mapping[str, Pitch]) -> Ossia | None:
    """The notes of an ossia solved between their neighbours; None where there are no such notes.

    `played` are the events of the whole passage with this ossia, and perhaps others that do not meet it.
    """
    first, last = _span(asked.events, pitches), _span(played, pitches)
    if not first or not last:
        return None
    before, after = asked.events[: first.start][-1:], asked.events[first.stop :][:1]
    events = [*before, *played[last.start : last.stop], *after]
    pins = {event.id: asked.pins[event.id] for event in events if event.id in asked.pins}
    pins = {note: pin for note, pin in pins.items() if note not in pitches}
    for border, n in ((before, first.start - 1), (after, first.stop)):
        candidate = chosen(asked.table, n) if border else None
        if candidate:
            pins[border[0].id] = candidate.entry.id
    table = solve(events, asked.in_hand, asked.moves, pins, asked.bans, asked.weights, asked.use)
    inside = range(len(before), len(before) + len(last))
    return Ossia(first.start, first.stop - 1, pitches, table, inside, _cost(asked.table, first))


def _span(events: Sequence[Event], notes: Collection[str]) -> range:
    """From the first of some notes, with its grace notes, to the last."""
    places = [n for n, event in enumerate(events) if event.id in notes]
    if not places:
        return range(0)
    start = places[0]
    while start and events[start - 1].grace:
        start -= 1
    return range(start, places[-1] + 1)


def _cost(table: Table, notes: range) -> float:
    """Expected faults of some notes, of the ways into them, between them, and out of the last."""
    own, into = table.node_faults.total, table.move_faults.total
    return float(own[notes.start : notes.stop].sum() + into[notes.start : notes.stop + 1].sum())


def _offered(asked: Solved, way: Departure, ossia: Ossia) -> OssiaOffer:
    moved = [event for event in asked.events if event.id in ossia.pitches]
    far = sum(abs(event.written_pitch.midi - ossia.pitches[event.id].midi) for event in moved)
    return OssiaOffer(way, ossia, len(moved), far)
