"""What may stay down: rows derived by rule, from a plain fingering and a touch that may rest beside it."""

from __future__ import annotations

from dataclasses import replace

from core.charts.catalogue import Catalogue, contradicted
from core.charts.entry import HELD, STAYS, Confidence, Entry
from core.instruments.fingering import Fingering, Kind
from core.instruments.instrument import Instrument
from core.instruments.keywork import Mechanism, mechanism, unholdable
from core.instruments.parts import Rest


def with_held(chart: Catalogue) -> Catalogue:
    """The chart with what may stay down on each of its plain fingerings.

    A touch rests on a fingering where the hands can hold both and the note stays what it is. If every hole is
    as it was, the new row takes tendency, tone and answer over, and stands as firm; if a hole below is not,
    they are unknown. What the plain one is good for, or to be avoided for, is said of both. A row that the
    chart has already is not derived again.

    Parameters
    ----------
    chart : Catalogue

    Returns
    -------
    Catalogue
        With the derived rows at its end.
    """
    plain = [entry for entry in chart.entries if entry.kind is Kind.STANDARD and not entry.is_lead]
    derived = [
        row
        for rest in chart.instrument.rests
        for entry in plain
        if (row := held(entry, rest, chart.instrument)) is not None
        and chart.find(row.note, row.fingering) is None
    ]
    return replace(chart, entries=(*chart.entries, *derived)) if derived else chart


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
    if more <= fingering.touches or (
        rest.register and instrument.register_of(entry.note).name != rest.register
    ):
        return None
    both = Fingering(fingering.full | more, fingering.half, fingering.momentary)
    if more & (fingering.half | fingering.momentary) or unholdable(instrument, both):
        return None
    before, after = (mechanism(instrument, one) for one in (fingering, both))
    same = _holes(before) == _holes(after)
    if not same and not (rest.register and _sounds(before) == _sounds(after)):
        return None
    row = replace(
        entry,
        id=STAYS.join((entry.id, *rest.touches)),
        kind=Kind.ALTERNATE,
        fingering=both,
        requires=entry.requires | (more & instrument.optional_touches),
        tendency=entry.tendency if same else None,
        tone=entry.tone if same else None,
        speaks=entry.speaks if same else None,
        good_for=entry.good_for or f"notes beside those that need {rest.says}: it stays down",
        confidence=entry.confidence if same else Confidence.MEDIUM,
        source=HELD,
        accounts="",
        form=instrument.form_of(both.touches, entry.note),
    )
    return None if contradicted(row, instrument) and not row.reason else row


def _holes(read: Mechanism) -> tuple[tuple[str, ...], ...]:
    return read.open_holes, read.half_holes, read.open_vents


def _sounds(read: Mechanism) -> tuple[object, ...]:
    return read.plain, read.tube, read.open_vents
