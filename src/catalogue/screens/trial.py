"""The trial at the stand: one fingering at a time, and at the end what came of it."""

from dataclasses import dataclass

from catalogue.high_notes import asked_first, caution_for
from core.charts.entry import Colour, Entry, Tone
from core.charts.schools import Position
from core.charts.verdict import Verdict, judge
from core.errors import CoreError
from core.evidence.in_hand import InstrumentInHand
from core.evidence.sources import Tuning
from core.evidence.trial import CRACKS_TO, NOT_HEARD, Answer, TrialQuestion, TrialResponse, asked, outcome
from core.instruments.fingering import Fingering, format_fingering, parse_fingering
from core.music.pitch import Pitch, spell
from core.words import sentence
from drawing.compact import small_hands
from drawing.hands import hands
from drawing.strands import strands_of, strands_svg
from evidence.trials import UNTRIED, answers_of
from studio.address import Address

QUESTIONS = {
    TrialQuestion.RESPONSE: ("Does it speak?", [(one.value, one.value) for one in TrialResponse]),
    TrialQuestion.CRACKS_TO: ("To what does it crack?", [(one, one) for one in CRACKS_TO]),
    TrialQuestion.TUNING: (
        "Where does it lie?",
        [*((one.value, one.value) for one in Tuning), (NOT_HEARD, "did not listen")],
    ),
    TrialQuestion.TONE: (
        "How full is it?",
        [*((one.value, one.value) for one in Tone), (NOT_HEARD, "did not listen")],
    ),
    TrialQuestion.COLOUR: (
        "Of what colour?",
        [*((one.value, one.value) for one in Colour), (NOT_HEARD, "did not listen")],
    ),
}


@dataclass(frozen=True)
class TrialChoice:
    """A fingering that may be tried, and what speaks against it."""

    item: str
    named: str
    drawing: str
    touches: str
    chosen: bool
    says: str = ""


@dataclass(frozen=True)
class BeginPage:
    """What may be tried for a note.

    Parameters
    ----------
    before, prepared : tuple of Position
        As a `OneNote` has them.
    coming_from : Entry or None
        What it is come to from.
    """

    note: Pitch
    caution: str
    choices: tuple[TrialChoice, ...]
    before: tuple[Position, ...]
    prepared: tuple[Position, ...]
    coming_from: Entry | None
    lower: Entry | None


@dataclass(frozen=True)
class AtStand:
    """The fingering at hand.

    Parameters
    ----------
    place, count : int
        The how-manieth it is, from 1, and how many there are.
    answers : list of (value, words)
        The choices, in the order of the keys 1, 2, 3.
    """

    note: Pitch
    place: int
    count: int
    named: str
    touches: str
    drawing: str
    move: str
    question: str
    answers: list[tuple[str, str]]
    takes_cents: bool
    begun: bool
    caution: str
    status: str


@dataclass(frozen=True)
class TriedShown:
    """What one fingering did; `query` leads to it, `own_query` to keeping it where no chart has it."""

    named: str
    touches: str
    drawing: str
    did: str
    strands: str
    entry: Entry | None
    preferred: bool
    moved: str
    query: str
    own_query: str


@dataclass(frozen=True)
class EndPage:
    note: Pitch
    tried: tuple[TriedShown, ...]
    left: int
    caution: str


def begin_page(in_hand: InstrumentInHand, note: Pitch, coming_from: str = "", also=()) -> BeginPage:
    """What may be tried for a note: everything at hand and, of `also`, touches that no chart has."""
    instrument = in_hand.instrument
    entries = sorted(in_hand.at_hand(note.midi), key=in_hand.rank)
    shown = [
        TrialChoice(
            entry.id,
            entry.kind_words + (", a lead" if entry.is_lead else ""),
            small_hands(entry.fingering, in_hand),
            in_hand.said(entry.fingering),
            chosen=not also,
        )
        for entry in entries
    ]
    read = [parse_fingering(touches, instrument) for touches in also]
    # what is found stands above, or is not at hand
    untried = [(fingering, note) for fingering in read if not in_hand.catalogue.find(note, fingering)]
    verdicts = judge(in_hand.catalogue, untried, in_hand.acoustics)
    for (fingering, _), judged in zip(untried, verdicts, strict=True):
        speaks_against = judged.verdict in (Verdict.DOUBTFUL, Verdict.CONTRADICTED)
        shown.append(
            TrialChoice(
                UNTRIED + format_fingering(fingering, instrument),
                "untried",
                small_hands(fingering, in_hand),
                in_hand.said(fingering),
                chosen=True,
                says=sentence(judged.words) if speaks_against else "",
            )
        )
    return BeginPage(
        note=note,
        caution=caution_for(in_hand, note),
        choices=tuple(shown),
        **asked_first(in_hand, note),
        coming_from=in_hand.catalogue.by_id.get(coming_from),
        lower=in_hand.plainest(spell(note.midi - 1)),
    )


def items_asked(in_hand: InstrumentInHand, note: Pitch, wanted) -> list[str]:
    """Of what was ticked, what can be tried: entries of the note at hand, and touches that can be read."""
    known = {entry.id for entry in in_hand.at_hand(note.midi)}
    return [item for item in dict.fromkeys(wanted) if item in known or _untried(in_hand, item) is not None]


def _untried(in_hand, item) -> Fingering | None:
    if not item.startswith(UNTRIED):
        return None
    try:
        return parse_fingering(item.removeprefix(UNTRIED)[:200], in_hand.instrument)
    except CoreError:
        return None


def _touches(in_hand, fingering):
    return in_hand.said(fingering) if fingering else "no longer in the chart"


def _read(in_hand, item) -> tuple[Entry | None, Fingering | None]:
    entry = in_hand.catalogue.by_id.get(item)
    return entry, entry.fingering if entry else _untried(in_hand, item)


def at_stand(in_hand: InstrumentInHand, trial) -> AtStand | None:
    """The fingering at hand; None when all are through."""
    answers, note = answers_of(trial), spell(trial.note_midi)
    at = asked(answers, len(trial.items), colour=trial.colour)
    if at is None:
        return None
    place, question = at
    entry, fingering = _read(in_hand, trial.items[place])
    before = in_hand.catalogue.by_id.get(trial.coming_from)
    move = in_hand.move(before.fingering, fingering) if before and fingering else None
    words, choices = QUESTIONS[question]
    named = "" if trial.blind else entry.kind_words if entry else "untried"
    return AtStand(
        note=note,
        place=place + 1,
        count=len(trial.items),
        named=named,
        touches="" if trial.blind else _touches(in_hand, fingering),
        drawing=hands(fingering, in_hand, move.touches if move else None) if fingering else "",
        move=f"From {before.note}: {move.sentence}" if move else "",
        question=words,
        answers=choices,
        takes_cents=question is TrialQuestion.TUNING,
        begun=bool(answers),
        caution=caution_for(in_hand, note),
        status=f"{place + 1} of {len(trial.items)}. {words}",
    )


def end_page(in_hand: InstrumentInHand, before: InstrumentInHand, trial) -> EndPage:
    """What came of a trial.

    Parameters
    ----------
    before : InstrumentInHand
        The instrument as it would be known without this trial.
    """
    answers, note = answers_of(trial), spell(trial.note_midi)
    ranked = outcome(trial.items, answers)
    entries = [in_hand.catalogue.by_id[item] for item, _ in ranked if item in in_hand.catalogue.by_id]
    pairs = zip(before.evidence(entries), in_hand.evidence(entries), strict=True)
    known = {entry.id: pair for entry, pair in zip(entries, pairs, strict=True)}
    return EndPage(
        note,
        tuple(_tried(in_hand, known, note, item, one) for item, one in ranked),
        len(trial.items) - len(answers),
        caution_for(in_hand, note),
    )


def _tried(in_hand, known, note, item, one: Answer):
    """`known` is what was known of each entry before and after."""
    entry, fingering = _read(in_hand, item)
    touches = _touches(in_hand, fingering)
    written = format_fingering(fingering, in_hand.instrument) if fingering else ""
    query = Address(on=in_hand.name, note=note.ascii, touches=written).query()
    strands, moved = "", ""
    if entry:
        old, new = (strands_of(entry, evidence) for evidence in known[entry.id])
        strands, moved = strands_svg(new), _moved(old, new)
    return TriedShown(
        named=entry.kind_words if entry else "untried",
        touches=touches,
        drawing=small_hands(fingering, in_hand) if fingering else "",
        did=one.words,
        strands=strands,
        entry=entry,
        preferred=bool(entry) and entry.id in in_hand.preferred,
        moved=moved,
        query=query,
        own_query="" if entry or one.response is not TrialResponse.SPEAKS else query,
    )


def _moved(old, new):
    """What of pitch, tone and response is now said otherwise."""
    changed = [
        f"{after.name}: {before.words} → {after.words}"
        for before, after in zip(old, new, strict=True)
        if after.name in ("Pitch", "Tone", "Speaks") and before.words != after.words
    ]
    return "; ".join(changed)
