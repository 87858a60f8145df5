"""The log of a student on one instrument: hits over weeks, by fingering, and where misses pile up."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from django.utils.safestring import SafeString
from scipy.special import betaincinv

from bench.queries import Opened
from bench.systems import NARROW, SIZES, ScoreLine, View, engraved
from core.music.pitch import Pitch, spell
from core.practice.attempts import Place, Result
from core.words import counted
from drawing.chance import chance_bar
from drawing.engraving import shared_glyphs
from drawing.hits import UNDER, WeekOfHits, hits_svg, misses_under
from drawing.svg import join
from studio.address import Address

WEEKS = 12
# The spread shown: eight times of ten, from even odds before anything was counted.
INSIDE, BEFORE = (0.1, 0.9), 0.5
LINES_MOST, FINGERINGS_MOST = 40, 60


@dataclass(frozen=True)
class ByFingering:
    """What came of one fingering of a note: counted as it is, without what was learned since."""

    note: Pitch
    name: str
    clean: int
    total: int
    bar: SafeString
    cracked: str
    query: str


@dataclass(frozen=True)
class LogPage:
    """The pictures and tables of a log.

    Parameters
    ----------
    hits : str
        The drawing; `weeks` says the same as a table.
    by_place : bool
        Whether misses stand where they were in the passage, as its spots were counted; else by note, wherever
        it was counted.
    moved : int
        Playings of spots whose notes the passage no longer has there.
    lines, narrow_lines : tuple of ScoreLine
        The passage practised with its misses, for a wide page and for a telephone.
    """

    total: int
    hits: SafeString
    weeks: tuple[WeekOfHits, ...]
    fingerings: tuple[ByFingering, ...]
    left_out: int
    title: str
    by_place: bool
    moved: int
    glyphs: SafeString
    lines: tuple[ScoreLine, ...]
    narrow_lines: tuple[ScoreLine, ...]


def log_page(
    in_hand, weekly, fingered, cracks, music: Opened | None, playings, stumbled, today: date, begins=0
) -> LogPage:
    """Build the page.

    Parameters
    ----------
    weekly : sequence of (date, str, str)
        Day, place and result of every attempt of the last weeks.
    fingered : sequence of (int, str, int, int)
        Note, fingering, clean attempts and all of them but stumbles.
    cracks : mapping of (int, str) to (int, int)
        The note it cracked to most, and how often.
    playings : sequence of practice.queries.SpotPlaying
        Of spots of the passage.
    stumbled : int
        Stumbles of the hands.
    begins : int
        The day on which weeks begin, 0 for Monday.
    """
    weeks = weeks_of(weekly, today, begins)
    rows = [_fingering(in_hand, *row, cracks) for row in fingered[:FINGERINGS_MOST]]
    wide, narrow, glyphs, at_place, moved = (), (), SafeString(), {}, 0
    if music is not None:
        view = View(music, music.solution(), None, frozenset())
        wide, narrow = (engraved(view, size) for size in (SIZES["usual"], NARROW))
        glyphs = shared_glyphs([wide, narrow])
        at_place, moved = _missed_there(view, playings)
        missed = at_place or _missed(view, fingered)
        wide, narrow = _lines(view, wide, missed), _lines(view, narrow, missed)
    return LogPage(
        total=sum(total for *_, total in fingered) + stumbled,
        hits=hits_svg(weeks, _said(weeks)),
        weeks=tuple(weeks),
        fingerings=tuple(rows),
        left_out=max(0, len(fingered) - FINGERINGS_MOST),
        title=music.passage.title if music else "",
        by_place=bool(at_place),
        moved=moved,
        glyphs=glyphs,
        lines=wide,
        narrow_lines=narrow,
    )


def hits_by_week(weekly, today: date, begins=0) -> SafeString:
    """The drawing alone; see `log_page`."""
    weeks = weeks_of(weekly, today, begins)
    return hits_svg(weeks, _said(weeks))


def weeks_of(weekly, today: date, begins=0) -> list[WeekOfHits]:
    """The last weeks, from the first in which something was counted; `begins` is 0 for Monday."""
    first = today - timedelta(days=(today.weekday() - begins) % 7 + 7 * (WEEKS - 1))
    found = [{True: [0, 0], False: [0, 0]} for _ in range(WEEKS)]
    for day, place, result in weekly:
        n = (day - first).days // 7
        if 0 <= n < WEEKS:
            cell = found[n][place == Place.STAGE]
            cell[0] += result == Result.CLEAN
            cell[1] += 1
    begun = next((n for n, cell in enumerate(found) if cell[True][1] or cell[False][1]), WEEKS - 1)
    return [
        WeekOfHits(_day_words(first + timedelta(days=7 * n)), tuple(found[n][False]), tuple(found[n][True]))
        for n in range(begun, WEEKS)
    ]


def _day_words(day):
    return f"{day.day} {day:%b}"


def _said(weeks: Sequence[WeekOfHits]) -> str:
    parts = [f"{week.label}: {week.room[0]} of {week.room[1]} clean" for week in weeks if week.room[1]]
    return "Clean attempts by week in the practice room. " + "; ".join(parts)


def _fingering(in_hand, midi, entry_id, clean, total, cracks):
    entry = in_hand.catalogue.by_id.get(entry_id)
    low, high = betaincinv(clean + BEFORE, total - clean + BEFORE, INSIDE) * 100
    note = spell(midi)
    to, times = cracks.get((midi, entry_id), (None, 0))
    at = Address(on=in_hand.name, note=note.ascii, entry=entry.id if entry else "")
    return ByFingering(
        note=note,
        name=f"{entry.kind_words} ({in_hand.said(entry.fingering)})" if entry else "fingering not said",
        clean=clean,
        total=total,
        bar=chance_bar(100 * clean / total, low, high),
        cracked=f"{counted(times, 'time')} to {spell(to)}" if to is not None else "",
        query=at.to("counting:count"),
    )


def _missed(view, fingered):
    """Misses and attempts of each note of the passage by its id: of its pitch, with whatever fingering."""
    found = {}
    for midi, _, clean, total in fingered:
        missed, tried = found.get(midi, (0, 0))
        found[midi] = missed + total - clean, tried + total
    return {event.id: found.get(event.written_pitch.midi, (0, 0)) for event in view.solution.events}


def _missed_there(view, playings):
    """Misses and playings at each note of the passage by its id, and how many playings are of other notes."""
    events = view.solution.events
    pitches = [event.written_pitch.midi for event in events]
    found, moved = {}, 0
    for one in playings:
        if tuple(pitches[one.first : one.first + len(one.midis)]) != one.midis:
            moved += 1
            continue
        for place, clean in one.places():
            missed, tried = found.get(events[place].id, (0, 0))
            found[events[place].id] = missed + (not clean), tried + 1
    return found, moved


def _lines(view, engraving, by_note):
    """Lines with misses under their notes; `by_note` has misses and attempts by the id of the note."""
    pitch = {event.id: event.written_pitch for event in view.solution.events}
    found = []
    for n, system in enumerate(engraving.systems):
        notes = [(x, *by_note.get(key, (0, 0))) for key, x in system.notes.items() if key in pitch]
        if len(found) >= LINES_MOST or not any(total for *_, total in notes):
            continue
        missed = [str(pitch[key]) for key in system.notes if by_note.get(key, (0, 0))[0]]
        found.append(
            ScoreLine(
                svg=system.svg,
                width=system.width,
                staff_height=system.height,
                height=system.height + UNDER,
                view_box=f"0 0 {system.units_width:g} {system.units_height:g}",
                labels=tuple(f"{note} missed" for note in dict.fromkeys(missed)),
                under=join([misses_under(notes, system.height)]),
                number=n,
            )
        )
    return tuple(found)
