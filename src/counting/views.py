"""Views of counting: read the request, make one call, render.

`who` is for whom a browser keeps what is not sent: a teacher by their key, a student's page by its own. What
was pressed for one is never sent as another's.
"""

from datetime import timedelta

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import JsonResponse
from django.shortcuts import redirect, render
from django.template.defaultfilters import pluralize
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from catalogue.queries import students_own
from counting import services
from counting.asked import Climb, as_drawn, to_open
from counting.forms import ClimbForm, MendForm
from counting.mending import days_of
from counting.presses import press_of, sent_in
from counting.queries import counted_of
from counting.screens.count import count_page
from evidence import told
from studio.address import Address
from studio.middleware import part_asked
from studio.offline import opens_offline
from studio.views import refused_on_a_page

LATELY = timedelta(hours=3)


@require_http_methods(["GET", "POST"])
@refused_on_a_page
def count(request):
    """A spot that is counted; a page without a script sends each press here."""
    if "spot" not in request.GET:
        return redirect(_asked_now(request, to_open(request.user, request.GET)))
    opening = as_drawn(request.user, request.GET)
    if request.method == "GET":
        return _count(request, opening)
    if "back" in request.POST:
        last = counted_of(opening.asked.drawn, timezone.now() - LATELY).last[:1]
        services.take_back(request.user, [key for key, *_ in last])
        return redirect(request.get_full_path())
    press = press_of(request.POST)
    (answer,) = services.keep_presses(request.user, [(request.POST["key"], press, "")])
    if answer.became == services.REFUSED:
        return _count(request, opening, [answer.why])
    return redirect(request.get_full_path())


@require_GET
@refused_on_a_page
def open_spot(request, pk):
    """Notes of a passage, to be counted as they are fingered now."""
    return redirect(_asked_now(request, to_open(request.user, request.GET, pk)))


def _asked_now(request, opening):
    """The address of what is opened; a ladder that was asked for begins with it."""
    form = ClimbForm(request.GET if "target" in request.GET else None)
    if form.is_bound and form.is_valid():
        return opening.asked.to(climb=Climb(**form.cleaned_data, since=timezone.now()))
    return opening.asked.to()


def _count(request, opening, errors=()):
    form = ClimbForm(request.GET if "target" in request.GET else None)
    if form.is_bound and form.is_valid():
        return redirect(opening.asked.to(climb=Climb(**form.cleaned_data, since=timezone.now())))
    problems = [*errors, *(error for found in form.errors.values() for error in found)]
    at = opening.at
    learning = told.learning_on(at.owned, at.in_hand, told.guess_on(at.owned, at.in_hand))
    page = count_page(opening, counted_of(opening.asked.drawn, timezone.now() - LATELY), learning)
    context = {"page": page, "chosen": at, "errors": problems, "form": form}
    template = "_count" if part_asked(request) else "count"
    response = render(request, f"counting/{template}.html", context, status=422 if problems else 200)
    return response if part_asked(request) else opens_offline(response, who_of(request.user))


def who_of(teacher):
    """For whom a browser keeps what is pressed, and pages."""
    return f"t{teacher.pk}"


@require_POST
def presses(request):
    """Presses as a list, from a script: an answer for each."""
    try:
        sent = sent_in(request.body)
    except ValidationError as error:
        return JsonResponse({"why": " ".join(error.messages)}, status=400)
    if sent.who != who_of(request.user):
        return JsonResponse({"why": "Another teacher is signed in."}, status=403)
    answers = services.keep_presses(request.user, sent.presses)
    services.take_back(request.user, sent.back)
    return JsonResponse({"answers": [vars(answer) for answer in answers]})


@require_http_methods(["GET", "POST"])
@refused_on_a_page
def counted(request):
    """What was counted lately, to be put right."""
    asked = request.POST if request.method == "POST" else request.GET
    at = students_own(request.user, Address.read(asked).on)
    form, errors = MendForm(request.POST or None, at=at), []
    if request.method == "POST" and form.is_valid():
        try:
            messages.success(request, _mend(request.user, at, form.cleaned_data, asked))
        except ValidationError as error:
            errors = error.messages
        else:
            return redirect(Address(on=at.on).to("counting:counted"))
    errors += [error for found in form.errors.values() for error in found]
    context = {"rows": days_of(at.owned, at.in_hand), "chosen": at, "form": form, "errors": errors}
    return render(request, "counting/counted.html", context, status=422 if errors else 200)


def _mend(teacher, at, details, asked):
    """What became of what was marked, in words."""
    names = asked.getlist("counted")
    if asked.get("do") == "delete":
        number = services.delete_counted(teacher, at.owned, names)
        return f"{number:,} attempt{pluralize(number)} deleted."
    number = services.move_counted(teacher, at.owned, names, **details)
    to = f", to {details['to']}" if details["to"] else ""
    return f"{number:,} attempt{pluralize(number)} put right{to}."
