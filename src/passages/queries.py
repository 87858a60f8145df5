"""Reads, always for one teacher."""

from dataclasses import replace

from django.shortcuts import get_object_or_404

from catalogue.queries import of_instrument, of_model
from passages.models import EnteredNotes, KeptPassage, State
from passages.settings import BenchSettings
from studio.access import of

# Windows whose notes are offered again.
OFFERED = 3


def passages_of(teacher):
    """A teacher's passages, last changed first, without their scores; with the reach of who plays them."""
    return (
        of(teacher, KeptPassage)
        .select_related("current", "owned__student", "owned__told", "serves")
        .defer("musicxml", "serves__musicxml", "owned__told__state")
    )


def passage_of(teacher, pk):
    """One passage of a teacher; another teacher's is not found."""
    return get_object_or_404(
        of(teacher, KeptPassage).select_related("current__parent", "owned__student"), pk=pk
    )


def state_of(passage, number):
    """A state by its number as it stands in an address; the current one where that names none."""
    if number.isascii() and number.isdigit() and len(number) < 9 and int(number) != passage.current.number:
        state = State.objects.select_related("parent").filter(passage=passage, number=int(number)).first()
        return state or passage.current
    return passage.current


def in_hand_for(passage, fitted):
    """The student's instrument, or the model at large with what is said to be fitted."""
    if passage.owned is not None:
        return of_instrument(passage.owned)
    return of_model(passage.teacher_id, passage.instrument, fitted)


def stored_settings(passage, state) -> BenchSettings:
    """What is set under a state; a student's instrument says itself how it is tuned."""
    settings = BenchSettings.from_json(state.settings)
    return replace(settings, a4_hz=passage.owned.a4_hz) if passage.owned else settings


def in_hand_to_be(teacher, cleaned):
    """The instrument in hand that a score about to be opened is for."""
    return of_instrument(cleaned["owned"]) if cleaned["owned"] else of_model(teacher, cleaned["model"])


def entered_in(teacher, passage, window) -> dict[str, str] | None:
    """What was entered in a window and not opened yet, as a form carries it; None where nothing was."""
    kept = of(teacher, EnteredNotes).filter(passage=passage, window=window).first()
    return kept and kept.state


def entered_before(teacher, passage, window) -> list[EnteredNotes]:
    """What was entered in other windows and not opened yet, for a passage or a new one; the last first."""
    return list(
        of(teacher, EnteredNotes).filter(passage=passage).exclude(window=window).defer("state")[:OFFERED]
    )
