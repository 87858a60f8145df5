"""What a page shows on which notes are entered: the line so far, and a staff to tap on."""

from bisect import bisect_right
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import accumulate

from core.evidence.in_hand import InstrumentInHand
from core.music.passage import Bar, Note, Passage
from core.music.pitch import STEPS, Pitch, key_alter
from core.music.scale import MODES, TONICS, tonic_name
from core.music.studies import Study
from core.words import counted
from drawing.engraving import System, engrave, shared_glyphs
from passages.entering import KEYS, TIMES, Entering, usual_study

WIDTH_PX, NARROW_PX, TAP_PX = 900, 400, 44
BARS_BEFORE, BARS_AFTER = 12, 20
LENGTH_WORDS = (("1", "whole"), ("2", "half"), ("4", "quarter"))
LENGTH_WORDS += (("8", "eighth"), ("16", "sixteenth"), ("32", "32nd"))


@dataclass(frozen=True)
class NoteTarget:
    """A note of the line, to be chosen: its place among all, and where its target begins, in pixels."""

    number: int
    left: float
    label: str
    here: bool


@dataclass(frozen=True)
class EntryLine:
    """One line of the music so far."""

    system: System
    places: tuple[NoteTarget, ...]

    @property
    def view_box(self) -> str:
        return view_box(self.system)


@dataclass(frozen=True)
class Tap:
    """A note of the staff to tap on, and where its target begins, in pixels."""

    pitch: str
    words: str
    left: float


@dataclass(frozen=True)
class EntryPage:
    """The page; `facts` says how much is there, `status` what a screen reader hears."""

    entering: Entering
    glyphs: str
    lines: tuple[EntryLine, ...]
    staff: System
    taps: tuple[Tap, ...]
    facts: str
    status: str
    key: int
    time: str
    tempo_bpm: float
    keys: tuple[tuple[int, str], ...]
    times: tuple[str, ...]
    lengths: tuple[tuple[str, str], ...]
    study: dict[str, str]
    staff_box: str
    kinds: tuple[str, ...]
    tonics: tuple[tuple[str, str], ...]
    modes: tuple[str, ...]


def entry_page(entering: Entering, in_hand: InstrumentInHand, *, narrow: bool = False) -> EntryPage:
    """Build the page, its lines for a telephone if `narrow`."""
    draft, clefs = entering.draft, in_hand.instrument.clefs
    passage = draft.passage.numbered()
    shown, skipped = _about(passage, draft.at)
    line = engrave(shown, NARROW_PX if narrow else WIDTH_PX, clefs, TAP_PX)
    tapped = _diatonic(in_hand, draft.key_here)
    staff = engrave(tapped, TAP_PX * (len(tuple(tapped)) + 4), clefs, TAP_PX)
    first = draft.passage.bars[0]
    here = draft.here
    return EntryPage(
        entering=entering,
        glyphs=shared_glyphs([line, staff]),
        lines=tuple(_line(system, shown, skipped, draft) for system in line.systems),
        staff=staff.systems[0],
        taps=_taps(staff.systems[0], tapped),
        facts=_facts(passage, shown),
        status=_said(here) if here and not draft.is_blank else "Nothing entered yet.",
        key=first.key_fifths or 0,
        time="{}/{}".format(*(first.time or (4, 4))),
        tempo_bpm=draft.passage.tempo_bpm,
        keys=tuple((key, _key_words(key)) for key in KEYS),
        times=TIMES,
        lengths=LENGTH_WORDS,
        study=usual_study(in_hand),
        staff_box=view_box(staff.systems[0]),
        kinds=tuple(Study),
        tonics=tuple((tonic, tonic_name(tonic)) for tonic in TONICS),
        modes=tuple(mode for mode in MODES if mode != "chromatic"),
    )


def view_box(system: System) -> str:
    """The engraver's units of a line."""
    return f"0 0 {system.units_width:g} {system.units_height:g}"


def _key_words(fifths):
    if not fifths:
        return "no signs"
    return counted(abs(fifths), "sharp" if fifths > 0 else "flat")


def _said(note):
    return f"{note.written_pitch or 'rest'}, {counted_quarters(note.quarters)}"


def counted_quarters(quarters):
    """A length in quarters, as it is said."""
    return f"{quarters} quarter{'' if quarters <= 1 else 's'}"


def _facts(passage, shown):
    notes = sum(not note.is_rest for note in passage)
    facts = f"{counted(len(passage.bars), 'bar')} · {counted(notes, 'note')}"
    return facts if len(shown.bars) == len(passage.bars) else f"{facts} · those about the cursor are shown"


def _about(passage: Passage, at: int) -> tuple[Passage, int]:
    """The bars about the cursor, and how many notes stand before them: a press may not wait for the whole."""
    ends = list(accumulate(len(bar.notes) for bar in passage.bars))
    here = bisect_right(ends, max(at, 0))
    start = max(0, min(here, len(passage.bars) - 1) - BARS_BEFORE)
    part = passage.from_bar(start)
    shown = replace(part, bars=part.bars[: BARS_BEFORE + BARS_AFTER])
    return shown, ends[start - 1] if start else 0


def _line(system, passage, skipped, draft):
    places = []
    for number, note in enumerate(passage, start=skipped):
        if note.id in system.notes:
            left = system.notes[note.id] - TAP_PX / 2
            here = number == draft.at and not draft.is_blank
            places.append(NoteTarget(number, left, _said(note), here))
    return EntryLine(system, tuple(places))


def _diatonic(in_hand, fifths) -> Passage:
    """Every step of the staff that the instrument has, with the signs of the key."""
    instrument = in_hand.instrument
    notes = []
    for octave in range(10):
        for step in STEPS:
            pitch = Pitch(step, key_alter(step, fifths), octave)
            if instrument.written_low.midi <= pitch.midi <= instrument.written_high.midi:
                notes.append(Note(f"t{len(notes)}", pitch, Fraction(1)))
    return Passage((Bar(tuple(notes), fifths),))


def _taps(system, tapped):
    found = []
    for note in tapped:
        if note.id in system.notes:
            left = system.notes[note.id] - TAP_PX / 2
            pitch = note.written_pitch
            found.append(Tap(pitch.ascii, str(pitch), left))
    return tuple(found)
