"""Fingering charts: commented CSV text in, checked entries out.

Every row is held against the keywork when it is read: the hands must be able to hold it, and
the first open hole with the stated partial must give the stated note, or the row says why not.
"""

from __future__ import annotations

import csv
import io
from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from core.charts.entry import (
    HELD,
    MECHANISM,
    MODEL,
    ONE_FINGER,
    SOURCES,
    STAYS,
    Colour,
    Confidence,
    Entry,
    Speaks,
    Tendency,
    Tone,
)
from core.errors import CatalogueError, CoreError
from core.instruments.fingering import Fingering, Kind, format_fingering, parse_fingering
from core.instruments.instrument import Instrument
from core.instruments.keywork import (
    first_register_vents,
    mechanism,
    partial_semitones,
    partials_of,
    unholdable,
)
from core.music.pitch import Pitch, parse_pitch

COLUMNS = [
    *("id", "note", "kind", "touches", "requires", "partial", "cents", "cents_low", "cents_high"),
    *("tone", "speaks", "good_for", "avoid_when", "only_from", "school", "confidence", "source", "accounts"),
    *("reason", "colour"),
]
MAY_LACK = ("colour",)


@dataclass(frozen=True, eq=False)
class Catalogue:
    """A checked chart for one instrument, in the order of its rows; equal to itself only."""

    instrument: Instrument
    entries: tuple[Entry, ...]

    @cached_property
    def by_id(self) -> Mapping[str, Entry]:
        """Entries by their ids."""
        return {entry.id: entry for entry in self.entries}

    @cached_property
    def by_midi(self) -> Mapping[int, tuple[Entry, ...]]:
        """Entries of every written note, by its semitone, in the order of the chart."""
        found: dict[int, list[Entry]] = defaultdict(list)
        for entry in self.entries:
            found[entry.note.midi].append(entry)
        return {midi: tuple(entries) for midi, entries in found.items()}

    @cached_property
    def plain(self) -> Mapping[str, str]:
        """For each entry its id, or that of the plain fingering of which it is the same with more held."""
        found = {}
        for entries in self.by_midi.values():
            standard = [entry for entry in entries if entry.kind is Kind.STANDARD]
            for entry in entries:
                if entry.source == HELD:
                    found[entry.id] = entry.id.partition(STAYS)[0]
                    continue
                same = (
                    one.id
                    for one in standard
                    if entry.source in (MECHANISM, ONE_FINGER)
                    and one.fingering.touches < entry.fingering.touches
                )
                found[entry.id] = next(same, entry.id)
        return found

    @cached_property
    def index(self) -> Mapping[str, int]:
        """Place of each entry's id in `entries`."""
        return {entry.id: place for place, entry in enumerate(self.entries)}

    def with_own(self, own: Iterable[Entry], hidden: Collection[str] = ()) -> Catalogue:
        """The chart with a teacher's own entries added and those that they hide taken away.

        An own entry for the same note and touches takes the place of the shipped one.

        Parameters
        ----------
        own : iterable of Entry
        hidden : collection of str
            Ids of entries.

        Returns
        -------
        Catalogue
        """
        added = tuple(own)
        same = {(entry.note.midi, entry.fingering) for entry in added}
        kept = (
            entry
            for entry in self.entries
            if entry.id not in hidden and (entry.note.midi, entry.fingering) not in same
        )
        return replace(self, entries=(*kept, *added))

    def gaps(self) -> list[int]:
        """Semitones of the instrument's range without a supported fingering.

        Returns
        -------
        list of int, 0 to 127
            Rising.
        """
        return [midi for midi in self.instrument.semitones if midi not in self.by_midi]

    def better_fitted(self, fitted: Collection[str]) -> frozenset[str]:
        """Ids of rows in whose place another has the same touches for the note, and says what a fitting adds.

        Parameters
        ----------
        fitted : collection of str
            Optional touches and fittings that are there.

        Returns
        -------
        frozenset of str
        """
        there = [entry for entry in self.entries if entry.requires and entry.requires <= set(fitted)]
        better = {(entry.note.midi, entry.fingering): entry.requires for entry in there}
        return frozenset(
            entry.id
            for entry in self.entries
            if entry.requires < better.get((entry.note.midi, entry.fingering), frozenset())
        )

    def find(self, written_pitch: Pitch, fingering: Fingering) -> Entry | None:
        """The entry for a note with just these touches, if there is one.

        Parameters
        ----------
        written_pitch : Pitch
        fingering : Fingering

        Returns
        -------
        Entry or None
        """
        for entry in self.by_midi.get(written_pitch.midi, ()):
            if entry.fingering == fingering:
                return entry
        return None


def parse_catalogue(
    charts: Sequence[str], instrument: Instrument, positions: Collection[str] = ()
) -> Catalogue:
    """Read the charts of an instrument and check every row against it.

    Parameters
    ----------
    charts : sequence of str
        CSV with the columns of `COLUMNS`, of which `MAY_LACK` may be left out, from the family's to the
        instrument's own; lines that start with ``#`` are comments. A row with the id of one in an earlier
        chart replaces it.
    instrument : Instrument
    positions : collection of str
        Names of the teaching positions that a row may belong to.

    Returns
    -------
    Catalogue

    Raises
    ------
    CatalogueError
        Naming the row and what is wrong with it.
    """
    entries: dict[str, Entry] = {}
    for text in charts:
        lines = [line for line in text.splitlines() if line.strip() and not line.startswith("#")]
        reader = csv.DictReader(lines)
        had = list(reader.fieldnames or ())
        if had != [name for name in COLUMNS if name in had or name not in MAY_LACK]:
            raise CatalogueError(f"a chart must have the columns {', '.join(COLUMNS)}")
        here: set[str] = set()
        for row in reader:
            try:
                entry = _entry(row, instrument, positions)
            except CoreError as error:
                raise CatalogueError(f"row {row.get('id') or reader.line_num!r}: {error}") from error
            if entry.id in here:
                raise CatalogueError(f"row {entry.id!r}: the same id stands twice")
            here.add(entry.id)
            entries[entry.id] = entry
    for entry in entries.values():
        try:
            check_entry(entry, instrument)
        except CoreError as error:
            raise CatalogueError(f"row {entry.id!r}: {error}") from error
    seen: dict[tuple[int, Fingering, frozenset[str]], str] = {}
    for entry in entries.values():
        other = seen.setdefault((entry.note.midi, entry.fingering, entry.requires), entry.id)
        if other != entry.id:
            raise CatalogueError(f"row {entry.id!r}: the same note and touches stand in row {other!r}")
    return Catalogue(instrument, tuple(entries.values()))


def _entry(row: Mapping[str, str], instrument: Instrument, positions: Collection[str]) -> Entry:
    if None in row or None in row.values():
        raise CatalogueError("every row must have a value or an empty field for each column")
    if row["source"] not in SOURCES:
        raise CatalogueError(f"source must be one of {', '.join(SOURCES)}, got {row['source']!r}")
    if row["school"] and row["school"] not in positions:
        raise CatalogueError(f"school must be one of {', '.join(positions)}, got {row['school']!r}")
    cents = [row[name] for name in ("cents", "cents_low", "cents_high")]
    try:
        note, fingering = parse_pitch(row["note"]), parse_fingering(row["touches"], instrument)
        return Entry(
            id=row["id"],
            note=note,
            kind=Kind(row["kind"]),
            fingering=fingering,
            requires=frozenset(row["requires"].split()),
            partial=int(row["partial"]) if row["partial"] else None,
            tendency=Tendency(*map(float, cents)) if any(cents) else None,
            tone=Tone(row["tone"]) if row["tone"] else None,
            speaks=Speaks(row["speaks"]) if row["speaks"] else None,
            good_for=row["good_for"],
            avoid_when=row["avoid_when"],
            only_from=frozenset(row["only_from"].split()),
            school=row["school"],
            confidence=Confidence(row["confidence"]),
            source=row["source"],
            reason=row["reason"],
            accounts=row["accounts"],
            form=instrument.form_of(fingering.touches, note),
            colour=Colour(row["colour"]) if row.get("colour") else None,
        )
    except CoreError:
        raise
    except ValueError as error:
        raise CatalogueError(f"a field cannot be read: {error}") from error


def check_entry(entry: Entry, instrument: Instrument) -> None:
    """Hold a row against range, hands and keywork.

    Parameters
    ----------
    entry : Entry
    instrument : Instrument

    Raises
    ------
    CatalogueError
        If the note is out of range, the hands cannot hold the touches, `requires` is not what
        the touches require, or the mechanism contradicts the row and no reason is written.
    """
    if not instrument.accepts(entry.note):
        raise CatalogueError(f"note must lie from {instrument.accepted_span}, got {entry.note}")
    if complaints := unholdable(instrument, entry.fingering):
        raise CatalogueError("; ".join(complaints))
    needed = entry.fingering.touches & instrument.optional_touches
    fittings = {fitting.name for fitting in instrument.fittings}
    if not needed <= entry.requires <= needed | fittings:
        raise CatalogueError(
            f"requires must be {sorted(needed)}, or fittings besides, got {sorted(entry.requires)}"
        )
    if not entry.only_from <= set(instrument.touch_by_name):
        raise CatalogueError(f"only_from must name touches, got {sorted(entry.only_from)}")
    if entry.is_lead and (entry.tendency or entry.tone or entry.speaks or entry.colour):
        raise CatalogueError("a lead must state no tendency, tone, colour or answer: nobody vouches for them")
    if entry.source == MODEL and not entry.is_lead:
        raise CatalogueError("what only a model speaks for must be a lead")
    if contradiction := contradicted(entry, instrument):
        if not entry.reason:
            raise CatalogueError(f"{contradiction}; mend the row or write the reason")
    elif entry.reason:
        raise CatalogueError("the mechanism agrees with the row, so it must give no reason")


def contradicted(entry: Entry, instrument: Instrument) -> str | None:
    """Say how the mechanism reads otherwise than the row, or None if it agrees.

    Parameters
    ----------
    entry : Entry
    instrument : Instrument

    Returns
    -------
    str or None
    """
    read = mechanism(instrument, entry.fingering)
    if entry.partial is None:
        return "the partial is not settled, so the mechanism cannot confirm the note"
    if entry.partial not in partials_of(instrument):
        return f"the tube has no partial {entry.partial}"
    bases = {read.plain.midi, read.tube.midi} if entry.partial >= 3 else {read.plain.midi}
    if entry.note.midi - partial_semitones(entry.partial) not in bases:
        return f"partial {entry.partial} of {read.plain} is not {entry.note}"
    if entry.partial == 1 and (open_ := first_register_vents(instrument, read)):
        return f"the first partial with an open {open_[0]}"
    return None


def format_catalogue(entries: Iterable[Entry], instrument: Instrument) -> str:
    """Write entries in the form that `parse_catalogue` reads.

    Parameters
    ----------
    entries : iterable of Entry
    instrument : Instrument

    Returns
    -------
    str
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for entry in entries:
        tendency = entry.tendency
        writer.writerow(
            [
                entry.id,
                entry.note.ascii,
                entry.kind.value,
                format_fingering(entry.fingering, instrument),
                " ".join(sorted(entry.requires)),
                entry.partial if entry.partial is not None else "",
                *(
                    [f"{v:g}" for v in (tendency.cents, tendency.low, tendency.high)]
                    if tendency
                    else [""] * 3
                ),
                entry.tone or "",
                entry.speaks or "",
                entry.good_for,
                entry.avoid_when,
                " ".join(sorted(entry.only_from)),
                entry.school,
                entry.confidence.value,
                entry.source,
                entry.accounts,
                entry.reason,
                entry.colour or "",
            ]
        )
    return out.getvalue()
