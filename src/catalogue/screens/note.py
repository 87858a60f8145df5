"""The Note view: the candidates of one note side by side, and one of them looked at closely.

What is looked at is named by its touches, so that any fingering can be tried: press or let go one
touch, see what the keywork says, keep it.
"""

from dataclasses import dataclass

from catalogue.beside import TEMPO_BPM, beside
from catalogue.screens.note_closely import (
    Around,
    against_nearest,
    around_of,
    modelled_of,
    says_of,
    toggled,
)
from catalogue.screens.one_note import OneNote, one_note
from core.charts.entry import Colour, Entry, Speaks, Tone
from core.charts.own_entry import entry_of
from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import ALL_SOURCES, Basis, Handling, Tuning
from core.instruments.fingering import Fingering, Kind, format_fingering, parse_fingering
from core.instruments.keywork import unholdable
from core.music.pitch import Pitch, frequency_hz, spell
from drawing.body import body
from drawing.compact import small_hands
from drawing.hands import hands
from drawing.strands import Stumbles, per_hundred, sentence, strands_of, strands_svg
from studio.address import Address

# The id of a fingering that is only looked at.
UNTAUGHT = "looked-at"
SCALES = (("pitch", Tuning), ("tone", Tone), ("colour", Colour), ("speaks", Speaks), ("hands", Handling))


@dataclass(frozen=True)
class Card:
    """One fingering of the note as the page shows it."""

    entry: Entry
    drawing: str
    touches: str
    only_from: str
    strands: str
    sentence: str
    lacking: str
    preferred: bool
    own: bool
    looked_at: bool
    query: str


@dataclass(frozen=True)
class NotePage(OneNote):
    """One note on the instrument in hand.

    Parameters
    ----------
    problems : tuple of str
        What of the address could not be read.
    sources : tuple of (name, on, address)
        Kinds of evidence, with the address that switches each.
    leads : tuple of Card
        Fingerings to try that nobody vouches for.
    nothing_yet : bool
        Whether no fingering is known, and none looked at.
    all_hidden : bool
        Whether the chart has fingerings of the note, and the teacher hides them all.
    entry : Entry or None
        The candidate looked at; None for a fingering that is not kept for this note.
    entry_id : str
        Of that, or of the shipped entry that is hidden; empty for none.
    scales : tuple of (strand, words)
        The words of a judgement.
    """

    problems: tuple[str, ...]
    sounding: str
    sources: tuple[tuple[str, bool, str], ...]
    without: str
    cards: tuple[Card, ...]
    leads: tuple[Card, ...]
    all_hidden: bool
    entry: Entry | None
    entry_id: str
    own_pk: str
    is_hidden: bool
    can_keep: bool
    nothing_yet: bool
    own_query: str
    closely: str
    touches: str
    said: str
    status: str
    drawing: str
    body: str
    against_nearest: str
    says: tuple[str, ...]
    modelled: tuple[str, ...]
    around: tuple[Around, ...]
    tempo: str
    scales: tuple[tuple[str, list], ...]

    @property
    def looked_at(self) -> Card | None:
        return next((card for card in (*self.cards, *self.leads) if card.looked_at), None)


@dataclass(frozen=True)
class _Asked:
    """What is looked at: instrument, note, fingering, and the evidence that counts."""

    in_hand: InstrumentInHand
    note: Pitch
    use: frozenset[Basis]
    entries: list[Entry]
    fingering: Fingering

    @property
    def instrument(self):
        return self.in_hand.instrument

    @property
    def entry(self):
        return next((entry for entry in self.entries if entry.fingering == self.fingering), None)

    @property
    def nearest(self):
        """The nearest candidate, when what is looked at is none itself."""
        if self.entry is not None or not self.entries:
            return None
        return min(self.entries, key=lambda entry: len(entry.fingering.touches ^ self.fingering.touches))

    def query(self, touches="", note=None, use=None):
        """The address of a view: instrument, note, fingering and evidence switched off."""
        without = switched_off(self.use if use is None else use)
        at = Address(on=self.in_hand.name, note=(note or self.note).ascii, touches=touches)
        return at.query(without=without)


def switched_off(use):
    """Kinds of evidence that do not count, as an address names them."""
    return " ".join(sorted(ALL_SOURCES - use))


def note_page(in_hand: InstrumentInHand, note: Pitch | None, touches="", without="", problems=()) -> NotePage:
    """Build the Note view.

    Parameters
    ----------
    note : Pitch or None
        The middle of the range if None.
    touches : str
        The fingering looked at, as `core.instruments.fingering` writes it; the first candidate if empty.
    without : str
        Kinds of evidence that do not count.
    problems : sequence of str
        What of the address could not be read already.
    """
    # Longer than 40 lines only because it names every field of its record.
    problems = list(problems)
    note = note or in_hand.instrument.middle
    entries = sorted(in_hand.catalogue.by_midi.get(note.midi, ()), key=in_hand.rank)
    use = ALL_SOURCES - {basis for basis in ALL_SOURCES if basis.value in without.split()}
    fingering = _fingering(in_hand, entries, touches, problems)
    asked = _Asked(in_hand, note, use, entries, fingering)
    looked_at = asked.entry or _untaught(asked)
    besides = beside(in_hand, note, entries, use)
    if looked_at and looked_at.id not in besides:
        besides |= beside(in_hand, note, [looked_at], use)
    cards = _cards(asked, besides)
    shipped = in_hand.shipped.find(note, fingering)
    entry, written = asked.entry, format_fingering(fingering, in_hand.instrument)
    nothing_yet = not touches and not entries
    says = () if nothing_yet else says_of(asked)
    what = f"{entry.kind.value} fingering" if entry else "a fingering not in the chart"
    what = "no fingering yet" if nothing_yet else f"{what}, {in_hand.said(fingering)}"
    own = Address(on=in_hand.name, note=note.ascii, touches=written)
    links = {
        touch.name: asked.query(toggled(fingering, touch, in_hand.instrument))
        for touch in in_hand.instrument.touches
    }
    return NotePage(
        **one_note(in_hand, note, lambda other: asked.query(note=other)),
        problems=tuple(problems),
        sounding=_sounding(asked),
        sources=tuple(
            (str(basis), basis in use, asked.query(touches, use=use ^ {basis}))
            for basis in Basis
            if basis in ALL_SOURCES
        ),
        without=switched_off(use),
        cards=tuple(card for card in cards if not in_hand.is_open_lead(card.entry)),
        leads=tuple(card for card in cards if in_hand.is_open_lead(card.entry)),
        all_hidden=not entries and note.midi in in_hand.shipped.by_midi,
        entry=entry,
        entry_id=entry.id if entry else shipped.id if shipped else "",
        own_pk=entry.id.removeprefix("own-") if entry else "",
        is_hidden=shipped is not None and shipped.id in in_hand.hidden,
        can_keep=not nothing_yet and not shipped and not unholdable(in_hand.instrument, fingering),
        nothing_yet=nothing_yet,
        own_query=own.query(kind=Kind.ALTERNATE.value),
        closely=asked.query("" if nothing_yet else written),
        touches=written,
        said=in_hand.said(fingering),
        status=f"{note}: {what}. {' '.join(says)}",
        drawing=hands(fingering, in_hand, links=links),
        body=body(fingering, in_hand),
        against_nearest=against_nearest(asked),
        says=says,
        modelled=() if nothing_yet else modelled_of(asked),
        around=around_of(asked, besides.get(looked_at.id, {}) if looked_at else {}),
        tempo=f"{TEMPO_BPM:.0f}",
        scales=tuple((strand, list(words)) for strand, words in SCALES),
    )


def _fingering(in_hand, entries, touches, problems) -> Fingering:
    if touches:
        try:
            return parse_fingering(touches, in_hand.instrument)
        except CoreError as error:
            problems.append(f"The touches in the address cannot be read: {error}.")
    return entries[0].fingering if entries else Fingering()


def _untaught(asked):
    """The fingering looked at as an entry, though no chart has it; None where the hands cannot hold it."""
    if unholdable(asked.instrument, asked.fingering):
        return None
    return entry_of({}, asked.note, asked.fingering, asked.instrument, UNTAUGHT)


def _sounding(asked):
    pitch, a4_hz = asked.instrument.to_sounding.apply(asked.note), asked.in_hand.a4_hz
    return f"sounds {spell(pitch.midi)}, {frequency_hz(pitch, a4_hz):.0f} Hz where A is {a4_hz:g}"


def _cards(asked, besides):
    known = asked.in_hand.evidence(asked.entries, asked.use)
    return tuple(
        _card(asked, entry, strands_of(entry, of, _stumbles(besides.get(entry.id, {}))))
        for entry, of in zip(asked.entries, known, strict=True)
    )


def _card(asked, entry, strands):
    in_hand, touches = asked.in_hand, format_fingering(entry.fingering, asked.instrument)
    return Card(
        entry=entry,
        drawing=small_hands(entry.fingering, asked.in_hand),
        touches=in_hand.said(entry.fingering),
        only_from=in_hand.said_touches(entry.only_from),
        strands=strands_svg(strands),
        sentence=sentence(strands),
        lacking=in_hand.lacking(entry),
        preferred=entry.id in in_hand.preferred,
        own=entry.id in in_hand.own_ids,
        looked_at=entry.fingering == asked.fingering,
        query=asked.query(touches),
    )


def _stumbles(besides):
    """How the hands fare from and to the notes around; None where nothing is known of that."""
    chances = [chance for one in besides.values() for chance in (one.into, one.out)]
    if not chances:
        return None
    low, high = min(chances), max(chances)
    return Stumbles((low, high), f"{per_hundred(low)} to {per_hundred(high)} in 100 stumble, around")
