"""Fingerings near the known ones of a note: untried, to be tried with a student."""

from dataclasses import dataclass

from catalogue.beside import AVAILABLE_S, STEPS_AROUND, TEMPO_BPM
from catalogue.high_notes import caution_for
from catalogue.in_hand import family_rows, member_with
from catalogue.model_words import pitch_words, readiness
from catalogue.shipped import searched
from core.evidence.in_hand import InstrumentInHand
from core.instruments.fingering import Fingering, format_fingering
from core.music.pitch import Pitch, spell
from core.overtones.near_search import near_search
from drawing.compact import small_hands
from drawing.strands import per_hundred
from studio.address import Address

TRIED_AT_ONCE = 6


@dataclass(frozen=True)
class Untried:
    """One fingering that nobody teaches for the note."""

    drawing: str
    touches: str
    said: str
    changed: str
    pitch: str
    readiness: str
    stumble: str
    query: str
    vary: str


@dataclass(frozen=True)
class UntriedPage:
    """What may be tried for a note on the instrument in hand.

    Parameters
    ----------
    beyond : bool
        Whether it lies above all that charts have.
    no_number : bool
        Whether the model has earned none for any of them.
    searched : mapping of str to int
        How many taught fingerings were hidden from the search, and how many of them it found.
    varied : str
        Touches of the fingering that is varied; empty where none is. `whole` is the address of all.
    """

    note: Pitch
    problems: tuple[str, ...]
    caution: str
    beyond: bool
    tempo: str
    back: str
    trial: str
    rows: tuple[Untried, ...]
    no_number: bool
    searched: dict[str, int]
    varied: str
    whole: str


def untried_page(
    in_hand: InstrumentInHand, note: Pitch | None, problems=(), *, vary: Fingering | None = None
) -> UntriedPage:
    """Build the page of untried fingerings; for the middle of the range if `note` is None."""
    note = note or in_hand.instrument.middle
    around = [entry for step in STEPS_AROUND if (entry := in_hand.plainest(spell(note.midi + step)))]
    found = near_search(
        in_hand.acoustics.model,
        family_rows(in_hand),
        in_hand.catalogue,
        note,
        in_hand.fitted,
        around,
        AVAILABLE_S,
        hand=in_hand.hand,
        vary=vary,
    )
    here = Address(on=in_hand.name, note=note.ascii)
    rows = tuple(_row(in_hand, note, near, bool(around), vary) for near in found)
    return UntriedPage(
        note=note,
        problems=tuple(problems),
        caution=caution_for(in_hand, note),
        beyond=note.midi > in_hand.instrument.written_high.midi,
        tempo=f"{TEMPO_BPM:.0f}",
        back=here.query(),
        trial=here.to("catalogue:trial-begin", also=[row.touches for row in rows[:TRIED_AT_ONCE]]),
        rows=rows,
        no_number=bool(rows) and not any(row.pitch or row.readiness for row in rows),
        searched=searched(in_hand.instrument.family),
        varied=in_hand.said(vary) if vary else "",
        whole=here.query(),
    )


def _in_brackets(words):
    return f"({text})" if (text := ", ".join(words)) else ""


def _row(in_hand, note, near, placed, vary):
    trusted = in_hand.acoustics.of(near.fingering, note)
    touches = format_fingering(near.fingering, in_hand.instrument)
    move = in_hand.move(vary or near.base.fingering, near.fingering)
    there = Address(on=in_hand.name, note=note.ascii, touches=touches)
    told = filter(None, (member_with(in_hand, near.base), "a lead" if near.base.is_lead else ""))
    base = " ".join(filter(None, (near.base.kind_words, str(near.base.note), _in_brackets(told))))
    from_what = "it" if vary else f"the {base}"
    margin, even_db = near.prediction.margin, in_hand.acoustics.even_db
    return Untried(
        drawing=small_hands(near.fingering, in_hand),
        touches=touches,
        said=in_hand.said(near.fingering),
        changed=f"From {from_what}: {move.sentence}"
        if near.changed or vary
        else f"The touches of the {base}",
        pitch=pitch_words(trusted) if trusted else "",
        readiness=readiness(margin, even_db) if trusted else "",
        stumble=per_hundred(near.stumble) if placed else "",
        query=there.query(),
        vary=there.query(vary="1"),
    )
