"""Views of the bin: what goes with a thing before it is deleted, what was, and its way back."""

from django.apps import apps
from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from studio import bin as bins
from studio.access import of
from studio.views import refused_on_a_page


@require_GET
def ask(request, kind, pk):
    """Whether a thing is to be deleted, with all that goes with it."""
    if kind not in bins.KINDS:
        raise Http404("that cannot be deleted")
    label, view, listed = bins.KINDS[kind]
    thing = get_object_or_404(of(request.user, apps.get_model(label)), pk=pk)
    context = {"what": str(thing), "kind": kind, "said": bins.goes_with(thing).said}
    context |= {"action": reverse(view, args=[pk]), "back": reverse(listed), "days": bins.KEPT_FOR.days}
    return render(request, "studio/ask.html", context)


@require_GET
def contents(request):
    return _bin(request)


def _bin(request, errors=(), status=200):
    rows = [(row, row.deleted + bins.KEPT_FOR) for row in bins.kept_for(request.user)]
    context = {"rows": rows, "errors": errors, "days": bins.KEPT_FOR.days}
    return render(request, "studio/bin.html", context, status=status)


@require_POST
def bring_back(request, pk):
    binned = get_object_or_404(bins.kept_for(request.user), pk=pk)
    try:
        bins.bring_back(request.user, binned)
    except ValidationError as error:
        return _bin(request, error.messages, 422)
    messages.success(request, f"{binned.what} is back as it was.")
    return redirect("studio:bin")


@require_POST
@refused_on_a_page
def forget(request, pk):
    binned = get_object_or_404(bins.kept_for(request.user), pk=pk)
    bins.forget(request.user, binned)
    messages.success(request, f"{binned.what} is gone for good.")
    return redirect("studio:bin")
