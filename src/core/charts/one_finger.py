"""Trills by one finger: rows derived by rule, where a chart has none to which one finger leads."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from core.charts.catalogue import Catalogue, check_entry
from core.charts.entry import ONE_FINGER, Confidence, Entry
from core.errors import CatalogueError
from core.instruments.actions import Action
from core.instruments.fingering import ON_PURPOSE, Fingering, Kind
from core.instruments.instrument import Instrument
from core.instruments.keywork import mechanism, partial_semitones, partials_of
from core.instruments.moves import move_between
from core.music.pitch import Pitch

# A trill goes up by a half step or a whole one.
STEPS = (1, 2)


def with_one_finger(chart: Catalogue) -> Catalogue:
    """The chart with forms to which one finger leads from a taught fingering a half or whole step below.

    Everything else is held: the octave, the half hole, what the other hand has down. Such a form is derived
    where every fingering of the chart for the upper note moves more fingers, where the keywork gives the note
    on the same partial with the same vents, and where a taught fingering sounds it on that partial. How it
    lies, sounds and answers is not known; it serves beside that lower note alone.

    Parameters
    ----------
    chart : Catalogue

    Returns
    -------
    Catalogue
        With the derived rows at its end.
    """
    derived: dict[tuple[int, Fingering], Entry] = {}
    for entry in chart.entries:
        firm = entry.confidence is Confidence.HIGH and entry.kind in (Kind.STANDARD, Kind.HALF_HOLE)
        if firm:
            for row in _above(entry, chart):
                derived.setdefault((row.note.midi, row.fingering), row)
    return replace(chart, entries=(*chart.entries, *derived.values())) if derived else chart


def _above(entry: Entry, chart: Catalogue) -> Iterator[Entry]:
    """Rows to which one finger leads from a fingering, and no row of the chart does."""
    instrument, partial = chart.instrument, entry.partial
    if partial not in partials_of(instrument)[:2]:
        return
    vents = mechanism(instrument, entry.fingering).open_vents
    for touch in instrument.touch_by_name:
        if touch in entry.fingering.half:
            continue
        fingering = Fingering(entry.fingering.full ^ {touch}, entry.fingering.half)
        read = mechanism(instrument, fingering)
        midi = read.plain.midi + partial_semitones(partial)
        if midi - entry.note.midi not in STEPS or read.open_vents != vents:
            continue
        rows = [row for row in chart.by_midi.get(midi, ()) if not row.is_lead and row.kind not in ON_PURPOSE]
        named = next((r.note for r in rows if r.partial == partial and r.kind is not Kind.TRILL), None)
        fewest = min((_fingers(entry.fingering, row.fingering, instrument) for row in rows), default=0)
        if named is None or fewest <= 1 or _fingers(entry.fingering, fingering, instrument) != 1:
            continue
        row = _row(entry, fingering, named, touch, instrument)
        try:
            check_entry(row, instrument)
        except CatalogueError:
            continue
        yield row


def _fingers(before: Fingering, after: Fingering, instrument: Instrument) -> int:
    """Fingers that move; one that goes from touch to touch cannot trill, and counts for two."""
    moved = [one.action for one in move_between(before, after, instrument).fingers]
    goes = [action in (Action.ROLLS, Action.SLIDES) for action in moved]
    return sum(action is not Action.STAYS for action in moved) + sum(goes)


def _row(entry: Entry, fingering: Fingering, note: Pitch, touch: str, instrument: Instrument) -> Entry:
    return replace(
        entry,
        id=f"{note.ascii.replace('#', 's')}-by-{touch}-from-{entry.id}",
        note=note,
        kind=Kind.ALTERNATE,
        fingering=fingering,
        requires=(entry.requires - instrument.optional_touches)
        | (fingering.touches & instrument.optional_touches),
        tendency=None,
        tone=None,
        speaks=None,
        good_for=f"fast notes: trills from {entry.note}, one finger moves",
        avoid_when="",
        only_from=fingering.touches & entry.fingering.touches,
        school="",
        confidence=Confidence.LOW,
        source=ONE_FINGER,
        accounts="",
        reason="",
        form=instrument.form_of(fingering.touches, note),
    )
