"""Reads, always for one teacher: the instrument in hand with everything known of it."""

from dataclasses import dataclass
from functools import partial

from django.db.models import Q
from django.http import Http404
from django.shortcuts import get_object_or_404

from catalogue import in_hand as making
from catalogue import shipped
from catalogue.models import HiddenFingering, OwnFingering
from core.errors import CoreError, PitchError
from core.evidence.in_hand import InstrumentInHand
from core.evidence.setups_beside import Parts, learned
from core.instruments.fingering import Fingering, format_fingering, parse_fingering
from core.instruments.hand import Hand
from core.music.pitch import parse_pitch
from evidence.queries import heard_on, moved_on, preferred_on, prepared_on, read_by_setup, spots_on
from studio.access import of
from studio.models import OwnedInstrument, Setup
from studio.queries import instrument_of, instruments_of, taught_on
from studio.shipped import INSTRUMENTS


@dataclass(frozen=True)
class Chosen:
    """The instrument that a page is about: in hand, as stored if it is a student's; and the others."""

    in_hand: InstrumentInHand
    owned: OwnedInstrument | None
    students: tuple[tuple[str, str], ...]
    models: tuple[tuple[str, str], ...]

    @property
    def on(self):
        """How an address names it."""
        return self.in_hand.name


def chosen(teacher, on):
    """The instrument that an address names, ``i12`` or ``oboe``.

    With no name: the first of the teacher's instruments, or the alto saxophone.
    """
    owned = _owned(teacher, on)
    if owned is None and on and on not in INSTRUMENTS:
        raise Http404("no such instrument")
    in_hand = of_instrument(owned) if owned else of_model(teacher, on or "alto-saxophone")
    students = tuple((f"i{o.pk}", f"{o.student.name}: {o.name}") for o in instruments_of(teacher))
    return Chosen(in_hand, owned, students, tuple(INSTRUMENTS.items()))


def _owned(teacher, on):
    if on.startswith("i") and on[1:].isascii() and on[1:].isdigit() and len(on) < 12:
        return instrument_of(teacher, int(on[1:]))
    return None if on else instruments_of(teacher).prefetch_related("setups").first()


def of_model(teacher, model, fitted=None):
    """A model with the teacher's own fingerings; what is usually fitted is, unless it is said."""
    usual = shipped.instrument(model).usually_fitted
    own, hidden = _own_and_hidden(teacher, model)
    here = usual if fitted is None else frozenset(fitted)
    taught = taught_on(teacher, model)
    return making.make(making.Stored(model, model, own=own, hidden=hidden, fitted=here, **taught))


def of_instrument(owned, without=None):
    """A student's instrument with all that was heard and preferred on it; but for a trial `without`."""
    spots = spots_on(owned)
    own, hidden = _own_and_hidden(owned.teacher_id, owned.model, owned)
    stored = making.Stored(
        f"i{owned.pk}",
        owned.model,
        own=own,
        hidden=hidden,
        fitted=frozenset(owned.fitted),
        a4_hz=owned.a4_hz,
        setups=owned.setups_in_force,
        heard=heard_on(owned, spots, without),
        moved=moved_on(spots),
        preferred=preferred_on(owned),
        prepared=prepared_on(owned),
        hand=Hand.from_json(owned.student.hand, owned.student.level),
        **taught_on(owned.teacher_id, owned.model, owned.positions),
    )
    return making.make(stored)


def _own_and_hidden(teacher, model, owned=None):
    rows = of(teacher, OwnFingering).filter(model=model).values_list(*making.OWN_COLUMNS)
    here = Q(instrument=None) | Q(instrument=owned) if owned else Q(instrument=None)
    hidden = of(teacher, HiddenFingering).filter(here, model=model)
    return tuple(making.OwnStored(*row) for row in rows), frozenset(hidden.values_list("entry", flat=True))


def changes_learned(in_hand: InstrumentInHand, owned):
    """What changes of reed, mouthpiece, staple or crook do, on all of a teacher's instruments of the kind."""
    alike = of(owned.teacher_id, OwnedInstrument).filter(model=owned.model)
    noted = {}
    for key, number, reed, between in Setup.objects.filter(instrument__in=alike).values_list(
        "instrument", "number", "reed", "mouthpiece"
    ):
        noted.setdefault(key, {})[number] = Parts(reed, between)
    register = partial(making.register_of, in_hand)
    return learned(read_by_setup(alike), noted, register, in_hand.instrument.between)


def own_row(teacher, pk):
    """A fingering of the teacher's own; another teacher's is not found."""
    return get_object_or_404(of(teacher, OwnFingering), pk=pk)


def hidden_everywhere(teacher, model, entry_id):
    """Whether a fingering is hidden on every instrument of a model."""
    rows = of(teacher, HiddenFingering).filter(model=model, entry=entry_id, instrument=None)
    return rows.exists()


def students_own(teacher, on) -> Chosen:
    """A student's instrument that an address names; 404 for a model at large."""
    at = chosen(teacher, on)
    if at.owned is None:
        raise Http404("that belongs to a student's instrument")
    return at


def note_in(in_hand, text, problems):
    """The written note that an address names; None, with the reason added, where it cannot be had."""
    text = text.strip()
    if not text:
        return None
    try:
        note = parse_pitch(text)
    except PitchError:
        problems.append(f"“{text[:20]}” is no note. Type one with its octave, like Bb4 or C#6.")
        return None
    if in_hand.instrument.accepts(note):
        return note
    problems.append(f"Written {note} lies outside the range kept here, {in_hand.instrument.accepted_span}.")
    return None


def readable_touches(in_hand, texts):
    """Of touches that an address names, those that can be read."""
    found = []
    for text in texts:
        try:
            found.append(
                format_fingering(parse_fingering(text[:200], in_hand.instrument), in_hand.instrument)
            )
        except CoreError:
            continue
    return found


def said(in_hand, touches):
    """Touches of an address as the teacher names them; as they stand, if they cannot be read."""
    found = readable_touches(in_hand, [touches])
    return in_hand.said(parse_fingering(found[0], in_hand.instrument)) if found else touches


def touch_words(in_hand):
    """Every touch as it may be typed: the fingers' own by number, the others by name."""
    one_by_one = [Fingering(frozenset({touch.name})) for touch in in_hand.instrument.touches]
    words = [in_hand.said(fingering).removeprefix("– · ") for fingering in one_by_one]
    return ["1 2 3 in each hand", *(word for word in words if not word.isdigit())]
