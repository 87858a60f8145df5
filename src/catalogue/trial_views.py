"""Views of the trial at the stand: read the request, make one call, render."""

from django.core.exceptions import ValidationError
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from catalogue import queries
from catalogue.screens.trial import at_stand, begin_page, end_page, items_asked
from evidence import services as evidence
from evidence import trials
from evidence.queries import trial_of
from studio.address import Address
from studio.middleware import part_asked

ALSO_LIMIT = 12


@require_http_methods(["GET", "POST"])
def begin(request):
    asked, problems = (request.POST if request.method == "POST" else request.GET), []
    here = Address.read(asked)
    chosen = queries.chosen(request.user, here.on)
    note = queries.note_in(chosen.in_hand, here.note, problems) or chosen.in_hand.instrument.middle
    if request.method == "POST" and not problems:
        try:
            begun = trials.begin(
                request.user,
                chosen.owned,
                note_midi=note.midi,
                items=items_asked(chosen.in_hand, note, request.POST.getlist("item")),
                coming_from=here.first[:60],
                blind="blind" in asked,
                shuffle="shuffle" in asked,
                colour="colour" in asked,
            )
            return redirect("catalogue:trial", begun.pk)
        except ValidationError as error:
            problems += error.messages
    also = queries.readable_touches(chosen.in_hand, asked.getlist("also")[:ALSO_LIMIT])
    page = begin_page(chosen.in_hand, note, here.first, also)
    context = {"page": page, "chosen": chosen, "errors": problems, "colour": "colour" in asked}
    return render(request, "fingerings/trial_begin.html", context, status=422 if problems else 200)


@require_GET
def trial(request, pk):
    return _trial(request, trial_of(request.user, pk))


def _trial(request, row, *, errors=()):
    in_hand = queries.of_instrument(row.instrument)
    page = None if row.finished else at_stand(in_hand, row)
    context = {"trial": row, "page": page, "errors": errors, "typed": request.POST, "on": in_hand.name}
    if page is None:
        context["end"] = end_page(in_hand, queries.of_instrument(row.instrument, without=row), row)
    template = "_trial.html" if part_asked(request) else "trial.html"
    return render(request, f"fingerings/{template}", context, status=422 if errors else 200)


@require_POST
def answer(request, pk):
    """One tap: an answer, back, stop, or a preference at the end."""
    row = trial_of(request.user, pk)
    word = request.POST.get("answer", "")
    in_hand = queries.of_instrument(row.instrument)
    try:
        if word == "stop":
            trials.finish(request.user, row, in_hand)
        elif word == "prefer":
            evidence.prefer(request.user, row.instrument, in_hand, request.POST.get("entry", ""))
        else:
            trials.answer(request.user, row, request.POST.get("cents", "") if word == "cents" else word)
    except ValidationError as error:
        return _trial(request, row, errors=error.messages)
    return redirect("catalogue:trial", pk)
