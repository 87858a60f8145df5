"""One student's instrument: what is fitted, its set-ups side by side, and how it tends."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

from catalogue.alone import alone
from catalogue.in_hand import register_of
from core.evidence.in_hand import InstrumentInHand
from core.evidence.setups import InForce, only
from core.evidence.setups_beside import ENOUGH, Learned, Read, Shift, shifts
from core.evidence.sources import SPEAKS_VALUE, Basis, Estimate, nearest_word
from core.evidence.weigh import Evidence, evidence
from core.music.pitch import spell
from core.words import counted
from drawing.strands import cents_words
from drawing.tendency import Point, tendency_svg
from studio.address import Address

HEARD = frozenset({Basis.JUDGED, Basis.MEASURED, Basis.COUNTED})
PITCH_BY = {Basis.MEASURED: "read", Basis.JUDGED: "by ear"}


@dataclass(frozen=True)
class HeardRow:
    """A fingering that something was heard of: under the present set-up, and under the one beside it."""

    note: str
    kind: str
    touches: str
    pitch: tuple[str, str]
    speaks: tuple[str, str]
    query: str


@dataclass(frozen=True)
class ChosenOtherwise:
    """A long note by itself, and what is taken for it under either set-up."""

    note: str
    now: str
    beside: str
    query: str


@dataclass(frozen=True)
class SetupBeside:
    """The present set-up beside another.

    Parameters
    ----------
    number : int
        Of the other.
    answers : tuple of str
        By register, how pitch differs; or what has to be read before it can be told.
    changed : tuple of ChosenOtherwise
    """

    number: int
    answers: tuple[str, ...]
    changed: tuple[ChosenOtherwise, ...]


@dataclass(frozen=True)
class InstrumentPage:
    """How an instrument tends, from what was heard under the present set-up and beside another.

    Parameters
    ----------
    measured : bool
        Whether anything was read under either.
    earlier : str
        What does not count any more of what was heard under earlier set-ups; empty for nothing.
    learned : tuple of str
        What such changes do on instruments of the kind.
    """

    rows: tuple[HeardRow, ...]
    chart: str
    measured: bool
    earlier: str
    beside: SetupBeside | None
    learned: tuple[str, ...]


def instrument_page(
    in_hand: InstrumentInHand,
    name: str,
    present: int,
    beside: int | None = None,
    under: InForce | None = None,
    learned: Sequence[Learned] = (),
    words: Mapping[int, str] | None = None,
) -> InstrumentPage:
    """Build how an instrument tends; only entries that something was heard of are weighed.

    Parameters
    ----------
    name : str
        Of the instrument.
    present : int
        Number of the present set-up.
    beside : int, optional
        Number of the set-up to lay beside it.
    under : InForce, optional
        What would count with that one.
    learned : sequence of Learned
    words : mapping of int to str
        What is noted of each set-up.
    """
    heard = [entry for entry in in_hand.catalogue.entries if entry.id in in_hand.heard]
    now = _heard_under(in_hand, present)
    other = _heard_under(in_hand, beside) if beside else {}
    rows = [
        (entry, now[entry.id], other.get(entry.id))
        for entry in sorted(heard, key=lambda e: (e.note.midi, e.id))
    ]
    told = [row for row in rows if any(known and _told(known) for known in row[1:])]
    marks, marks_beside = (
        [_point(row[0], read) for row in told if (read := _measured(row[n]))] for n in (1, 2)
    )
    title = f"How {name} tends: {counted(len(marks), 'fingering')} measured"
    if marks_beside:
        title += f", beside {len(marks_beside)} with another set-up"
    return InstrumentPage(
        rows=tuple(_row(in_hand, *row) for row in told),
        chart=tendency_svg(title, in_hand.instrument, marks, marks_beside),
        measured=bool(marks or marks_beside),
        earlier=_earlier(sum(in_hand.setups.left_out(in_hand.heard[entry.id]) for entry in heard)),
        beside=_beside(in_hand, beside, under, (other, now), words or {}) if beside and under else None,
        learned=tuple(map(_learned, learned)),
    )


def _heard_under(in_hand, number) -> dict[str, Evidence]:
    """What was heard under one set-up alone, by the id of the fingering."""
    here, kept = only(number), in_hand.catalogue.by_id
    return {
        name: evidence(kept[name], heard, here, HEARD)
        for name, heard in in_hand.heard.items()
        if name in kept
    }


def _measured(known: Evidence | None) -> Estimate | None:
    """What its readings come to."""
    sources = known.pitch.sources if known else ()
    return next((read for read in sources if read.basis is Basis.MEASURED), None)


def _read(known: Mapping[str, Evidence]) -> Read:
    return {name: read for name, one in known.items() if (read := _measured(one))}


def _told(known: Evidence) -> bool:
    return bool(known.pitch.sources or known.speaks.sources)


def _point(entry, read):
    words = f"{entry.note} {entry.kind.value}: {cents_words(read.value)}, {read.count} read"
    return Point(entry.note.midi, read.value, read.spread, words)


def _row(in_hand, entry, now, other):
    return HeardRow(
        note=str(entry.note),
        kind=entry.kind.value,
        touches=in_hand.said(entry.fingering),
        pitch=(_pitch_words(now), _pitch_words(other)),
        speaks=(_speaks_words(now), _speaks_words(other)),
        query=Address(on=in_hand.name, note=entry.note.ascii).query(),
    )


def _pitch_words(known):
    if known is None or not known.pitch.sources:
        return ""
    of = known.pitch.combined
    rests_on = (f"{source.count} {PITCH_BY[source.basis]}" for source in known.pitch.sources)
    return f"{cents_words(of.value)} ± {of.spread:.0f}, {' and '.join(rests_on)}"


def _speaks_words(known):
    if known is None or not known.speaks.sources:
        return ""
    of = known.speaks.combined
    counts = sum(source.count for source in known.speaks.sources if source.basis is Basis.COUNTED)
    return nearest_word(SPEAKS_VALUE, of.value).value + (f", {counts} counted" if counts else ", judged")


def _earlier(count):
    if count < 2:
        return "One judgement or reading" if count else ""
    return f"{count:,} judgements, readings and attempts"


def _beside(in_hand, number, under, heard, words):
    found = shifts(*map(_read, heard), partial(register_of, in_hand))
    named = words.get(number) or f"set-up {number}"
    answers = tuple(
        _answer(register.name, *found[register.name], named)
        for register in in_hand.instrument.registers
        if register.name in found
    )
    nothing = f"Nothing was read under both yet: from {ENOUGH} fingerings of a register on it is told."
    return SetupBeside(number, answers or (nothing,), _changed(in_hand, under))


def _answer(register, count, shift, named):
    if shift is None:
        read = f"{counted(count, 'fingering')} read under both, {ENOUGH - count} more to tell"
        return f"{register.capitalize()}: {read}."
    told = _shift_words(shift, f" than with {named}")
    return f"{register.capitalize()}: {told}, by {count} fingerings read under both."


def _shift_words(shift: Shift, than=""):
    """A shift with its bounds, as a teacher says it."""
    bounds = f"{_signed(shift.low)} to {_signed(shift.high)}"
    if shift.low < 0 < shift.high:
        return f"no telling whether higher or lower{than} ({bounds} cents)"
    return f"{abs(shift.cents):.0f} cents {'higher' if shift.cents > 0 else 'lower'}{than} ({bounds})"


def _signed(cents):
    return f"{round(cents):+d}".replace("-", "−") if round(cents) else "0"


def _changed(in_hand, under):
    """Notes that are taken otherwise with the other set-up, where that matters with one of the two."""
    now, then = alone(in_hand), alone(replace(in_hand, setups=under))
    return tuple(
        ChosenOtherwise(
            str(spell(midi)),
            *(
                f"{entry.kind.value}, {in_hand.said(entry.fingering)}"
                for entry in (now[midi].entry, then[midi].entry)
            ),
            Address(on=in_hand.name, note=spell(midi).ascii).query(),
        )
        for midi in sorted(now.keys() & then.keys())
        if now[midi].is_better_than(then[midi].entry) or then[midi].is_better_than(now[midi].entry)
    )


def _learned(found: Learned):
    what = f"{found.change[:1].upper()}{found.change[1:]}, {found.register}"
    if found.shift is None:
        return f"{what}: read on {counted(found.instruments, 'instrument')}, told from {ENOUGH} on."
    return f"{what}: {_shift_words(found.shift)}, by {found.instruments} instruments."
