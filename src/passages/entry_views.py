"""Views of entering notes: read the request, make one call, render."""

import uuid

from django.core.exceptions import ValidationError
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from catalogue import queries as catalogue
from passages import queries, services
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
    window, teacher = _window(asked), request.user
    kept = queries.entered_in(teacher, passage, window) if request.method == "GET" else None
    asked = asked if kept is None else kept
    on = _instrument_of(passage) if passage else Address.read(asked).on
    chosen = catalogue.chosen(teacher, on)
    errors, do = [], asked.get("do", "")
    fresh = passage and not asked.get("draft")
    try:
        entering = change_of(read_passage(passage.musicxml)) if fresh else read_entering(asked)
        if do == "open":
            opened = passage or _added(teacher, chosen, asked, entering)
            if passage:
                services.change_notes(teacher, passage, entering.draft.passage)
            services.forget_entered(teacher, window)
            return leave_for(request, reverse("bench:bench", args=[opened.pk]))
        if do == "forget":
            services.forget_entered(teacher, _window({"window": asked.get("other", "")}))
            return redirect(request.path)
        entering = pressed(entering, do, asked, chosen.in_hand) if do else entering
    except ValidationError as error:
        errors = error.messages
        entering = read_entering(asked if error.code != "draft" else {})
    if request.method == "POST" and not errors and not entering.draft.is_blank:
        state = entering.fields | {"on": chosen.on, "title": asked.get("title", "")[:200]}
        services.keep_entered(teacher, window, passage, state, len(entering.draft.notes))
    narrow = request.COOKIES.get("lines") == "narrow"  # as the script of every page tells
    page = entry_page(entering, chosen.in_hand, narrow=narrow)
    context = {"page": page, "chosen": chosen, "passage": passage, "errors": errors, "typed": asked}
    context |= {"window": window}
    if not part_asked(request):
        context["before"] = queries.entered_before(teacher, passage, window)
    template = "passages/_enter.html" if part_asked(request) else "passages/enter.html"
    response = render(request, template, context, status=422 if errors else 200)
    response["HX-Replace-Url"] = f"{request.path}?window={window}"  # a page loaded anew goes on from there
    return response


def _window(asked):
    """The window in which notes are entered, by a key of its own."""
    try:
        return uuid.UUID(asked.get("window", "")[:36])
    except ValueError:
        return uuid.uuid4()


def _added(teacher, chosen, asked, entering):
    return services.add_entered(
        teacher,
        entering.draft.passage,
        title=asked.get("title", "").strip()[:200],
        instrument=chosen.in_hand.instrument.name,
        owned=chosen.owned,
    )


def _instrument_of(passage):
    """How an address names the instrument that a passage is for."""
    return f"i{passage.owned_id}" if passage.owned_id else passage.instrument
