"""Which fingerings may serve a note in its context."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from core.charts.entry import HELD, Entry
from core.charts.uses import Together
from core.errors import FingeringError, RouteError
from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import ON_PURPOSE, Kind, parse_fingering
from core.instruments.instrument import Instrument
from core.music.aims import COLOURS, Aim
from core.music.events import Event
from core.music.pitch import Pitch
from core.routes.timing import timing

BANNED, NOT_PINNED = "left out here", "another is pinned"
NOTHING_PINNED: Mapping[str, str] = MappingProxyType({})
NOTHING_BANNED: Mapping[str, Collection[str]] = MappingProxyType({})
NO_IDS: frozenset[str] = frozenset()
NO_USE: frozenset[Together] = frozenset()
PURPOSE = "for colour or practice: pin it to use it"
OTHER_SCHOOL = "not as you teach it on this instrument: pin it to use it"
LEAD = "a lead, not vouched for: pin it, or prefer it, to use it"
UNLEARNED = "half-hole not learned yet: pin it to use it"
TRILLED_ONLY = frozenset({Kind.TRILL})
FOR_TRILLS = "for trills: pin it to use it elsewhere"
# What stands back while anything else is at hand: the tiers in which they come in.
TIERS = ({OTHER_SCHOOL}, {UNLEARNED}, {FOR_TRILLS}, {LEAD, PURPOSE})


# Faults on each note of a finger that stays down: it goes up as soon as it is needed no more.
HELD_FOR_NOTHING = 0.0002


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
    nothing_better : bool
        Whether leads may be taken, because nothing better is known.
    """

    candidates: tuple[Candidate, ...]
    refused: tuple[Candidate, ...]
    gap: str
    nothing_better: bool = False


def offers(
    events: Sequence[Event],
    in_hand: InstrumentInHand,
    pins: Mapping[str, str] = NOTHING_PINNED,
    bans: Mapping[str, Collection[str]] = NOTHING_BANNED,
) -> list[Offer]:
    """Find the fingerings that may serve each note.

    Parameters
    ----------
    events : sequence of Event
    in_hand : InstrumentInHand
    pins : mapping of note id to entry id
        The only fingering that a route may take there, even if it is banned as well.
    bans : mapping of note id to entry ids

    Returns
    -------
    list of Offer

    Raises
    ------
    RouteError
        If a pinned entry is not one for its note, or needs what is not fitted.
    """
    kept: dict[tuple[Pitch, str | None, frozenset[str], frozenset[Together], Aim | None], Offer] = {}
    found = []
    notes = timing(events) if in_hand.kept_for else None
    for place, event in enumerate(events):
        left_out = bans.get(event.id)
        asked = (
            event.written_pitch,
            pins.get(event.id),
            frozenset(left_out) if left_out else NO_IDS,
            notes.met(place) if notes else NO_USE,
            event.aim,
        )
        if asked not in kept:
            kept[asked] = offer_for(in_hand, *asked)
        found.append(kept[asked])
    return found


def written_pins(events: Sequence[Event], in_hand: InstrumentInHand) -> tuple[dict[str, str], list[Event]]:
    """Fingerings written under notes as pins, by note id; and the notes whose fingering no entry has.

    Parameters
    ----------
    events : sequence of Event
    in_hand : InstrumentInHand

    Returns
    -------
    (dict of str to str, list of Event)
    """
    pins: dict[str, str] = {}
    left = []
    for event in events:
        if not event.fingering:
            continue
        try:
            fingering = parse_fingering(event.fingering, in_hand.instrument)
        except FingeringError:
            left.append(event)
            continue
        entry = in_hand.catalogue.find(event.written_pitch, fingering)
        if entry is None:
            left.append(event)
        else:
            pins[event.id] = entry.id
    return pins, left


def offer_for(
    in_hand: InstrumentInHand,
    pitch: Pitch,
    pin: str | None,
    bans: frozenset[str],
    uses: frozenset[Together] = NO_USE,
    aim: Aim | None = None,
) -> Offer:
    """Find the fingerings that may serve one note, which is one of some uses; see `offers`.

    Parameters
    ----------
    in_hand : InstrumentInHand
    pitch : Pitch
    pin : str or None
        Id of the only entry that a route may take; None for any.
    bans : frozenset of str
        Ids of entries that it may not take.
    uses : frozenset of Together
    aim : Aim or None
        A colour that is aimed at takes in what is for colour.

    Returns
    -------
    Offer

    Raises
    ------
    RouteError
        If the pinned entry is not one for the note, or needs what is not fitted.
    """
    entries = in_hand.catalogue.by_midi.get(pitch.midi, ())
    lacking = {entry.id: why for entry in entries if (why := in_hand.lacking(entry))}
    refused = tuple(
        Candidate(entry, f"needs {lacking[entry.id]}, which is not fitted")
        for entry in entries
        if entry.id in lacking
    )
    at_hand = [entry for entry in entries if entry.id not in lacking]
    if pin is not None and pin not in {entry.id for entry in at_hand}:
        raise RouteError(f"the pinned fingering {pin!r} cannot serve written {pitch}")
    set_apart = {entry.id: why for entry in at_hand if (why := _stands_back(in_hand, entry, uses, aim))}
    nothing_better = False
    for tier in TIERS:
        if not all(entry.id in set_apart for entry in at_hand if entry.id not in bans):
            break
        nothing_better = LEAD in tier and LEAD in set_apart.values()
        set_apart = {name: why for name, why in set_apart.items() if why not in tier}
    candidates = tuple(
        Candidate(
            entry,
            _bar(entry, pin, bans, set_apart),
            in_hand.head_starts.get(entry.id, 0.0) - HELD_FOR_NOTHING * (entry.source == HELD),
        )
        for entry in at_hand
    )
    if any(not candidate.bar for candidate in candidates):
        return Offer(candidates, refused, "", nothing_better)
    return Offer(candidates, refused, _why_gap(pitch, in_hand.instrument, [*candidates, *refused]))


def _stands_back(in_hand: InstrumentInHand, entry: Entry, uses: frozenset[Together], aim: Aim | None) -> str:
    """Why a fingering is not taken while there is another; empty where it is."""
    if entry.kind in ON_PURPOSE and (aim not in COLOURS or entry.colour is None):
        return PURPOSE
    if entry.fingering.half and not in_hand.hand.half_holes:
        return UNLEARNED
    if entry.kind in TRILLED_ONLY:
        return FOR_TRILLS
    if in_hand.is_open_lead(entry):
        return LEAD
    taught_for = in_hand.kept_for.get(entry.school)
    taught = entry.id not in in_hand.aside and (taught_for is None or not uses.isdisjoint(taught_for))
    return "" if taught else OTHER_SCHOOL


def _bar(entry: Entry, pin: str | None, bans: frozenset[str], set_apart: Mapping[str, str]) -> str:
    if pin is not None:
        return "" if entry.id == pin else NOT_PINNED
    if entry.id in bans:
        return BANNED
    return set_apart.get(entry.id, "")


def _why_gap(pitch: Pitch, instrument: Instrument, barred: list[Candidate]) -> str:
    if not instrument.accepts(pitch):
        return f"written {pitch} lies outside the range kept here, {instrument.accepted_span}"
    if barred:
        whys = "; ".join(sorted({candidate.bar for candidate in barred}))
        return f"every fingering for written {pitch} is out: {whys}"
    return f"no fingering for written {pitch} is known, nor a lead"
