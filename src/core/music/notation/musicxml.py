"""Read MusicXML, plain or compressed, by part or by time: one part, one voice, one note of each chord.

What a passage does not hold is left out and listed with bar and beat; one odd element never refuses a score.

References
----------
W3C Music Notation Community Group, MusicXML 4.0.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from core.errors import NotationError
from core.music.notation.musicxml_bars import Above, Head, Measure, Timed
from core.music.notation.musicxml_document import Part, read_document
from core.music.notation.musicxml_timeline import Timeline
from core.music.notation.score import (
    CHORD_PLACE,
    DEFAULT,
    ROUNDED,
    SHORTEST,
    Choices,
    Chord,
    Losses,
    Offered,
    Option,
    Score,
    arranged,
    single_notes,
    taken,
    writable,
)
from core.music.ornaments import TRILL, beside
from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch
from core.words import counted

# Notes looked at in a part, whatever their voice; a passage takes fewer.
READ_LIMIT = 30_000


def read_musicxml(data: bytes, choices: Choices = DEFAULT) -> Score:
    """Read a MusicXML document.

    Parameters
    ----------
    data : bytes
    choices : Choices

    Returns
    -------
    Score

    Raises
    ------
    NotationError, PassageError
        As `core.music.notation.formats.read_score`.
    """
    document, losses = read_document(data), Losses()
    sounding = [part for part in document.parts if part.notes]
    if not sounding:
        raise NotationError("no note with a pitch stands in the score; export the part of a reed instrument")
    options = tuple(
        (part.key, f"{part.name or f'Part {place}'}, {counted(part.notes, 'note')}")
        for place, part in enumerate(sounding, start=1)
    )
    key = taken(choices.part, options, likely_part(sounding, choices.player))
    timeline = Timeline(losses)
    part = next(part for part in sounding if part.key == key)
    _read(part, timeline, choices)
    voices = _voices(timeline.measures)
    line = _Line(timeline, taken(choices.voice, voices, _largest(timeline.measures)), choices.chord, losses)
    bars = [line.bar(measure) for measure in timeline.measures]
    numbers = [measure.number for measure in timeline.measures]
    signs = [measure.signs for measure in timeline.measures]
    ordered = arranged(bars, numbers, signs, choices, losses)
    return Score(
        passage=Passage(ordered, document.title, document.composer).numbered(),
        concert=document.concert,
        to_sounding=timeline.to_sounding,
        from_file=True,
        notices=losses.notices(),
        offered=Offered(
            parts=options,
            voices=voices,
            part=key,
            voice=line.voice,
            chord_notes=line.largest_chord,
            repeats=any(one.any for one in signs),
        ),
    )


def _read(part: Part, timeline: Timeline, choices: Choices) -> None:
    """Lay a part out in time, as far as it is wanted; what is beyond all limits is not looked at."""
    for element in part.measures:
        timeline.read(element)
        number = timeline.measures[-1].number
        if choices.bars and number > choices.bars[1]:
            return
        if timeline.read_notes > READ_LIMIT:
            what = f"Not looked at, for the part has more than {READ_LIMIT:,} notes, what follows"
            timeline.losses.add(what, number)
            return


def likely_part(parts: Sequence[Part], player: str) -> str:
    """Key of the part whose name has most in common with the name of an instrument; the first if none has.

    Parameters
    ----------
    parts : sequence of Part
    player : str
        Name of the instrument that it is read for; empty for any.

    Returns
    -------
    str
    """
    words = player.lower().replace("-", " ").split()

    def alike(part: Part) -> int:
        names = part.name.lower().replace("-", " ").replace(".", " ").split()
        return sum(any(name[:3] == word[:3] for name in names) for word in words)

    return max(parts, key=alike).key


def _heads(measures: Sequence[Measure]) -> dict[str, int]:
    """Notes with a pitch of every voice."""
    found: dict[str, int] = {}
    for measure in measures:
        for voice, line in measure.voices.items():
            found[voice] = found.get(voice, 0) + sum(len(timed.heads) for timed in line)
    return {voice: count for voice, count in found.items() if count}


def _voices(measures: Sequence[Measure]) -> tuple[Option, ...]:
    def words(voice: str) -> str:
        staff, dot, name = voice.rpartition(".")
        return f"staff {staff}, voice {name}" if dot else f"voice {name}"

    heads = _heads(measures)
    return tuple((voice, f"{words(voice)}, {counted(heads[voice], 'note')}") for voice in sorted(heads))


def _largest(measures: Sequence[Measure]) -> str:
    heads = _heads(measures)
    return max(sorted(heads), key=lambda voice: heads[voice], default="")


@dataclass
class _Line:
    """One voice on its way to being a passage; what runs on from bar to bar is kept here."""

    timeline: Timeline
    voice: str
    chord: Chord
    losses: Losses
    largest_chord: int = 1
    notes: list[Note] = field(default_factory=list)
    _slurs: set[str] = field(default_factory=set)
    _waiting: list[Above] = field(default_factory=list)
    _beat_type: int = 4
    _ossia: dict[Fraction, Pitch] = field(default_factory=dict)
    _tremolo: bool = False

    def bar(self, measure: Measure) -> Bar:
        """The next bar."""
        self.notes, filled = [], Fraction(0)
        self._ossia = self._ossia_of(measure)
        self._beat_type = measure.time[1] if measure.time else self._beat_type
        self._waiting += [
            one for one in sorted(measure.above, key=lambda one: one.onset) if self._is_for_staff(one)
        ]
        for timed in sorted(self._timed(measure), key=lambda timed: timed.onset):
            if timed.onset - filled >= SHORTEST:
                self._put(Timed(filled, timed.onset - filled), measure)
                filled = timed.onset
            if timed.end - filled < SHORTEST:
                short = timed.quarters < SHORTEST
                what = "too short to be written" if short else "that lie over others of their voice"
                self._lose(f"Notes {what}", measure, timed)
                continue
            self._put(replace(timed, quarters=timed.end - filled), measure)
            filled = timed.end
        if measure.length - filled >= SHORTEST:
            self._put(Timed(filled, measure.length - filled), measure)
        self._stop_hairpins()
        # what is left stands after the last note of the bar
        self._waiting = [replace(one, onset=Fraction(0)) for one in self._waiting]
        return Bar(tuple(self.notes), measure.key_fifths, measure.time)

    def _ossia_of(self, measure: Measure) -> dict[Fraction, Pitch]:
        """What is played instead, by the moment; of a rhythm of its own nothing is taken."""
        if not measure.ossia:
            return {}
        rhythm = {timed.onset: timed.quarters for timed in self._timed(measure) if timed.heads}
        others = [timed for timed in measure.ossia if timed.heads]
        if any(rhythm.get(timed.onset) != timed.quarters for timed in others):
            self.losses.add("An ossia in another rhythm", measure.number)
            return {}
        return {timed.onset: timed.heads[0].pitch for timed in others}

    def _is_for_staff(self, above: Above) -> bool:
        return not above.staff or not self.voice or self.voice.startswith(f"{above.staff}.")

    def _timed(self, measure: Measure) -> list[Timed]:
        """What the voice has in a bar; what the fullest voice has, where it has nothing at all."""
        for voice in sorted(measure.voices):
            sounds = any(timed.heads for timed in measure.voices[voice])
            if sounds and self.voice in measure.voices and voice != self.voice:
                self.losses.add(f"Another voice ({voice})", measure.number)
        if self.voice in measure.voices:
            return measure.voices[self.voice]
        staff = self.voice.rpartition(".")[0]
        others = [voice for voice in measure.voices if voice.rpartition(".")[0] == staff]
        if not others:
            return []
        fullest = max(sorted(others), key=lambda voice: sum(bool(t.heads) for t in measure.voices[voice]))
        if any(timed.heads for timed in measure.voices[fullest]):
            self.losses.add(
                f"Read from voice {fullest}, since the chosen one has nothing there", measure.number
            )
        return measure.voices[fullest]

    def _lose(self, what: str, measure: Measure, timed: Timed) -> None:
        self.losses.add(what, measure.number, 1 + timed.onset * self._beat_type / 4)

    def _put(self, timed: Timed, measure: Measure) -> None:
        quarters, tuplet = writable(timed.quarters, timed.tuplet)
        if abs(quarters - timed.quarters) > timed.quarters * ROUNDED:
            self._lose("Lengths that cannot be written, rounded", measure, timed)
        if quarters <= 0:
            return
        self._stop_hairpins(timed.onset)
        head = self._head(timed, measure)
        start, stop = self._slurred(timed)
        ossia = self._ossia.get(timed.onset) if head else None
        note = Note(
            id="n",
            written_pitch=head.pitch if head else None,
            quarters=quarters,
            tuplet=tuplet,
            tied=bool(head and head.tied),
            slur_start=start,
            slur_stop=stop,
            articulations=timed.articulations if head else frozenset(),
            grace=tuple(timed.grace),
            ornaments=timed.ornaments if head else frozenset(),
            fermata=timed.fermata,
            fingering=timed.fingering,
            lyric=timed.lyric,
            ossia=ossia if head and ossia != head.pitch else None,
        )
        note = self._with_other_note(note, timed)
        for above in self._taken_up(timed.onset):
            note = replace(
                note,
                dynamic=above.dynamic or note.dynamic,
                tempo_bpm=note.tempo_bpm if above.tempo_bpm is None else above.tempo_bpm,
                words=" ".join(dict.fromkeys(filter(None, (note.words, above.words)))),
                hairpin=above.hairpin or note.hairpin,
                chord=above.chord or note.chord,
            )
        self.notes += single_notes(note, NotationError)

    def _with_other_note(self, note: Note, timed: Timed) -> Note:
        """The note with the other one of its trill or tremolo, where that is written."""
        pitch = note.written_pitch
        if pitch is None:
            return note
        before = self.notes[-1] if self.notes else None
        if timed.tremolo == "stop" and before is not None and self._tremolo and before.written_pitch:
            self.notes[-1] = replace(before, trilled_to=pitch)
            note = replace(note, trilled_to=before.written_pitch)
        elif timed.trill_alter is not None and TRILL in note.ornaments:
            other = replace(beside(pitch, 1, 0), alter=timed.trill_alter)
            note = replace(note, trilled_to=other)
        self._tremolo = timed.tremolo == "start"
        return note

    def _taken_up(self, onset: Fraction) -> list[Above]:
        """What stands before a moment and is not taken up yet."""
        found = [one for one in self._waiting if one.onset <= onset]
        self._waiting = [one for one in self._waiting if one.onset > onset]
        return found

    def _stop_hairpins(self, before: Fraction | None = None) -> None:
        """End hairpins at the note read last: those that end before a moment, or all in this bar."""
        ends = [one for one in self._waiting if one.hairpin_stop and (before is None or one.onset <= before)]
        if ends and self.notes:
            self.notes[-1] = replace(self.notes[-1], hairpin_stop=True)
        if ends:
            self._waiting = [one for one in self._waiting if one not in ends]

    def _head(self, timed: Timed, measure: Measure) -> Head | None:
        if not timed.heads:
            return None
        heads = sorted(timed.heads, key=lambda head: -head.pitch.midi)
        self.largest_chord = max(self.largest_chord, len(heads))
        if len(heads) > 1:
            self._lose(f"Of chords all but the {self.chord.value} note", measure, timed)
        place = CHORD_PLACE[self.chord]
        return heads[place] if place < len(heads) else heads[-1]

    def _slurred(self, timed: Timed) -> tuple[bool, bool]:
        """Whether the outermost slur begins or ends here; inner slurs change nothing."""
        before = bool(self._slurs)
        self._slurs -= {number for number, kind in timed.slurs if kind == "stop"}
        stop = before and not self._slurs
        starts = {number for number, kind in timed.slurs if kind == "start"}
        start = bool(starts) and not self._slurs
        self._slurs |= starts
        return start, stop
