"""The instrument in hand made from stored values; the same values give the same one, with all it has kept."""

from functools import lru_cache
from types import MappingProxyType

from catalogue import shipped
from catalogue.models import OWN_FIELDS, OwnFingering
from core.charts.catalogue import Catalogue
from core.charts.entry import Entry, Speaks, Tone
from core.charts.own_entry import entry_of
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import (
    ALL_SOURCES,
    Basis,
    Handling,
    Heard,
    Hits,
    Judgement,
    Moved,
    Readings,
    Tuning,
)
from core.instruments.fingering import parse_fingering
from core.instruments.hand import ANY_HAND, Hand
from core.instruments.naming import Naming
from core.music.pitch import parse_pitch
from core.routes.demands import Moves
from core.routes.practised import practised
from studio.shipped import schools

IN_HANDS_KEPT = 64
# An own fingering as a plain row.
OWN_COLUMNS = ("pk", "note", "touches", "cents", "cents_low", "cents_high", *OWN_FIELDS)


@lru_cache(maxsize=IN_HANDS_KEPT)
def make(
    name,
    model,
    own,
    hidden,
    fitted,
    a4_hz=440.0,
    setup=1,
    heard=(),
    preferred=frozenset(),
    prepared=frozenset(),
    positions=frozenset(),
    naming=Naming.EACH_HAND,
    hand=ANY_HAND,
    moved=(),
) -> InstrumentInHand:
    """Make the instrument in hand.

    Parameters
    ----------
    name : str
        How an address names it.
    own : tuple of rows in the order of `OWN_COLUMNS`
    heard : tuple of (entry id, judgements, readings, hits)
        As `evidence.queries.heard_on` gives them.
    moved : tuple of (entry id, entry id, ((seconds, clean, stumbled), ...))
        As `evidence.queries.moved_on` gives them.
    """
    return InstrumentInHand(
        name=name,
        shipped=shipped.catalogue(model),
        catalogue=chart_in_force(model, own, hidden),
        tried=shipped.tried(model, fitted),
        own=own_entries(model, own),
        hidden=hidden,
        fitted=fitted,
        a4_hz=a4_hz,
        setup=setup,
        heard=MappingProxyType({entry: _heard(*all_of_it) for entry, *all_of_it in heard}),
        preferred=preferred,
        prepared=prepared,
        schools=schools(),
        positions=positions,
        naming=naming,
        hand=hand,
        moved=MappingProxyType(
            {(before, after): tuple(Moved(*one) for one in some) for before, after, some in moved}
        ),
    )


@lru_cache(maxsize=IN_HANDS_KEPT)
def own_entries(model, rows) -> tuple[Entry, ...]:
    """Own fingerings as entries of the chart."""
    whole = shipped.catalogue(model)
    found = []
    for row in rows:
        values = {name: "" if v is None else str(v) for name, v in zip(OWN_COLUMNS, row, strict=True)}
        fingering = parse_fingering(values["touches"], whole.instrument)
        name = f"{OwnFingering.PREFIX}{values['pk']}"
        found.append(entry_of(values, parse_pitch(values["note"]), fingering, whole.instrument, name))
    return tuple(found)


def _heard(judgements, readings, hits=()):
    scales = {"pitch": Tuning, "tone": Tone, "speaks": Speaks, "hands": Handling}
    return Heard(
        tuple(
            Judgement(setup, **{s: scales[s](word) for s, word in zip(scales, words, strict=True) if word})
            for setup, *words in judgements
        ),
        tuple(Readings(setup, cents) for setup, cents in readings),
        tuple(Hits(*one) for one in hits),
    )


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
