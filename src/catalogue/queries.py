"""Reads, always for one teacher: the instrument in hand with everything known of it."""

from collections import defaultdict

from django.http import Http404

from catalogue import shipped
from catalogue.hand import Hand
from catalogue.models import HiddenFingering, JudgementMade, OwnFingering, Preference, ReadingsTaken
from catalogue.note_page import NotePage
from catalogue.walk_page import WalkPage
from core.charts.audit import entry_of
from core.charts.catalogue import Speaks, Tone
from core.errors import CoreError, PitchError
from core.evidence.sources import ALL_SOURCES, Hands, Heard, Judgement, Readings, Tuning
from core.instruments.fingering import parse_fingering
from core.music.pitch import parse_pitch, spell
from studio.queries import instrument_of, instruments_of
from studio.services import sentence
from studio.shipped import INSTRUMENTS


def hand_named(teacher, on):
    """The instrument that an address names, ``i12`` or ``oboe``, and the student's instrument if it is one.

    With no name: the first of the teacher's instruments, or the alto saxophone.
    """
    if on.startswith("i") and on[1:].isdecimal() and len(on) < 12:
        owned = instrument_of(teacher, int(on[1:]))
        return hand_of(owned), owned
    if not on:
        owned = instruments_of(teacher).prefetch_related("setups").first()
        return (hand_of(owned), owned) if owned else (hand_of_model(teacher, "alto-saxophone"), None)
    if on not in INSTRUMENTS:
        raise Http404("no such instrument")
    return hand_of_model(teacher, on), None


def choices_of(teacher):
    """Instruments to choose from: the students', then every model."""
    owned = [(f"i{o.pk}", f"{o.student.name}: {o.name}") for o in instruments_of(teacher)]
    return {"students": owned, "models": list(INSTRUMENTS.items())}


def hand_of_model(teacher, model, fitted=None):
    """A model with the teacher's own fingerings; what is usually fitted is, unless it is said."""
    own, hidden = _own_and_hidden(teacher, model)
    usual = shipped.instrument(model).usually_fitted
    return Hand(model, own, hidden, usual if fitted is None else frozenset(fitted))


def hand_of(owned):
    """A student's instrument with all that was judged, read and preferred on it."""
    own, hidden = _own_and_hidden(owned.teacher, owned.model)
    preferred = Preference.objects.filter(instrument=owned).values_list("entry", flat=True)
    return Hand(
        model=owned.model,
        own=own,
        hidden=hidden,
        fitted=frozenset(owned.fitted),
        a4_hz=owned.a4_hz,
        setup=owned.setup,
        heard=_heard(owned),
        preferred=frozenset(preferred),
        school=owned.school,
        owned=owned.pk,
    )


def _own_and_hidden(teacher, model):
    rows = OwnFingering.objects.filter(teacher=teacher, model=model)
    hidden = HiddenFingering.objects.filter(teacher=teacher, model=model).values_list("entry", flat=True)
    return tuple(entry_of_row(row) for row in rows), frozenset(hidden)


def entry_of_row(row):
    """An own fingering as an entry of the chart."""
    values = {
        name: "" if (value := getattr(row, name)) is None else str(value)
        for name in ("kind", "cents", "cents_low", "cents_high", "tone", "speaks")
    }
    values |= {name: getattr(row, name) for name in ("good_for", "avoid_when", "confidence", "reason")}
    whole = shipped.catalogue(row.model)
    fingering = parse_fingering(row.touches, whole.instrument)
    return entry_of(values, parse_pitch(row.note), fingering, whole, row.entry_id)


def _heard(owned):
    judged, taken = defaultdict(list), defaultdict(list)
    for row in JudgementMade.objects.filter(instrument=owned):
        judged[row.entry].append(judgement_of(row))
    for row in ReadingsTaken.objects.filter(instrument=owned):
        taken[row.entry].append(Readings(row.setup, tuple(row.cents)))
    return tuple(
        (entry, Heard(tuple(judged[entry]), tuple(taken[entry]))) for entry in sorted({*judged, *taken})
    )


def judgement_of(row):
    """A stored rating as the core knows it."""
    scales = {"pitch": Tuning, "tone": Tone, "speaks": Speaks, "hands": Hands}
    rated = {name: scale(getattr(row, name)) for name, scale in scales.items() if getattr(row, name)}
    return Judgement(row.setup, **rated)


def log_of(owned, entry_id):
    """Judgements and readings of one fingering on an instrument, newest first."""
    of_it = {"instrument": owned, "entry": entry_id}
    judged = [("judged", row) for row in JudgementMade.objects.filter(**of_it)]
    taken = [("measured", row) for row in ReadingsTaken.objects.filter(**of_it)]
    return sorted(judged + taken, key=lambda pair: (pair[1].made, pair[1].pk), reverse=True)


def note_in(hand, text, problems):
    """The written note that an address names; None, with the reason added, where it cannot be had."""
    text = text.strip()
    if not text:
        return None
    try:
        note = parse_pitch(text)
    except PitchError:
        problems.append(f"“{text[:20]}” is no note. Type one with its octave, like Bb4 or C#6.")
        return None
    if hand.instrument.in_range(note):
        return note
    span = f"{hand.instrument.written_low} to {hand.instrument.written_high}"
    problems.append(f"{note} lies outside the written range of this instrument, {span}.")
    return None


def note_page(hand, note, touches, without):
    """The Note view of a note as an address names it; the middle of the range where it names none.

    What cannot be read is said in the page's `problems`.
    """
    problems = []
    middle = spell((hand.instrument.written_low.midi + hand.instrument.written_high.midi) // 2)
    pitch = note_in(hand, note, problems) or middle
    use = ALL_SOURCES - {basis for basis in ALL_SOURCES if basis.value in without.split()}
    return NotePage(hand, pitch, touches[:300], use, problems)


def usual_walk(model):
    """Range of a first walk: from the first C of the instrument, two octaves."""
    low = next(midi for midi in range(model.written_low.midi, model.written_high.midi) if midi % 12 == 0)
    return {"low": spell(low).ascii, "high": spell(min(low + 24, model.written_high.midi)).ascii}


def walk_page(hand, form, *, tonic, mode, low, high, down):
    """A scale to walk; None, with the reason on the form, where no note of it lies in the range."""
    try:
        return WalkPage(hand, tonic, mode, low, high, down=down)
    except CoreError as error:
        form.add_error(None, sentence(str(error)))
        return None
