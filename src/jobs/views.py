"""Views of work in the background: read the request, make one call, render."""

from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from jobs import queries, services
from studio.middleware import leave_for, part_asked
from studio.views import refused_on_a_page


@require_GET
def job(request, pk):
    """How a piece of work stands; when it is done, on to its result."""
    found = queries.job_of(request.user, pk)
    if found.state == found.State.DONE:
        return leave_for(request, found.address)
    template = "jobs/_job.html" if part_asked(request) == "job" else "jobs/job.html"
    return render(request, template, {"job": found})


@require_POST
@refused_on_a_page
def cancel(request, pk):
    services.cancel(request.user, queries.job_of(request.user, pk))
    return redirect("jobs:job", pk)
