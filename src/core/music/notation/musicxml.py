"""Read MusicXML (partwise, plain or compressed): one part, one voice.

References
----------
W3C Music Notation Community Group, MusicXML 4.0.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from xml.etree.ElementTree import Element

from core.errors import NotationError, PassageError, PitchError
from core.music.events import LOUDNESS, check_tempo
from core.music.notation.musicxml_state import PartState, fraction, integer
from core.music.notation.mxl import _parse, _tag
from core.music.notation.score import Score, single_notes
from core.music.passage import ARTICULATIONS, NOTES_LIMIT, Bar, Note, Passage
from core.music.pitch import Interval, Pitch

FINGERING_LYRIC = "fingering"
QUARTERS_LIMIT = 64
# Semitones by which an instrument may transpose, and steps by which its staff may depart from them.
TRANSPOSE_LIMIT, STEPS_APART = 48, 3
DOTS_LIMIT, BEATS_LENGTH_LIMIT = 4, 40
BEAT_UNITS = {"whole": Fraction(4), "half": Fraction(2), "eighth": Fraction(1, 2), "16th": Fraction(1, 4)}
ALLOWED_TUPLET = range(1, 33)


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
    state = PartState()
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


def _bar(measure: Element, state: PartState) -> Bar:
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


def _append(notes: list[Note], note: Note, state: PartState) -> None:
    for part in single_notes(note, state.fail):
        notes.append(part)
        state.into += part.quarters
        state.count += 1
    if state.count > NOTES_LIMIT:
        raise PassageError(
            f"a passage must have at most {NOTES_LIMIT:,} notes and rests; this one goes on after bar "
            f"{state.bar}; bring in the part that is worked on"
        )


def _attributes(element: Element, state: PartState) -> tuple[int | None, tuple[int, int] | None]:
    if (text := element.findtext("divisions")) is not None:
        state.divisions = fraction(text, "divisions", state)
        if not 0 < state.divisions <= 1_000_000:
            raise state.fail(f"divisions must be from 1 to 1,000,000, got {text.strip()[:20]}")
    if (transpose := element.find("transpose")) is not None:
        state.to_sounding = _transposition(transpose, state)
    key = None
    if (text := element.findtext("key/fifths")) is not None:
        key = integer(text, "key", state)
        if not -7 <= key <= 7:
            raise state.fail(f"the key must have from 7 flats to 7 sharps, got {key}")
    return key, _time(element, state)


def _transposition(transpose: Element, state: PartState) -> Interval:
    octaves, semitones = (
        integer(transpose.findtext(name) or "0", name, state) for name in ("octave-change", "chromatic")
    )
    semitones += 12 * octaves
    diatonic = transpose.findtext("diatonic")
    steps = integer(diatonic, "diatonic", state) + 7 * octaves if diatonic else round(semitones * 7 / 12)
    if abs(semitones) > TRANSPOSE_LIMIT or abs(12 * steps - 7 * semitones) > 12 * STEPS_APART:
        raise state.fail(
            f"the part must be transposed by at most {TRANSPOSE_LIMIT // 12} octaves, and by about as many "
            "steps as semitones ask for; export it again"
        )
    return Interval(steps, semitones)


def _time(element: Element, state: PartState) -> tuple[int, int] | None:
    beats, beat_type = element.findtext("time/beats"), element.findtext("time/beat-type")
    if beats is None or beat_type is None:
        return None
    if len(beats) > BEATS_LENGTH_LIMIT:
        raise state.fail(f"the time signature cannot be read: {beats[:20]}…")
    time = (
        sum(integer(part, "beats", state) for part in beats.split("+")),
        integer(beat_type, "beat-type", state),
    )
    if not 1 <= time[0] <= 64 or time[1] not in (1, 2, 4, 8, 16, 32, 64):
        raise state.fail(f"the time signature cannot be {time[0]}/{time[1]}")
    state.beat_type = time[1]
    return time


def _direction(element: Element, state: PartState) -> None:
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


def _tempo(text: str, state: PartState, unit: Fraction = Fraction(1)) -> float:
    try:
        return check_tempo(float(fraction(text, "tempo", state) * unit))
    except PassageError as error:
        raise state.fail(str(error)) from error


def _note(element: Element, state: PartState) -> Iterator[Note]:
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
    start, stop = _slurs(element, state)
    yield Note(
        id=f"n{state.count + 1}",
        written_pitch=None if rest else _pitch(element, state),
        quarters=_quarters(element, state),
        tuplet=_tuplet(element, state),
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


def _tuplet(element: Element, state: PartState) -> tuple[int, int]:
    """Notes played, and in the time of how many; (1, 1) outside tuplets."""
    modification = element.find("time-modification")
    tuplet = (1, 1)
    if modification is not None:
        tuplet = (
            integer(modification.findtext("actual-notes") or "", "actual-notes", state),
            integer(modification.findtext("normal-notes") or "", "normal-notes", state),
        )
        if not all(number in ALLOWED_TUPLET for number in tuplet):
            raise state.fail(f"a tuplet of {tuplet[0]} in the time of {tuplet[1]} cannot be read")
    return tuplet


def _slurs(element: Element, state: PartState) -> tuple[bool, bool]:
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


def _pitch(element: Element, state: PartState) -> Pitch:
    pitch = element.find("pitch")
    if pitch is None:
        raise state.fail("a note has neither pitch nor rest")
    try:
        alter = fraction(pitch.findtext("alter") or "0", "alter", state)
        if alter.denominator != 1:
            state.notice("Quarter-tone signs were rounded down")
        octave = integer(pitch.findtext("octave") or "", "octave", state)
        return Pitch((pitch.findtext("step") or "").strip(), alter.numerator // alter.denominator, octave)
    except PitchError as error:
        raise state.fail(str(error)) from error


def _quarters(element: Element, state: PartState) -> Fraction:
    quarters = fraction(element.findtext("duration") or "", "duration", state) / state.divisions
    if not 0 < quarters <= QUARTERS_LIMIT:
        raise state.fail(
            f"a note must last from above 0 to {QUARTERS_LIMIT} quarters, got {float(quarters):g}"
        )
    return quarters
