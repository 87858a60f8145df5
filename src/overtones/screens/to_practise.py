"""What the Overtones view offers to practise: other colours, overtones, and stepping stones."""

from dataclasses import dataclass

from catalogue.model_words import difference_words, ordinal, pitch_words
from core.charts.entry import Entry
from core.errors import CoreError
from core.instruments.fingering import parse_fingering
from core.music.pitch import Pitch
from core.overtones.ladder import FUNDAMENTALS, fundamentals, nearest_note, path, same_pitch
from core.overtones.stepping_stones import stepping_stones
from drawing.compact import small_hands

# Where stepping stones may start, in semitones from the note.
STARTS = (-1, -2, -3, -4, 1, 2)


INTERVALS = {2: "octave", 3: "twelfth", 4: "double octave", 5: "two octaves and a third"}


@dataclass(frozen=True)
class Match:
    """The note as a partial of a lower fingering."""

    entry: Entry
    touches: str
    drawing: str
    partial: str
    pitch: str
    difference: str
    readiness: str
    sound: str
    query: str


@dataclass(frozen=True)
class OvertoneTask:
    """An overtone to practise; `from_chart` is what the chart says of it, where the model says nothing."""

    base: Entry
    partial: str
    note: Pitch
    pitch: str
    readiness: str
    sound: str
    query: str
    from_chart: str = ""


@dataclass(frozen=True)
class StoneShown:
    """One stepping stone; `what` is the touch to add or to let go."""

    drawing: str
    touches: str
    what: str
    sounds: str
    query: str


def matches_of(asked, normal):
    """One pitch on many tubes: the note as a partial of fingerings below it."""
    pairs = same_pitch(asked.acoustics.model, asked.in_hand.catalogue, asked.note, asked.in_hand.fitted)
    wanted = [(pair.base.fingering, asked.note) for pair in pairs]
    trusted = asked.acoustics.of_predictions([pair.prediction for pair in pairs], wanted)
    own = asked.acoustics.of(normal.fingering, asked.note) if normal else None
    return tuple(_match(asked, pair, row, own) for pair, row in zip(pairs, trusted, strict=True) if row)


def _match(asked, pair, trusted, own):
    fingering, partial = pair.base.fingering, pair.prediction.partial
    return Match(
        entry=pair.base,
        touches=asked.said(fingering),
        drawing=small_hands(fingering, asked.in_hand),
        partial=ordinal(partial),
        pitch=pitch_words(trusted),
        difference=difference_words(trusted, own) if own else "",
        readiness=asked.readiness(pair.prediction.margin),
        sound=asked.sound(fingering, asked.note),
        query=asked.query(asked.touches(fingering)),
    )


def tasks_of(asked):
    """Overtones to practise, as far as the model may speak of them; else those that the chart has."""
    return _modelled_tasks(asked) or _charted_tasks(asked)


def _charted_tasks(asked):
    """Overtones of the lowest notes as the chart has them."""
    in_hand = asked.in_hand
    lowest = {e.fingering: e for e in fundamentals(in_hand.catalogue, in_hand.fitted)[:FUNDAMENTALS]}
    rows = [e for e in in_hand.catalogue.entries if e.fingering in lowest and (e.partial or 1) > 1]
    return tuple(
        OvertoneTask(
            base=lowest[entry.fingering],
            partial=_interval(entry.partial),
            note=entry.note,
            pitch="",
            readiness="",
            sound=asked.sound(entry.fingering, entry.note),
            query=asked.query(asked.touches(entry.fingering), entry.note),
            from_chart=entry.rests_on,
        )
        for entry in sorted(rows, key=lambda entry: (entry.partial, entry.note.midi))
    )


def _interval(partial):
    return INTERVALS.get(partial, f"{ordinal(partial)} partial")


def _modelled_tasks(asked):
    exercises = path(asked.acoustics.model, asked.in_hand.catalogue, asked.in_hand.fitted)
    wanted = [(exercise.base.fingering, exercise.note) for exercise in exercises]
    trusted = asked.acoustics.of_predictions([exercise.prediction for exercise in exercises], wanted)
    return tuple(
        OvertoneTask(
            base=exercise.base,
            partial=_interval(exercise.partial),
            note=exercise.note,
            pitch=pitch_words(row),
            readiness=asked.readiness(exercise.prediction.margin),
            sound=asked.sound(exercise.base.fingering, exercise.note),
            query=asked.query(asked.touches(exercise.base.fingering), exercise.note),
        )
        for exercise, row in zip(exercises, trusted, strict=True)
        if row
    )


def starts_of(asked):
    """Fingerings of the notes around that stepping stones may start from, nearest below first."""
    return tuple(
        (asked.touches(entry.fingering), f"{entry.note} {entry.kind.value}: {asked.said(entry.fingering)}")
        for step in STARTS
        for entry in sorted(asked.in_hand.at_hand(asked.note.midi + step), key=asked.in_hand.rank)
        if entry.fingering != asked.fingering
    )


def start_of(asked, wanted, starts) -> Entry | None:
    """The entry that the stones start from; None where there is none."""
    if wanted is None and starts:
        wanted = parse_fingering(starts[0][0], asked.instrument)
    if wanted is None:
        return None
    near = [entry for entry in asked.in_hand.catalogue.entries if entry.fingering == wanted]
    return min(near, key=lambda entry: abs(entry.note.midi - asked.note.midi), default=None)


def stones_of(asked, start):
    """The chain, and why there is none."""
    if start is None:
        return (), "Nothing is known of the notes around to start from."
    try:
        ends = (start.fingering, start.note), (asked.fingering, asked.note)
        known = {(entry.fingering, entry.note.midi) for entry in asked.in_hand.catalogue.entries}
        steps = stepping_stones(asked.acoustics.model, *ends, known)
    except CoreError as error:
        return (), f"No stepping stones from there: {error}."
    return tuple(_stone(asked, step) for step in steps), ""


def _stone(asked, step):
    touches = asked.touches(step.fingering)
    label = asked.instrument.touch_by_name[step.changed].label if step.changed else ""
    pressed = step.changed in step.fingering.touches
    return StoneShown(
        drawing=small_hands(step.fingering, asked.in_hand),
        touches=touches,
        what=f"{'add' if pressed else 'let go'} {label}" if step.changed else "start here",
        sounds=f"about written {nearest_note(asked.instrument, step.frequency)[0]}",
        query=asked.query(touches),
    )
