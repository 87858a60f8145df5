"""The fingering looked at closely on the Note view: keywork, model, and the moves to the notes around."""

from dataclasses import dataclass

from catalogue.model_words import ordinal, sentences
from core.charts.verdict import Verdict, judge
from core.evidence.sources import Basis
from core.instruments.fingering import Fingering, Held, format_fingering
from core.instruments.keywork import may_sound, mechanism, unholdable
from core.music.pitch import Pitch
from core.words import sentence as as_sentence
from drawing.strands import per_hundred

STEP_WORDS = {
    -2: "a whole step below",
    -1: "a half step below",
    1: "a half step above",
    2: "a whole step above",
}


@dataclass(frozen=True)
class Around:
    """The moves between the fingering looked at and a note around."""

    note: Pitch
    step: str
    kind: str
    into: str
    out: str
    chance_in: str
    chance_out: str
    query: str


def says_of(asked):
    """What the keywork says of the fingering looked at, in sentences."""
    read = mechanism(asked.instrument, asked.fingering, asked.in_hand.fitted)
    words = [as_sentence(complaint) for complaint in unholdable(asked.instrument, asked.fingering)]
    first = read.open_holes[0] if read.open_holes else "none: the bell"
    words.append(f"First open hole: {first}. Plain, it sounds written {read.plain}.")
    if read.open_vents:
        words.append(f"Open vents: {', '.join(read.open_vents)}. They favour a higher partial.")
    return (*words, _about_note(asked))


def _about_note(asked):
    note, entry = asked.note, asked.entry
    if entry and entry.reason:
        return as_sentence(entry.reason)
    (judged,) = judge(asked.in_hand.catalogue, [(asked.fingering, note)], asked.in_hand.acoustics)
    if judged.verdict is Verdict.FITS or entry:
        partials = may_sound(asked.instrument, asked.fingering).get(note.midi)
        return f"{note} is its {ordinal(min(partials))} partial." if partials else ""
    return as_sentence(judged.words)


def modelled_of(asked):
    """What the acoustic model says of it, in sentences; nothing where it is switched off."""
    acoustics = asked.in_hand.acoustics
    if Basis.MODELLED not in asked.use or (asked.entry and not acoustics.knows(asked.entry)):
        return ()
    original = asked.nearest.fingering if asked.nearest else None
    return tuple(sentences(acoustics, asked.fingering, asked.note, original))


def against_nearest(asked):
    """How it differs from the nearest candidate."""
    if asked.nearest is None:
        return ""
    move = asked.in_hand.move(asked.nearest.fingering, asked.fingering)
    return f"From the {asked.nearest.kind.value} fingering: {move.sentence}"


def around_of(asked, besides):
    """The moves to and from the notes around."""
    return tuple(
        Around(
            note=one.entry.note,
            step=STEP_WORDS[step],
            kind=one.entry.kind_words,
            into=asked.in_hand.move(one.entry.fingering, asked.fingering).sentence,
            out=asked.in_hand.move(asked.fingering, one.entry.fingering).sentence,
            chance_in=per_hundred(one.into),
            chance_out=per_hundred(one.out),
            query=asked.query(format_fingering(one.entry.fingering, asked.instrument), one.entry.note),
        )
        for step, one in besides.items()
    )


def toggled(fingering: Fingering, touch, instrument) -> str:
    """The fingering with one touch pressed or let go; one that can be half-holed passes through half."""
    held = fingering.held(touch.name)
    after = Held.FULL if held is None else Held.HALF if held is Held.FULL and touch.half else None
    return format_fingering(fingering.with_touch(touch.name, after), instrument)
