"""Write a passage as MusicXML 4.0, with the chosen fingerings as text under the notes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from core.music.chords import MUSICXML_KINDS, NO_CHORD, ChordSymbol, parse_chord
from core.music.notation.clefs import CLEFS, clefs_through
from core.music.notation.musicxml_bars import OSSIA
from core.music.notation.musicxml_timeline import FINGERING_LYRIC
from core.music.notation.ottava import ottavas
from core.music.ornaments import TREMOLO, TRILL
from core.music.ossia import small_staff
from core.music.passage import NOMINAL, Bar, Note, Passage
from core.music.pitch import STEPS, Interval, Pitch, key_alter

# NOMINAL counts powers of two in quarters: a breve is 8 quarters.
TYPES = {3: "breve", 2: "whole", 1: "half", 0: "quarter", -1: "eighth", -2: "16th", -3: "32nd"} | {
    -4: "64th",
    -5: "128th",
    -6: "256th",
}
SIGNS = {-2: "flat-flat", -1: "flat", 0: "natural", 1: "sharp", 2: "double-sharp"}


def write_musicxml(
    passage: Passage, to_sounding: Interval, part_name: str, clefs: Sequence[str] = ("treble",)
) -> str:
    """Write a passage.

    Parameters
    ----------
    passage : Passage
    to_sounding : Interval
        Transposition of the instrument, from written to sounding.
    part_name : str
        Name of the part, such as the instrument.
    clefs : sequence of str
        Clefs that may be used, see `core.music.notation.clefs`.

    Returns
    -------
    str
        A document that `read_musicxml` reads as the same passage.
    """
    root = Element("score-partwise", version="4.0")
    if passage.title:
        SubElement(SubElement(root, "work"), "work-title").text = passage.title
    if passage.composer:
        creator = SubElement(SubElement(root, "identification"), "creator", type="composer")
        creator.text = passage.composer
    score_part = SubElement(SubElement(root, "part-list"), "score-part", id="P1")
    SubElement(score_part, "part-name").text = part_name
    part = SubElement(root, "part", id="P1")
    divisions = math.lcm(1, *(note.quarters.denominator for note in passage))
    above = small_staff(passage)
    writer, small = _Writer(divisions, staff="2" if above else ""), _Writer(divisions, "1", voice="5")
    first = 0 if passage.has_upbeat else 1
    chosen = clefs_through(passage, clefs)
    writer.ottavas = ottavas(passage, chosen)
    changes = [clef if old != clef else "" for old, clef in zip(["", *chosen], chosen, strict=False)]
    for place, (bar, clef) in enumerate(zip(passage.bars, changes, strict=True)):
        number = first + place
        measure = SubElement(part, "measure", number=str(number))
        if number == 0:
            measure.set("implicit", "yes")
        writer.attributes(measure, bar, clef, to_sounding if number == first else None)
        if (place in above) != (place - 1 in above):
            shown = {"number": "1", "print-object": "yes" if place in above else "no"}
            SubElement(SubElement(measure, "attributes"), "staff-details", shown)
        writer.notes(measure, bar)
        if place in above:
            _ossia(measure, bar, above[place], writer, small)
    indent(root)
    body = tostring(root, encoding="unicode")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{body}\n'


class _Writer:
    """What runs on from bar to bar while a passage is written."""

    def __init__(self, divisions: int, staff: str = "", voice: str = "1") -> None:
        self.divisions = divisions
        self.staff, self.voice = staff, voice
        self.key = 0
        self.time = (4, 4)
        self.tied_in = False
        self.in_word = False
        self.in_tremolo = False
        self.ottavas: tuple[frozenset[str], frozenset[str]] = (frozenset(), frozenset())

    @property
    def _slur(self) -> str:
        return "2" if self.staff == "1" else "1"  # each staff has its own

    def attributes(self, measure: Element, bar: Bar, clef: str, to_sounding: Interval | None) -> None:
        first = to_sounding is not None
        if not (first or clef or bar.key_fifths is not None or bar.time is not None):
            return
        attributes = SubElement(measure, "attributes")
        if first:
            SubElement(attributes, "divisions").text = str(self.divisions)
        if bar.key_fifths is not None:
            self.key = bar.key_fifths
            SubElement(SubElement(attributes, "key"), "fifths").text = str(bar.key_fifths)
        if bar.time is not None:
            self.time = bar.time
            time = SubElement(attributes, "time")
            SubElement(time, "beats").text = str(bar.time[0])
            SubElement(time, "beat-type").text = str(bar.time[1])
        if first and self.staff:
            SubElement(attributes, "staves").text = "2"
        for staff in ("1", "2") if self.staff and clef else ("",) if clef else ():
            _clef(attributes, clef, staff)
        if first and self.staff:
            details = SubElement(attributes, "staff-details", {"number": "1", "print-object": "no"})
            SubElement(details, "staff-type").text = OSSIA
            SubElement(details, "staff-size").text = "65"
        if to_sounding is not None and to_sounding != Interval(0, 0):
            transpose = SubElement(attributes, "transpose")
            SubElement(transpose, "diatonic").text = str(to_sounding.steps)
            SubElement(transpose, "chromatic").text = str(to_sounding.semitones)

    def notes(self, measure: Element, bar: Bar) -> None:
        signs = {step: key_alter(step, self.key) for step in STEPS}
        shown: dict[tuple[str, int], int] = {}
        beams = beam_marks(bar, self.time)
        tuplets = tuplet_marks(bar)
        for note, beam, tuplet in zip(bar.notes, beams, tuplets, strict=True):
            _directions(measure, note)
            if note.id in self.ottavas[0]:
                _octave_shift(measure, "down")
            self._grace(measure, note, signs, shown)
            element = SubElement(measure, "note", id=note.id)
            if note.written_pitch is None:
                SubElement(element, "rest")
            else:
                _write_pitch(element, note.written_pitch)
            SubElement(element, "duration").text = str(note.quarters * self.divisions)
            for kind, wanted in (("stop", self.tied_in), ("start", note.tied)):
                if wanted:
                    SubElement(element, "tie", type=kind)
            SubElement(element, "voice").text = self.voice
            self._shape(element, note, signs, shown)
            if self.staff:
                SubElement(element, "staff").text = self.staff
            for level, mark in enumerate(beam, start=1):
                SubElement(element, "beam", number=str(level)).text = mark
            self._notations(element, note, tuplet)
            self._lyrics(element, note)
            if note.hairpin_stop:
                _wedge(measure, "stop")
            if note.id in self.ottavas[1]:
                _octave_shift(measure, "stop")
            self.tied_in = note.tied
        if self.voice == "1":
            self._put_on_staff(measure)

    def _put_on_staff(self, measure: Element) -> None:
        """What stands above and below belongs to the same staff as the notes."""
        for sign in measure if self.staff else ():
            if sign.tag in ("direction", "harmony"):
                place = next((n for n, part in enumerate(sign) if part.tag == "sound"), len(sign))
                staff = Element("staff")
                staff.text = self.staff
                sign.insert(place, staff)

    def _grace(
        self, measure: Element, note: Note, signs: dict[str, int], shown: dict[tuple[str, int], int]
    ) -> None:
        for pitch in note.grace:
            element = SubElement(measure, "note")
            SubElement(element, "grace")
            _write_pitch(element, pitch)
            SubElement(element, "voice").text = self.voice
            SubElement(element, "type").text = "eighth"
            _accidental(element, pitch, signs, shown)
            if self.staff:
                SubElement(element, "staff").text = self.staff

    def _lyrics(self, element: Element, note: Note) -> None:
        if note.fingering:
            lyric = SubElement(element, "lyric", number="1", name=FINGERING_LYRIC)
            SubElement(lyric, "syllabic").text = "single"
            SubElement(lyric, "text").text = note.fingering
        if note.lyric:
            goes_on, text = note.lyric.endswith("-"), note.lyric.removesuffix("-") or "-"
            lyric = SubElement(element, "lyric", number="2")
            begins, ends = ("middle", "end") if self.in_word else ("begin", "single")
            SubElement(lyric, "syllabic").text = begins if goes_on else ends
            SubElement(lyric, "text").text = text
            self.in_word = goes_on

    def _shape(
        self, element: Element, note: Note, signs: dict[str, int], shown: dict[tuple[str, int], int]
    ) -> None:
        power, dots = NOMINAL[note.nominal]
        SubElement(element, "type").text = TYPES[power]
        for _ in range(dots):
            SubElement(element, "dot")
        if note.written_pitch is not None and not self.tied_in:
            _accidental(element, note.written_pitch, signs, shown)
        if note.tuplet != (1, 1):
            modification = SubElement(element, "time-modification")
            SubElement(modification, "actual-notes").text = str(note.tuplet[0])
            SubElement(modification, "normal-notes").text = str(note.tuplet[1])

    def _notations(self, element: Element, note: Note, tuplet: tuple[str, ...]) -> None:
        notations = Element("notations")
        for kind, wanted in (("stop", self.tied_in), ("start", note.tied)):
            if wanted:
                SubElement(notations, "tied", type=kind)
        if note.slur_stop:
            SubElement(notations, "slur", type="stop", number=self._slur)
        if note.slur_start:
            SubElement(notations, "slur", type="start", number=self._slur)
        for kind in () if TREMOLO in note.ornaments and note.trilled_to else tuplet:
            SubElement(notations, "tuplet", type=kind, bracket="yes")
        self.in_tremolo = not self.in_tremolo and TREMOLO in note.ornaments and note.trilled_to is not None
        _marks(notations, note, closes=not self.in_tremolo)
        if len(notations):
            element.append(notations)


def _ossia(measure: Element, bar: Bar, above: Bar, writer: _Writer, small: _Writer) -> None:
    """The same bar on a small staff above, as it is played until its notes are within reach."""
    SubElement(SubElement(measure, "backup"), "duration").text = str(bar.quarters * writer.divisions)
    small.key, small.time = writer.key, writer.time
    small.notes(measure, above)


def _clef(attributes: Element, clef: str, staff: str) -> None:
    element = SubElement(attributes, "clef", {"number": staff} if staff else {})
    sign, line, _, _ = CLEFS[clef]
    SubElement(element, "sign").text = sign
    SubElement(element, "line").text = str(line)


def _marks(notations: Element, note: Note, *, closes: bool) -> None:
    if note.ornaments:
        marks = SubElement(notations, "ornaments")
        for name in sorted(note.ornaments):
            mark = SubElement(marks, name)
            if name == TREMOLO:
                mark.text = "3"
            if name == TREMOLO and note.trilled_to:
                mark.set("type", "stop" if closes else "start")
            if name == TRILL and note.trilled_to:
                SubElement(marks, "accidental-mark").text = SIGNS[note.trilled_to.alter]
    if note.fingering:
        SubElement(SubElement(notations, "technical"), "fingering").text = note.fingering
    if note.articulations:
        marks = SubElement(notations, "articulations")
        for name in sorted(note.articulations):
            SubElement(marks, name)
    if note.fermata:
        SubElement(notations, "fermata")


def _accidental(
    element: Element, pitch: Pitch, signs: dict[str, int], shown: dict[tuple[str, int], int]
) -> None:
    """The sign that a pitch needs after what stands before it in its bar."""
    line = (pitch.step, pitch.octave)
    if pitch.alter != shown.get(line, signs[pitch.step]):
        SubElement(element, "accidental").text = SIGNS[pitch.alter]
        shown[line] = pitch.alter


def _wedge(measure: Element, kind: str) -> None:
    direction = SubElement(measure, "direction", placement="below")
    SubElement(SubElement(direction, "direction-type"), "wedge", type=kind)


def _octave_shift(measure: Element, kind: str) -> None:
    direction = SubElement(measure, "direction", placement="above")
    SubElement(SubElement(direction, "direction-type"), "octave-shift", type=kind, size="8")


def _write_pitch(element: Element, pitch: Pitch) -> None:
    child = SubElement(element, "pitch")
    SubElement(child, "step").text = pitch.step
    if pitch.alter:
        SubElement(child, "alter").text = str(pitch.alter)
    SubElement(child, "octave").text = str(pitch.octave)


def _harmony(measure: Element, chord: ChordSymbol | None) -> None:
    harmony = SubElement(measure, "harmony")
    parts = [("root", chord.root)] if chord else []
    if chord and chord.bass != chord.root:
        parts.append(("bass", chord.bass))
    for name, pitch in parts:
        part = SubElement(harmony, name)
        SubElement(part, f"{name}-step").text = pitch.step
        if pitch.alter:
            SubElement(part, f"{name}-alter").text = str(pitch.alter)
    kind = Element("kind", text=chord.written if chord else NO_CHORD)
    kind.text = MUSICXML_KINDS.get(chord.kind, "other") if chord else "none"
    harmony.insert(1 if chord else 0, kind)


def _directions(measure: Element, note: Note) -> None:
    if note.chord:
        _harmony(measure, parse_chord(note.chord))
    if note.words:
        direction = SubElement(measure, "direction", placement="above")
        SubElement(SubElement(direction, "direction-type"), "words").text = note.words
    if note.tempo_bpm is not None:
        direction = SubElement(measure, "direction", placement="above")
        metronome = SubElement(SubElement(direction, "direction-type"), "metronome")
        SubElement(metronome, "beat-unit").text = "quarter"
        SubElement(metronome, "per-minute").text = f"{note.tempo_bpm:g}"
        SubElement(direction, "sound", tempo=repr(note.tempo_bpm))
    if note.dynamic:
        direction = SubElement(measure, "direction", placement="below")
        SubElement(SubElement(SubElement(direction, "direction-type"), "dynamics"), note.dynamic)
    if note.hairpin:
        _wedge(measure, note.hairpin)


def beam_groups(bar: Bar, time: tuple[int, int]) -> list[list[int]]:
    """Indices of notes that share a beam: shorter than a quarter, within one beat, no rest between.

    Parameters
    ----------
    bar : Bar
    time : (int, int)
        Time signature: beats, and what a beat is, as (3, 4).

    Returns
    -------
    list of list of int, from 0
    """
    beats, beat_type = time
    beat = Fraction(3, 2) if beat_type == 8 and beats % 3 == 0 else max(Fraction(4, beat_type), Fraction(1))
    groups: list[list[int]] = []
    place = Fraction(0)
    last_beat = None
    for index, note in enumerate(bar.notes):
        short = not note.is_rest and NOMINAL[note.nominal][0] < 0
        if short and groups and last_beat == place // beat and groups[-1][-1] == index - 1:
            groups[-1].append(index)
        elif short:
            groups.append([index])
        last_beat = place // beat if short else None
        place += note.quarters
    return [group for group in groups if len(group) > 1]


def beam_marks(bar: Bar, time: tuple[int, int]) -> list[list[str]]:
    """Beam marks of every note, one for each level, as MusicXML names them.

    Parameters
    ----------
    bar : Bar
    time : (int, int)
        Time signature: beats, and what a beat is, as (3, 4).

    Returns
    -------
    list of list of str
    """
    marks: list[list[str]] = [[] for _ in bar.notes]
    for group in beam_groups(bar, time):
        depth = [-NOMINAL[bar.notes[index].nominal][0] for index in group]
        for place, index in enumerate(group):
            before = depth[place - 1] if place else 0
            after = depth[place + 1] if place + 1 < len(group) else 0
            for level in range(1, depth[place] + 1):
                joined = (before >= level, after >= level)
                marks[index].append(
                    {(True, True): "continue", (False, True): "begin", (True, False): "end"}.get(
                        joined, "backward hook" if place else "forward hook"
                    )
                )
    return marks


def tuplet_marks(bar: Bar) -> list[tuple[str, ...]]:
    """Where tuplets start and stop: a tuplet is full when it fills its normal notes.

    Parameters
    ----------
    bar : Bar

    Returns
    -------
    list of tuple of str
    """
    marks: list[list[str]] = [[] for _ in bar.notes]
    start, filled, unit = None, Fraction(0), Fraction(0)
    for index, note in enumerate(bar.notes):
        if start is not None and note.tuplet != bar.notes[start].tuplet:
            marks[index - 1].append("stop")
            start = None
        if note.tuplet == (1, 1):
            continue
        if start is None:
            start, filled, unit = index, Fraction(0), note.nominal
            marks[index].append("start")
        unit = min(unit, note.nominal)
        filled += note.nominal
        if filled >= unit * note.tuplet[0]:
            marks[index].append("stop")
            start = None
    if start is not None:
        marks[-1].append("stop")
    return [tuple(mark) for mark in marks]
