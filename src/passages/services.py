"""Every change to passages: one function a use case, whole or not at all, for the acting teacher."""

from dataclasses import replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from catalogue.queries import of_instrument, of_model
from core.errors import CoreError
from core.music.events import check_tempo, sounding_events
from core.music.notation.formats import read_score, written_for
from core.music.notation.musicxml_writer import write_musicxml
from core.music.notation.score import DEFAULT
from core.music.ossia import ossia_of, with_ossia
from core.routes.candidates import written_pins
from core.routes.elsewhere import by_semitones, key_words
from jobs import pool
from passages.models import EnteredNotes, KeptPassage, State
from passages.music import read_passage
from passages.queries import in_hand_for, stored_settings
from passages.settings import BenchSettings, possible
from studio.access import of, own
from studio.bin import put
from studio.refusals import refuse
from studio.services import add_student_with
from studio.shipped import instrument as model_of

PROBLEMS_KEPT = 20
# A larger score is read by another process.
BYTES_HERE = 250_000
# Windows in which notes are entered and not opened yet.
ENTERED_KEPT = 12


def read_source(data, instrument, pitch_is, choices=DEFAULT):
    """Read what is wanted of a score and move it to written pitch; nothing is saved.

    Returns the passage, what was left out, and the `core.music.notation.score.Score` itself.
    """
    model = model_of(instrument)
    try:
        score = _read(data, replace(choices, player=model.label))
        passage = written_for(score, model.to_sounding, pitch_is)
        check_tempo(passage.tempo_bpm)
        sounding_events(passage)
    except CoreError as error:
        raise refuse(error, "score") from error
    notices = list(score.notices)
    if passage is not score.passage:
        notices.append(f"Moved to written pitch for {model.noun}.")
    return passage, notices, score


def _read(data, choices):
    """Read a score; a large one in another process, within bounds."""
    return pool.call("score", data, choices) if len(data) > BYTES_HERE else read_score(data, choices)


@transaction.atomic
def add_passage(
    teacher, *, title, instrument, passage, notices, owned=None, serves=None, like=None, purpose=""
):
    """Save a passage that was read, with the fingerings written under its notes as pins.

    `owned` is the student's instrument that it is for, of the model `instrument`; `serves` the passage that a
    drill is for, and `purpose` what it is for; `like` are settings whose evidence and weights it takes over.
    """
    owned = owned and own(teacher, owned)
    in_hand = of_instrument(owned) if owned else of_model(teacher, instrument)
    pins, problems = _pins(passage, in_hand)
    fitted = in_hand.fitted.union(*(in_hand.catalogue.by_id[pin].requires for pin in pins.values()))
    model = in_hand.instrument
    saved = KeptPassage(
        teacher=teacher,
        title=title or passage.title or "Untitled passage",
        instrument=instrument,
        owned=owned,
        notices=[*notices, *problems],
        serves=serves and own(teacher, serves),
        purpose=purpose,
    )
    _put_music(saved, passage, model)
    saved.save()
    ossia = {note: pitch.ascii for note, pitch in ossia_of(passage).items()}
    settings = BenchSettings(passage.tempo_bpm, fitted=tuple(sorted(fitted)), pins=pins, ossia=ossia)
    if like:
        settings = replace(like, tempo_bpm=passage.tempo_bpm, pins=pins, bans={}, ossia=ossia, aims={})
    else:
        settings = replace(settings, weights=settings.weights | in_hand.schools.weights(in_hand.positions))
    saved.current = State.objects.create(
        passage=saved, number=1, settings=settings.to_json(), what="Passage opened"
    )
    saved.save(update_fields=["current"])
    return saved


@transaction.atomic
def add_first_passage(teacher, student_name, **passage):
    """A new student with an instrument of the model of a passage, and the passage for it."""
    owned = add_student_with(teacher, student_name, passage["instrument"])
    return add_passage(teacher, **passage | {"owned": owned})


@transaction.atomic
def change_notes(teacher, passage, changed):
    """Give a passage other notes; pins, aims and what is left out go along with the notes that stay.

    `changed` has for every note that stays the id that it had. States from before are gone: the bench
    begins anew.
    """
    passage = own(teacher, passage)
    if all(note.is_rest for note in changed):
        raise ValidationError("Leave at least one note.", code="empty")
    before, old = read_passage(passage.musicxml), stored_settings(passage, passage.current)
    in_hand = in_hand_for(passage, old.fitted)
    old = possible(in_hand, old)
    named = _with_trills(changed, before).numbered()
    now = {was.id: new for was, new in zip(changed, named, strict=True) if was.id}
    by_id = in_hand.catalogue.by_id
    written = {note.id: note.written_pitch for note in before}

    def same_pitch(note_id):
        return now[note_id].written_pitch == written[note_id]

    def stays(note_id, entry_id):
        pitch = now[note_id].written_pitch if note_id in now else None
        return pitch is not None and entry_id in by_id and by_id[entry_id].note.midi == pitch.midi

    settings = replace(
        old,
        pins={now[note].id: pin for note, pin in old.pins.items() if stays(note, pin)},
        bans={
            now[note].id: tuple(entry for entry in out if stays(note, entry))
            for note, out in old.bans.items()
            if note in now
        },
        ossia={now[note].id: pitch for note, pitch in old.ossia.items() if note in now and same_pitch(note)},
        aims={now[note].id: aim for note, aim in old.aims.items() if note in now},
    )
    _put_music(passage, named, in_hand.instrument)
    last = passage.states.aggregate(last=Max("number"))["last"]
    state = State.objects.create(
        passage=passage, number=last + 1, settings=settings.to_json(), what="Notes changed"
    )
    passage.states.exclude(pk=state.pk).delete()
    passage.current = state
    passage.save()
    return state


def _with_trills(changed, passage):
    """The notes that stay with the other notes of their trills, which are not entered by hand."""
    old = {note.id: note for note in passage}

    def kept(note):
        was = old.get(note.id)
        same = was and (was.written_pitch, was.ornaments) == (note.written_pitch, note.ornaments)
        return replace(note, trilled_to=was.trilled_to) if same else note

    bars = tuple(replace(bar, notes=tuple(map(kept, bar.notes))) for bar in changed.bars)
    return replace(changed, bars=bars)


def _put_music(passage, music, model):
    """Put music into a passage, with all that is said of it in lists."""
    pitches = sorted((n.written_pitch for n in music if n.written_pitch), key=lambda pitch: pitch.midi)
    passage.musicxml = write_musicxml(
        with_ossia(music.with_fingerings({}), {}), model.to_sounding, model.label, model.clefs
    )
    passage.notes = sum(not event.grace for event in sounding_events(music))
    passage.bars = len(music.bars)
    passage.lowest, passage.highest = str(pitches[0]), str(pitches[-1])


def add_entered(teacher, passage, *, title, instrument, owned=None):
    """Save a passage that was entered note by note; one of rests alone is refused."""
    if all(note.is_rest for note in passage):
        raise ValidationError("Enter at least one note first.", code="empty")
    return add_passage(
        teacher, title=title, instrument=instrument, passage=passage.numbered(), notices=[], owned=owned
    )


@transaction.atomic
def keep_entered(teacher, window, passage, state, notes):
    """Keep what is entered in a window, in place of what was kept of it; of many windows the last ones."""
    passage = own(teacher, passage) if passage else None
    values = {"passage": passage, "state": state, "notes": notes}
    kept, _ = of(teacher, EnteredNotes).update_or_create(
        window=window, defaults=values, create_defaults=values | {"teacher": teacher}
    )
    old = of(teacher, EnteredNotes).values_list("pk", flat=True)[ENTERED_KEPT:]
    EnteredNotes.objects.filter(pk__in=list(old)).delete()
    return kept


@transaction.atomic
def forget_entered(teacher, window):
    """Let go of what was entered in a window."""
    of(teacher, EnteredNotes).filter(window=window).delete()


@transaction.atomic
def adopt(teacher, passage, *, semitones, owned=None):
    """Make a new passage of one that is moved, for the same instrument or another student's."""
    passage = own(teacher, passage)
    owned = own(teacher, owned) if owned else passage.owned
    moved = by_semitones(read_passage(passage.musicxml), semitones)
    title = f"{passage.title}, {key_words(semitones)}"[: KeptPassage._meta.get_field("title").max_length]
    model = owned.model if owned else passage.instrument
    return add_passage(teacher, title=title, instrument=model, passage=moved, notices=[], owned=owned)


def _pins(passage, in_hand):
    """Fingerings found under the notes, as pins; those that cannot serve are named and left."""
    pins, left = written_pins(sounding_events(passage), in_hand)
    problems = [
        f"Bar {event.notes[0].bar}: the fingering “{event.fingering}” under {event.written_pitch} is not "
        "in the catalogue and was left out."
        for event in left
    ]
    return pins, problems[:PROBLEMS_KEPT]


@transaction.atomic
def delete_passage(teacher, passage):
    """Put a passage into the bin with all its states; what was counted in it stays."""
    return put(teacher, passage)


@transaction.atomic
def set_due(teacher, passage, due):
    """Say by when a passage is to be played; None for no day."""
    passage = own(teacher, passage)
    if due is not None and due < timezone.localdate():
        raise ValidationError("That day has passed; choose one to come, or none.", code="due")
    passage.due = due
    passage.save(update_fields=["due"])
    return passage
