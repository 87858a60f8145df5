"""Views of counting a spot: read the request, make one call, render."""

from django.core.exceptions import ValidationError
from django.http import Http404
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from bench.queries import opened as opened_of
from passages.queries import passage_of, state_of
from practice.forms import TEMPI, Climb, ClimbForm, attempt_from, climb_named
from practice.queries import of_spot, place_named
from practice.screens.spot import spot_page
from practice.services import log_attempts, take_back_attempts
from practice.spots import SpotAsked, spot_asked
from practice.views import LATELY
from studio.address import Address
from studio.middleware import part_asked
from studio.views import refused_on_a_page

# What an address keeps from one attempt to the next.
CARRIED = ("state", "from", "to", "miss", "place", "by_heart", "climb", "tempo")


@require_http_methods(["GET", "POST"])
@refused_on_a_page
def count(request, pk):
    """Count a spot; a page without a script sends each attempt here."""
    opened = _opened(request, pk)
    if request.method == "GET":
        return _count(request, opened, request.GET)
    try:
        log_attempts(request.user, opened.owned, opened.in_hand, [attempt_from(request.POST)])
    except ValidationError as error:
        return _count(request, opened, request.GET, error.messages)
    return _back_to(request, opened)


@require_POST
@refused_on_a_page
def count_back(request, pk):
    """Take the last attempt at a spot back."""
    opened = _opened(request, pk)
    spot, *_ = spot_asked(opened, _asked(request.GET))
    *_, last = of_spot(opened.owned, spot, timezone.now() - LATELY)
    take_back_attempts(request.user, opened.owned, opened.in_hand, [row[0] for row in last[:1]])
    return _back_to(request, opened)


def _opened(request, pk):
    passage = passage_of(request.user, pk)
    if passage.owned is None:
        raise Http404("attempts are counted on a student's instrument")
    return opened_of(passage, state_of(passage, Address.read(request.GET).state))


def _count(request, opened, data, errors=()):
    form = ClimbForm(data if "target" in data else None)
    if form.is_bound and form.is_valid():
        climb = Climb(form.cleaned_data["start"], form.cleaned_data["target"], timezone.now())
        return _back_to(request, opened, climb=str(climb))
    problems = [*errors, *(error for found in form.errors.values() for error in found)]
    asked = _asked(data)
    spot, *_ = spot_asked(opened, asked)
    counted = of_spot(opened.owned, spot, timezone.now() - LATELY)
    page = spot_page(opened, asked, counted, climb_named(asked.climb))
    context = {"page": page, "passage": opened.passage, "errors": problems, "form": form}
    template = "_spot_count" if part_asked(request) else "spot"
    return render(request, f"practice/{template}.html", context, status=422 if problems else 200)


def _asked(data):
    address = Address.read(data)
    bpm = data.get("tempo", "")
    tempo = int(bpm) if bpm.isascii() and bpm.isdigit() and len(bpm) < 4 else 0
    return SpotAsked(
        first=address.first,
        last=address.last,
        miss=data.get("miss", ""),
        place=place_named(data.get("place", "")),
        by_heart=data.get("by_heart") != "no",
        climb=data.get("climb", ""),
        bpm=tempo if tempo in TEMPI else None,
    )


def _back_to(request, opened, **more):
    kept = {name: request.GET.get(name, "") for name in CARRIED} | more
    query = {name: value for name, value in kept.items() if value}
    return redirect(reverse("practice:count-spot", args=[opened.passage.pk], query=query))
