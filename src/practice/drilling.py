"""What drills are made from: a note on an instrument, or a spot of a passage as its route fingers it."""

from collections import Counter
from dataclasses import dataclass
from fractions import Fraction

from bench.queries import Opened
from catalogue.in_hand import moves_on
from core.charts.entry import Entry
from core.drills.kinds import drills
from core.drills.material import SPOT_MOST, Material, Served
from core.drills.order import SolvedDrill, easiest_first
from core.drills.stones import stones_in_chart
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import ALL_SOURCES
from core.instruments.fingering import Kind, format_fingering
from core.music.pitch import Pitch, spell
from core.routes.hard_moves import safe_bpm
from evidence.told import reach_counted, usual_top

# A single note is practised from this tempo on; other fingerings of it that drills are made with.
NOTE_BPM, OTHERS = 60.0, 2
COLOURS = {Kind.FALSE, Kind.ALTERNATE, Kind.SIDE, Kind.LONG}


@dataclass(frozen=True)
class DrilledSpot:
    """The notes of a passage that drills are made from, by their places; `cut` where more were asked for."""

    first: int
    last: int
    cut: bool = False


def spot_between(opened: Opened, first_id: str, last_id: str) -> DrilledSpot:
    """The spot from one note to another; one that is not there falls back to the other, or the first note."""
    places = opened.solution().note_at
    first = places.get(first_id, places.get(last_id, 0))
    last = places.get(last_id, first)
    first, last = min(first, last), max(first, last)
    most = first + SPOT_MOST - 1
    return DrilledSpot(first, min(last, most), cut=last > most)


def material_of(opened: Opened, first_id: str, last_id: str) -> Material:
    """What drills of the notes between two are made from, within the reach of who plays them."""
    spot = spot_between(opened, first_id, last_id)
    return material_of_spot(opened, spot, top_on(opened.owned, opened.in_hand))


def material_of_spot(opened: Opened, spot: DrilledSpot, top: int) -> Material:
    """What drills of a spot are made from; `top` is the reach."""
    solution, in_hand = opened.solution(), opened.in_hand
    events, entries = solution.events, solution.entries
    here = slice(spot.first, spot.last + 1)
    chosen: dict[int, Counter[str]] = {}
    for event, entry in zip(events, entries, strict=True):
        if entry is not None:
            chosen.setdefault(event.written_pitch.midi, Counter())[_written(in_hand, entry)] += 1
    notes = tuple(
        Served(
            event.written_pitch,
            sum((placed.note.quarters for placed in event.notes), Fraction(0)),
            _written(in_hand, entry) if entry else "",
        )
        for event, entry in zip(events[here], entries[here], strict=True)
    )
    highest = max(zip(events[here], entries[here], strict=True), key=lambda pair: pair[0].written_pitch.midi)
    tempo = opened.settings.tempo_bpm
    safe = safe_bpm(solution.table, spot.first, spot.last, tempo) if spot.last > spot.first else NOTE_BPM
    return Material(
        notes=notes,
        fifths=solution.passage.key_at(events[spot.first].id),
        tempo_bpm=float(min(safe, tempo)),
        playable=playable(in_hand),
        top=top,
        # as the spot has them, of other notes as the passage mostly has
        fingerings={midi: counts.most_common(1)[0][0] for midi, counts in chosen.items()}
        | {note.pitch.midi: note.fingering for note in reversed(notes) if note.fingering},
        **_others(in_hand, highest[0].written_pitch, highest[1]),
    )


def material_of_note(in_hand: InstrumentInHand, note: Pitch, entry: Entry | None, top: int) -> Material:
    """What drills of a note are made from, with the fingering named."""
    return Material(
        notes=(Served(note, Fraction(1), _written(in_hand, entry) if entry else ""),),
        fifths=0,
        tempo_bpm=NOTE_BPM,
        playable=playable(in_hand),
        top=top,
        fingerings={note.midi: _written(in_hand, entry)} if entry else {},
        **_others(in_hand, note, entry),
    )


def playable(in_hand: InstrumentInHand) -> frozenset[int]:
    """Written semitones that have a fingering at hand which is vouched for."""
    return frozenset(
        midi
        for midi in in_hand.instrument.accepted
        if any(not in_hand.is_open_lead(entry) for entry in in_hand.at_hand(midi))
    )


def _written(in_hand, entry):
    return format_fingering(entry.fingering, in_hand.instrument)


def _others(in_hand, note, entry):
    """Other fingerings of a note, for colour and as a partial of a lower one, and the way to its own."""
    if entry is None:
        return {}
    at_hand = [
        one for one in in_hand.at_hand(note.midi) if one.id != entry.id and not in_hand.is_open_lead(one)
    ]
    at_hand.sort(key=in_hand.rank)

    def of(kinds):
        return tuple(_written(in_hand, one) for one in at_hand if one.kind in kinds)[:OTHERS]

    return {"colours": of(COLOURS), "harmonics": of({Kind.HARMONIC}), "stones": _stones(in_hand, entry)}


def _stones(in_hand, entry):
    """The way to a fingering, one touch at a time, from the plainest one of a note below."""
    usable = [
        one for one in in_hand.catalogue.entries if not in_hand.lacking(one) and not in_hand.is_open_lead(one)
    ]
    plainest = (in_hand.plainest(spell(midi), on_purpose=False) for midi in {one.note.midi for one in usable})
    way = stones_in_chart(usable, entry, {one.id for one in plainest if one is not None})
    return tuple((one.note, _written(in_hand, one)) for one in way)


def drills_for(
    material: Material, in_hand: InstrumentInHand, use=ALL_SOURCES, tell=None
) -> list[SolvedDrill]:
    """Every drill of the material with its route, easiest first; `tell` is told how many are done."""
    return easiest_first(drills(material), in_hand, moves_on(in_hand, use), use, tell)


def about(material: Material) -> str:
    """The notes that drills are for, in words."""
    first, last = material.notes[0].pitch, material.notes[-1].pitch
    if len(material.notes) == 1:
        return str(first)
    between = f", {len(material.notes)} notes" if len(material.notes) > 2 else ""
    return f"{first} to {last}{between}"


def top_on(owned, in_hand) -> int:
    """The highest note that drills may lead to: the reach by what was counted, else the usual range."""
    found = reach_counted(owned, in_hand) if owned else None
    return found.top if found and found.top is not None else usual_top(in_hand)
