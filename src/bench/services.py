"""Every change to what is chosen in a passage: one function a use case, whole or not at all.

Each makes a new state of the bench that names the one before; none is altered. Where the state that it goes
on from is not the current one any more, another window has chosen something meanwhile: then the new one is
kept as a version beside it, and `take_version` takes either.
"""

from dataclasses import replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max

from bench.queries import opened
from core.errors import CoreError
from core.music.events import check_tempo, where
from core.music.phrases import phrases
from core.music.pitch import check_a4, parse_pitch
from core.routes.candidates import offer_for
from core.routes.faults import STRANDS
from core.routes.trills import partner_of
from core.words import capital, counted
from passages.models import State
from passages.queries import in_hand_for
from passages.settings import possible
from studio.access import own
from studio.refusals import refuse

STATES_KEPT = 1_000
# Over what an aim is set.
OVER = NOTE, PHRASE, PASSAGE = "this note", "its phrase", "the whole passage"


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
def pin_together(teacher, passage, base, pins):
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
    for event, offer in zip(problem.events, problem.given.offered, strict=True):
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
def set_aim(teacher, passage, base, note_id, aim, *, over):
    """Set what is aimed at in a note, its phrase or the whole passage, as `core.music.aims.Aim` names it.

    `over` is one of `OVER`; an empty aim takes it away there.
    """
    before = _open(teacher, passage, base)
    events = before.solution().events
    place = next((n for n, event in enumerate(events) if event.id == note_id), None)
    if place is None:
        raise ValidationError("That note is not in this passage; reload the page.", code="unknown")
    reach = {
        NOTE: [place],
        PHRASE: next(phrase for phrase in phrases(events) if place in phrase),
        PASSAGE: range(len(events)),
    }[over]
    notes = [events[n] for n in reach]
    aims = {note: one for note, one in before.settings.aims.items() if note not in {e.id for e in notes}}
    if aim:
        aims |= {event.id: str(aim) for event in notes}
    first, last = where(notes[0]), where(notes[-1])
    there = first if over == NOTE else f"{first} to {last}"
    what = f"{capital(str(aim))}: {there}" if aim else f"No aim: {there}"
    return _save(before, replace(before.settings, aims=aims), what)


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
    return _make_current(base, base.parent or base)


@transaction.atomic
def redo(teacher, passage, base):
    """Go to the state that was made last from `base`; stays where there is none."""
    base = _stored(teacher, passage, base)
    return _make_current(base, base.children.order_by("-number").first() or base)


@transaction.atomic
def take_version(teacher, passage, base, number):
    """Make another state the current one, by its number."""
    base = _stored(teacher, passage, base)
    wanted = base.passage.states.filter(number=number).first()
    if wanted is None:
        raise ValidationError("That version is kept no more.", code="gone")
    wanted.passage = base.passage
    return _make_current(base, wanted)


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
            ways = [
                problem.given.pairs.get(slot, ()) for slot in range(*problem.trellis.first[n + 1 : n + 3])
            ]
            if entry_id in {pair.other.id for way in ways for found in way for pair in found}:
                return f"the trill of {event.written_pitch} in bar {event.notes[0].bar}"
    return ""


def _note_with(before, note_id, entry_id):
    """A note in words, if it may be played with an entry."""
    solution = before.solution()
    n = solution.note_at.get(note_id)
    candidates = [] if n is None else solution.table.problem.given.offered[n].candidates
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
    base.passage = passage
    if settings == before.settings:
        return _make_current(base, base)
    last = passage.states.aggregate(last=Max("number"))["last"]
    state = State.objects.create(
        passage=passage, number=last + 1, parent=base, settings=settings.to_json(), what=what[:200]
    )
    passage.states.filter(number__lte=last + 1 - STATES_KEPT, name="").delete()
    return _make_current(base, state)


def _make_current(base, state):
    """Go from one state to another; where another window has left the first meanwhile, they stand beside each
    other."""
    passage = state.passage = base.passage
    if passage.current_id in (base.pk, state.pk):
        passage.current = state
        passage.save(update_fields=["current", "changed"])
    elif not state.name:
        state.name = f"Other window: {state.what}"[: State._meta.get_field("name").max_length]
        state.save(update_fields=["name"])
    return state
