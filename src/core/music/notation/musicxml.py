"""Read MusicXML (partwise, plain or compressed): one part, one voice.

References
----------
W3C Music Notation Community Group, MusicXML 4.0.
"""

from __future__ import annotations

import io
import posixpath
import struct
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from core.errors import NotationError, PassageError, PitchError
from core.music.notation.score import Score, single_notes
from core.music.passage import (
    ARTICULATIONS,
    LOUDNESS,
    NOTES_LIMIT,
    Bar,
    Note,
    Passage,
    check_tempo,
)
from core.music.pitch import Interval, Pitch

FINGERING_LYRIC = "fingering"
UNPACKED_LIMIT = 20_000_000
ENTRIES_LIMIT = 100
UNPACKED = {
    zipfile.ZIP_STORED,
    zipfile.ZIP_DEFLATED,
}  # as MusicXML asks; the others are not bounded so easily
# What unpacking a damaged or protected file may end in.
DAMAGED = (zipfile.BadZipFile, zlib.error, struct.error, OSError, ValueError, RuntimeError, EOFError)
QUARTERS_LIMIT = 64
# Semitones by which an instrument may transpose, and steps by which its staff may depart from them.
TRANSPOSE_LIMIT, STEPS_APART = 48, 3
DOTS_LIMIT, BEATS_LENGTH_LIMIT = 4, 40
BEAT_UNITS = {"whole": Fraction(4), "half": Fraction(2), "eighth": Fraction(1, 2), "16th": Fraction(1, 4)}
ALLOWED_TUPLET = range(1, 33)


def unpack_mxl(data: bytes) -> bytes:
    """Take the score out of a compressed MusicXML file.

    Raises
    ------
    NotationError
        If it is no such file, has too many or too large entries, or points outside itself.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if any(entry.compress_type not in UNPACKED for entry in archive.infolist()):
                raise NotationError(
                    "the .mxl file is packed in an unusual way; export it again, or export plain .musicxml"
                )
            if len(archive.infolist()) > ENTRIES_LIMIT:
                raise NotationError(f"the .mxl file must have at most {ENTRIES_LIMIT} entries")
            container = _parse(_entry(archive, "META-INF/container.xml"))
            root = next((e.get("full-path", "") for e in container.iter() if _tag(e) == "rootfile"), "")
            if not root or root.startswith(("/", "\\")) or ".." in posixpath.normpath(root).split("/"):
                raise NotationError("the .mxl file does not say which of its entries is the score")
            return _entry(archive, root)
    except NotationError:
        raise
    except (
        zipfile.BadZipFile,
        zlib.error,
        OSError,
        ValueError,
        RuntimeError,
        EOFError,
        struct.error,
    ) as error:
        raise NotationError(
            "the .mxl file is damaged or protected; export it again, or export plain .musicxml"
        ) from error


def _entry(archive: zipfile.ZipFile, name: str) -> bytes:
    try:
        with archive.open(name) as entry:
            content = entry.read(UNPACKED_LIMIT + 1)
    except KeyError as error:
        raise NotationError(f"the .mxl file has no entry {name!r}; export it again") from error
    if len(content) > UNPACKED_LIMIT:
        raise NotationError(f"the score must unpack to at most {UNPACKED_LIMIT // 1_000_000} MB")
    return content


def _parse(data: bytes) -> Element:
    try:
        root: Element = fromstring(data)
        return root
    except DefusedXmlException as error:
        raise NotationError("the file defines XML entities, which a score does not need; not read") from error
    except ParseError as error:
        line, column = error.position
        raise NotationError(
            f"the file is not whole XML: it breaks off or is damaged at line {line}, column {column}"
        ) from error
    except (ValueError, LookupError) as error:
        raise NotationError(f"the file's text encoding cannot be read: {error}") from error


def _tag(element: Element) -> str:
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


@dataclass
class _State:
    """What runs on from bar to bar while a part is read."""

    divisions: Fraction = Fraction(1)
    bar: int = 1
    beat_type: int = 4
    into: Fraction = Fraction(0)
    slurs: set[str] = field(default_factory=set)
    voice: str | None = None
    second_pass: bool = False
    dynamic: str = ""
    tempo_bpm: float | None = None
    to_sounding: Interval | None = None
    count: int = 0
    notices: dict[str, int] = field(default_factory=dict)

    @property
    def beat(self) -> Fraction:
        return 1 + self.into * self.beat_type / 4

    def fail(self, message: str) -> NotationError:
        return NotationError(message, self.bar, self.beat)

    def notice(self, message: str) -> None:
        self.notices[message] = self.notices.get(message, 0) + 1


def read_musicxml(data: bytes) -> Score:
    """Read a partwise MusicXML document.

    Raises
    ------
    NotationError, PassageError
        As `core.music.notation.formats.read_score`.
    """
    root = _parse(data)
    if _tag(root) != "score-partwise":
        raise NotationError(f"the file must be partwise MusicXML, got <{_tag(root)[:40]}>")
    parts = root.findall("part")
    if len(parts) != 1:
        names = [(e.findtext("part-name") or "unnamed").strip() for e in root.iter("score-part")][:12]
        raise NotationError(
            f"the score must have one part, got {len(parts)}"
            f"{' (' + ', '.join(names) + ')' if names else ''}; export the one that is worked on"
        )
    state = _State()
    bars = []
    measures = parts[0].findall("measure")
    for place, measure in enumerate(measures):
        number = measure.get("number", "")
        state.bar = int(number) if number.isdecimal() and len(number) < 6 else place + 1
        bars.append(_bar(measure, state))
    title = root.findtext("work/work-title") or root.findtext("movement-title") or ""
    return Score(
        passage=Passage(tuple(bar for bar in bars if bar.notes), title.strip()[:200]).numbered(),
        concert=root.find("defaults/concert-score") is not None,
        to_sounding=state.to_sounding,
        notices=tuple(f"{text} ({n})" if n > 1 else text for text, n in state.notices.items()),
    )


def _bar(measure: Element, state: _State) -> Bar:
    notes: list[Note] = []
    key: int | None = None
    time: tuple[int, int] | None = None
    state.into, state.second_pass = Fraction(0), False
    for element in measure:
        match _tag(element):
            case "attributes":
                new_key, new_time = _attributes(element, state)
                if state.into == 0:
                    key, time = (key if new_key is None else new_key), new_time or time
                elif new_key is not None or new_time is not None:
                    state.notice("A key or time signature inside a bar was left out")
            case "direction" | "sound":
                _direction(element, state)
            case "barline" if element.find("repeat") is not None or element.find("ending") is not None:
                state.notice("Repeats and endings are read once, in the order of the page")
            case "backup":
                state.second_pass = True
            case "forward" if not state.second_pass:
                rest = Note(f"n{state.count + 1}", None, _quarters(element, state))
                _append(notes, rest, state)
            case "note":
                notes_before = state.count
                for note in _note(element, state):
                    _append(notes, note, state)
                if state.count > notes_before:
                    state.dynamic, state.tempo_bpm = "", None
    return Bar(tuple(notes), key, time)


def _append(notes: list[Note], note: Note, state: _State) -> None:
    for part in single_notes(note, state.fail):
        notes.append(part)
        state.into += part.quarters
        state.count += 1
    if state.count > NOTES_LIMIT:
        raise PassageError(
            f"a passage must have at most {NOTES_LIMIT:,} notes and rests; this one goes on after bar "
            f"{state.bar}; bring in the part that is worked on"
        )


def _attributes(element: Element, state: _State) -> tuple[int | None, tuple[int, int] | None]:
    if (text := element.findtext("divisions")) is not None:
        state.divisions = _fraction(text, "divisions", state)
        if not 0 < state.divisions <= 1_000_000:
            raise state.fail(f"divisions must be from 1 to 1,000,000, got {text.strip()[:20]}")
    if (transpose := element.find("transpose")) is not None:
        state.to_sounding = _transposition(transpose, state)
    key = None
    if (text := element.findtext("key/fifths")) is not None:
        key = _integer(text, "key", state)
        if not -7 <= key <= 7:
            raise state.fail(f"the key must have from 7 flats to 7 sharps, got {key}")
    return key, _time(element, state)


def _transposition(transpose: Element, state: _State) -> Interval:
    octaves, semitones = (
        _integer(transpose.findtext(name) or "0", name, state) for name in ("octave-change", "chromatic")
    )
    semitones += 12 * octaves
    diatonic = transpose.findtext("diatonic")
    steps = _integer(diatonic, "diatonic", state) + 7 * octaves if diatonic else round(semitones * 7 / 12)
    if abs(semitones) > TRANSPOSE_LIMIT or abs(12 * steps - 7 * semitones) > 12 * STEPS_APART:
        raise state.fail(
            f"the part must be transposed by at most {TRANSPOSE_LIMIT // 12} octaves, and by about as many "
            "steps as semitones ask for; export it again"
        )
    return Interval(steps, semitones)


def _time(element: Element, state: _State) -> tuple[int, int] | None:
    beats, beat_type = element.findtext("time/beats"), element.findtext("time/beat-type")
    if beats is None or beat_type is None:
        return None
    if len(beats) > BEATS_LENGTH_LIMIT:
        raise state.fail(f"the time signature cannot be read: {beats[:20]}…")
    time = (
        sum(_integer(part, "beats", state) for part in beats.split("+")),
        _integer(beat_type, "beat-type", state),
    )
    if not 1 <= time[0] <= 64 or time[1] not in (1, 2, 4, 8, 16, 32, 64):
        raise state.fail(f"the time signature cannot be {time[0]}/{time[1]}")
    state.beat_type = time[1]
    return time


def _direction(element: Element, state: _State) -> None:
    for sound in [element] if _tag(element) == "sound" else element.findall("sound"):
        if (tempo := sound.get("tempo")) is not None:
            state.tempo_bpm = _tempo(tempo, state)
    for kind in element.findall("direction-type"):
        for dynamics in kind.findall("dynamics"):
            marks = [_tag(mark) for mark in dynamics]
            state.dynamic = next((mark for mark in marks if mark in LOUDNESS), state.dynamic)
        metronome = kind.find("metronome")
        per_minute = kind.findtext("metronome/per-minute")
        if metronome is not None and per_minute is not None and state.tempo_bpm is None:
            unit = BEAT_UNITS.get((metronome.findtext("beat-unit") or "").strip(), Fraction(1))
            dots = min(len(metronome.findall("beat-unit-dot")), DOTS_LIMIT)
            state.tempo_bpm = _tempo(per_minute, state, unit * (2 - Fraction(1, 2**dots)))


def _tempo(text: str, state: _State, unit: Fraction = Fraction(1)) -> float:
    try:
        return check_tempo(float(_fraction(text, "tempo", state) * unit))
    except PassageError as error:
        raise state.fail(str(error)) from error


def _note(element: Element, state: _State) -> Iterator[Note]:
    if element.find("grace") is not None:
        state.notice("Grace notes were left out")
        return
    if element.find("cue") is not None:
        return
    rest = element.find("rest") is not None
    if element.find("chord") is not None:
        raise state.fail("a chord stands here; a reed plays one note at a time, so leave one note")
    voice = (element.findtext("voice") or "1").strip()
    state.voice = state.voice if state.voice is not None or rest else voice
    if state.second_pass or (state.voice is not None and voice != state.voice):
        if rest:
            return
        raise state.fail("a second voice stands here; export a part with one voice")
    if element.find("unpitched") is not None:
        raise state.fail("a note without pitch stands here; export the part of a reed instrument")
    modification = element.find("time-modification")
    tuplet = (1, 1)
    if modification is not None:
        tuplet = (
            _integer(modification.findtext("actual-notes") or "", "actual-notes", state),
            _integer(modification.findtext("normal-notes") or "", "normal-notes", state),
        )
        if not all(number in ALLOWED_TUPLET for number in tuplet):
            raise state.fail(f"a tuplet of {tuplet[0]} in the time of {tuplet[1]} cannot be read")
    start, stop = _slurs(element, state)
    yield Note(
        id=f"n{state.count + 1}",
        written_pitch=None if rest else _pitch(element, state),
        quarters=_quarters(element, state),
        tuplet=tuplet,
        tied=not rest and any(tie.get("type") == "start" for tie in element.findall("tie")),
        slur_start=start,
        slur_stop=stop,
        articulations=frozenset(
            _tag(mark)
            for marks in element.findall("notations/articulations")
            for mark in marks
            if _tag(mark) in ARTICULATIONS
        ),
        dynamic=state.dynamic,
        tempo_bpm=state.tempo_bpm,
        fingering=_fingering_text(element),
    )


def _slurs(element: Element, state: _State) -> tuple[bool, bool]:
    """Whether the outermost slur begins or ends here; inner slurs change nothing."""
    before = bool(state.slurs)
    marks = element.findall("notations/slur")
    state.slurs -= {mark.get("number", "1") for mark in marks if mark.get("type") == "stop"}
    stop = before and not state.slurs
    starts = {mark.get("number", "1") for mark in marks if mark.get("type") == "start"}
    start = bool(starts) and not state.slurs
    state.slurs |= starts
    return start, stop


def _fingering_text(element: Element) -> str:
    for lyric in element.findall("lyric"):
        if lyric.get("name") == FINGERING_LYRIC:
            return (lyric.findtext("text") or "").strip()[:200]
    return ""


def _pitch(element: Element, state: _State) -> Pitch:
    pitch = element.find("pitch")
    if pitch is None:
        raise state.fail("a note has neither pitch nor rest")
    try:
        alter = _fraction(pitch.findtext("alter") or "0", "alter", state)
        if alter.denominator != 1:
            state.notice("Quarter-tone signs were rounded down")
        octave = _integer(pitch.findtext("octave") or "", "octave", state)
        return Pitch((pitch.findtext("step") or "").strip(), alter.numerator // alter.denominator, octave)
    except PitchError as error:
        raise state.fail(str(error)) from error


def _quarters(element: Element, state: _State) -> Fraction:
    quarters = _fraction(element.findtext("duration") or "", "duration", state) / state.divisions
    if not 0 < quarters <= QUARTERS_LIMIT:
        raise state.fail(
            f"a note must last from above 0 to {QUARTERS_LIMIT} quarters, got {float(quarters):g}"
        )
    return quarters


def _integer(text: str, what: str, state: _State) -> int:
    value = _fraction(text, what, state)
    if value.denominator != 1:
        raise state.fail(f"{what} must be a whole number, got {text.strip()[:20]}")
    return value.numerator


def _fraction(text: str, what: str, state: _State) -> Fraction:
    try:
        if len(text) > 40 or "e" in text.lower():  # 1e999999999 would fill the memory
            raise ValueError
        return Fraction(text.strip())
    except (ValueError, ZeroDivisionError) as error:
        raise state.fail(f"{what} must be a number, got {text.strip()[:20]!r}") from error
