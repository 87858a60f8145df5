"""What the bench says of one note: its candidates, the moves into and out of it, and why."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse

from catalogue.care import caution_for
from catalogue.drawings import hands, small_hands
from catalogue.strands import in_and_out, strands_of, strands_svg
from core.charts.catalogue import Entry
from core.instruments.fingering import format_fingering
from core.instruments.moves import move_between
from core.music.passage import Event
from core.music.pitch import frequency_hz
from core.routes.candidates import BANNED
from passages.solution import where


@dataclass(frozen=True)
class Choice:
    """One candidate of the note."""

    entry: Entry
    drawing: str
    touches: str
    strands: str
    extra: float
    chosen: bool
    pinned: bool
    banned: bool
    preferred: bool
    bar: str
    tried: bool
    query: str

    @property
    def more(self):
        return more_faults(self.extra)


@dataclass(frozen=True)
class Inspector:
    """Everything said of one note; `tried` is the candidate looked at, the chosen one by default."""

    event: Event
    where: str
    sounding: str
    choices: list[Choice]
    refused: list[tuple[Entry, str, str]]
    gap: str
    tried: Choice | None
    drawing: str
    move_in: str
    move_out: str
    why: str
    caution: str
    previous_query: str
    next_query: str
    closer: str

    @property
    def any_tried(self):
        return any(choice.tried for choice in self.choices)


def inspect(bench) -> Inspector:
    """Look at the selected note of a bench, and at the candidate tried there."""
    place, solution, instrument = bench.selected, bench.solution, bench.instrument
    event, offer = solution.events[place], solution.offered[place]
    order = sorted(
        range(len(offer.candidates)), key=lambda slot: bench.hand.rank(offer.candidates[slot].entry)
    )
    choices = [_choice(bench, slot) for slot in order]
    tried = next((c for c in choices if c.tried), next((c for c in choices if c.chosen), None))
    before, after = _neighbour(solution, place - 1), _neighbour(solution, place + 1)
    into = tried and before and move_between(before.fingering, tried.entry.fingering, instrument)
    out = tried and after and move_between(tried.entry.fingering, after.fingering, instrument)
    last = len(solution.events) - 1
    return Inspector(
        event=event,
        where=where(event),
        sounding=_sounding(bench, event),
        choices=choices,
        refused=[(c.entry, format_fingering(c.entry.fingering, instrument), c.bar) for c in offer.refused],
        gap=offer.gap,
        tried=tried,
        drawing=hands(tried.entry.fingering, instrument, into.touches if into else None) if tried else "",
        move_in=into.sentence if into else "",
        move_out=out.sentence if out else "",
        why=_why(bench, tried),
        caution=caution_for(instrument, event.written_pitch),
        previous_query=bench.query(solution.events[max(place - 1, 0)].id),
        next_query=bench.query(solution.events[min(place + 1, last)].id),
        closer=f"{reverse('catalogue:note')}?"
        + urlencode({"on": bench.hand.on, "note": event.written_pitch.ascii}),
    )


def _neighbour(solution, place):
    """The fingering chosen for a neighbouring note; None at an end or a gap."""
    return solution.chosen(place) if 0 <= place < len(solution.events) else None


def _sounding(bench, event):
    sounding = bench.instrument.to_sounding.apply(event.written_pitch)
    hertz = frequency_hz(sounding, bench.settings.a4_hz)
    foreign = " · foreign to the key" if event.id in bench.solution.passage.foreign else ""
    return f"sounds {sounding}, {hertz:.0f} Hz where A is {bench.settings.a4_hz:g}{foreign}"


def _choice(bench, slot):
    solution, place = bench.solution, bench.selected
    candidate, note_id = solution.offered[place].candidates[slot], bench.note_id
    entry, faults = candidate.entry, solution.faults(place, slot)
    into = float(faults[3]) if _neighbour(solution, place - 1) else None
    out = float(faults[4]) if _neighbour(solution, place + 1) else None
    return Choice(
        entry=entry,
        drawing=small_hands(entry.fingering, bench.instrument),
        touches=format_fingering(entry.fingering, bench.instrument),
        strands=strands_svg(strands_of(entry, bench.evidence(entry), in_and_out(into, out))),
        extra=solution.extra_faults(place, slot),
        chosen=slot == solution.route.slots[place],
        pinned=bench.settings.pins.get(note_id) == entry.id,
        banned=entry.id in bench.settings.bans.get(note_id, ()),
        preferred=entry.id in bench.hand.preferred,
        bar="" if candidate.bar == BANNED else candidate.bar,
        tried=entry.id == bench.entry_id,
        query=bench.query(note_id, entry.id),
    )


def _why(bench, tried):
    """Why the chosen fingering stands here, or what the one tried would do, in words."""
    if tried is None:
        return ""
    solution, place = bench.solution, bench.selected
    reason = solution.reason(place)
    if not tried.chosen:
        return f"With it the passage has {tried.more} than with the chosen route."
    if tried.pinned:
        return "Pinned by you."
    if tried.preferred:
        return "Preferred on this instrument."
    if tried.entry.id in bench.hand.head_starts:
        return f"As you teach it on this instrument: {bench.hand.school}."
    if reason.runner_up is None:
        alone = len(solution.offered[place].candidates) == 1
        return f"The only one to choose here{'' if alone else ', unless you pin another'}."
    rival = solution.offered[place].candidates[reason.runner_up].entry
    said = f"Chosen over {rival.kind.value}"
    if rival.kind is tried.entry.kind:
        said += f" {format_fingering(rival.fingering, bench.instrument)}"
    said += f" for {reason.because.capitalize()}" if reason.because else ""
    said += f", though it costs {reason.despite.capitalize()}" if reason.despite else ""
    return said + ("." if reason.because or reason.despite else ": hardly any difference.")


def more_faults(extra: float) -> str:
    """A difference in expected faults as a teacher would say it."""
    if abs(100 * extra) < 0.5:
        return "no more faults"
    return f"{abs(100 * extra):.0f} {'more' if extra > 0 else 'fewer'} faults in 100 playings"
