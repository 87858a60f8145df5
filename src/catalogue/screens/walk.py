"""Walk a scale: the best fingerings for it, and from note to note what the fingers do."""

from dataclasses import dataclass
from fractions import Fraction

from catalogue.in_hand import moves_on
from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.music.events import sounding_events
from core.music.passage import Bar, Note, Passage
from core.music.pitch import Pitch
from core.music.scale import scale, tonic_name
from core.routes.explain import chosen
from core.routes.solve import solve
from core.words import sentence
from drawing.compact import small_hands

# Slow enough to be walked, and slurred: the hands still count.
WALK_BPM = 72.0


@dataclass(frozen=True)
class WalkStep:
    """One note of the walk and the move that led to it."""

    note: Pitch
    kind: str
    touches: str
    drawing: str
    move: str
    gap: str


@dataclass(frozen=True)
class WalkPage:
    """A scale on the instrument in hand."""

    title: str
    steps: tuple[WalkStep, ...]


def walk_of(in_hand: InstrumentInHand, form) -> WalkPage | None:
    """The walk that a form asks for; None, with the reason on the form, where it cannot be."""
    try:
        return walk_page(in_hand, **form.scale)
    except CoreError as error:
        form.add_error(None, sentence(str(error)))
        return None


def walk_page(
    in_hand: InstrumentInHand, *, tonic: str, mode: str, low: Pitch, high: Pitch, down: bool
) -> WalkPage:
    """Build the walk; an error of the core says why no note of the scale lies in the range."""
    pitches = scale(tonic, mode, low, high, down=down)
    last = len(pitches) - 1
    notes = tuple(
        Note(f"s{n}", pitch, Fraction(1), slur_start=n == 0 < last, slur_stop=n == last > 0)
        for n, pitch in enumerate(pitches)
    )
    events = sounding_events(Passage((Bar(notes),)), WALK_BPM)
    table = solve(events, in_hand, moves_on(in_hand))
    entries = [candidate and candidate.entry for candidate in (chosen(table, n) for n in range(len(events)))]
    befores = [None, *entries[:-1]]
    return WalkPage(
        title=f"{tonic_name(tonic)} {mode}, {pitches[0]} to {pitches[-1]}",
        steps=tuple(
            _step(in_hand, pitch, entry, before, table.problem.given.offered[n].gap)
            for n, (pitch, entry, before) in enumerate(zip(pitches, entries, befores, strict=True))
        ),
    )


def _step(in_hand, pitch, entry, before, gap):
    if entry is None:
        return WalkStep(pitch, "", "", "", "", gap)
    move = in_hand.move(before.fingering, entry.fingering).sentence if before else ""
    touches = in_hand.said(entry.fingering)
    return WalkStep(pitch, entry.kind.value, touches, small_hands(entry.fingering, in_hand), move, "")
