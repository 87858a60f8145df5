"""Views of entering notes: read the request, make one call, render."""

from django.core.exceptions import ValidationError
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from catalogue import queries
from passages import services
from passages.entering import change_of, pressed, read_entering
from passages.music import read_passage
from passages.queries import passage_of
from passages.screens.entry import entry_page
from studio.address import Address
from studio.middleware import leave_for, part_asked
from studio.views import refused_on_a_page


@require_http_methods(["GET", "POST"])
def enter(request):
    """One press, or the notes entered so far opened on the bench."""
    return _entered(request, None)


@require_http_methods(["GET", "POST"])
@refused_on_a_page
def notes(request, pk):
    """The same on the notes of a passage that there is: one press, or the change kept."""
    return _entered(request, passage_of(request.user, pk))


def _entered(request, passage):
    asked = request.POST if request.method == "POST" else request.GET
    on = _instrument_of(passage) if passage else Address.read(asked).on
    chosen = queries.chosen(request.user, on)
    errors = []
    fresh = passage and not asked.get("draft")
    try:
        entering = change_of(read_passage(passage.musicxml)) if fresh else read_entering(asked)
        do = asked.get("do", "")
        if do == "open" and passage:
            services.change_notes(request.user, passage, entering.draft.passage)
            return leave_for(request, reverse("bench:bench", args=[passage.pk]))
        if do == "open":
            added = services.add_entered(
                request.user,
                entering.draft.passage,
                title=asked.get("title", "").strip()[:200],
                instrument=chosen.in_hand.instrument.name,
                owned=chosen.owned,
            )
            return leave_for(request, reverse("bench:bench", args=[added.pk]))
        entering = pressed(entering, do, asked, chosen.in_hand) if do else entering
    except ValidationError as error:
        errors = error.messages
        entering = read_entering(asked if error.code != "draft" else {})
    narrow = request.COOKIES.get("lines") == "narrow"  # as the script of every page tells
    page = entry_page(entering, chosen.in_hand, narrow=narrow)
    context = {"page": page, "chosen": chosen, "passage": passage, "errors": errors, "typed": asked}
    template = "passages/_enter.html" if part_asked(request) else "passages/enter.html"
    return render(request, template, context, status=422 if errors else 200)


def _instrument_of(passage):
    """How an address names the instrument that a passage is for."""
    return f"i{passage.owned_id}" if passage.owned_id else passage.instrument
