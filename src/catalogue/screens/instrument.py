"""One student's instrument: what is fitted, what it is played with, and how it tends."""

from dataclasses import dataclass

from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import Basis
from core.words import counted
from drawing.strands import cents_words
from drawing.tendency import Point, tendency_svg
from studio.address import Address


@dataclass(frozen=True)
class MeasuredRow:
    """A fingering with readings, and what the readings alone come to."""

    note: str
    kind: str
    touches: str
    cents: str
    spread: str
    count: int
    query: str


@dataclass(frozen=True)
class InstrumentPage:
    """How an instrument tends, from its readings under the present set-up.

    Parameters
    ----------
    earlier : str
        What was judged and read under earlier set-ups, in words; empty for nothing.
    """

    rows: tuple[MeasuredRow, ...]
    chart: str
    earlier: str


def instrument_page(in_hand: InstrumentInHand, name: str) -> InstrumentPage:
    """Build how an instrument tends; only entries that something was heard of are weighed."""
    heard = [entry for entry in in_hand.catalogue.entries if entry.id in in_hand.heard]
    weighed = in_hand.evidence(heard, [Basis.MEASURED])
    measured = [
        (entry, read)
        for entry, known in zip(heard, weighed, strict=True)
        for read in known.pitch.sources
        if read.basis is Basis.MEASURED
    ]
    measured.sort(key=lambda pair: (pair[0].note.midi, pair[0].id))
    earlier = sum(known.earlier for known in weighed)
    points = [
        Point(
            entry.note.midi,
            read.value,
            read.spread,
            f"{entry.note} {entry.kind.value}: {cents_words(read.value)}, {read.count} read",
        )
        for entry, read in measured
    ]
    title = f"How {name} tends: {counted(len(points), 'fingering')} measured"
    return InstrumentPage(
        rows=tuple(_row(in_hand, entry, read) for entry, read in measured),
        chart=tendency_svg(title, in_hand.instrument, points),
        earlier=_earlier(earlier),
    )


def _earlier(count):
    if count < 2:
        return "One judgement or reading" if count else ""
    return f"{count:,} judgements and readings"


def _row(in_hand, entry, read):
    return MeasuredRow(
        note=str(entry.note),
        kind=entry.kind.value,
        touches=in_hand.said(entry.fingering),
        cents=cents_words(read.value),
        spread=f"{read.spread:.0f}",
        count=read.count,
        query=Address(on=in_hand.name, note=entry.note.ascii).query(),
    )
