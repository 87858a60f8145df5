"""Every change to passages: one function a use case, whole or not at all, for a stated teacher."""

from dataclasses import replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max

from catalogue.queries import hand_of, hand_of_model
from core.errors import CoreError, FingeringError
from core.instruments.fingering import parse_fingering
from core.music.notation.formats import read_score, written_for
from core.music.notation.musicxml_writer import write_musicxml
from core.music.passage import check_tempo, sounding_events
from core.music.pitch import check_a4
from core.routes.faults import STRANDS
from passages.models import Passage, State
from passages.queries import hand_for
from passages.settings import BenchSettings
from passages.solution import settings_of, solve
from studio.services import refuse
from studio.shipped import instrument as model_of

STATES_KEPT = 1_000


def read_source(data, instrument, pitch_is):
    """Read a score and move it to written pitch; nothing is saved.

    Returns the passage and what was left out.
    """
    model = model_of(instrument)
    try:
        reading = read_score(data)
        passage = written_for(reading, model.to_sounding, pitch_is)
        check_tempo(passage.tempo_bpm)
        sounding_events(passage)
    except CoreError as error:
        raise refuse(error, "score") from error
    notices = list(reading.notices)
    if passage is not reading.passage:
        notices.append(f"Moved to written pitch for {model.label.lower()}.")
    return passage, notices


@transaction.atomic
def add_passage(teacher, *, title, instrument, passage, notices, owned=None):
    """Save a passage that was read, with the fingerings written under its notes as pins.

    `owned` is the student's instrument that it is for, of the model `instrument`.
    """
    hand = hand_of(owned) if owned else hand_of_model(teacher, instrument)
    pitches = sorted((n.written_pitch for n in passage if n.written_pitch), key=lambda pitch: pitch.midi)
    pins, problems = _pins(passage, hand)
    fitted = hand.fitted.union(*(hand.catalogue.by_id[pin].requires for pin in pins.values()))
    model = hand.instrument
    saved = Passage.objects.create(
        teacher=teacher,
        title=title or passage.title or "Untitled passage",
        instrument=instrument,
        owned=owned,
        musicxml=write_musicxml(passage.with_fingerings({}), model.to_sounding, model.label, model.clefs),
        notices=[*notices, *problems],
        notes=len(sounding_events(passage)),
        bars=len(passage.bars),
        lowest=str(pitches[0]),
        highest=str(pitches[-1]),
    )
    settings = BenchSettings(tempo_bpm=passage.tempo_bpm, fitted=tuple(sorted(fitted)), pins=pins)
    saved.current = State.objects.create(
        passage=saved, number=1, settings=settings.to_json(), what="Passage opened"
    )
    saved.save(update_fields=["current"])
    return saved


def _pins(passage, hand):
    """Fingerings found under the notes, as pins; those that cannot serve are said and left."""
    pins, problems = {}, []
    for event in sounding_events(passage):
        if not event.fingering:
            continue
        try:
            fingering = parse_fingering(event.fingering, hand.instrument)
        except FingeringError:
            fingering = None
        entry = hand.catalogue.find(event.written_pitch, fingering) if fingering else None
        if entry is None:
            problems.append(
                f"Bar {event.notes[0].bar}: the fingering “{event.fingering}” under {event.written_pitch} "
                "is not in the catalogue and was left out."
            )
        else:
            pins[event.id] = entry.id
    return pins, problems[:20]


@transaction.atomic
def delete_passage(passage):
    """Delete a passage with all its states."""
    passage.delete()


@transaction.atomic
def save_state(passage, base, settings, what, hand=None):
    """Make a new state that follows `base` and becomes the current one; bad settings save nothing."""
    hand = hand or hand_for(passage)
    try:
        check_tempo(settings.tempo_bpm)
        check_a4(settings.a4_hz)
        solve(hand, passage.musicxml, settings)
    except CoreError as error:
        raise refuse(error, "settings") from error
    if settings == settings_of(hand, base):
        return _make_current(passage, base)
    # Transactions are immediate: nobody else writes between this reading and the end.
    base = passage.states.filter(pk=base.pk).first()
    last = passage.states.aggregate(last=Max("number"))["last"]
    state = State.objects.create(
        passage=passage, number=last + 1, parent=base, settings=settings.to_json(), what=what[:200]
    )
    passage.states.filter(number__lte=last + 1 - STATES_KEPT).delete()
    return _make_current(passage, state)


def _make_current(passage, state):
    passage.current = state
    passage.save(update_fields=["current", "changed"])
    return state


def pin(passage, base, note_id, entry_id):
    """Pin a fingering to a note, or take the pin away."""
    hand = hand_for(passage)
    settings, label = _for_note(hand, passage, base, note_id, entry_id)
    after = settings.pinned(note_id, entry_id)
    verb = "Pin" if note_id in after.pins else "Unpin"
    return save_state(passage, base, after, f"{verb} {label}", hand)


def ban(passage, base, note_id, entry_id):
    """Leave a fingering out for a note, or take it in again."""
    hand = hand_for(passage)
    settings, label = _for_note(hand, passage, base, note_id, entry_id)
    after = settings.banned(note_id, entry_id)
    verb = "Leave out" if entry_id in after.bans.get(note_id, ()) else "Take in"
    return save_state(passage, base, after, f"{verb} {label}", hand)


def _for_note(hand, passage, base, note_id, entry_id):
    settings = settings_of(hand, base)
    solution = solve(hand, passage.musicxml, settings)
    place = solution.place.get(note_id)
    entry = hand.catalogue.by_id.get(entry_id)
    if place is None or entry is None or entry not in [c.entry for c in solution.offered[place].candidates]:
        raise ValidationError("That fingering does not belong to this note.", code="unknown")
    event = solution.events[place]
    return settings, f"{event.written_pitch} in bar {event.notes[0].bar}"


def set_tempo(passage, base, tempo_bpm):
    """Set the tempo at the start of the passage."""
    hand = hand_for(passage)
    settings = replace(settings_of(hand, base), tempo_bpm=float(tempo_bpm))
    return save_state(passage, base, settings, f"Tempo {tempo_bpm:g}", hand)


def set_up(passage, base, *, a4_hz, fitted, weights, sources):
    """Set the tuning reference, what is fitted, the weights of the strands and the evidence that counts.

    For a student's instrument tuning and fittings are set with the instrument, not here. Pins
    that need what is no longer fitted are taken away.
    """
    hand = hand_for(passage)
    before = settings_of(hand, base)
    after = replace(
        before,
        weights={strand: float(weights[strand]) for strand in STRANDS},
        sources=tuple(sorted(sources)),
    )
    if hand.owned is None:
        fitted = frozenset(fitted) & frozenset(hand.instrument.optional)
        pins = {
            note: pin for note, pin in before.pins.items() if hand.catalogue.by_id[pin].requires <= fitted
        }
        after = replace(after, a4_hz=float(a4_hz), fitted=tuple(sorted(fitted)), pins=pins)
    return save_state(passage, base, after, "Set-up changed", hand)


@transaction.atomic
def clear(passage, base):
    """Take away every pin and ban."""
    hand = hand_for(passage)
    settings = replace(settings_of(hand, base), pins={}, bans={})
    return save_state(passage, base, settings, "All pins and bans cleared", hand)


@transaction.atomic
def undo(passage, base):
    """Go back to the state before `base`; stays where there is none."""
    return _make_current(passage, base.parent or base)


@transaction.atomic
def redo(passage, base):
    """Go to the state that was made last from `base`; stays where there is none."""
    return _make_current(passage, base.children.order_by("-number").first() or base)
