"""Views of practice: read the request, make one call, render."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.template.defaultfilters import pluralize
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from catalogue.queries import note_in, students_own
from evidence import told
from practice import queries, services
from practice.forms import AttemptsForm, PlanForm
from practice.screens.plan import plan_page
from practice.screens.reach import reach_page
from studio.address import Address
from studio.views import refused_on_a_page


def _at(request, data):
    return students_own(request.user, Address.read(data).on)


@require_GET
@refused_on_a_page
def reach(request):
    return _reach(request, _at(request, request.GET))


def _reach(request, at, errors=(), status=200):
    guessed = told.guess_on(at.owned, at.in_hand)
    learning = told.learning_on(at.owned, at.in_hand, guessed)
    page = reach_page(at.in_hand, learning, queries.counts_on(at.owned), guessed)
    context = {"page": page, "chosen": at, "errors": errors, "form": AttemptsForm()}
    return render(request, "practice/reach.html", context, status=status)


@require_POST
@refused_on_a_page
def guess(request):
    at, problems = _at(request, request.POST), []
    note = note_in(at.in_hand, request.POST.get("guess", ""), problems)
    if note is None:
        return _reach(request, at, problems or ["Choose a note."], status=422)
    services.guess_reach(request.user, at.owned, at.in_hand, note.midi)
    return redirect(Address(on=at.on).to("practice:reach"))


@require_GET
@refused_on_a_page
def plan(request):
    return _plan(request, _at(request, request.GET))


def _plan(request, at, form=None, errors=(), status=200):
    kept = queries.plan_of(at.owned)
    learning = told.learning_on(at.owned, at.in_hand, told.guess_on(at.owned, at.in_hand))
    begun = kept is not None and kept.note_midi is not None
    sessions = queries.sessions_on(at.owned, kept.note_midi, kept.note_since) if begun else 0
    off = queries.days_off(kept) if kept else set()
    page = plan_page(
        at.in_hand, kept, learning, sessions, timezone.localdate(), off, queries.music_on(at.owned)
    )
    form = form or PlanForm(notes=at.in_hand.instrument.accepted, plan=kept)
    context = {"page": page, "chosen": at, "form": form, "errors": errors}
    return render(request, "practice/plan.html", context, status=status)


@require_POST
@refused_on_a_page
def set_plan(request):
    at = _at(request, request.POST)
    form = PlanForm(request.POST, notes=at.in_hand.instrument.accepted)
    if not form.is_valid():
        return _plan(request, at, form, status=422)
    cleaned = form.cleaned_data
    asked = {"target_midi": cleaned["target"], "due": cleaned["due"], "days_off": cleaned["days_off"]}
    asked |= {name: cleaned[name] for name in ("minutes", "high_minutes", "whole")}
    try:
        services.set_plan(request.user, at.owned, at.in_hand, **asked)
    except ValidationError as error:
        return _plan(request, at, form, error.messages, status=422)
    return redirect(Address(on=at.on).to("practice:plan"))


@require_POST
@refused_on_a_page
def begin(request):
    at, text = _at(request, request.POST), request.POST.get("midi", "")
    midi = int(text) if text.isascii() and text.isdigit() and len(text) < 4 else -1
    try:
        services.begin_note(request.user, at.owned, at.in_hand, midi)
    except ValidationError as error:
        return _plan(request, at, errors=error.messages, status=422)
    return redirect(Address(on=at.on).to("practice:plan"))


@require_GET
def download(request, form):
    """All attempts on an instrument, to take away."""
    if form not in queries.FORMS:
        raise Http404("no such form of attempts")
    at, (write, content_type) = _at(request, request.GET), queries.FORMS[form]
    response = HttpResponse(write(queries.taken_away_from(at)), content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="attempts.{form}"'
    return response


@require_POST
@refused_on_a_page
def bring(request):
    """A file of attempts, kept as a whole or not at all."""
    at, form = _at(request, request.POST), AttemptsForm(request.POST, request.FILES)
    if not form.is_valid():
        return _reach(request, at, [error for errors in form.errors.values() for error in errors], status=422)
    try:
        new, said = services.bring_attempts(request.user, at.owned, at.in_hand, form.cleaned_data["file"])
    except ValidationError as error:
        return _reach(request, at, error.messages, status=422)
    messages.success(request, " ".join([f"{new:,} new attempt{pluralize(new)} kept.", *said]))
    return redirect(Address(on=at.on).to("practice:reach"))
