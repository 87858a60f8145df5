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
from core.music.pitch import check_a4, parse_pitch
from core.routes.candidates import offer_for, written_pins
from core.routes.faults import STRANDS
from core.routes.moved import by_semitones, key_words
from core.routes.trills import partner_of
from core.words import counted
from passages.models import Passage, State
from passages.queries import in_hand_for, opened
from passages.settings import BenchSettings
from passages.solution import possible, read_passage
from studio.refusals import refuse
from studio.services import add_student_with, own
from studio.shipped import instrument as model_of

STATES_KEPT = 1_000
PROBLEMS_KEPT = 20
DRILLS_AT_ONCE = 40


def read_source(data, instrument, pitch_is, choices=DEFAULT):
    """Read what is wanted of a score and move it to written pitch; nothing is saved.

    Returns the passage, what was left out, and the `core.music.notation.score.Score` itself.
    """
    model = model_of(instrument)
    try:
        score = read_score(data, replace(choices, player=model.label))
        passage = written_for(score, model.to_sounding, pitch_is)
        check_tempo(passage.tempo_bpm)
        sounding_events(passage)
    except CoreError as error:
        raise refuse(error, "score") from error
    notices = list(score.notices)
    if passage is not score.passage:
        notices.append(f"Moved to written pitch for {model.noun}.")
    return passage, notices, score


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
    saved = Passage(
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
        settings = replace(like, tempo_bpm=passage.tempo_bpm, pins=pins, bans={}, ossia=ossia)
    else:
        settings = replace(settings, weights=settings.weights | in_hand.schools.weights(in_hand.positions))
    saved.current = State.objects.create(
        passage=saved, number=1, settings=settings.to_json(), what="Passage opened"
    )
    saved.save(update_fields=["current"])
    return saved


@transaction.atomic
@transaction.atomic
def keep_drills(teacher, drills, *, model, owned=None, serves=None):
    """Keep drills as passages, fingered as the music that they serve.

    Parameters
    ----------
    drills : sequence of core.drills.material.Drill
    serves : passages.queries.Opened or None
        The passage that they are for; its evidence and weights hold for them, too.
    """
    if len(drills) > DRILLS_AT_ONCE:
        raise ValidationError(f"Keep at most {DRILLS_AT_ONCE} drills at once.", code="many")
    return [
        add_passage(
            teacher,
            title=drill.name,
            instrument=model,
            passage=drill.passage,
            notices=[],
            owned=owned,
            serves=serves and serves.passage,
            like=serves and serves.settings,
            purpose=drill.purpose,
        )
        for drill in drills
    ]


def add_first_passage(teacher, student_name, **passage):
    """A new student with an instrument of the model of a passage, and the passage for it."""
    owned = add_student_with(teacher, student_name, passage["instrument"])
    return add_passage(teacher, **passage | {"owned": owned})


@transaction.atomic
def change_notes(teacher, passage, changed):
    """Give a passage other notes; pins and what is left out go along with the notes that stay.

    `changed` has for every note that stays the id that it had. States from before are gone: the bench
    begins anew.
    """
    passage = own(teacher, passage)
    if all(note.is_rest for note in changed):
        raise ValidationError("Leave at least one note.", code="empty")
    before = opened(passage, passage.current)
    named = _with_trills(changed, before.solution().passage).numbered()
    now = {old.id: new for old, new in zip(changed, named, strict=True) if old.id}
    by_id = before.in_hand.catalogue.by_id

    written = {note.id: note.written_pitch for note in before.solution().passage}

    def same_pitch(note_id):
        return now[note_id].written_pitch == written[note_id]

    def stays(note_id, entry_id):
        pitch = now[note_id].written_pitch if note_id in now else None
        return pitch is not None and entry_id in by_id and by_id[entry_id].note.midi == pitch.midi

    old = before.settings
    settings = replace(
        old,
        pins={now[note].id: pin for note, pin in old.pins.items() if stays(note, pin)},
        bans={
            now[note].id: tuple(entry for entry in out if stays(note, entry))
            for note, out in old.bans.items()
            if note in now
        },
        ossia={now[note].id: pitch for note, pitch in old.ossia.items() if note in now and same_pitch(note)},
    )
    _put_music(passage, named, before.in_hand.instrument)
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
def adopt(teacher, passage, *, semitones, owned=None):
    """Make a new passage of one that is moved, for the same instrument or another student's."""
    passage = own(teacher, passage)
    owned = own(teacher, owned) if owned else passage.owned
    moved = by_semitones(read_passage(passage.musicxml), semitones)
    title = f"{passage.title}, {key_words(semitones)}"[: Passage._meta.get_field("title").max_length]
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
    """Delete a passage with all its states."""
    own(teacher, passage).delete()


@transaction.atomic
def set_due(teacher, passage, due):
    """Say by when a passage is to be played; None for no day."""
    passage = own(teacher, passage)
    if due is not None and due < timezone.localdate():
        raise ValidationError("That day has passed; choose one to come, or none.", code="due")
    passage.due = due
    passage.save(update_fields=["due"])
    return passage


@transaction.atomic
def pin(teacher, passage, base, note_id, entry_id):
    """Pin a fingering to a note, or take the pin away; by `partner_of` a note to its trill."""
    before = _open(teacher, passage, base)
    note = _trill_with(before, note_id, entry_id) or _note_with(before, note_id, entry_id)
    after = before.settings.pinned(note_id, entry_id)
    return _save(before, after, f"{'Pin' if note_id in after.pins else 'Unpin'} {note}")


@transaction.atomic
def ban(teacher, passage, base, note_id, entry_id):
    """Leave a fingering out for a note, or take it in again."""
    before = _open(teacher, passage, base)
    note = _note_with(before, note_id, entry_id)
    after = before.settings.banned(note_id, entry_id)
    out = entry_id in after.bans.get(note_id, ())
    return _save(before, after, f"{'Leave out' if out else 'Take in'} {note}")


@transaction.atomic
def take(teacher, passage, base, pins):
    """Pin several fingerings together.

    `pins` is a mapping of note id to entry id.
    """
    before = _open(teacher, passage, base)
    if not pins:
        raise ValidationError("Say which fingerings to take.", code="empty")
    after = before.settings
    for note_id, entry_id in pins.items():
        _note_with(before, note_id, entry_id)
        if after.pins.get(note_id) != entry_id:
            after = after.pinned(note_id, entry_id)
    return _save(before, after, f"Take {counted(len(pins), 'fingering')}")


@transaction.atomic
def keep_habit(teacher, passage, base, entries, *, always):
    """Leave fingerings out wherever there is another, or everything but them wherever they are offered.

    `entries` are ids. A note for which nothing else would be left stays as it is.
    """
    before = _open(teacher, passage, base)
    problem = before.solution().table.problem
    wanted, bans = frozenset(entries), dict(before.settings.bans)
    for event, offer in zip(problem.events, problem.offered, strict=True):
        usable = {candidate.entry.id for candidate in offer.candidates if not candidate.bar}
        out = usable - wanted if always else usable & wanted
        if out and out < usable and event.id not in before.settings.pins:
            bans[event.id] = sorted(out.union(bans.get(event.id, ())))
    if bans == before.settings.bans:
        raise ValidationError("That changes nothing in this passage.", code="nothing")
    by_id = before.in_hand.catalogue.by_id
    named = sorted({before.in_hand.said(by_id[entry].fingering) for entry in wanted if entry in by_id})
    what = f"{'Always' if always else 'Never'} {'; '.join(named)}"
    return _save(before, replace(before.settings, bans=bans), what)


@transaction.atomic
def keep_ossia(teacher, passage, base, pitches):
    """Keep other pitches to be played in place of notes.

    `pitches` is a mapping of note id to pitch in plain letters; an empty pitch takes it away again.
    """
    before = _open(teacher, passage, base)
    written = {note.id: note.written_pitch for note in before.solution().passage}
    if not pitches or any(written.get(note) is None for note in pitches):
        raise ValidationError("Say for which notes something else is played.", code="unknown")
    ossia = {note: pitch for note, pitch in before.settings.ossia.items() if note not in pitches}
    for note, text in pitches.items():
        if text and _playable(before.in_hand, text) != written[note]:
            ossia[note] = text
    what = "Keep an ossia" if any(pitches.values()) else "Take an ossia away"
    return _save(before, replace(before.settings, ossia=ossia), what)


def _playable(in_hand, text):
    """A pitch that the instrument in hand has a fingering for."""
    try:
        pitch = parse_pitch(text)
    except CoreError as error:
        raise refuse(error, "ossia") from error
    if gap := offer_for(in_hand, pitch, None, frozenset()).gap:
        raise ValidationError(f"That cannot be played: {gap}.", code="beyond")
    return pitch


@transaction.atomic
def name_version(teacher, passage, base, name):
    """Name a state, to find it again; an empty name takes it away."""
    stored = _stored(teacher, passage, base)
    stored.name = name.strip()[: State._meta.get_field("name").max_length]
    stored.save(update_fields=["name"])
    return stored


@transaction.atomic
def set_tempo(teacher, passage, base, tempo_bpm):
    """Set the tempo at the start of the passage."""
    before = _open(teacher, passage, base)
    return _save(before, replace(before.settings, tempo_bpm=float(tempo_bpm)), f"Tempo {tempo_bpm:g}")


@transaction.atomic
def set_up(teacher, passage, base, *, a4_hz, fitted, weights, sources, **manner):
    """Set the tuning, what is fitted, the weights of the strands and the evidence that counts.

    `manner` is how the music is played, as `core.music.events.Manner` takes it.

    For a student's instrument tuning and fittings are set with the instrument, not here. Pins
    that need what is no longer fitted are taken away.
    """
    before = _open(teacher, passage, base)
    after = replace(
        before.settings,
        weights={strand: float(weights[strand]) for strand in STRANDS},
        sources=tuple(sorted(sources)),
        **manner,
    )
    if before.passage.owned is None:
        fitted = frozenset(fitted) & frozenset(before.in_hand.instrument.optional)
        before = replace(before, in_hand=in_hand_for(before.passage, fitted))
        after = possible(before.in_hand, replace(after, a4_hz=float(a4_hz)))
    return _save(before, after, "Set-up changed")


@transaction.atomic
def clear(teacher, passage, base):
    """Take away every pin and ban."""
    before = _open(teacher, passage, base)
    return _save(before, replace(before.settings, pins={}, bans={}), "All pins and bans cleared")


@transaction.atomic
def undo(teacher, passage, base):
    """Go back to the state before `base`; stays where there is none."""
    base = _stored(teacher, passage, base)
    return _make_current(base.passage, base.parent or base)


@transaction.atomic
def redo(teacher, passage, base):
    """Go to the state that was made last from `base`; stays where there is none."""
    base = _stored(teacher, passage, base)
    return _make_current(base.passage, base.children.order_by("-number").first() or base)


def _stored(teacher, passage, base):
    """The state to go on from as it is stored, of a passage of the teacher's.

    Transactions are immediate: nobody else writes between this reading and the end.
    """
    passage = own(teacher, passage)
    stored = passage.states.select_related("parent").filter(pk=base.pk).first()
    if stored is None:
        raise ValidationError("That state of the bench is kept no more; reload the page.", code="gone")
    stored.passage = passage
    return stored


def _open(teacher, passage, base):
    base = _stored(teacher, passage, base)
    return opened(base.passage, base)


def _trill_with(before, name, entry_id):
    """The trill of a note in words, if the name is that of one that may go to an entry."""
    solution = before.solution()
    problem = solution.table.problem
    for n, event in enumerate(solution.events):
        if event.ornament and partner_of(event.id) == name:
            ways = [problem.pairs.get(slot, ()) for slot in range(*problem.first[n + 1 : n + 3])]
            if entry_id in {pair.other.id for way in ways for found in way for pair in found}:
                return f"the trill of {event.written_pitch} in bar {event.notes[0].bar}"
    return ""


def _note_with(before, note_id, entry_id):
    """A note in words, if it may be played with an entry."""
    solution = before.solution()
    n = solution.note_at.get(note_id)
    candidates = [] if n is None else solution.table.problem.offered[n].candidates
    if entry_id not in {candidate.entry.id for candidate in candidates}:
        raise ValidationError("That fingering does not belong to this note.", code="unknown")
    event = solution.events[n]
    return f"{event.written_pitch} in bar {event.notes[0].bar}"


def _save(before, settings, what):
    """Make a state that follows the one opened and becomes the current one; bad settings save nothing."""
    try:
        check_tempo(settings.tempo_bpm)
        check_a4(settings.a4_hz)
        _ = settings.manner
    except CoreError as error:
        raise refuse(error, "settings") from error
    before.solution_of(settings, after=before.settings)
    passage, base = before.passage, before.state
    if settings == before.settings:
        return _make_current(passage, base)
    last = passage.states.aggregate(last=Max("number"))["last"]
    state = State.objects.create(
        passage=passage, number=last + 1, parent=base, settings=settings.to_json(), what=what[:200]
    )
    passage.states.filter(number__lte=last + 1 - STATES_KEPT, name="").delete()
    return _make_current(passage, state)


def _make_current(passage, state):
    passage.current = state
    passage.save(update_fields=["current", "changed"])
    return state
