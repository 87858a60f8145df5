"""The Overtones view: the ladder of a fingering, one pitch on many tubes, and what to practise."""

from dataclasses import dataclass
from fractions import Fraction
from itertools import groupby

from catalogue.model_words import NO_PITCH, pitch_words, readiness
from catalogue.screens.note_closely import toggled
from catalogue.screens.one_note import OneNote, one_note
from core.acoustics.prediction import SoundsAs
from core.charts.entry import Entry
from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import Fingering, format_fingering, parse_fingering
from core.music.notation.clefs import clefs_through
from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch
from core.overtones.ladder import FUNDAMENTALS, LadderRung, fundamentals, ladder
from drawing.curve import curve_svg
from drawing.engraving import System, engrave, shared_glyphs
from drawing.hands import hands
from drawing.rung import rung_svg
from overtones.screens.to_practise import (
    Match,
    OvertoneTask,
    StoneShown,
    matches_of,
    start_of,
    starts_of,
    stones_of,
    tasks_of,
)
from studio.address import Address

STAFF_PX = 640
# The page opens on a fingering of which at least so many rungs can be told.
RUNGS_TOLD = 2


@dataclass(frozen=True)
class LadderRow:
    """One rung of the ladder as the page shows it.

    Parameters
    ----------
    trusted : bool
        Whether the model has proved itself enough for anything to be shown of it.
    chart : str
        What the chart has of it, in words; empty for nothing.
    asked : bool
        Whether it is the note looked at.
    again : bool
        Whether another resonance lies nearer to the same note.
    """

    partial: int
    note: Pitch
    asked: bool
    again: bool
    trusted: bool
    chart: str
    drawing: str
    pitch: str
    pure: str
    readiness: str
    favoured: bool
    sound: str
    query: str


@dataclass(frozen=True)
class OvertonesPage(OneNote):
    """Overtones on the instrument in hand.

    Parameters
    ----------
    rows : tuple of LadderRow
        Rungs that something may be shown of, from the highest down, as they stand on a staff.
    silent : tuple of LadderRow
        Those where the model has not proved itself.
    silent_open : bool
        Whether the note looked at is among these.
    lines : tuple of System
        The ladder engraved; empty where nothing of it lies in the range.
    families : list of str
        Mouthpiece families of the ensemble, in the order of the curve's strokes.
    normal : Entry or None
        The note's plainest fingering at hand.
    starts : tuple of (touches, words)
        Fingerings that stepping stones may start from.
    """

    problems: tuple[str, ...]
    title: str
    status: str
    touches: str
    said: str
    drawing: str
    closely: str
    rows: tuple[LadderRow, ...]
    silent: tuple[LadderRow, ...]
    silent_open: bool
    vented: bool
    glyphs: str
    lines: tuple[System, ...]
    curve: str
    families: list[str]
    normal: Entry | None
    normal_touches: str
    normal_words: str
    normal_sound: str
    matches: tuple[Match, ...]
    tasks: tuple[OvertoneTask, ...]
    starts: tuple[tuple[str, str], ...]
    start_touches: str
    stones: tuple[StoneShown, ...]
    no_stones: str


@dataclass(frozen=True)
class _Asked:
    """What is looked at: instrument, note and fingering."""

    in_hand: InstrumentInHand
    note: Pitch
    fingering: Fingering

    @property
    def instrument(self):
        return self.in_hand.instrument

    @property
    def acoustics(self):
        return self.in_hand.acoustics

    def touches(self, fingering=None):
        return format_fingering(fingering or self.fingering, self.instrument)

    def said(self, fingering=None):
        return self.in_hand.said(fingering or self.fingering)

    def query(self, touches="", note=None):
        at = Address(on=self.in_hand.name, note=(note or self.note).ascii)
        return at.at(touches=touches or self.touches()).query()

    def sound(self, fingering, note):
        return self.query(self.touches(fingering), note)

    def readiness(self, margin):
        return readiness(margin, self.acoustics.even_db)


def overtones_page(
    in_hand: InstrumentInHand, note: Pitch | None = None, touches="", come_from="", problems=()
) -> OvertonesPage:
    """Build the Overtones view.

    Parameters
    ----------
    note : Pitch or None
        The written note that the fingering is looked at for; its lowest resonance if None.
    touches : str
        The fingering; the plainest one of the note, or the lowest of the instrument, if empty.
    come_from : str
        Touches of the fingering that stepping stones start from; the page's choice if empty.
    problems : sequence of str
        What of the address could not be read already.
    """
    # Longer than 40 lines only because it names every field of its record.
    problems, instrument = list(problems), in_hand.instrument
    fingering = _read(instrument, touches, problems) or _usual(in_hand, note)
    rungs = ladder(in_hand.acoustics.model, fingering)
    asked = _Asked(in_hand, note or _first_note(in_hand, fingering, rungs), fingering)
    rows = _rows(asked, rungs)
    silent = tuple(row for row in rows if not row.trusted)
    engraving = _staff(instrument, rungs)
    links = {t.name: asked.query(toggled(fingering, t, instrument)) for t in instrument.touches}
    geometries = in_hand.acoustics.model.geometries
    normal = in_hand.plainest(asked.note)
    starts = starts_of(asked)
    start = start_of(asked, _read(instrument, come_from, problems), starts)
    stones, no_stones = stones_of(asked, start)

    def address(other):
        """Another note on its own fingering."""
        return Address(on=in_hand.name, note=other.ascii).query()

    return OvertonesPage(
        **one_note(in_hand, asked.note, address),
        problems=tuple(problems),
        title=f"Overtones of {asked.said()}",
        status=_status(asked, rows),
        touches=asked.touches(),
        said=asked.said(),
        drawing=hands(fingering, in_hand, links=links),
        closely=asked.query(),
        rows=tuple(row for row in rows if row.trusted),
        silent=silent,
        silent_open=any(row.asked for row in silent),
        vented=any(rung.rung.sounds_as is SoundsAs.VENTED for rung in rungs),
        glyphs=shared_glyphs([engraving] if engraving else []),
        lines=engraving.systems if engraving else (),
        curve=curve_svg(in_hand.acoustics.model, fingering, rungs),
        families=list(dict.fromkeys(geometry.mouthpiece.family for geometry in geometries)),
        normal=normal,
        normal_touches=asked.said(normal.fingering) if normal else "",
        normal_words=_normal_words(asked, normal),
        normal_sound=asked.sound(normal.fingering, asked.note) if normal else "",
        matches=matches_of(asked, normal),
        tasks=tasks_of(asked),
        starts=starts,
        start_touches=asked.touches(start.fingering) if start else "",
        stones=stones,
        no_stones=no_stones,
    )


def _read(instrument, touches, problems) -> Fingering | None:
    if not touches:
        return None
    try:
        return parse_fingering(touches, instrument)
    except CoreError as error:
        problems.append(f"The touches in the address cannot be read: {error}.")
        return None


def _usual(in_hand, note) -> Fingering:
    """The plainest fingering of a note; without one, the lowest whose overtones something can be said of."""
    if note:
        entry = in_hand.plainest(note)
        return entry.fingering if entry else Fingering()
    model = in_hand.acoustics.model
    lowest = fundamentals(in_hand.catalogue, in_hand.fitted)[:FUNDAMENTALS]
    for entry in lowest:
        asked = [(entry.fingering, rung.note) for rung in ladder(model, entry.fingering)]
        told = in_hand.acoustics.of_predictions(model.predict(asked), asked)
        if sum(row is not None for row in told) >= RUNGS_TOLD:
            return entry.fingering
    return lowest[0].fingering if lowest else Fingering()


def _first_note(in_hand, fingering, rungs) -> Pitch:
    known = [entry for entry in in_hand.catalogue.entries if entry.fingering == fingering]
    if known:
        return min(known, key=lambda entry: (entry.partial or 9, entry.note.midi)).note
    inside = [rung.note for rung in rungs if in_hand.instrument.accepts(rung.note)]
    return inside[0] if inside else in_hand.instrument.written_low


def _rows(asked, rungs: list[LadderRung]):
    wanted = [(asked.fingering, rung.note) for rung in rungs]
    trusted = asked.acoustics.of_predictions(asked.acoustics.model.predict(wanted), wanted)
    nearest: dict[int, LadderRung] = {}
    for rung in sorted(rungs, key=lambda rung: -abs(rung.cents)):
        nearest[rung.note.midi] = rung
    pairs = zip(rungs, trusted, strict=True)
    return tuple(
        _row(asked, rung, row, is_nearest=nearest[rung.note.midi] is rung)
        for rung, row in reversed(list(pairs))
    )


def _row(asked, rung: LadderRung, trusted, *, is_nearest):
    pure = "" if rung.from_pure is None else f"{round(rung.from_pure):+d}".replace("-", "−")
    return LadderRow(
        partial=rung.rung.partial,
        note=rung.note,
        asked=is_nearest and rung.note.midi == asked.note.midi,
        again=not is_nearest,
        trusted=bool(trusted),
        chart=_in_chart(asked, rung.note) if is_nearest else "",
        drawing=rung_svg(rung, trusted),
        pitch=(pitch_words(trusted) or NO_PITCH[trusted.level]) if trusted else "",
        pure=pure if trusted and trusted.pitch and rung.rung.partial > 1 else "",
        readiness=asked.readiness(trusted.prediction.margin) if trusted else "",
        favoured=rung.favoured,
        sound=asked.sound(asked.fingering, rung.note),
        query=asked.query(note=rung.note),
    )


def _in_chart(asked, note):
    entry = asked.in_hand.catalogue.find(note, asked.fingering)
    return f"{entry.kind_words}: {entry.rests_on}" if entry else ""


def _staff(instrument, rungs):
    notes = [rung.note for rung in rungs if instrument.accepts(rung.note)]
    if not notes:
        return None
    # A bar for each note, so that the clef may follow it; one bar for all that stand in the same clef.
    single = Passage(tuple(Bar((Note(f"r{n}", note, Fraction(4)),)) for n, note in enumerate(notes)))
    clefs = clefs_through(single, instrument.clefs)
    parted = groupby(zip(clefs, single.bars, strict=True), key=lambda pair: pair[0])
    bars = tuple(Bar(tuple(note for _, bar in pairs for note in bar.notes)) for _, pairs in parted)
    return engrave(Passage(bars), STAFF_PX, instrument.clefs)


def _status(asked, rows):
    """What a screen reader hears after a change."""
    here = next((row for row in rows if row.asked), None)
    words = f"partial {here.partial}, {here.pitch or 'pitch not told'}" if here else "not on this ladder"
    return f"{asked.said()}: {asked.note}, {words}."


def _normal_words(asked, normal):
    trusted = normal and asked.acoustics.of(normal.fingering, asked.note)
    return pitch_words(trusted) if trusted else ""
