"""Audit a chart brought in from outside: row by row, what it says against what is known.

A printed chart is believed in nothing: each row is held against the instrument's range, the hands, the
catalogue, the fittings of the instrument in hand, the keywork and a model, in this order; the first that
objects gives the finding.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from core.charts.catalogue import Catalogue
from core.charts.chart_format import ChartRow, read_touches
from core.charts.entry import DERIVED, OWN, Entry
from core.charts.own_entry import entry_of
from core.charts.verdict import AskModel, Judged, Verdict, judge, misprint
from core.errors import CoreError, FingeringError, PitchError
from core.instruments.fingering import ON_PURPOSE, Fingering
from core.instruments.instrument import Instrument
from core.instruments.keywork import missing, unholdable
from core.music.pitch import Pitch, parse_pitch, spell


class Finding(StrEnum):
    """What the audit says of a row."""

    AGREES = "agrees"
    LEAD = "a lead here"
    DIFFERS = "differs from the catalogue"
    OPEN = Verdict.OPEN.value
    DOUBTFUL = Verdict.DOUBTFUL.value
    CONTRADICTED = Verdict.CONTRADICTED.value
    IMPOSSIBLE = "impossible for the hands"
    NOT_FITTED = "needs what is not fitted"
    UNKNOWN_TOUCH = "unknown touch"
    DUPLICATE = "stands twice"
    OUT_OF_RANGE = "out of range"
    UNREADABLE = "cannot be read"


# Findings with which a row may still be taken over as a fingering of the teacher's own.
IMPORTABLE = frozenset(
    {Finding.DIFFERS, Finding.OPEN, Finding.DOUBTFUL, Finding.CONTRADICTED, Finding.NOT_FITTED}
)


@dataclass(frozen=True)
class AuditRow:
    """One row of the chart with its finding.

    Parameters
    ----------
    words : str
        What is found, in a teacher's words.
    entry : Entry or None
        The row as an entry, where it can be read as one.
    known : Entry or None
        The catalogue's entry that it is, or comes nearest to.
    """

    row: ChartRow
    finding: Finding
    words: str
    entry: Entry | None = None
    known: Entry | None = None

    @property
    def is_refuted(self) -> bool:
        """Whether the keywork or the hands speak against it."""
        return self.finding in (Finding.CONTRADICTED, Finding.IMPOSSIBLE)

    @property
    def importable(self) -> bool:
        """Whether it can be taken over as a fingering of the teacher's own."""
        return self.entry is not None and self.finding in IMPORTABLE

    @property
    def is_known(self) -> bool:
        """Whether taking it over would add nothing: it is the teacher's own already, or shipped and only
        not to be played on this instrument."""
        if self.entry is None or self.known is None or self.known.fingering != self.entry.fingering:
            return False
        return self.known.source == OWN or self.finding is Finding.NOT_FITTED


@dataclass(frozen=True)
class Audit:
    """The whole chart.

    Parameters
    ----------
    short_below, short_above : tuple of Pitch
        Notes of the instrument's range that the chart stops short of; `holes` lie between.
    """

    rows: tuple[AuditRow, ...]
    short_below: tuple[Pitch, ...]
    short_above: tuple[Pitch, ...]
    holes: tuple[Pitch, ...]

    @property
    def counts(self) -> Mapping[Finding, int]:
        """How many rows there are of each verdict."""
        counted = Counter(row.finding for row in self.rows)
        return {finding: counted[finding] for finding in Finding if counted[finding]}


def audit_chart(
    rows: Sequence[ChartRow], catalogue: Catalogue, fitted: frozenset[str], ask_model: AskModel
) -> Audit:
    """Hold every row of a chart against what is known of the instrument.

    Parameters
    ----------
    rows : sequence of ChartRow
    catalogue : Catalogue
    fitted : frozenset of str
        Optional touches and fittings of the instrument in hand.
    ask_model : callable
        Asked once, for all rows that neither chart nor keywork settles.

    Returns
    -------
    Audit
    """
    seen: dict[tuple[int, Fingering, str], int] = {}
    read = [_read(row, catalogue, fitted, seen) for row in rows]
    asked = [
        (row.entry.fingering, row.entry.note) for row in read if row.finding is Finding.OPEN and row.entry
    ]
    verdicts = iter(judge(catalogue, asked, ask_model))
    found = tuple(
        _judged(row, next(verdicts), catalogue) if row.finding is Finding.OPEN else row for row in read
    )
    covered = {row.entry.note.midi for row in found if row.entry is not None}
    absent = [midi for midi in catalogue.instrument.semitones if midi not in covered]
    first, last = (min(covered), max(covered)) if covered else (127, 127)
    return Audit(
        rows=found,
        short_below=_pitches(midi for midi in absent if midi < first),
        short_above=_pitches(midi for midi in absent if midi > last),
        holes=_pitches(midi for midi in absent if first < midi < last),
    )


def _pitches(midis: Iterable[int]) -> tuple[Pitch, ...]:
    return tuple(spell(midi) for midi in midis)


def _read(
    row: ChartRow, catalogue: Catalogue, fitted: frozenset[str], seen: dict[tuple[int, Fingering, str], int]
) -> AuditRow:
    """A row as far as chart, hands and fittings go; open where it is left to keywork and model."""
    instrument = catalogue.instrument
    try:
        note = parse_pitch(row.values.get("note", ""))
        fingering = read_touches(row.values.get("touches", ""), instrument)
    except PitchError as error:
        return AuditRow(row, Finding.UNREADABLE, str(error))
    except FingeringError as error:
        return AuditRow(row, Finding.UNKNOWN_TOUCH, str(error))
    if not instrument.accepts(note):
        return AuditRow(row, Finding.OUT_OF_RANGE, f"written {note} lies outside {instrument.accepted_span}")
    if complaints := unholdable(instrument, fingering):
        return AuditRow(row, Finding.IMPOSSIBLE, "; ".join(complaints))
    first = seen.setdefault((note.midi, fingering, row.values.get("requires", "")), row.line)
    if first != row.line:
        return AuditRow(row, Finding.DUPLICATE, f"the same note and touches stand in row {first}")
    try:
        entry = entry_of(row.values, note, fingering, instrument)
    except CoreError as error:
        return AuditRow(row, Finding.UNREADABLE, str(error))
    known = catalogue.find(note, fingering)
    if lacking := missing(instrument, fingering, known.requires if known else frozenset(), fitted):
        needs = "the catalogue's row needs" if known else "needs"
        return AuditRow(row, Finding.NOT_FITTED, f"{needs} {instrument.labels(lacking)}", entry, known)
    if known is None:
        return AuditRow(row, Finding.OPEN, "", entry)
    if known.is_lead:
        return AuditRow(row, Finding.LEAD, "nobody vouches for it: try it", entry, known)
    if known.kind in ON_PURPOSE and row.values.get("kind", "") != known.kind.value:
        words = misprint(catalogue, fingering, note)
        if words:
            words = f"{words} It is kept here as a {known.kind.value} fingering"
            return AuditRow(row, Finding.DOUBTFUL, words, entry, known)
    why = _other_tendency(entry, known)
    return AuditRow(row, Finding.DIFFERS if why else Finding.AGREES, why or _agreed(known), entry, known)


def _judged(row: AuditRow, judged: Judged, catalogue: Catalogue) -> AuditRow:
    """A row that no chart has, with what keywork and model say of it."""
    entry = row.entry
    if entry is None:
        return row
    near = nearest(entry.note, entry.fingering, catalogue)
    if judged.verdict in (Verdict.CONTRADICTED, Verdict.DOUBTFUL):
        return replace(row, finding=Finding(judged.verdict.value), words=judged.words)
    difference = _difference(entry.fingering, near, entry.note, catalogue.instrument)
    if judged.verdict is Verdict.FITS:
        return replace(row, finding=Finding.DIFFERS, words=difference, known=near)
    words = f"{judged.words}; {difference}"
    return replace(row, finding=Finding(judged.verdict.value), words=words, known=near)


def _agreed(known: Entry) -> str:
    """That a row is known, and with what caution where it is a rule that speaks for it."""
    if known.source not in DERIVED:
        return "as in the catalogue"
    return "as derived from the keywork" + (f"; less safe for {known.avoid_when}" if known.avoid_when else "")


def _other_tendency(entry: Entry, known: Entry) -> str:
    ours, theirs = known.tendency, entry.tendency
    if ours is None or theirs is None or ours.low <= theirs.cents <= ours.high:
        return ""
    words = f"the same touches, but {theirs.cents:+.0f} cents; known from {ours.low:+.0f} to {ours.high:+.0f}"
    return words.replace("-", "−")


def nearest(note: Pitch, fingering: Fingering, catalogue: Catalogue) -> Entry | None:
    """The catalogue's fingering for a note that differs in the fewest touches.

    Parameters
    ----------
    note : Pitch
    fingering : Fingering
    catalogue : Catalogue

    Returns
    -------
    Entry or None
    """
    entries = catalogue.by_midi.get(note.midi, ())
    return min(entries, key=lambda entry: len(entry.fingering.touches ^ fingering.touches), default=None)


def _difference(fingering: Fingering, near: Entry | None, note: Pitch, instrument: Instrument) -> str:
    if near is None:
        return f"no fingering for {note} is kept here to compare it with"
    added = fingering.touches - near.fingering.touches
    left = near.fingering.touches - fingering.touches
    words = [
        f"{word} {_labels(touches, instrument)}"
        for word, touches in (("adds", added), ("leaves off", left))
        if touches
    ]
    if not words:
        words = ["holds the same touches in another way"]
    return f"against the {near.kind.value} fingering it {' and '.join(words)}"


def _labels(touches: frozenset[str], instrument: Instrument) -> str:
    hands = (
        (instrument.finger(touch.finger).hand, touch.label)
        for touch in instrument.touches
        if touch.name in touches
    )
    return ", ".join(label if label.startswith(f"{hand} ") else f"{hand} {label}" for hand, label in hands)
