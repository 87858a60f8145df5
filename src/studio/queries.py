"""Reads, always for one teacher."""

from django.shortcuts import get_object_or_404

from studio.models import OwnedInstrument, Student


def students_of(teacher):
    """A teacher's students with their instruments and set-ups."""
    return Student.objects.filter(teacher=teacher).prefetch_related("instruments__setups")


def student_of(teacher, pk):
    return get_object_or_404(Student, teacher=teacher, pk=pk)


def instruments_of(teacher):
    """A teacher's students' instruments."""
    return OwnedInstrument.objects.filter(teacher=teacher).select_related("student")


def instrument_of(teacher, pk):
    return get_object_or_404(
        OwnedInstrument.objects.select_related("student").prefetch_related("setups"), teacher=teacher, pk=pk
    )
