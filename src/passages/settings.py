"""What a teacher sets on the bench: tempo, tuning, fitted touches, weights, pins and bans."""

from dataclasses import asdict, dataclass, field, replace

from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import ALL_SOURCES
from core.music.aims import Aim
from core.music.events import Manner
from core.music.intonation import EQUAL
from core.music.ornaments import LIVELY_PER_S
from core.routes.faults import STRANDS

SOURCES = tuple(sorted(ALL_SOURCES))


@dataclass(frozen=True)
class BenchSettings:
    """One state of the bench, independent of how it is stored.

    Parameters
    ----------
    tempo_bpm : float, quarter notes a minute
    a4_hz : float
    fitted : tuple of str
        Optional touches and fittings, where no student's instrument says them.
    sources : tuple of str
        Kinds of evidence that count, see `core.evidence.sources.Basis`.
    weights : dict of strand to number
    pins : dict of note id to entry id
    bans : dict of note id to list of entry ids
    ossia : dict of note id to pitch
        What is played in place of notes, in plain letters.
    tuned_to : str
    unison : bool
    trills_per_s : float
        These three see `core.music.events.Manner`.
    aims : dict of note id to str
        What is aimed at in notes, as `core.music.aims.Aim` names it.
    """

    tempo_bpm: float
    a4_hz: float = 440.0
    fitted: tuple[str, ...] = ()
    weights: dict[str, float] = field(default_factory=lambda: dict.fromkeys(STRANDS, 1.0))
    pins: dict[str, str] = field(default_factory=dict)
    bans: dict[str, list[str]] = field(default_factory=dict)
    sources: tuple[str, ...] = SOURCES
    tuned_to: str = EQUAL
    unison: bool = False
    trills_per_s: float = LIVELY_PER_S
    ossia: dict[str, str] = field(default_factory=dict)
    aims: dict[str, str] = field(default_factory=dict)

    @property
    def manner(self) -> Manner:
        """How the music is played; PassageError where it cannot be."""
        aims = {note: Aim(aim) for note, aim in self.aims.items()}
        return Manner(self.tuned_to, self.unison, self.trills_per_s, aims)

    @classmethod
    def from_json(cls, data):
        tuples = {name: tuple(data[name]) for name in ("fitted", "sources") if name in data}
        return cls(**{**data, **tuples})

    def to_json(self):
        return {**asdict(self), "fitted": sorted(self.fitted), "sources": sorted(self.sources)}

    def one_note_apart(self, other):
        """The note whose pin or bans alone differ in another state; None where more differs, or nothing."""
        if replace(self, pins={}, bans={}) != replace(other, pins={}, bans={}):
            return None
        notes = {*self.pins, *other.pins, *self.bans, *other.bans}
        differ = [
            note
            for note in notes
            if (self.pins.get(note), self.bans.get(note)) != (other.pins.get(note), other.bans.get(note))
        ]
        return differ[0] if len(differ) == 1 else None

    def only_recosted(self, other):
        """Whether another state differs in tempo and weights alone: the same fingerings are offered."""
        return self != other and self == replace(other, tempo_bpm=self.tempo_bpm, weights=self.weights)

    def pinned(self, note_id, entry_id):
        """Pin an entry, or take the pin away if just this one is pinned; pinning lifts a ban."""
        if self.pins.get(note_id) == entry_id:
            return replace(self, pins={note: pin for note, pin in self.pins.items() if note != note_id})
        bans = {
            note: [e for e in entries if (note, e) != (note_id, entry_id)]
            for note, entries in self.bans.items()
        }
        return replace(self, pins={**self.pins, note_id: entry_id}, bans={n: e for n, e in bans.items() if e})

    def banned(self, note_id, entry_id):
        """Leave an entry out, or take it in again if it is out; leaving out lifts its pin."""
        out = set(self.bans.get(note_id, ())) ^ {entry_id}
        bans = {note: entries for note, entries in self.bans.items() if note != note_id}
        pins = {note: pin for note, pin in self.pins.items() if (note, pin) != (note_id, entry_id)}
        return replace(self, pins=pins, bans={**bans, note_id: sorted(out)} if out else bans)


def possible(in_hand: InstrumentInHand, settings: BenchSettings) -> BenchSettings:
    """The settings as they hold for the instrument in hand.

    It says itself what is fitted and how it is tuned. Pins that its chart no longer has, or that need
    what is not fitted, are left out.
    """
    by_id = in_hand.catalogue.by_id
    pins = {
        note: pin for note, pin in settings.pins.items() if pin in by_id and not in_hand.lacking(by_id[pin])
    }
    return replace(settings, fitted=tuple(sorted(in_hand.fitted)), pins=pins)
