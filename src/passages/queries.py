"""Reads, always for one teacher."""

from django.shortcuts import get_object_or_404

from catalogue.queries import hand_of, hand_of_model
from passages.models import Passage, State


def passages_of(teacher):
    """A teacher's passages, last changed first, without their scores."""
    return (
        Passage.objects.filter(teacher=teacher).select_related("current", "owned__student").defer("musicxml")
    )


def passage_of(teacher, pk):
    """One passage of a teacher; another teacher's is not found."""
    return get_object_or_404(
        Passage.objects.select_related("current__parent", "teacher", "owned__student", "owned__teacher"),
        teacher=teacher,
        pk=pk,
    )


def state_of(passage, number):
    """A state by its number as it stands in an address; the current one where that names none."""
    if number.isdecimal() and len(number) < 9 and int(number) != passage.current.number:
        state = State.objects.select_related("parent").filter(passage=passage, number=int(number)).first()
        return state or passage.current
    return passage.current


def hand_for(passage):
    """The instrument in hand for a passage: the student's, or the model at large."""
    if passage.owned is not None:
        return hand_of(passage.owned)
    return hand_of_model(passage.teacher, passage.instrument)


def hand_to_be(teacher, cleaned):
    """The instrument in hand that a score about to be opened is for."""
    return hand_of(cleaned["owned"]) if cleaned["owned"] else hand_of_model(teacher, cleaned["model"])
