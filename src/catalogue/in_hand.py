"""The instrument in hand made from stored values; the same values give the same one, with all it has kept."""

from dataclasses import asdict, dataclass, fields
from functools import cache, lru_cache
from types import MappingProxyType

from catalogue import shipped
from catalogue.models import OwnFingering
from core.charts.catalogue import Catalogue
from core.charts.entry import Entry
from core.charts.own_entry import entry_of
from core.evidence.in_hand import InstrumentInHand
from core.evidence.setups import FIRST, InForce
from core.evidence.sources import ALL_SOURCES, Basis, Heard, Moved
from core.instruments.fingering import Fingering, parse_fingering
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.naming import Naming
from core.music.pitch import parse_pitch
from core.routes.demands import Moves
from core.routes.practised import practised
from studio.shipped import family_of, schools

IN_HANDS_KEPT = 64


@dataclass(frozen=True)
class OwnStored:
    """A fingering of the teacher's own as it is stored in `catalogue.models.OwnFingering`."""

    pk: int
    note: str
    touches: str
    cents: float | None = None
    cents_low: float | None = None
    cents_high: float | None = None
    kind: str = ""
    tone: str = ""
    speaks: str = ""
    good_for: str = ""
    avoid_when: str = ""
    only_from: str = ""
    confidence: str = ""
    reason: str = ""


OWN_COLUMNS = tuple(column.name for column in fields(OwnStored))


@dataclass(frozen=True)
class Stored:
    """Everything stored that bears on the fingerings of one instrument.

    Parameters
    ----------
    name : str
        How an address names it.
    model : str
    own : tuple of OwnStored
    hidden, preferred : frozenset of str
        Ids of the entries that are hidden, and of those that are preferred.
    fitted : frozenset of str
        Optional touches and fittings that are there.
    a4_hz : float
    setups : InForce
    heard : tuple of (str, Heard)
        By entry id, as `evidence.queries.heard_on` gives it.
    moved : tuple of ((str, str), tuple of Moved)
        By entry ids, as `evidence.queries.moved_on` gives it.
    prepared, positions : frozenset of str
        Names of positions: those of which the first asking is done, and those followed.
    naming : Naming
    hand : Hand
    """

    name: str
    model: str
    own: tuple[OwnStored, ...] = ()
    hidden: frozenset[str] = frozenset()
    fitted: frozenset[str] = frozenset()
    a4_hz: float = 440.0
    setups: InForce = FIRST
    heard: tuple[tuple[str, Heard], ...] = ()
    moved: tuple[tuple[tuple[str, str], tuple[Moved, ...]], ...] = ()
    preferred: frozenset[str] = frozenset()
    prepared: frozenset[str] = frozenset()
    positions: frozenset[str] = frozenset()
    naming: Naming = Naming.EACH_HAND
    hand: Hand = ANY_HAND


def of_usual(model) -> InstrumentInHand:
    """A model as it ships, with what is usually fitted."""
    return make(Stored(model, model, fitted=shipped.instrument(model).usually_fitted))


@lru_cache(maxsize=IN_HANDS_KEPT)
def make(stored: Stored) -> InstrumentInHand:
    """The instrument in hand."""
    return InstrumentInHand(
        name=stored.name,
        shipped=shipped.catalogue(stored.model),
        catalogue=chart_in_force(stored.model, stored.own, stored.hidden | _better_fitted(stored)),
        tried=shipped.tried(stored.model, stored.fitted),
        own=own_entries(stored.model, stored.own),
        hidden=stored.hidden,
        fitted=stored.fitted,
        a4_hz=stored.a4_hz,
        setups=stored.setups,
        heard=MappingProxyType(dict(stored.heard)),
        preferred=stored.preferred,
        prepared=stored.prepared,
        schools=schools(),
        positions=stored.positions,
        naming=stored.naming,
        hand=stored.hand,
        moved=MappingProxyType(dict(stored.moved)),
    )


def _better_fitted(stored):
    """Rows that others stand for on an instrument with its fittings."""
    return shipped.catalogue(stored.model).better_fitted(stored.fitted)


@lru_cache(maxsize=IN_HANDS_KEPT)
def own_entries(model, own) -> tuple[Entry, ...]:
    """Own fingerings as entries of the chart."""
    whole = shipped.catalogue(model)
    found = []
    for one in own:
        values = {name: "" if value is None else str(value) for name, value in asdict(one).items()}
        fingering = parse_fingering(one.touches, whole.instrument)
        name = f"{OwnFingering.PREFIX}{one.pk}"
        found.append(entry_of(values, parse_pitch(one.note), fingering, whole.instrument, name))
    return tuple(found)


@cache
def _family_rows(name) -> tuple[Entry, ...]:
    """Rows of all members of a family, those of one's own chart first; the same touches for a note once."""
    members = sorted(family_of(name), key=lambda member: member != name)
    found: dict[tuple[int, Fingering], Entry] = {}
    for entry in (entry for member in members for entry in shipped.catalogue(member).entries):
        found.setdefault((entry.note.midi, entry.fingering), entry)
    return tuple(found.values())


def family_rows(in_hand: InstrumentInHand) -> tuple[Entry, ...]:
    """The teacher's own, and what the charts of all members of a family have, its own first."""
    return (*in_hand.own, *_family_rows(in_hand.instrument.name))


def register_of(in_hand: InstrumentInHand, entry_id: str) -> str:
    """The register of a fingering by its id; empty for one that is known no more."""
    entry = in_hand.catalogue.by_id.get(entry_id)
    return in_hand.instrument.register_of(entry.note).name if entry else ""


def member_with(in_hand: InstrumentInHand, entry: Entry) -> str:
    """Whose row it is: the label of a sister instrument, or empty for one's own."""
    if entry in (in_hand.catalogue.by_id.get(entry.id), in_hand.shipped.by_id.get(entry.id)):
        return ""
    members = family_of(in_hand.instrument.name)
    sister = next((name for name in members if shipped.catalogue(name).by_id.get(entry.id) == entry), "")
    return shipped.instrument(sister).label.lower() if sister else ""


@lru_cache(maxsize=IN_HANDS_KEPT)
def chart_in_force(model, own, hidden) -> Catalogue:
    """The chart without what is hidden, with own fingerings; the shipped one where there is neither."""
    whole = shipped.catalogue(model)
    return whole.with_own(own_entries(model, own), hidden) if own or hidden else whole


@lru_cache(maxsize=IN_HANDS_KEPT)
def moves_of(catalogue: Catalogue, hand: Hand = ANY_HAND) -> Moves:
    """The moves of a hand between the fingerings of a chart, as far as they were asked for."""
    return Moves(catalogue, hand)


def moves_on(in_hand: InstrumentInHand, use=ALL_SOURCES) -> Moves:
    """The moves as the student's hands make them: by what was counted of them, where that is to count."""
    return _practised_on(in_hand) if Basis.COUNTED in use else moves_of(in_hand.catalogue, in_hand.hand)


@lru_cache(maxsize=IN_HANDS_KEPT)
def _practised_on(in_hand: InstrumentInHand) -> Moves:
    return practised(moves_of(in_hand.catalogue, in_hand.hand), in_hand.moved)
