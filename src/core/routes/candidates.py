"""Which fingerings may serve a note in its context."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from core.charts.catalogue import Catalogue, Entry
from core.errors import RouteError
from core.instruments.fingering import Kind
from core.instruments.keywork import missing
from core.music.passage import Event

# Used on purpose, for colour or for practice: a route never takes them by itself, unless there
# is nothing else.
ON_PURPOSE = frozenset({Kind.FALSE, Kind.HARMONIC})
BANNED, NOT_PINNED = "left out here", "another is pinned"
# Head starts, in expected faults: of what is preferred on an instrument, enough between near equals;
# of the position that is followed on it, as much as a tendency that the chart does not know may
# cost: who teaches it knows how it sounds.
PREFERRED, OF_SCHOOL = 0.05, 0.3
NO_HEAD_START: Mapping[str, float] = MappingProxyType({})
PURPOSE = "for colour or practice: pin it to use it"
OTHER_SCHOOL = "not as you teach it on this instrument: pin it to use it"


@dataclass(frozen=True)
class Candidate:
    """A fingering that the instrument in hand has for a note.

    Parameters
    ----------
    bar : str
        Why a route may not take it, in a teacher's words; empty if it may.
    head_start : float
        Expected faults that another must save before it is taken instead.
    """

    entry: Entry
    bar: str = ""
    head_start: float = 0.0


@dataclass(frozen=True)
class Offer:
    """What a note may be played with.

    Parameters
    ----------
    candidates : tuple of Candidate
        In the order of the catalogue.
    refused : tuple of Candidate
        Fingerings that the instrument in hand cannot play, and why.
    gap : str
        Why no route can pass, in a teacher's words; empty where one can.
    """

    candidates: tuple[Candidate, ...]
    refused: tuple[Candidate, ...]
    gap: str


def offers(
    events: Sequence[Event],
    catalogue: Catalogue,
    fitted: frozenset[str],
    pins: Mapping[str, str],
    bans: Mapping[str, Collection[str]],
    head_starts: Mapping[str, float] = NO_HEAD_START,
    aside: Collection[str] = (),
) -> list[Offer]:
    """Find the fingerings that may serve each note.

    Parameters
    ----------
    fitted : frozenset of str
        Optional touches and fittings that the instrument in hand has.
    pins : mapping of note id to entry id
        The only fingering that a route may take there, even if it is banned as well.
    bans : mapping of note id to entry ids
    head_starts : mapping of entry id to float
        Expected faults that another fingering must save before it is taken instead.
    aside : collection of entry ids
        Of a teaching position that is not followed on the instrument in hand: like what is for
        colour or practice, taken only where there is nothing else.

    Raises
    ------
    RouteError
        If a pinned entry is not one for its note, or needs what is not fitted.
    """
    return [
        _offer(
            event,
            catalogue,
            fitted,
            pins.get(event.id),
            frozenset(bans.get(event.id, ())),
            head_starts,
            aside,
        )
        for event in events
    ]


def _offer(
    event: Event,
    catalogue: Catalogue,
    fitted: frozenset[str],
    pin: str | None,
    bans: frozenset[str],
    head_starts: Mapping[str, float],
    aside: Collection[str],
) -> Offer:
    entries = catalogue.by_midi.get(event.written_pitch.midi, ())
    refused = tuple(
        Candidate(entry, why) for entry in entries if (why := _not_fitted(entry, catalogue, fitted))
    )
    at_hand = [entry for entry in entries if not _not_fitted(entry, catalogue, fitted)]
    set_apart = {
        entry.id: PURPOSE if entry.kind in ON_PURPOSE else OTHER_SCHOOL
        for entry in at_hand
        if entry.kind in ON_PURPOSE or entry.id in aside
    }
    if all(entry.id in set_apart for entry in at_hand if entry.id not in bans):
        set_apart = {}  # there is nothing else
    candidates = tuple(
        Candidate(
            entry,
            _bar(entry, pin, bans, set_apart),
            head_start=head_starts.get(entry.id, 0.0),
        )
        for entry in at_hand
    )
    if pin is not None and pin not in {entry.id for entry in at_hand}:
        raise RouteError(f"the pinned fingering {pin!r} cannot serve written {event.written_pitch}")
    if any(not candidate.bar for candidate in candidates):
        return Offer(candidates, refused, "")
    return Offer(candidates, refused, _why_gap(event, catalogue, [*candidates, *refused]))


def _not_fitted(entry: Entry, catalogue: Catalogue, fitted: frozenset[str]) -> str:
    instrument = catalogue.instrument
    lacking = missing(instrument, entry.fingering, entry.requires, fitted)
    labels = " and ".join(sorted(instrument.optional[name] for name in lacking))
    return f"needs {labels}, which is not fitted" if lacking else ""


def _bar(entry: Entry, pin: str | None, bans: frozenset[str], set_apart: Mapping[str, str]) -> str:
    if pin is not None:
        return "" if entry.id == pin else NOT_PINNED
    if entry.id in bans:
        return BANNED
    return set_apart.get(entry.id, "")


def _why_gap(event: Event, catalogue: Catalogue, barred: list[Candidate]) -> str:
    pitch, instrument = event.written_pitch, catalogue.instrument
    if not instrument.in_range(pitch):
        return (
            f"written {pitch} lies outside the range kept here, "
            f"{instrument.written_low} to {instrument.written_high}"
        )
    if barred:
        whys = "; ".join(sorted({candidate.bar for candidate in barred}))
        return f"every fingering for written {pitch} is out: {whys}"
    return f"no fingering for written {pitch} is supported well enough to be shown"
