"""What a student takes home: as much as is wanted of music, moves, drills, ladders, the week, cues."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from django.core.exceptions import ValidationError
from django.utils.formats import date_format
from django.utils.safestring import SafeString
from django.utils.timezone import localtime

from bench.queries import Opened
from bench.screens.ossia import Drawing, kept_with
from bench.screens.remarks import remarks
from bench.screens.sheet import HardMove, hard_moves_of
from bench.systems import NARROW, SIZES, ScoreLine, View, engraved, lines, symbols
from catalogue.shipped import voicing
from drawing.engraving import shared_glyphs
from drawing.qr import qr
from drawing.svg import join
from students.screens.ladders import MoveDue, moves_due
from students.screens.week import WeekPage

# What may stand on a sheet, by the names in an address.
PARTS = {
    "passage": "The passage with its fingerings",
    "moves": "Moves to work on",
    "ossia": "What is played meanwhile",
    "drills": "Drills",
    "ladder": "Ladders of tempi",
    "week": "The week",
    "cues": "Tongue, vowel, air",
}
# Lines of music, some sixty pages of them; and notes, which are known before the lines are set.
LINES_MOST, NOTES_MOST = 240, 4_000
CAUTION = (
    "Stop and rest at any pain, numbness, strain of jaw, hands or wrists, light-headedness or ringing ears, "
    "and tell your teacher; if it comes back, ask a physician. High notes are loud: a few minutes at a time, "
    "and ear protection where local rules ask for it."
)


HOW_TO_READ = (
    "Under the notes the discs are three fingers of each hand, the left above the line: full is down, half "
    "is a half hole. Letters are what else is pressed: thumb, palm and side above the discs, little finger "
    "below. A tick: only where the note begins."
)


@dataclass(frozen=True)
class Music:
    """A piece of music on the sheet, for paper and for a telephone, with what its drawings use."""

    title: str
    says: str
    lines: tuple[ScoreLine, ...]
    narrow_lines: tuple[ScoreLine, ...]
    glyphs: str
    symbols: str


@dataclass(frozen=True)
class WayToPage:
    """The way from a sheet on paper to the student's page of the same music.

    Parameters
    ----------
    until : datetime
        When the page closes.
    may_log : bool
        Whether the student may count on it.
    elsewhere : bool
        Whether its address is more than one of this machine alone.
    """

    address: str
    until: datetime
    may_log: bool
    elsewhere: bool

    @property
    def says(self) -> str:
        until = date_format(localtime(self.until), "j F")
        return f"To {'count' if self.may_log else 'read'} on a telephone, until {until}"

    @property
    def code(self) -> SafeString:
        return qr(self.address, "Code that opens the student's page on a telephone")


@dataclass(frozen=True)
class StudentSheet:
    """A sheet; parts that are not wanted, or of which there is nothing, are empty."""

    student: str
    instrument: str
    title: str
    passage: Music | None
    moves: tuple[HardMove, ...]
    ossia: tuple[Music, ...]
    drills: tuple[Music, ...]
    ladders: tuple[MoveDue, ...]
    week: WeekPage | None
    cues: tuple[tuple[str, str], ...]
    caution: str

    @property
    def is_empty(self) -> bool:
        parts = (self.passage, self.moves, self.ossia, self.drills, self.ladders, self.week, self.cues)
        return not any(parts)

    @property
    def glyphs(self):
        """What the drawings of all music use, each once where it is alike."""
        return join(dict.fromkeys(music.glyphs for music in self._music))

    @property
    def symbols(self):
        return join(dict.fromkeys(music.symbols for music in self._music))

    @property
    def how_to_read(self) -> str:
        """How the hands are read; empty where none is drawn."""
        return HOW_TO_READ if self._music else ""

    @property
    def _music(self):
        return [*([self.passage] if self.passage else []), *self.ossia, *self.drills]


def student_sheet(
    at,
    music: Opened | None,
    drills: Sequence[Opened],
    playings,
    week: WeekPage,
    parts: Collection[str],
    tell: Callable[[int, int], None] | None = None,
) -> StudentSheet:
    """Build the sheet.

    Parameters
    ----------
    at : catalogue.queries.Chosen
    music : Opened or None
        The passage.
    drills : sequence of Opened
    playings : sequence of practice.queries.SpotPlaying
        Of spots of the passage.
    parts : collection of str
        Of `PARTS`.
    tell : callable, optional
        Told how many drills are set, of how many.

    Raises
    ------
    ValidationError
        If there is more music than a sheet may hold.
    """
    view = View(music, music.solution(), None, frozenset()) if music else None
    sheet = StudentSheet(
        student=at.owned.student.name,
        instrument=at.owned.name,
        title=music.passage.title if music else "",
        passage=_passage(view) if view and "passage" in parts else None,
        moves=hard_moves_of(music) if music and "moves" in parts else (),
        ossia=_ossia(view) if view and "ossia" in parts else (),
        drills=tuple(_drills(drills, tell)),
        ladders=tuple(moves_due(music, playings)) if music and "ladder" in parts else (),
        week=week if "week" in parts else None,
        cues=_cues(at.in_hand, music) if music and "cues" in parts else (),
        caution=CAUTION,
    )
    check_length(sum(len(one.lines) for one in sheet._music), LINES_MOST, "lines")
    return sheet


def check_length(count: int, most: int, what: str) -> None:
    """Refuse more music than a sheet may hold."""
    if count > most:
        raise ValidationError(
            f"That is more than {most:,} {what} of music. Leave out drills, or the passage, and print those "
            "apart.",
            code="long",
        )


def _music(view, title="", says=""):
    wide, narrow = (engraved(view, size) for size in (SIZES["usual"], NARROW))
    made = (lines(view, engraving, for_print=True) for engraving in (wide, narrow))
    return Music(title, says, *made, shared_glyphs([wide, narrow]), symbols(view))


def _passage(view):
    return _music(view, says=" ".join(remarks(view.solution)))


def _drills(drills, tell):
    for done, opened in enumerate(drills):
        if tell:
            tell(done, len(drills))
        yield _drill(opened)


def _drill(opened):
    tempo = f"♩ = {opened.settings.tempo_bpm:g}"
    view = View(opened, opened.solution(), None, frozenset())
    return _music(view, opened.passage.title, f"{tempo}. {opened.passage.purpose}".strip())


def _ossia(view):
    drawing = Drawing(view)
    kept = kept_with(view, drawing)
    glyphs = shared_glyphs(drawing.engravings)
    drawn = symbols(view, drawing.entries)
    return tuple(Music("", one.says, one.lines, one.lines, glyphs, drawn) for one in kept)


def _cues(in_hand, music):
    """What is said of the highest note, by the positions that are followed."""
    top = max((event.written_pitch for event in music.solution().events), key=lambda pitch: pitch.midi)
    return tuple(
        (cue.about, f"{cue.text} ({cue.position})" if cue.position else cue.text)
        for cue in voicing().cues_for(in_hand, top)
    )
