"""Count mode for a spot of a passage: its notes in a row, and one press for what came of each playing."""

from dataclasses import dataclass

from django.utils.safestring import SafeString

from bench.queries import Opened
from core.music.events import where
from core.music.pitch import Pitch
from core.practice.attempt_format import spot_text
from core.practice.attempts import (
    SPOT_MOST,
    TEMPO_LEAST,
    TEMPO_MOST,
    Began,
    Place,
    Result,
    Spot,
)
from core.practice.ladder import begin, climbed
from core.routes.hard_moves import CARE, safe_bpm
from core.routes.tempo_map import holds
from drawing.compact import large_symbol
from practice.queries import Counted
from practice.screens.count import KNOWN, Press, Turn, came, climb_says, presses, turn_of
from practice.spots import SpotAsked, spot_asked
from studio.address import Address

# From which loudness down a note is begun softly.
SOFT = 0.35
# Of a long spot only the notes about the one that is marked are drawn.
DRAWN_MOST, DRAWN_NEAR = 12, 2


@dataclass(frozen=True)
class NoteOfSpot:
    """One note of the row; `query` is the address at which a miss is one of this note."""

    note: Pitch
    where: str
    name: str
    drawing: SafeString
    here: bool
    query: str


@dataclass(frozen=True)
class SpotPage:
    """A spot that is counted.

    Parameters
    ----------
    notes : tuple of NoteOfSpot
        `here` is the one that a miss is counted at.
    spot, at : Spot, int
        The notes as they are kept, and the place of that one.
    moves : str
        How the hands come to that note.
    wider : tuple of (str, str, str)
        Addresses of the spot with a note more or fewer, their words, and the key that presses each.
    risk : str
        How often the hands stumble there at the tempo.
    switches : tuple of str
        Where, on the way up to the tempo of the passage, other fingerings would serve better.
    climb, climb_says, climb_query, climb_words : str
        The ladder that is climbed and how it stands; else the address at which one begins, and where it goes.
    """

    title: str
    notes: tuple[NoteOfSpot, ...]
    spot: Spot
    at: int
    moves: str
    wider: tuple[tuple[str, str, str], ...]
    began: Began
    by_heart: bool
    place: Place
    turns: tuple[Turn, ...]
    presses: tuple[Press, ...]
    counted: Counted
    in_all: Counted
    last: tuple[str, ...]
    bpm: int
    target: int
    risk: str
    switches: tuple[str, ...]
    climb: str
    climb_says: str
    climb_query: str
    climb_words: str
    query: str
    bench_query: str
    on: str

    @property
    def chance(self) -> str:
        """The tempo, and how often the hands stumble there."""
        of = f" of {self.target}" if self.bpm != self.target else ""
        return f"♩ = {self.bpm}{of}" + (f" · {self.risk}" if self.risk else "")

    @property
    def here(self) -> NoteOfSpot:
        return self.notes[self.at]

    @property
    def spot_text(self) -> str:
        return spot_text(self.spot)

    @property
    def is_move(self) -> bool:
        return len(self.notes) == 2


def spot_page(opened: Opened, asked: SpotAsked, counted, climbing=None) -> SpotPage:
    """Build the page.

    Parameters
    ----------
    counted : (Counted, Counted, list)
        As `practice.queries.of_spot` gives it.
    climbing : practice.forms.Climb or None
        The ladder that is climbed.
    """
    solution, in_hand = opened.solution(), opened.in_hand
    spot, first, at = spot_asked(opened, asked)
    now, in_all, last = counted
    events = solution.events[first : first + len(spot.steps)]
    entries = solution.entries[first : first + len(spot.steps)]
    target = round(min(max(opened.settings.tempo_bpm, TEMPO_LEAST), TEMPO_MOST))
    safe = safe_bpm(solution.table, first, first + len(spot.steps) - 1, target)
    ladder = climbing and climbed(
        begin(climbing.start, climbing.target),
        [row[1] == Result.CLEAN for row in reversed(last) if row[5] >= climbing.since],
    )
    bpm = round(ladder.bpm) if ladder else asked.bpm or target

    address = Address(opened.passage.pk, state=str(opened.state.number))

    def query(first_id=events[0].id, last_id=events[-1].id, **more):
        parts = {"miss": asked.miss, "place": asked.place, "by_heart": "" if asked.by_heart else "no"}
        parts |= {"climb": str(climbing) if climbing else "", "tempo": asked.bpm or ""}
        return address.at(first=first_id, last=last_id).query(**(parts | more))

    before, here = (entries[at - 1] if at else None), entries[at]
    note = events[at].written_pitch
    cracks = [row[2] for row in last if row[2] is not None and row[3] == at]
    start = min(safe, target)
    return SpotPage(
        title=_title(events),
        notes=tuple(
            NoteOfSpot(
                note=event.written_pitch,
                where=where(event),
                name=f"{entry.kind_words} ({in_hand.said(entry.fingering)})"
                if entry
                else "no fingering known",
                drawing=large_symbol(entry.fingering, in_hand)
                if entry and (len(events) <= DRAWN_MOST or abs(n - at) < DRAWN_NEAR)
                else SafeString(""),
                here=n == at,
                query=query(miss=event.id),
            )
            for n, (event, entry) in enumerate(zip(events, entries, strict=True))
        ),
        spot=spot,
        at=at,
        moves=in_hand.move(before.fingering, here.fingering).sentence if before and here else "",
        wider=_wider(solution.events, first, first + len(events) - 1, query),
        began=_began(events[at]),
        by_heart=asked.by_heart,
        place=asked.place,
        turns=(
            turn_of("place", "Where", Place, asked.place, query),
            turn_of("by_heart", "Whether it is known", KNOWN, KNOWN[not asked.by_heart], query),
        ),
        presses=presses(in_hand, note, here, list(dict.fromkeys(cracks)), stumbles=True),
        counted=now,
        in_all=in_all,
        last=tuple(_came(events, row) for row in last[:8]),
        bpm=bpm,
        target=target,
        risk=_risk(solution.table, first + at, bpm / opened.settings.tempo_bpm) if at else "",
        switches=_switches(opened, range(first, first + len(events)), start),
        climb=str(climbing) if climbing else "",
        climb_says=climb_says(ladder) if ladder else "",
        climb_query=query(start=start, target=target, climb="", tempo=""),
        climb_words=f"Climb from ♩ = {start} to {target}" if start < target else f"Count at ♩ = {target}",
        query=query(),
        bench_query=address.at(note=events[at].id, move="into" if at else "").query(),
        on=in_hand.name,
    )


def _title(events):
    if len(events) == 2:
        return f"{events[0].written_pitch} to {events[1].written_pitch}"
    bars = events[0].notes[0].bar, events[-1].notes[0].bar
    return f"{len(events)} notes, bar {bars[0]}" + (f" to {bars[1]}" if bars[1] != bars[0] else "")


def _wider(events, first, end, query):
    """The spot with a note more or fewer at either end, as far as there are notes."""
    found = []
    if first > 0 and end - first + 1 < SPOT_MOST:
        found.append((query(first_id=events[first - 1].id), "A note more before", "b B"))
    if end < len(events) - 1 and end - first + 1 < SPOT_MOST:
        found.append((query(last_id=events[end + 1].id), "A note more after", "a A"))
    if end - first > 1:
        found.append((query(first_id=events[first + 1].id, miss=""), "One fewer before", ""))
        found.append((query(last_id=events[end - 1].id, miss=""), "One fewer after", ""))
    return tuple(found)


def _began(event):
    if event.slurred:
        return Began.SLURRED
    return Began.SOFT if event.attack <= SOFT else Began.TONGUED


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
            name = f"{other.kind_words} ({opened.in_hand.said(other.fingering)})"
            note = solution.events[n].written_pitch
            found.setdefault(
                (note, slower.bpm, other.id), f"Up to ♩ = {slower.bpm}, {name} serves {note} better"
            )
    return tuple(found.values())


def _came(events, row):
    _, result, cracked, at, bpm, *_ = row
    if result == Result.CLEAN:
        return "clean" if bpm is None else f"clean at {bpm}"
    words = came(result, cracked)
    place = f" at {events[at].written_pitch}" if at < len(events) else ""
    return f"{words}{place}" if cracked is None else words
