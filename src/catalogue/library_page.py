"""The Fingerings view: the whole chart along the range, filtered by kind, searched by note."""

from dataclasses import dataclass
from functools import cached_property
from itertools import groupby
from urllib.parse import urlencode

from catalogue import shipped
from catalogue.drawings import small_hands
from catalogue.hand import Hand
from catalogue.strands import sentence, strands_of
from core.charts.catalogue import Confidence, Entry
from core.errors import PitchError
from core.instruments.fingering import Kind, format_fingering
from core.music.pitch import both_names, parse_pitch, spell

OCTAVE = 12


@dataclass(frozen=True)
class Rung:
    """One semitone of the range with its fingerings."""

    name: str
    other: str
    ascii: str
    sounding: str
    tiles: list
    gap: bool
    all_hidden: bool


@dataclass(frozen=True)
class Tile:
    """One fingering on a rung."""

    entry: Entry
    drawing: str
    touches: str
    said: str
    lacking: str
    preferred: bool
    hidden: bool
    own: bool
    query: str


class LibraryPage:
    """The chart of the instrument in hand.

    Parameters
    ----------
    kind : str
        Only fingerings of this kind; all if empty. ``own`` and ``hidden`` are the teacher's.
    search : str
        A note by either name, with or without octave: ``Bb``, ``A#4``.
    """

    def __init__(self, hand: Hand, kind="", search=""):
        self.hand, self.kind, self.search = hand, kind, search.strip()
        self.instrument = hand.instrument
        self.whole = shipped.catalogue(hand.model)  # with what is hidden, so that it can be shown again
        self.problems = []
        self.wanted = self._wanted()

    def _wanted(self):
        """Semitones asked for; None for all."""
        if not self.search:
            return None
        text = self.search.replace(" ", "")
        low, high = self.instrument.written_low.midi, self.instrument.written_high.midi
        try:
            if text[-1].isdigit():
                midi = parse_pitch(text).midi
                if not low <= midi <= high:
                    span = f"{self.instrument.written_low} to {self.instrument.written_high}"
                    self.problems = [f"Written {parse_pitch(text)} lies outside {span}."]
                return {midi}
            return {
                midi for midi in range(low, high + 1) if (midi - parse_pitch(text + "4").midi) % OCTAVE == 0
            }
        except PitchError:
            self.problems = [f"“{self.search}” is no note. Type one like B♭, A#4 or Eb."]
            return None

    @property
    def kinds(self):
        """Kinds that the chart has, with how many fingerings, and the address that filters by each."""
        counts = {}
        for entry in self.hand.catalogue.entries:
            counts[entry.kind.value] = counts.get(entry.kind.value, 0) + 1
        listed = [(kind.value, counts[kind.value]) for kind in Kind if kind.value in counts]
        listed += [("own", len(self.hand.own))] if self.hand.own else []
        listed += [("hidden", len(self.hand.hidden))] if self.hand.hidden else []
        return [(kind, count, self.query(kind)) for kind, count in listed]

    def query(self, kind=""):
        parts = {"on": self.hand.on, "kind": kind, "search": self.search}
        return "?" + urlencode({name: value for name, value in parts.items() if value})

    @property
    def all_kinds(self):
        return self.query()

    @property
    def counts(self):
        """How many fingerings of each confidence."""
        entries = self.hand.catalogue.entries
        return [(level.value, sum(e.confidence is level for e in entries)) for level in reversed(Confidence)]

    @property
    def total(self):
        return len(self.hand.catalogue.entries)

    @cached_property
    def rungs(self):
        """The range from the top down."""
        low, high = self.instrument.written_low.midi, self.instrument.written_high.midi
        found = [
            self._rung(midi)
            for midi in range(high, low - 1, -1)
            if self.wanted is None or midi in self.wanted
        ]
        return [rung for rung in found if rung.tiles or (rung.gap and not self.kind)]

    @cached_property
    def stretches(self):
        """The rungs, those without a fingering gathered where they lie together.

        Each as (without a fingering, all hidden by the teacher, rungs).
        """
        parted = groupby(self.rungs, lambda rung: (not rung.tiles, rung.all_hidden))
        return [(*kind, list(rungs)) for kind, rungs in parted]

    def _rung(self, midi):
        pitch = spell(midi)
        other = next((name for name in both_names(midi) if name != str(pitch)), "")
        entries = [entry for entry in self.whole.by_midi.get(midi, ()) if self._shown(entry)]
        own = [entry for entry in self.hand.own if entry.note.midi == midi and self._shown(entry)]
        listed = dict.fromkeys([*entries, *own])
        return Rung(
            name=str(pitch),
            other=other,
            ascii=pitch.ascii,
            sounding=str(self.instrument.to_sounding.apply(pitch)),
            tiles=[self._tile(entry) for entry in sorted(listed, key=self.hand.rank)],
            gap=(gap := midi not in self.hand.catalogue.by_midi),
            all_hidden=gap and midi in self.whole.by_midi,
        )

    def _shown(self, entry):
        hidden = entry.id in self.hand.hidden
        if self.kind == "hidden":
            return hidden
        if hidden:
            return False
        if self.kind == "own":
            return entry in self.hand.own
        return not self.kind or entry.kind.value == self.kind

    def _tile(self, entry):
        touches = format_fingering(entry.fingering, self.instrument)
        return Tile(
            entry=entry,
            drawing=small_hands(entry.fingering, self.instrument),
            touches=touches,
            said=sentence(strands_of(entry, self.hand.evidence(entry))),
            lacking=self.hand.lacking(entry),
            preferred=entry.id in self.hand.preferred,
            hidden=entry.id in self.hand.hidden,
            own=entry in self.hand.own,
            query="?" + urlencode({"on": self.hand.on, "note": entry.note.ascii, "touches": touches}),
        )

    @property
    def jumps(self):
        """Registers from the top down, each with its highest note shown, to jump to."""
        found = {}
        for rung in self.rungs:
            register = self.instrument.register_of(parse_pitch(rung.ascii))
            found.setdefault(register.name, rung.ascii)
        return list(found.items())
