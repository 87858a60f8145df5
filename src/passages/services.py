"""Every change to passages: one function a use case, whole or not at all, for a stated teacher."""

from dataclasses import replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max

from catalogue import shipped
from core.errors import CoreError, FingeringError
from core.faults import STRANDS
from core.fingering import parse_fingering
from core.notation.musicxml_writer import write_musicxml
from core.notation.reading import read_score, written_for
from core.passage import check_tempo, sounding_events
from core.pitch import check_a4
from passages.models import Passage, State
from passages.settings import BenchSettings
from passages.solution import settings_of, solve

STATES_KEPT = 1_000


def refuse(error, code):
    """A core error as a message for a form."""
    return ValidationError("%(why)s", code=code, params={"why": _sentence(str(error))})


def _sentence(text):
    return text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")


def read_source(data, instrument, pitch_is):
    """Read a score and move it to written pitch; nothing is saved.

    Returns the passage and what was left out.
    """
    model = shipped.instrument(instrument)
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
def add_passage(teacher, *, title, instrument, passage, notices):
    """Save a passage that was read, with the fingerings written under its notes as pins."""
    pitches = sorted((n.written_pitch for n in passage if n.written_pitch), key=lambda pitch: pitch.midi)
    pins, problems = _pins(passage, instrument)
    fitted = _fitted_for(pins, instrument)
    model = shipped.instrument(instrument)
    saved = Passage.objects.create(
        teacher=teacher,
        title=title or passage.title or "Untitled passage",
        instrument=instrument,
        musicxml=write_musicxml(passage.with_fingerings({}), model.to_sounding, model.label),
        notices=[*notices, *problems],
        notes=len(sounding_events(passage)),
        bars=len(passage.bars),
        lowest=str(pitches[0]),
        highest=str(pitches[-1]),
    )
    settings = BenchSettings(tempo_bpm=passage.tempo_bpm, fitted=fitted, pins=pins)
    saved.current = State.objects.create(
        passage=saved, number=1, settings=settings.to_json(), what="Passage opened"
    )
    saved.save(update_fields=["current"])
    return saved


def _pins(passage, instrument):
    """Fingerings found under the notes, as pins; those that cannot serve are said and left."""
    catalogue, model = shipped.catalogue(instrument), shipped.instrument(instrument)
    pins, problems = {}, []
    for event in sounding_events(passage):
        if not event.fingering:
            continue
        try:
            fingering = parse_fingering(event.fingering, model)
        except FingeringError:
            fingering = None
        entry = catalogue.find(event.written_pitch, fingering) if fingering else None
        if entry is None:
            problems.append(
                f"Bar {event.notes[0].bar}: the fingering “{event.fingering}” under {event.written_pitch} "
                "is not in the catalogue and was left out."
            )
        else:
            pins[event.id] = entry.id
    return pins, problems[:20]


def _fitted_for(pins, instrument):
    by_id = shipped.catalogue(instrument).by_id
    return tuple(sorted({touch for pin in pins.values() for touch in by_id[pin].requires}))


@transaction.atomic
def delete_passage(passage):
    """Delete a passage with all its states."""
    passage.delete()


@transaction.atomic
def save_state(passage, base, settings, what):
    """Make a new state that follows `base` and becomes the current one; bad settings save nothing."""
    try:
        check_tempo(settings.tempo_bpm)
        check_a4(settings.a4_hz)
        solve(passage.instrument, passage.musicxml, settings)
    except CoreError as error:
        raise refuse(error, "settings") from error
    if settings == settings_of(passage, base):
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
    settings, label = _for_note(passage, base, note_id, entry_id)
    after = settings.pinned(note_id, entry_id)
    verb = "Pin" if note_id in after.pins else "Unpin"
    return save_state(passage, base, after, f"{verb} {label}")


def ban(passage, base, note_id, entry_id):
    """Leave a fingering out for a note, or take it in again."""
    settings, label = _for_note(passage, base, note_id, entry_id)
    after = settings.banned(note_id, entry_id)
    verb = "Leave out" if entry_id in after.bans.get(note_id, ()) else "Take in"
    return save_state(passage, base, after, f"{verb} {label}")


def _for_note(passage, base, note_id, entry_id):
    settings = settings_of(passage, base)
    solution = solve(passage.instrument, passage.musicxml, settings)
    place = solution.place.get(note_id)
    entry = shipped.catalogue(passage.instrument).by_id.get(entry_id)
    if place is None or entry is None or entry not in [c.entry for c in solution.offered[place].candidates]:
        raise ValidationError("That fingering does not belong to this note.", code="unknown")
    event = solution.events[place]
    return settings, f"{event.written_pitch} in bar {event.notes[0].bar}"


def set_tempo(passage, base, tempo_bpm):
    """Set the tempo at the start of the passage."""
    settings = replace(settings_of(passage, base), tempo_bpm=float(tempo_bpm))
    return save_state(passage, base, settings, f"Tempo {tempo_bpm:g}")


def set_up(passage, base, *, a4_hz, fitted, weights):
    """Set the tuning reference, the fitted touches and the weights of the strands.

    Pins that need a touch no longer fitted are taken away.
    """
    before = settings_of(passage, base)
    catalogue = shipped.catalogue(passage.instrument)
    fitted = tuple(sorted(set(fitted) & catalogue.instrument.optional_touches))
    pins = {
        note: pin for note, pin in before.pins.items() if catalogue.by_id[pin].requires <= frozenset(fitted)
    }
    after = replace(
        before,
        a4_hz=float(a4_hz),
        fitted=fitted,
        weights={strand: float(weights[strand]) for strand in STRANDS},
        pins=pins,
    )
    return save_state(passage, base, after, "Set-up changed")


@transaction.atomic
def clear(passage, base):
    """Take away every pin and ban."""
    settings = replace(settings_of(passage, base), pins={}, bans={})
    return save_state(passage, base, settings, "All pins and bans cleared")


@transaction.atomic
def undo(passage, base):
    """Go back to the state before `base`; stays where there is none."""
    return _make_current(passage, base.parent or base)


@transaction.atomic
def redo(passage, base):
    """Go to the state that was made last from `base`; stays where there is none."""
    return _make_current(passage, base.children.order_by("-number").first() or base)


def optional_touches(passage):
    """Names of the touches that an instrument of this model may lack."""
    return shipped.instrument(passage.instrument).optional_touches
