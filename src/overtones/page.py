"""The Overtones view: the ladder of a fingering, one pitch on many tubes, and what to practise."""

from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from urllib.parse import urlencode

from catalogue.drawings import hands, small_hands
from catalogue.hand import Hand
from catalogue.modelled import difference_words, ordinal, pitch_words, readiness
from catalogue.note_page import toggled
from catalogue.one_note import OneNote
from core.acoustics.model import Use
from core.charts.catalogue import Entry
from core.errors import CoreError
from core.evidence.modelled import Told
from core.instruments.fingering import Fingering, format_fingering, parse_fingering
from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch, spell
from core.overtones.ladder import LadderRung, ladder, nearest_note, path, same_pitch
from core.overtones.stepping_stones import stepping_stones
from overtones.curve import curve_svg
from overtones.rungs import rung_svg
from passages.engraving import engrave

STAFF_PX = 520
TOUCHES_LIMIT = 300
# Where stepping stones may start, in semitones from the note.
STARTS = (-1, -2, -3, -4, 1, 2)
INTERVALS = {2: "octave", 3: "twelfth", 4: "double octave", 5: "two octaves and a third"}


@dataclass(frozen=True)
class Row:
    """One rung of the ladder as the page shows it."""

    partial: int
    note: Pitch
    told: Told | None
    drawing: str
    pitch: str
    pure: str
    readiness: str
    favoured: bool
    sound: str
    query: str


@dataclass(frozen=True)
class Match:
    """The note as a partial of a lower fingering."""

    entry: Entry
    touches: str
    drawing: str
    partial: str
    pitch: str
    difference: str
    readiness: str
    sound: str
    query: str


@dataclass(frozen=True)
class Exercise:
    """An overtone to practise."""

    base: Entry
    partial: str
    note: Pitch
    pitch: str
    readiness: str
    sound: str
    query: str


@dataclass(frozen=True)
class Stone:
    """One stepping stone."""

    drawing: str
    touches: str
    said: str
    sounds: str
    query: str


class OvertonesPage(OneNote):
    """Overtones on the instrument in hand.

    Parameters
    ----------
    note : Pitch or None
        The written note that the fingering is looked at for; its lowest resonance if None.
    touches : str
        The fingering; the plainest one of the note, or the lowest of the instrument, if empty.
    come_from : str
        Touches of the fingering that stepping stones start from; the page's choice if empty.
    problems : sequence of str
        What of the address could not be read.
    """

    def __init__(self, hand: Hand, note=None, touches="", come_from="", problems=()):
        self.hand, self.instrument = hand, hand.instrument
        self.problems = list(problems)
        self.model = hand.acoustics.model
        self.fingering = self._read(touches) or self._usual(note)
        self.rungs: list[LadderRung] = ladder(self.model, self.fingering)
        self.note: Pitch = note or self._first_note()
        self._come_from = self._read(come_from)

    def _read(self, touches) -> Fingering | None:
        if not touches:
            return None
        try:
            return parse_fingering(touches[:TOUCHES_LIMIT], self.instrument)
        except CoreError as error:
            self.problems.append(f"The touches in the address cannot be read: {error}.")
            return None

    def _usual(self, note) -> Fingering:
        low, high = self.instrument.written_low.midi, self.instrument.written_high.midi
        notes = [note] if note else map(spell, range(low, high + 1))
        entry = next(filter(None, map(self.hand.plainest, notes)), None)
        return entry.fingering if entry else Fingering()

    def _first_note(self) -> Pitch:
        known = [entry for entry in self.hand.catalogue.entries if entry.fingering == self.fingering]
        if known:
            return min(known, key=lambda entry: (entry.partial or 9, entry.note.midi)).note
        inside = [rung.note for rung in self.rungs if self.instrument.in_range(rung.note)]
        return inside[0] if inside else self.instrument.written_low

    # Addresses.

    def query(self, touches="", note=None, **more):
        parts = {"on": self.hand.on, "note": (note or self.note).ascii, "touches": touches or self.touches}
        return "?" + urlencode(parts | more)

    @property
    def touches(self):
        return format_fingering(self.fingering, self.instrument)

    def _sound(self, fingering, note):
        return self.query(format_fingering(fingering, self.instrument), note)

    # The ladder.

    @cached_property
    def rows(self):
        """Rungs from the highest down, as they stand on a staff."""
        return [self._row(rung) for rung in reversed(self.rungs)]

    def _row(self, rung: LadderRung):
        told = self.hand.acoustics.told(self.fingering, rung.note)
        pure = "" if rung.from_pure is None else f"{round(rung.from_pure):+d}".replace("-", "−")
        return Row(
            partial=rung.rung.partial,
            note=rung.note,
            told=told,
            drawing=rung_svg(rung, told),
            pitch=pitch_words(told) if told else "",
            pure=pure if told and told.pitch and rung.rung.partial > 1 else "",
            readiness=readiness(told.prediction.margin, self.instrument.family) if told else "",
            favoured=rung.favoured,
            sound=self._sound(self.fingering, rung.note),
            query=self.query(note=rung.note),
        )

    @cached_property
    def staff(self):
        """The ladder engraved; None where nothing of it lies in the range."""
        notes = [rung.note for rung in self.rungs if self.instrument.in_range(rung.note)]
        if not notes:
            return None
        passage = Passage((Bar(tuple(Note(f"r{n}", note, Fraction(4)) for n, note in enumerate(notes))),))
        return engrave(passage, STAFF_PX, self.instrument.clefs)

    @property
    def drawing(self):
        links = {
            touch.name: self.query(toggled(self.fingering, touch, self.instrument))
            for touch in self.instrument.touches
        }
        return hands(self.fingering, self.instrument, links=links)

    @cached_property
    def curve(self):
        return curve_svg(self.model, self.fingering, self.rungs)

    @property
    def families(self):
        """Mouthpiece families of the ensemble, in the order of the curve's strokes."""
        return list(dict.fromkeys(geometry.mouthpiece.family for geometry in self.model.geometries))

    # One pitch on many tubes.

    @cached_property
    def normal(self):
        """The note's plainest fingering at hand."""
        return self.hand.plainest(self.note)

    @cached_property
    def matches(self):
        usual = self.normal and self.hand.acoustics.told(self.normal.fingering, self.note)
        pairs = same_pitch(self.model, self.hand.catalogue, self.note, self.hand.fitted)
        found = []
        for pair in pairs:
            told = self.hand.acoustics.tell(pair.prediction, self.note, pair.base.fingering)
            if told is None:
                continue
            touches = format_fingering(pair.base.fingering, self.instrument)
            found.append(
                Match(
                    entry=pair.base,
                    touches=touches,
                    drawing=small_hands(pair.base.fingering, self.instrument),
                    partial=ordinal(pair.prediction.partial),
                    pitch=pitch_words(told),
                    difference=difference_words(told, usual) if usual else "",
                    readiness=readiness(pair.prediction.margin, self.instrument.family),
                    sound=self._sound(pair.base.fingering, self.note),
                    query=self.query(touches),
                )
            )
        return found

    @property
    def normal_words(self):
        told = self.normal and self.hand.acoustics.told(self.normal.fingering, self.note)
        return pitch_words(told) if told else ""

    @property
    def normal_touches(self):
        return format_fingering(self.normal.fingering, self.instrument) if self.normal else ""

    @property
    def normal_sound(self):
        return self._sound(self.normal.fingering, self.note) if self.normal else ""

    # What to practise.

    @cached_property
    def exercises(self):
        found = []
        for exercise in path(self.model, self.hand.catalogue, self.hand.fitted):
            base = exercise.base.fingering
            told = self.hand.acoustics.tell(exercise.prediction, exercise.note, base)
            touches = format_fingering(base, self.instrument)
            if told:
                found.append(
                    Exercise(
                        base=exercise.base,
                        partial=INTERVALS.get(exercise.partial, f"{ordinal(exercise.partial)} partial"),
                        note=exercise.note,
                        pitch=pitch_words(told),
                        readiness=readiness(exercise.prediction.margin, self.instrument.family),
                        sound=self._sound(exercise.base.fingering, exercise.note),
                        query=self.query(touches, exercise.note),
                    )
                )
        return found

    @cached_property
    def starts(self):
        """Fingerings that stepping stones may start from: those of the notes around, nearest below first."""
        around = [self.hand.catalogue.by_midi.get(self.note.midi + step, ()) for step in STARTS]
        return [
            (format_fingering(entry.fingering, self.instrument), f"{entry.note} {entry.kind.value}")
            for entries in around
            for entry in sorted(entries, key=self.hand.rank)
            if not self.hand.lacking(entry) and entry.fingering != self.fingering
        ]

    @cached_property
    def _start(self):
        """The entry that the stones start from; None where there is none."""
        wanted = self._come_from
        if wanted is None and self.starts:
            wanted = parse_fingering(self.starts[0][0], self.instrument)
        if wanted is None:
            return None
        near = [e for e in self.hand.catalogue.entries if e.fingering == wanted]
        return min(near, key=lambda e: abs(e.note.midi - self.note.midi)) if near else None

    @property
    def start_touches(self):
        return format_fingering(self._start.fingering, self.instrument) if self._start else ""

    @cached_property
    def _stones(self):
        """The chain, and why there is none."""
        if self._start is None:
            return [], "Nothing is known of the notes around to start from."
        try:
            ends = (self._start.fingering, self._start.note), (self.fingering, self.note)
            return stepping_stones(self.model, *ends), ""
        except CoreError as error:
            return [], f"No stepping stones from there: {error}."

    @property
    def no_stones(self):
        return self._stones[1]

    @cached_property
    def stones(self):
        return [self._stone(step) for step in self._stones[0]]

    def _stone(self, step):
        touches = format_fingering(step.fingering, self.instrument)
        label = self.instrument.touch_by_name[step.changed].label if step.changed else ""
        pressed = step.changed in step.fingering.touches
        return Stone(
            drawing=small_hands(step.fingering, self.instrument),
            touches=touches,
            said=f"{'add' if pressed else 'let go'} {label}" if step.changed else "start here",
            sounds=f"about written {nearest_note(self.instrument, step.frequency)[0]}",
            query=self.query(touches),
        )

    # Words.

    @property
    def title(self):
        return f"Overtones of {self.touches}"

    @property
    def status(self):
        """What a screen reader hears after a change."""
        here = next((row for row in self.rows if row.note.midi == self.note.midi), None)
        said = f"partial {here.partial}, {here.pitch or 'pitch not told'}" if here else "not on this ladder"
        return f"{self.touches}: {self.note}, {said}."

    @property
    def closely(self):
        return self.query()

    @property
    def glyphs(self):
        return "".join(self.staff.glyphs.values())

    @property
    def vented(self):
        return any(rung.rung.use is Use.VENTED for rung in self.rungs)

    def address(self, note):
        """The address of another note on its own fingering."""
        return "?" + urlencode({"on": self.hand.on, "note": note.ascii})
