"""Reads, always for one teacher."""

from django.shortcuts import get_object_or_404

from core.instruments.naming import Naming
from studio.access import of
from studio.models import NAMING, OwnedInstrument, Student, Teaching
from studio.shipped import INSTRUMENTS, instrument, schools


def student_of(teacher, pk):
    return get_object_or_404(of(teacher, Student), pk=pk)


def instruments_of(teacher):
    """A teacher's students' instruments."""
    return of(teacher, OwnedInstrument).select_related("student")


def instrument_of(teacher, pk):
    return get_object_or_404(
        of(teacher, OwnedInstrument).select_related("student").prefetch_related("setups"), pk=pk
    )


def teaching_of(teacher):
    """The positions that a teacher takes, by question."""
    return dict(of(teacher, Teaching).values_list("question", "position"))


def taught_on(teacher, model, departs=None):
    """Positions followed on a model of instrument, or on one that departs from what the teacher does; and
    how the teacher names touches."""
    answers = teaching_of(teacher)
    positions = schools().followed(answers | (departs or {}), instrument(model).family)
    return {"positions": positions, "naming": naming_in(answers)}


def naming_in(answers):
    """How touches are named, by what a teacher has answered."""
    return Naming(answers.get(NAMING) or Naming.EACH_HAND)


def details_to_start_from(teacher, model):
    """What a new instrument of a model is at first: as usually fitted, and tuned as all of the studio."""
    tuned = set(of(teacher, OwnedInstrument).values_list("a4_hz", flat=True))
    fitted = sorted(instrument(model).usually_fitted)
    a4_hz = tuned.pop() if len(tuned) == 1 else 440.0
    return {"name": INSTRUMENTS[model], "fitted": fitted, "a4_hz": f"{a4_hz:g}"}
