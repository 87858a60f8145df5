"""What the bench says of one note: its candidates, the moves into and out of it, and why."""

from collections.abc import Callable
from dataclasses import dataclass

from bench.queries import Opened
from bench.screens.in_music import Alternation, ColourPair, Grace, alternations, colour_pairs, graces
from bench.screens.why import more_faults, why
from bench.solution import Solution
from catalogue.high_notes import caution_for, taught_first
from core.charts.entry import Entry
from core.evidence.sources import NOTHING_HEARD, Basis
from core.music.aims import COLOURS
from core.music.events import Event, where
from core.music.pitch import frequency_hz, spell
from core.routes.candidates import BANNED
from core.routes.explain import faults_between
from core.routes.faults import bends
from core.routes.sureness import founded
from core.routes.tempo_map import holds
from core.words import cents_words, in_100
from drawing.compact import small_hands
from drawing.hands import hands
from drawing.strands import in_and_out, strands_of, strands_svg
from studio.address import Address

# Cents from which on it is told what a player mends.
WORTH_BENDING = 8.0
# Faults that to know more may save from which on it is told.
WORTH_KNOWING = 0.02


@dataclass(frozen=True)
class Choice:
    """One candidate of the note; `tried` is the one looked at, the chosen one where none is asked for."""

    entry: Entry
    drawing: str
    touches: str
    strands: str
    more: str
    chosen: bool
    pinned: bool
    banned: bool
    preferred: bool
    bar: str
    only_from: str
    missed: str
    tried: bool
    query: str

    @property
    def named(self) -> str:
        """Kind and touches."""
        return f"{self.entry.kind.value} {self.touches}"

    @property
    def states(self) -> str:
        """What it is marked as."""
        return " ".join(name for name in ("chosen", "banned", "tried") if getattr(self, name))


@dataclass(frozen=True)
class Inspector:
    """Everything said of one note."""

    event: Event
    where: str
    sounding: str
    choices: tuple[Choice, ...]
    refused: tuple[tuple[Entry, str, str], ...]
    gap: str
    tried: Choice | None
    drawing: str
    move_in: str
    move_out: str
    move_query: str
    why: str
    facts: tuple[str, ...]
    alternations: tuple[Alternation, ...]
    graces: tuple[Grace, ...]
    colours: tuple[ColourPair, ...]
    caution: str
    first: tuple[str, ...]
    previous_query: str
    next_query: str
    closer: str
    counted: str
    drills: str
    trial: str


@dataclass(frozen=True)
class _Note:
    """The note looked at, and the candidate tried."""

    opened: Opened
    solution: Solution
    n: int
    entry_id: str
    query: Callable[..., str]

    @property
    def in_hand(self):
        return self.opened.in_hand

    @property
    def event(self):
        return self.solution.events[self.n]

    @property
    def offer(self):
        return self.solution.table.problem.given.offered[self.n]

    @property
    def looked_at(self) -> str:
        """Id of the candidate asked for, or of the chosen one."""
        ids = [candidate.entry.id for candidate in self.offer.candidates]
        chosen = self.solution.entries[self.n]
        return self.entry_id if self.entry_id in ids else chosen.id if chosen else ""

    def neighbour(self, step) -> Entry | None:
        """The fingering chosen for a neighbouring note; None at an end or a gap."""
        n = self.n + step
        return self.solution.entries[n] if 0 <= n < len(self.solution.entries) else None


def inspect(
    opened: Opened, solution: Solution, n: int, entry_id: str, query: Callable[..., str]
) -> Inspector:
    """Look at a note of a bench, and at the candidate tried there.

    Parameters
    ----------
    query : callable
        Gives the address of a view from the id of a note and, if one is tried, of an entry.
    """
    note = _Note(opened, solution, n, entry_id, query)
    event, offer = note.event, note.offer
    choices = _choices(note)
    tried = next((choice for choice in choices if choice.tried), None)
    before, after = note.neighbour(-1), note.neighbour(1)
    into = opened.in_hand.move(before.fingering, tried.entry.fingering) if tried and before else None
    out = opened.in_hand.move(tried.entry.fingering, after.fingering) if tried and after else None
    last = len(solution.events) - 1
    closer = Address(on=opened.in_hand.name, note=event.written_pitch.ascii)
    spot = Address(opened.passage.pk, state=str(opened.state.number), first=event.id, last=event.id)
    return Inspector(
        event=event,
        where=where(event),
        sounding=_sounding(note),
        choices=choices,
        refused=tuple((c.entry, opened.in_hand.said(c.entry.fingering), c.bar) for c in offer.refused),
        gap=offer.gap,
        tried=tried,
        drawing=hands(tried.entry.fingering, opened.in_hand, into.touches if into else None) if tried else "",
        move_in=into.sentence if into else "",
        move_out=out.sentence if out else "",
        move_query=query(event.id, move=True) if before and note.entry_id == "" else "",
        facts=_facts(note) if tried and tried.chosen else (),
        why=why(note, tried) if tried else "",
        alternations=alternations(note),
        graces=graces(note),
        colours=colour_pairs(note),
        caution=caution_for(opened.in_hand, event.written_pitch),
        first=taught_first(opened.in_hand, event.written_pitch),
        previous_query=query(solution.events[max(n - 1, 0)].id),
        next_query=query(solution.events[min(n + 1, last)].id),
        closer=closer.to("catalogue:note"),
        counted=spot.at(entry=tried.entry.id if tried else "").to("counting:spot"),
        drills=spot.to("practice:drills"),
        trial=closer.at(first=before.id if before else "").to(
            "catalogue:trial-begin", colour="on" if event.aim in COLOURS else ""
        ),
    )


def _sounding(note):
    """The sounding pitch, spelled as the key asks."""
    to_sounding, written = note.in_hand.instrument.to_sounding, note.event.written_pitch
    midi = to_sounding.apply(written).midi
    key = note.solution.passage.key_at(note.event.id) + to_sounding.fifths
    sounding = spell(midi, (key + 6) % 12 - 6)
    hertz = frequency_hz(sounding, note.opened.settings.a4_hz)
    foreign = " · foreign to the key" if note.event.id in note.solution.passage.foreign else ""
    return f"sounds {sounding}, {hertz:.0f} Hz where A is {note.opened.settings.a4_hz:g}{foreign}"


def _choices(note):
    candidates = note.offer.candidates
    use = [Basis(source) for source in note.opened.settings.sources]
    known = note.in_hand.evidence([candidate.entry for candidate in candidates], use)
    order = sorted(range(len(candidates)), key=lambda slot: note.in_hand.rank(candidates[slot].entry))
    return tuple(_choice(note, slot, known[slot]) for slot in order)


def _choice(note, slot, known):
    candidate, event_id, table = note.offer.candidates[slot], note.event.id, note.solution.table
    entry, settings = candidate.entry, note.opened.settings
    _, into, out = faults_between(table, note.n, slot)
    return Choice(
        entry=entry,
        drawing=small_hands(entry.fingering, note.in_hand),
        touches=note.in_hand.said(entry.fingering),
        strands=strands_svg(strands_of(entry, known, in_and_out(into, out))),
        more=more_faults(float(table.extra_at(note.n)[slot])),
        chosen=slot == table.route.slots[note.n],
        pinned=settings.pins.get(event_id) == entry.id,
        banned=entry.id in settings.bans.get(event_id, ()),
        preferred=entry.id in note.in_hand.preferred,
        bar="" if candidate.bar == BANNED else candidate.bar,
        only_from=note.in_hand.said_touches(entry.only_from),
        missed=_missed(note.in_hand, entry) if Basis.COUNTED in settings.sources else "",
        tried=entry.id == note.looked_at,
        query=note.query(event_id, entry.id),
    )


def _missed(in_hand, entry):
    """How often a fingering was missed by this student, and to which note; empty where it never was."""
    some = in_hand.setups.counting(in_hand.heard.get(entry.id, NOTHING_HEARD)).hits
    total = sum(hits.total for hits in some)
    missed = total - sum(hits.clean for hits in some)
    if not missed:
        return ""
    midi, times = max((pair for hits in some for pair in hits.cracked), key=lambda p: p[1], default=(0, 0))
    to = f", {times} of them to {spell(midi)}" if times else ""
    return f"Counted: missed {missed} of {total} times{to}."


def _facts(note):
    """How well the choice is founded, and at which tempi it holds; nothing where there is no choice."""
    table = note.solution.table
    known = founded(table, table.stretches.around([note.n])).get(note.n)
    if known is None:
        return ()
    gain = f" To know more may save {in_100(known.loss)}." if known.loss >= WORTH_KNOWING else ""
    return (
        f"{known.footing.value.capitalize()}: of 100 ways in which what is not known may turn out, in "
        f"{100 * known.within:.0f} nothing else is noticeably better.{gain}",
        _holds(note),
        *_bend(note),
    )


def _bend(note):
    """What of its departure a player may mend; nothing where it is small, or not known."""
    problem, slot = note.solution.table.problem, note.solution.table.slots[note.n + 1]
    row = problem.trellis.rows[problem.trellis.first[note.n + 1] + slot]
    cents = float(problem.given.known.pitch[row] - problem.notes.wanted_cents[note.n])
    if not problem.given.known.pitch_known[row] or abs(cents) < WORTH_BENDING:
        return ()
    mended, just = round(bends(cents, note.event.seconds)), float(problem.notes.wanted_cents[note.n])
    tuned = f" of just ({cents_words(just)})" if round(just) else ""
    way = "down" if cents > 0 else "up, the harder way"
    return (
        f"About {cents_words(cents)}{tuned}: in this length a player bends perhaps {mended} of it {way}.",
    )


def _holds(note):
    """Between which tempi the fingering holds, and what comes beyond."""
    bpm = note.opened.settings.tempo_bpm
    slower, faster = holds(note.solution.table, bpm, note.n)
    if not slower and not faster:
        return "Holds at every tempo."
    parts = []
    for switch, word, here in ((slower, "from", 1), (faster, "to", -1)):
        if switch:
            parts.append(f"{word} {switch.bpm + here}")
    beyond = [
        f"{'up to' if switch is slower else 'from'} {switch.bpm} {_after(note, switch)} "
        f"(saves up to {in_100(switch.saves)})"
        for switch in (slower, faster)
        if switch
    ]
    return f"Holds {' '.join(parts)}; {'; '.join(beyond)}."


def _after(note, switch):
    entry = note.solution.table.problem.given.chart.entries[switch.after[switch.notes.index(note.n)]]
    return f"{entry.kind_words} {note.in_hand.said(entry.fingering)}"
