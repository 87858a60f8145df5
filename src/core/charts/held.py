"""What may stay down: rows derived by rule, from a taught fingering and a touch that may rest beside it."""

from __future__ import annotations

from dataclasses import replace

from core.charts.catalogue import Catalogue, contradicted
from core.charts.entry import HELD, STAYS, Confidence, Entry, Speaks
from core.instruments.fingering import ON_PURPOSE, Fingering, Kind
from core.instruments.instrument import Instrument
from core.instruments.keywork import Mechanism, mechanism, unholdable
from core.instruments.parts import Rest

# Rows beside which a touch rests; what does the work of another touch takes its place in all.
PLAIN = (Kind.STANDARD, Kind.HALF_HOLE)
NOT_INSTEAD = (*ON_PURPOSE, Kind.TRILL)


def with_held(chart: Catalogue) -> Catalogue:
    """The chart with what may stay down on each of its plain fingerings.

    A touch rests on a fingering where the hands can hold both and the note stays what it is. If every hole is
    as it was, the new row takes tendency, tone and answer over, and stands as firm; if a hole below is not,
    they are unknown. Where a vent is left open that the note only spares, it needs care. What the plain one
    is good for, or to be avoided for, is said of both. A row that the chart has is not derived again.

    Parameters
    ----------
    chart : Catalogue

    Returns
    -------
    Catalogue
        With the derived rows at its end.
    """
    taught = [entry for entry in chart.entries if not entry.is_lead and entry.source != HELD]
    derived: dict[tuple[int, Fingering], Entry] = {}
    for rest in chart.instrument.rests:
        takes_over = rest.touches and rest.instead
        for entry in taught:
            if entry.kind in NOT_INSTEAD or (entry.kind not in PLAIN and not takes_over):
                continue
            row = held(entry, rest, chart.instrument)
            if row is not None and chart.find(row.note, row.fingering) is None:
                derived.setdefault((row.note.midi, row.fingering), row)
    return replace(chart, entries=(*chart.entries, *derived.values())) if derived else chart


def held(entry: Entry, rest: Rest, instrument: Instrument) -> Entry | None:
    """A row with what rests besides; None where it cannot.

    Parameters
    ----------
    entry : Entry
    rest : Rest
    instrument : Instrument

    Returns
    -------
    Entry or None
    """
    fingering, more = entry.fingering, frozenset(rest.touches)
    if not _concerns(rest, entry, instrument):
        return None
    both = Fingering((fingering.full - set(rest.instead)) | more, fingering.half, fingering.momentary)
    if unholdable(instrument, both):
        return None
    before, after = (mechanism(instrument, one) for one in (fingering, both))
    same = _holes(before) == _holes(after)
    spares = not more and before.plain == after.plain
    if not same and not spares and not (rest.register and _sounds(before) == _sounds(after)):
        return None
    row = replace(
        entry,
        id=STAYS.join((entry.id, rest.mark)),
        kind=Kind.ALTERNATE,
        fingering=both,
        requires=entry.requires | (more & instrument.optional_touches) | set(rest.needs),
        tendency=entry.tendency if same else None,
        tone=entry.tone if same else None,
        colour=entry.colour if same else None,
        speaks=entry.speaks if same else (Speaks.NEEDS_CARE if spares else None),
        good_for=entry.good_for or _good_for(rest),
        avoid_when="; ".join(filter(None, (entry.avoid_when, "soft attacks, first notes" if spares else ""))),
        confidence=entry.confidence if same else Confidence.MEDIUM,
        source=HELD,
        accounts="",
        form=instrument.form_of(both.touches, entry.note),
    )
    return None if contradicted(row, instrument) and not row.reason else row


def _concerns(rest: Rest, entry: Entry, instrument: Instrument) -> bool:
    """Whether something is to be rested, or let go, on a fingering at all."""
    fingering, more = entry.fingering, frozenset(rest.touches)
    if rest.register and instrument.register_of(entry.note).name != rest.register:
        return False
    if more & (fingering.half | fingering.momentary):
        return False
    if rest.beside and fingering.full.isdisjoint(rest.beside):
        return False
    if not more:
        return fingering.full >= set(rest.instead)
    return not more <= fingering.touches


def _good_for(rest: Rest) -> str:
    if not rest.touches:
        return f"fast moves: {rest.says}"
    if rest.instead:
        return f"notes while {rest.says} is on: a finger is free"
    return f"notes beside those that need {rest.says}: it stays down"


def _holes(read: Mechanism) -> tuple[tuple[str, ...], ...]:
    return read.open_holes, read.half_holes, read.open_vents


def _sounds(read: Mechanism) -> tuple[object, ...]:
    return read.plain, read.tube, read.open_vents
