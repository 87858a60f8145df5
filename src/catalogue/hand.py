"""The instrument in hand: its chart with the teacher's own fingerings, its fittings, what is known of it."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache

from catalogue import shipped
from catalogue.acoustics import Acoustics
from core.charts.catalogue import Catalogue, Confidence, Entry
from core.evidence.sources import ALL_SOURCES, NOTHING_MODELLED, Basis, Evidence, Heard, evidence
from core.instruments.fingering import Kind
from core.instruments.keywork import missing
from core.music.pitch import Pitch
from core.routes.candidates import OF_SCHOOL, ON_PURPOSE, PREFERRED
from core.routes.faults import Library, make_library, with_evidence

NOTHING_HEARD = Heard()


@dataclass(frozen=True)
class Hand:
    """Everything about an instrument that bears on fingerings, apart from how it is stored.

    Parameters
    ----------
    model : str
        Name of the shipped model.
    own, hidden
        The teacher's own entries, and ids of shipped ones that they hide.
    fitted : frozenset of str
        Optional touches and fittings that are there.
    setup : int
        Number of the present set-up of reed and mouthpiece.
    heard : tuple of (entry id, Heard)
    preferred : frozenset of str
        Ids of the entries preferred on this instrument.
    school : str
        Teaching position followed on it, one of `core.charts.catalogue.POSITIONS`; empty for none.
    owned : int or None
        Key of the student's instrument; None for a model without an instrument in hand.
    """

    model: str
    own: tuple[Entry, ...] = ()
    hidden: frozenset[str] = frozenset()
    fitted: frozenset[str] = frozenset()
    a4_hz: float = 440.0
    setup: int = 1
    heard: tuple[tuple[str, Heard], ...] = ()
    preferred: frozenset[str] = frozenset()
    school: str = ""
    owned: int | None = None

    @property
    def instrument(self):
        return shipped.instrument(self.model)

    @property
    def catalogue(self) -> Catalogue:
        return _catalogue(self.model, self.own, self.hidden)

    @property
    def on(self) -> str:
        """How an address names it."""
        return self.model if self.owned is None else f"i{self.owned}"

    @cached_property
    def _heard(self) -> Mapping[str, Heard]:
        return dict(self.heard)

    def heard_of(self, entry: Entry) -> Heard:
        return self._heard.get(entry.id, NOTHING_HEARD)

    def evidence(self, entry: Entry, use=ALL_SOURCES) -> Evidence:
        said = self.acoustics.modelled([entry])[0] if Basis.MODELLED in use else NOTHING_MODELLED
        return evidence(entry, self.heard_of(entry), self.setup, use, said)

    def library(self, use=ALL_SOURCES) -> Library:
        return _library(self, frozenset(use))

    @cached_property
    def acoustics(self) -> Acoustics:
        """What the model says on it."""
        by_id = self.catalogue.by_id
        heard = [(by_id[name], heard) for name, heard in self.heard if name in by_id]
        return Acoustics(self.model, self.fitted, heard, self.setup)

    def rank(self, entry: Entry):
        """Sorts what is offered first before what is not, what is surest before what is for practice."""
        return (
            bool(self.lacking(entry)),
            -self.head_starts.get(entry.id, 0.0),
            entry.kind in ON_PURPOSE,
            -list(Confidence).index(entry.confidence),
            entry.kind is not Kind.STANDARD,
        )

    def plainest(self, note: Pitch) -> Entry | None:
        """The fingering that is offered first for a written note; None where nothing is at hand."""
        entries = self.catalogue.by_midi.get(note.midi, ())
        return min((e for e in entries if not self.lacking(e)), key=self.rank, default=None)

    @cached_property
    def head_starts(self) -> Mapping[str, float]:
        """Entries that have a head start: those of the school, and those preferred."""
        entries = self.catalogue.entries if self.school else ()
        of_school = {entry.id: OF_SCHOOL for entry in entries if entry.school == self.school}
        return of_school | {name: of_school.get(name, 0.0) + PREFERRED for name in self.preferred}

    @cached_property
    def aside(self) -> frozenset[str]:
        """Ids of the entries of another position than the one followed here."""
        others = {entry.id for entry in self.catalogue.entries if entry.school not in ("", self.school)}
        return frozenset(others) if self.school else frozenset()

    def lacking(self, entry: Entry) -> str:
        """What an entry needs and this instrument has not, in words; empty if nothing."""
        optional = self.instrument.optional
        lacking = missing(self.instrument, entry.fingering, entry.requires, self.fitted)
        return " and ".join(sorted(optional[name] for name in lacking))


@lru_cache(maxsize=64)
def _catalogue(model, own, hidden):
    whole = shipped.catalogue(model)
    return whole.with_own(own, hidden) if own or hidden else whole


@lru_cache(maxsize=16)
def _bare_library(model, own, hidden):
    if not own and not hidden:
        return shipped.library(model)
    return make_library(_catalogue(model, own, hidden).entries, shipped.instrument(model))


@lru_cache(maxsize=32)
def _library(hand, use):
    library = _bare_library(hand.model, hand.own, hand.hidden)
    said = [NOTHING_MODELLED] * len(library.entries)
    if Basis.MODELLED in use:
        said = hand.acoustics.modelled(library.entries)
    return with_evidence(
        library,
        [
            evidence(entry, hand.heard_of(entry), hand.setup, use, modelled)
            for entry, modelled in zip(library.entries, said, strict=True)
        ],
    )
