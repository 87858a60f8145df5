"""Reads, always for one teacher."""

from django.shortcuts import get_object_or_404

from jobs.models import Job
from studio.access import of


def job_of(teacher, pk):
    """A piece of work of a teacher's; another teacher's is not found."""
    return get_object_or_404(of(teacher, Job), pk=pk)
