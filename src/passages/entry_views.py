"""Views of entering notes: read the request, make one call, render."""

from django.core.exceptions import ValidationError
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from catalogue import queries
from passages import services
from passages.entering import pressed, read_entering
from passages.screens.entry import entry_page
from studio.middleware import part_asked


def _leave_for(request, address):
    """Go to another page, also where only a part of this one was asked for."""
    if not part_asked(request):
        return redirect(address)
    response = HttpResponse()
    response["HX-Redirect"] = address
    return response


@require_http_methods(["GET", "POST"])
def enter(request):
    """One press, or the notes entered so far opened on the bench."""
    asked = request.POST if request.method == "POST" else request.GET
    chosen = queries.chosen(request.user, asked.get("on", ""))
    errors = []
    try:
        entering = read_entering(asked)
        do = asked.get("do", "")
        if do == "open":
            passage = services.add_entered(
                request.user,
                entering.draft.passage,
                title=asked.get("title", "").strip()[:200],
                instrument=chosen.in_hand.instrument.name,
                owned=chosen.owned,
            )
            return _leave_for(request, reverse("passages:bench", args=[passage.pk]))
        entering = pressed(entering, do, asked, chosen.in_hand) if do else entering
    except ValidationError as error:
        errors = error.messages
        entering = read_entering(asked if error.code != "draft" else {})
    page = entry_page(entering, chosen.in_hand)
    context = {"page": page, "chosen": chosen, "errors": errors, "typed": asked}
    template = "passages/_enter.html" if part_asked(request) else "passages/enter.html"
    return render(request, template, context, status=422 if errors else 200)
