"""The Note view: the candidates of one note side by side, and one of them looked at closely.

What is looked at is named by its touches, so that any fingering can be tried: press or let go one
touch, see what the keywork says, keep it.
"""

from dataclasses import dataclass
from functools import cached_property
from urllib.parse import urlencode

import numpy as np

from catalogue import shipped
from catalogue.acoustics import NOT_MODELLED
from catalogue.body_drawing import body
from catalogue.drawings import hands, small_hands
from catalogue.hand import Hand
from catalogue.modelled import ordinal, sentences
from catalogue.one_note import OneNote
from catalogue.strands import Stumbles, per_hundred, sentence, strands_of, strands_svg
from core.charts.audit import against_keywork, settled_top
from core.charts.catalogue import Entry, Speaks, Tone
from core.errors import CoreError
from core.evidence.sources import ALL_SOURCES, Basis, Hands, Tuning
from core.instruments.fingering import Fingering, Held, Kind, format_fingering, parse_fingering
from core.instruments.keywork import may_sound, mechanism, unholdable, usual_note
from core.instruments.moves import move_between
from core.music.pitch import Pitch, both_names, frequency_hz
from core.routes.candidates import ON_PURPOSE
from core.routes.facility import move_effects, stumble_risk, time_needed_s

# Moves to the notes around are judged as slurred sixteenths at this tempo.
TEMPO_BPM = 112.0
AVAILABLE_S = 60.0 / TEMPO_BPM / 4
STEPS_AROUND = (-2, -1, 1, 2)
STEP_WORDS = {
    -2: "a whole step below",
    -1: "a half step below",
    1: "a half step above",
    2: "a whole step above",
}


@dataclass(frozen=True)
class Candidate:
    """One fingering of the note as the page shows it."""

    entry: Entry
    drawing: str
    touches: str
    strands: str
    sentence: str
    lacking: str
    preferred: bool
    own: bool
    looked_at: bool
    query: str


@dataclass(frozen=True)
class Around:
    """The moves between the fingering looked at and a note around."""

    note: Pitch
    step: str
    kind: str
    touches: str
    drawing: str
    into: str
    out: str
    chance_in: str
    chance_out: str
    query: str


def switched_off(use):
    """Kinds of evidence that do not count, as an address names them."""
    return " ".join(sorted(ALL_SOURCES - use))


class NotePage(OneNote):
    """One note on the instrument in hand.

    Parameters
    ----------
    touches : str
        The fingering looked at, as `core.instruments.fingering` writes it; the first candidate if empty.
    use : collection of Basis
        Kinds of evidence that count.
    problems : sequence of str
        What of the address could not be read.
    """

    def __init__(self, hand: Hand, note: Pitch, touches: str = "", use=ALL_SOURCES, problems=()):
        self.hand, self.note, self.use = hand, note, frozenset(use)
        self.problems = list(problems)
        self.instrument = hand.instrument
        entries = hand.catalogue.by_midi.get(note.midi, ())
        self.entries = sorted(entries, key=lambda entry: hand.rank(entry))
        self.asked = touches
        self.fingering = self._fingering(touches)

    def _fingering(self, touches) -> Fingering:
        if touches:
            try:
                return parse_fingering(touches, self.instrument)
            except CoreError as error:
                self.problems.append(f"The touches in the address cannot be read: {error}.")
        return self.entries[0].fingering if self.entries else Fingering()

    def query(self, touches="", note=None, use=None):
        """The address of a view: instrument, note, fingering and evidence switched off."""
        without = switched_off(self.use if use is None else use)
        parts = {"on": self.hand.on, "note": (note or self.note).ascii}
        parts |= {"touches": touches} if touches else {}
        return "?" + urlencode(parts | ({"without": without} if without else {}))

    # The note.

    @property
    def sounding(self):
        pitch = self.instrument.to_sounding.apply(self.note)
        return f"sounds {pitch}, {frequency_hz(pitch, self.hand.a4_hz):.0f} Hz where A is {self.hand.a4_hz:g}"

    @property
    def both_names(self):
        """The note with its other spelling, where it has one."""
        return " or ".join(both_names(self.note.midi))

    def address(self, note):
        return self.query(note=note)

    @property
    def sources(self):
        """Kinds of evidence with the address that switches each on or off."""
        return [
            (str(basis), basis in self.use, self.query(self.asked, use=self.use ^ {basis}))
            for basis in (Basis.TAUGHT, Basis.MODELLED, Basis.JUDGED, Basis.MEASURED)
        ]

    @property
    def all_hidden(self):
        """Whether the chart has fingerings of the note, and the teacher hides them all."""
        return self.note.midi in shipped.catalogue(self.hand.model).by_midi

    # The candidates.

    @cached_property
    def candidates(self):
        if Basis.MODELLED in self.use:
            self.hand.acoustics.modelled(self.entries)  # all at once, and kept
        return [self._candidate(entry) for entry in self.entries]

    def _candidate(self, entry):
        touches = format_fingering(entry.fingering, self.instrument)
        strands = strands_of(entry, self.hand.evidence(entry, self.use), self._stumbles(entry))
        return Candidate(
            entry=entry,
            drawing=small_hands(entry.fingering, self.instrument),
            touches=touches,
            strands=strands_svg(strands),
            sentence=sentence(strands),
            lacking=self.hand.lacking(entry),
            preferred=entry.id in self.hand.preferred,
            own=entry in self.hand.own,
            looked_at=entry.fingering == self.fingering,
            query=self.query(touches),
        )

    def _stumbles(self, entry):
        # how the hands move does not rest on the model
        index, library = self.hand.catalogue.index, self.hand.library(self.use - {Basis.MODELLED})
        there = [index[other.id] for other in self.neighbours.values()]
        if not there:
            return None
        here = index[entry.id]
        needed = np.concatenate([library.needed_s[here, there], library.needed_s[there, here]])
        chances = stumble_risk(needed, np.full(needed.shape, AVAILABLE_S))
        low, high = (per_hundred(float(end)) for end in (chances.min(), chances.max()))
        return Stumbles(
            (float(chances.min()), float(chances.max())), f"{low} to {high} in 100 stumble, around"
        )

    @cached_property
    def neighbours(self):
        """The plainest fingering at hand of each note around, by its distance in semitones."""
        found = {}
        for step in STEPS_AROUND:
            entries = self.hand.catalogue.by_midi.get(self.note.midi + step, ())
            plain = [e for e in entries if not self.hand.lacking(e) and e.kind not in ON_PURPOSE]
            if plain:
                found[step] = min(plain, key=self.hand.rank)
        return found

    # The fingering looked at.

    @cached_property
    def entry(self):
        """The candidate looked at; None for a fingering that is not kept for this note."""
        return next((entry for entry in self.entries if entry.fingering == self.fingering), None)

    @property
    def entry_id(self):
        return self.entry.id if self.entry else self._shipped.id if self._shipped else ""

    @property
    def _shipped(self):
        """The shipped entry looked at, hidden or not."""
        return shipped.catalogue(self.hand.model).find(self.note, self.fingering)

    @property
    def is_hidden(self):
        return self._shipped is not None and self._shipped.id in self.hand.hidden

    @property
    def can_keep(self):
        """Whether it may be kept as an own fingering."""
        return not self._shipped and not unholdable(self.instrument, self.fingering)

    @property
    def own_pk(self):
        return self.entry.id.removeprefix("own-")

    @property
    def own_query(self):
        named = {"on": self.hand.on, "note": self.note.ascii, "touches": self.touches}
        return "?" + urlencode(named | {"kind": Kind.ALTERNATE.value})

    @property
    def without(self):
        return switched_off(self.use)

    @property
    def tempo(self):
        return f"{TEMPO_BPM:.0f}"

    @property
    def status(self):
        """What a screen reader hears after a change."""
        what = f"{self.entry.kind.value} fingering" if self.entry else "a fingering not in the chart"
        return f"{self.note}: {what}, {self.touches}. {' '.join(self.says)}"

    @property
    def looked_at(self):
        return next((candidate for candidate in self.candidates if candidate.looked_at), None)

    @property
    def touches(self):
        return format_fingering(self.fingering, self.instrument)

    @property
    def drawing(self):
        links = {
            touch.name: self.query(toggled(self.fingering, touch, self.instrument))
            for touch in self.instrument.touches
        }
        return hands(self.fingering, self.instrument, links=links)

    @property
    def body(self):
        return body(self.fingering, self.instrument)

    @cached_property
    def says(self):
        """What the keywork says of the fingering looked at, in sentences."""
        read = mechanism(self.instrument, self.fingering, self.hand.fitted)
        said = [
            complaint[:1].upper() + complaint[1:] + "."
            for complaint in unholdable(self.instrument, self.fingering)
        ]
        first = read.open_holes[0] if read.open_holes else "none: the bell"
        said.append(f"First open hole: {first}. Plain, it sounds written {read.plain}.")
        if read.open_vents:
            said.append(f"Open vents: {', '.join(read.open_vents)}. They favour a higher partial.")
        said.append(self._about_note())
        return said

    def _about_note(self):
        partials = may_sound(self.instrument, self.fingering).get(self.note.midi)
        if partials:
            return f"{self.note} is its {ordinal(min(partials))} partial."
        if self.entry and self.entry.reason:
            return f"{self.entry.reason[:1].upper()}{self.entry.reason[1:]}."
        if self.note.midi > settled_top(self.hand.catalogue):
            return f"This high the keywork alone cannot tell whether it sounds {self.note}: try it."
        return f"By the keywork it sounds {usual_note(self.instrument, self.fingering)}, not {self.note}."

    @property
    def modelled(self):
        """What the acoustic model says of it, in sentences; empty where it is switched off."""
        if Basis.MODELLED not in self.use or self.unmodelled:
            return []
        original = self.nearest.fingering if self.nearest else None
        return sentences(self.hand.acoustics, self.fingering, self.note, original)

    @property
    def unmodelled(self):
        return bool(self.entry and self.entry.requires & NOT_MODELLED)

    @property
    def closely(self):
        """Instrument, note and touches of an address."""
        return self.query(self.touches)

    @property
    def needs_reason(self):
        """Whether the keywork contradicts it, so that keeping it needs a reason."""
        return bool(against_keywork(self.note, self.fingering, self.hand.catalogue))

    @cached_property
    def nearest(self):
        """The nearest candidate, when it is none itself."""
        if self.entry is not None or not self.entries:
            return None
        return min(self.entries, key=lambda entry: len(entry.fingering.touches ^ self.fingering.touches))

    @property
    def against_first(self):
        """How it differs from the nearest candidate."""
        if self.nearest is None:
            return ""
        move = move_between(self.nearest.fingering, self.fingering, self.instrument)
        return f"From the {self.nearest.kind.value} fingering: {move.sentence}"

    @cached_property
    def around(self):
        return [self._around(step, entry) for step, entry in self.neighbours.items()]

    def _around(self, step, entry):
        into = move_between(entry.fingering, self.fingering, self.instrument)
        out = move_between(self.fingering, entry.fingering, self.instrument)
        partial = self.entry.partial if self.entry else None
        chances = [
            self._chance(entry.fingering, entry.partial, self.fingering, partial),
            self._chance(self.fingering, partial, entry.fingering, entry.partial),
        ]
        touches = format_fingering(entry.fingering, self.instrument)
        return Around(
            note=entry.note,
            step=STEP_WORDS[step],
            kind=entry.kind.value,
            touches=touches,
            drawing=small_hands(entry.fingering, self.instrument),
            into=into.sentence,
            out=out.sentence,
            chance_in=per_hundred(chances[0]),
            chance_out=per_hundred(chances[1]),
            query=self.query(touches, entry.note),
        )

    def _chance(self, before, partial_before, after, partial_after):
        effects = move_effects(self.instrument, [before], [after], [partial_before], [partial_after])
        return float(stumble_risk(time_needed_s(effects), np.array([[AVAILABLE_S]]))[0, 0])

    @property
    def known(self):
        return self.hand.evidence(self.entry, self.use) if self.entry else None

    @property
    def scales(self):
        """The words of a judgement, strand by strand."""
        return [
            ("pitch", list(Tuning)),
            ("tone", list(Tone)),
            ("speaks", list(Speaks)),
            ("hands", list(Hands)),
        ]


def toggled(fingering: Fingering, touch, instrument) -> str:
    """The fingering with one touch pressed or let go; one that can be half-holed passes through half."""
    held = fingering.held(touch.name)
    groups = {kind: set(getattr(fingering, kind.value)) - {touch.name} for kind in Held}
    if held is None:
        groups[Held.FULL].add(touch.name)
    elif held is Held.FULL and touch.half:
        groups[Held.HALF].add(touch.name)
    return format_fingering(Fingering(*(frozenset(groups[kind]) for kind in Held)), instrument)
