"""Views of practice: read the request, make one call, render."""

from datetime import timedelta

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.template.defaultfilters import pluralize
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from catalogue.queries import chosen, note_in
from evidence import told
from practice import queries, services
from practice.forms import (
    AttemptsForm,
    Climb,
    ClimbForm,
    PlanForm,
    attempt_from,
    attempts_sent,
    climb_named,
)
from practice.screens.count import count_page
from practice.screens.plan import plan_page
from practice.screens.reach import reach_page
from studio.address import Address
from studio.middleware import part_asked
from studio.views import refused_on_a_page

LATELY = timedelta(hours=3)
# What an address of count mode keeps from one attempt to the next.
CARRIED = ("on", "note", "entry", "place", "began", "by_heart", "climb")


def _at(request, data):
    """A student's instrument that an address names; 404 for a model at large."""
    at = chosen(request.user, Address.read(data).on)
    if at.owned is None:
        raise Http404("attempts are counted on a student's instrument")
    return at


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
    response = HttpResponse(write(queries.logged_on(at.owned)), content_type=content_type)
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
        new = services.log_attempts(request.user, at.owned, at.in_hand, form.cleaned_data["file"])
    except ValidationError as error:
        return _reach(request, at, error.messages, status=422)
    messages.success(request, f"{new:,} new attempt{pluralize(new)} kept.")
    return redirect(Address(on=at.on).to("practice:reach"))


@require_GET
@refused_on_a_page
def count(request):
    return _count(request, _at(request, request.GET), request.GET)


def _count(request, at, asked, errors=(), status=200):
    problems = list(errors)
    form = ClimbForm(asked if "target" in asked else None)
    if form.is_bound and form.is_valid():
        climb = Climb(form.cleaned_data["start"], form.cleaned_data["target"], timezone.now())
        return redirect(reverse("practice:count", query=_kept({**asked.dict(), "climb": str(climb)})))
    problems += [error for found in form.errors.values() for error in found]
    here = Address.read(asked)
    note = note_in(at.in_hand, here.note, problems) or at.in_hand.instrument.middle
    entry = at.in_hand.catalogue.by_id.get(here.entry)
    if entry is None or entry.note.midi != note.midi:
        entry = at.in_hand.plainest(note)
    name = entry.id if entry else ""
    place = queries.place_named(asked.get("place", ""))
    since = timezone.now() - LATELY
    counted, in_all, cracks = queries.of_fingering(at.owned, note.midi, name, since)
    last = queries.latest_on(at.owned, note.midi, name, since)
    climb = climb_named(asked.get("climb", ""))
    climbing = climb and (climb, queries.results_since(at.owned, note.midi, name, climb.since))
    learning = told.learning_on(at.owned, at.in_hand, told.guess_on(at.owned, at.in_hand))
    page = count_page(
        at.in_hand,
        note,
        entry,
        place,
        began=queries.began_named(asked.get("began", "")),
        by_heart=asked.get("by_heart") != "no",
        counted=(counted, in_all),
        cracks=cracks,
        last=last,
        learning=learning,
        climbing=climbing,
    )
    template = "_count" if part_asked(request) else "count"
    context = {"page": page, "chosen": at, "errors": problems, "form": form}
    return render(request, f"practice/{template}.html", context, status=422 if problems else status)


@require_POST
def log(request):
    """Attempts as a list, from a script; or one, from a page without."""
    if request.content_type == "application/json":
        try:
            on, attempts = attempts_sent(request.body)
            at = _at(request, {"on": on})
            new = services.log_attempts(request.user, at.owned, at.in_hand, attempts)
        except ValidationError as error:
            return JsonResponse({"errors": error.messages}, status=422)
        return JsonResponse({"kept": len(attempts), "new": new})
    at = _at(request, request.POST)
    try:
        services.log_attempts(request.user, at.owned, at.in_hand, [attempt_from(request.POST)])
    except ValidationError as error:
        return _count(request, at, request.POST, error.messages)
    return redirect(reverse("practice:count", query=_kept(request.POST)))


@require_POST
def back(request):
    """Take the last attempt at a note away."""
    at = _at(request, request.POST)
    note = note_in(at.in_hand, Address.read(request.POST).note, [])
    if note is not None:
        asked = at.owned, note.midi, request.POST.get("fingering", ""), timezone.now() - LATELY
        last = queries.latest_on(*asked)[:1]
        services.take_back_attempts(request.user, at.owned, at.in_hand, [key for key, *_ in last])
    return redirect(reverse("practice:count", query=_kept(request.POST)))


def _kept(data):
    """What an address of count mode keeps."""
    kept = {name: data.get(name) for name in CARRIED}
    kept["entry"] = kept["entry"] or data.get("fingering")
    return {name: value for name, value in kept.items() if value}
