"""The instrument in hand: its chart with own fingerings, what is fitted on it, what is known of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from core.acoustics.trust import TriedModel
from core.charts.catalogue import Catalogue
from core.charts.entry import Confidence, Entry
from core.charts.schools import NO_SCHOOLS, Schools
from core.charts.uses import Together, Use, good_uses
from core.evidence.modelled import TrustedModel
from core.evidence.setups import FIRST, InForce
from core.evidence.sources import (
    ALL_SOURCES,
    NOTHING_HEARD,
    NOTHING_MODELLED,
    Basis,
    Heard,
    Judgement,
    Moved,
    Readings,
)
from core.evidence.weigh import Evidence, evidence
from core.instruments.fingering import ON_PURPOSE, Fingering, Kind
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.instrument import Instrument
from core.instruments.keywork import missing
from core.instruments.moves import Move, move_between
from core.instruments.naming import Naming, said
from core.instruments.parts import Touch
from core.music.pitch import Pitch

# Head starts, in expected faults: of what is preferred on an instrument, enough between near equals; of what
# belongs to the position that is followed, or that it prefers, as much as a tendency that the chart does not
# know may cost: who teaches it knows how it sounds, and teaches it throughout.
PREFERRED, OF_SCHOOL = 0.05, 0.3


@dataclass(frozen=True, eq=False)
class InstrumentInHand:
    """Everything about one instrument that bears on fingerings, apart from how it is stored.

    Parameters
    ----------
    name : str
        How whoever made it names it; the core passes it on unread.
    shipped, catalogue : Catalogue
        The chart of its model as it ships, and the one in force: without what is hidden, with the
        teacher's own.
    tried : TriedModel
        Its acoustic model, for what of the optional touches and fittings is there.
    own, hidden
        The teacher's own entries, and ids of shipped ones that are hidden.
    fitted : frozenset of str
        Optional touches and fittings that are there.
    setups : InForce
        Set-ups of reed and mouthpiece under which what was heard counts.
    heard : mapping of entry id to Heard
    preferred : frozenset of str
        Ids of the entries preferred on this instrument.
    prepared : frozenset of str
        Names of the positions whose first asking of the student is done.
    schools, positions
        The questions on which teachers disagree, and names of the positions followed on it.
    naming : Naming
        How the teacher names touches.
    hand : Hand
        The student's hands.
    moved : mapping of (entry id, entry id) to tuple of Moved
        What was counted of moves from one fingering to another.
    """

    name: str
    shipped: Catalogue
    catalogue: Catalogue
    tried: TriedModel
    own: tuple[Entry, ...] = ()
    hidden: frozenset[str] = frozenset()
    fitted: frozenset[str] = frozenset()
    a4_hz: float = 440.0
    setups: InForce = FIRST
    heard: Mapping[str, Heard] = field(default_factory=dict)
    preferred: frozenset[str] = frozenset()
    prepared: frozenset[str] = frozenset()
    schools: Schools = NO_SCHOOLS
    positions: frozenset[str] = frozenset()
    naming: Naming = Naming.EACH_HAND
    hand: Hand = ANY_HAND
    moved: Mapping[tuple[str, str], tuple[Moved, ...]] = field(default_factory=dict)

    @property
    def solved_for(self) -> tuple[str, ...]:
        """What is particular about the student's hands, and the positions followed, in words."""
        return (*self.hand.said, *sorted(self.positions))

    def said(self, fingering: Fingering) -> str:
        """A fingering as its teacher names touches.

        Parameters
        ----------
        fingering : Fingering

        Returns
        -------
        str
        """
        return said(fingering, self.instrument, self.naming)

    def said_touches(self, touches: frozenset[str]) -> str:
        """Touches as the teacher names them; empty for none.

        Parameters
        ----------
        touches : frozenset of str
            Names of the touches pressed.

        Returns
        -------
        str
        """
        return self.said(Fingering(touches)) if touches else ""

    def move(self, before: Fingering, after: Fingering) -> Move:
        """The move from one fingering to another, said as its teacher names touches.

        Parameters
        ----------
        before, after : Fingering

        Returns
        -------
        Move
        """
        return move_between(before, after, self.instrument, self.naming)

    def has(self, touch: Touch) -> bool:
        """Whether a touch is there.

        Parameters
        ----------
        touch : Touch

        Returns
        -------
        bool
        """
        return not touch.optional or touch.name in self.fitted

    @property
    def instrument(self) -> Instrument:
        """The model as it is built."""
        return self.shipped.instrument

    @cached_property
    def own_ids(self) -> frozenset[str]:
        """Ids of the teacher's own entries."""
        return frozenset(entry.id for entry in self.own)

    @cached_property
    def acoustics(self) -> TrustedModel:
        """What the model says on it."""
        by_id = self.catalogue.by_id
        heard = [(by_id[name], heard) for name, heard in self.heard.items() if name in by_id]
        return TrustedModel(self.tried, heard, self.setups)

    def evidence(self, entries: Sequence[Entry], use: Collection[Basis] = ALL_SOURCES) -> list[Evidence]:
        """Weigh what is known of entries, all together.

        Parameters
        ----------
        entries : sequence of Entry
        use : collection of Basis
            Sources switched on.

        Returns
        -------
        list of Evidence
        """
        modelled = [NOTHING_MODELLED] * len(entries)
        if Basis.MODELLED in use:
            modelled = self.acoustics.modelled(entries)
        return [
            evidence(
                entry,
                self.heard.get(entry.id, NOTHING_HEARD),
                self.setups,
                use,
                model,
                self._heard_of_twins(entry),
                self._kin[entry.id][0].id if entry.id in self._kin else entry.id,
            )
            for entry, model in zip(entries, modelled, strict=True)
        ]

    @cached_property
    def _kin(self) -> Mapping[str, Sequence[Entry]]:
        """Twins, by the id of each: entries of one note that leave the same holes open."""
        known = [entry for entry in self.catalogue.entries if self.acoustics.knows(entry)]
        alike: dict[tuple[int, bytes], list[Entry]] = defaultdict(list)
        for entry, state in zip(
            known, self.acoustics.model.states([e.fingering for e in known]), strict=True
        ):
            alike[entry.note.midi, state.tobytes()].append(entry)
        return {entry.id: group for group in alike.values() if len(group) > 1 for entry in group}

    def twins(self, entry: Entry) -> list[Entry]:
        """Other fingerings of its note that leave the same holes open.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        list of Entry
        """
        return [other for other in self._kin.get(entry.id, ()) if other.id != entry.id]

    def _heard_of_twins(self, entry: Entry) -> Heard:
        """What was heard of its twins; how a note begins only where neither flicks, or both alike."""
        judged: list[Judgement] = []
        read: list[Readings] = []
        for other in self.twins(entry) if self.heard else ():
            heard = self.heard.get(other.id, NOTHING_HEARD)
            alike = other.fingering.momentary == entry.fingering.momentary
            judged += [j if alike else replace(j, speaks=None) for j in heard.judgements]
            read += heard.readings
        return Heard(tuple(judged), tuple(read))

    def rank(self, entry: Entry) -> tuple[bool, float, int, int, bool]:
        """Sort what is at hand before what is not, what is surest before leads and what is for practice.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        (bool, float, int, int, bool)
            A key to sort by, the first before the others.
        """
        return (
            bool(self.lacking(entry)),
            -self.head_starts.get(entry.id, 0.0),
            2 * (entry.kind in ON_PURPOSE) + self.is_open_lead(entry),
            -list(Confidence).index(entry.confidence),
            entry.kind is not Kind.STANDARD,
        )

    def is_open_lead(self, entry: Entry) -> bool:
        """Whether it is a lead that nobody has spoken for: on this instrument it is not preferred.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        bool
        """
        return entry.is_lead and entry.id not in self.preferred

    def at_hand(self, midi: int) -> Iterator[Entry]:
        """Fingerings of a written note that can be played on it.

        Parameters
        ----------
        midi : int, 0 to 127
            Written note.

        Returns
        -------
        iterator of Entry
        """
        return (entry for entry in self.catalogue.by_midi.get(midi, ()) if not self.lacking(entry))

    def plainest(self, note: Pitch, *, on_purpose: bool = True) -> Entry | None:
        """The fingering that is offered first for a written note; None where nothing is at hand.

        Parameters
        ----------
        note : Pitch
        on_purpose : bool
            Whether one for colour or practice will do, where there is no other.

        Returns
        -------
        Entry or None
        """
        found = (e for e in self.at_hand(note.midi) if on_purpose or e.kind not in ON_PURPOSE)
        return min(found, key=self.rank, default=None)

    @cached_property
    def head_starts(self) -> Mapping[str, float]:
        """Entries that have a head start: those of positions followed, and those preferred."""
        followed = [self.schools.position[name] for name in sorted(self.positions)]
        found: dict[str, float] = {}
        for entry in self.catalogue.entries if followed else ():
            own = entry.school in self.positions or entry.school in self.kept_for
            if own or any(position.prefers(entry) for position in followed):
                found[entry.id] = OF_SCHOOL
        return found | {name: found.get(name, 0.0) + PREFERRED for name in self.preferred}

    def position_for(self, entry: Entry) -> str:
        """The position followed here that speaks for an entry; empty for none.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        str
        """
        for name in sorted(self.positions):
            position = self.schools.position[name]
            if (entry.school and position.plays(entry.school)) or position.prefers(entry):
                return name
        return ""

    @cached_property
    def kept_for(self) -> Mapping[str, tuple[Together, ...]]:
        """Positions whose rows are played here only for some notes, and the uses of which one must be met."""
        followed = [self.schools.position[name] for name in sorted(self.positions)]
        return {school: good_uses(text) for position in followed for school, text in position.only.items()}

    def without_row(self, note: Pitch) -> tuple[str, ...]:
        """Positions followed that prefer fingerings from some note up, and for this one have none but leads.

        Parameters
        ----------
        note : Pitch

        Returns
        -------
        tuple of str
        """
        found = []
        for name in sorted(self.positions):
            position = self.schools.position[name]
            preferred = [entry for entry in self.catalogue.entries if position.prefers(entry)]
            from_midi = min((entry.note.midi for entry in preferred), default=128)
            taught = {entry.note.midi for entry in preferred if not entry.is_lead}
            if (position.kinds or position.forms) and from_midi <= note.midi and note.midi not in taught:
                found.append(name)
        return tuple(found)

    @property
    def keeps_by_tempo(self) -> bool:
        """Whether some of these uses depend on the tempo."""
        together = (some for uses in self.kept_for.values() for some in uses)
        return any(not some.isdisjoint((Use.LONG, Use.FAST)) for some in together)

    @cached_property
    def aside(self) -> frozenset[str]:
        """Ids of the entries of another position than the one followed here."""
        return frozenset(
            entry.id
            for entry in self.catalogue.entries
            if self.schools.set_aside(entry.school, self.positions)
        )

    def lacking(self, entry: Entry) -> str:
        """What an entry needs and this instrument has not, in words; empty if nothing.

        Parameters
        ----------
        entry : Entry

        Returns
        -------
        str
        """
        lacking = missing(self.instrument, entry.fingering, entry.requires, self.fitted)
        return self.instrument.labels(lacking)
