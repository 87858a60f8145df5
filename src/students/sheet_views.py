"""Views of sheets and students' pages: for the teacher who makes them, and for whoever has the address."""

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse, JsonResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST

from catalogue.queries import students_own
from counting.presses import press_of, sent_in, sent_keys
from counting.services import REFUSED
from jobs.models import Job
from students import queries, services
from students.paper import CONTENT_TYPE, PAPERS, pdf_of
from students.screens.for_student import counted_now, for_student
from students.screens.sheet import PARTS, WayToPage
from students.sheets import asked_sheet
from studio.address import Address
from studio.middleware import is_of_this_machine
from studio.offline import opens_offline
from studio.views import refused_on_a_page
from studio.zones import zone_of


@require_GET
@refused_on_a_page
def sheet(request):
    asked = asked_sheet(request.user, request.GET)
    owned, made = asked.on_with.at.owned, asked.made_for(request.user, request.get_full_path())
    if isinstance(made, Job):
        return redirect(made)
    pages = queries.pages_on(owned)
    context = {
        "sheet": made,
        "way": _way_to_page(request, pages, asked),
        "asked": asked,
        "chosen": asked.on_with.at,
        "passages": queries.music_of(request.user, owned=owned).get(owned.pk, []),
        "parts": PARTS,
        "papers": PAPERS,
        "pages": [(page, _address(request, page)) for page in pages],
    }
    return render(request, "students/sheet.html", context)


def _address(request, page):
    return request.build_absolute_uri(reverse("students:for-student", args=[page.token]))


def _way_to_page(request, pages, asked):
    page = queries.page_for(pages, asked.music)
    elsewhere = not is_of_this_machine(request.get_host())
    return page and WayToPage(_address(request, page), page.expires, page.may_log, elsewhere)


@require_GET
@refused_on_a_page
def sheet_pdf(request):
    asked = asked_sheet(request.user, request.GET)
    made = asked.made_for(request.user, request.get_full_path())
    if isinstance(made, Job):
        return redirect(made)
    way = _way_to_page(request, queries.pages_on(asked.on_with.at.owned), asked)
    response = HttpResponse(pdf_of(made, asked.paper, way), content_type=CONTENT_TYPE)
    response["Content-Disposition"] = 'inline; filename="sheet.pdf"'
    return response


@require_POST
@refused_on_a_page
def make_page(request):
    """Make a student's page of the sheet as it is shown."""
    at = students_own(request.user, Address.read(request.POST).on)
    days, asked = request.POST.get("days", ""), request.POST.get("asked", "")
    data = QueryDict(asked, mutable=True)
    data["on"] = at.on
    made = asked_sheet(request.user, data)
    data["passage"] = str(made.music.passage.pk) if made.music else queries.NO_PASSAGE
    services.make_page(
        request.user,
        at.owned,
        asked=data.urlencode(),
        pins=made.route,
        days=int(days) if days.isascii() and days.isdigit() and len(days) < 4 else 0,
        may_log=request.POST.get("may_log") == "on",
    )
    messages.success(request, "The student's page is made; its address stands beside the sheet.")
    return redirect(f"{reverse('students:sheet')}?{asked or f'on={at.on}'}")


@require_POST
@refused_on_a_page
def revoke_page(request, pk):
    page = queries.student_page_of(request.user, pk)
    services.revoke_page(request.user, page)
    messages.success(request, "The page is closed; whoever has its address finds nothing more there.")
    return redirect(Address(on=f"i{page.instrument_id}").to("students:sheet"))


@require_GET
@login_not_required
@refused_on_a_page
def show_page(request, token):
    """The page of a student; no sign-in, nothing for search engines, nothing told to other sites."""
    page = _open(token)
    return _for_student(request, page)


@csrf_exempt  # no cookie is read: the address alone lets log, so another site gains nothing by forging it
@require_POST
@login_not_required
@refused_on_a_page
def log_on_page(request, token):
    """One press, from a page without a script."""
    page = _open(token)
    try:
        if "back" in request.POST:
            services.take_back_on_page(page, sent_keys([request.POST["back"]]))
            return _private(redirect("students:for-student", token))
        press = press_of(request.POST)
        (answer,) = services.log_on_page(page, [(str(press.logged.key), press, "")])
    except ValidationError as error:
        return _for_student(request, page, error.messages, 422)
    if answer.became == REFUSED:
        return _for_student(request, page, [answer.why], 429 if answer.why == services.ENOUGH else 422)
    return _private(redirect("students:for-student", token))


@csrf_exempt  # no cookie is read here either
@require_POST
@login_not_required
def presses_on_page(request, token):
    """Presses as a list, from a script: an answer for each, and what was counted of them today."""
    page = _open(token)
    try:
        sent = sent_in(request.body)
        if sent.who != f"p{page.pk}":
            return JsonResponse({"why": "That was pressed on another page."}, status=403)
        answers = services.log_on_page(page, sent.presses)
        services.take_back_on_page(page, sent.back)
    except ValidationError as error:
        status = 404 if error.code == "closed" else 400
        return JsonResponse({"why": " ".join(error.messages)}, status=status)
    with timezone.override(zone_of(page.instrument.teacher)):
        counted = counted_now(sent.drawn, page)
    return _private(JsonResponse({"answers": [vars(answer) for answer in answers], "counted": counted}))


def _open(token):
    page = queries.open_page(token)
    if page is None:
        raise Http404("no such page, or it is open no more")
    return page


def _for_student(request, page, errors=(), status=200):
    """What stands behind a page: read as its teacher reads it, on this instrument alone, by their clock."""
    with timezone.override(zone_of(page.instrument.teacher)):
        data = queries.asked_of(page)
        shown = for_student(asked_sheet(page.instrument.teacher, data, page.pins), page)
        context = {"page": shown, "kept": page, "errors": errors, "gone": queries.passage_gone(page, data)}
        shown = _private(render(request, "students/for_student.html", context, status=status))
        return opens_offline(shown, f"p{page.pk}", page.expires)


def _private(response):
    response["X-Robots-Tag"] = "noindex, nofollow"
    response["Referrer-Policy"] = "no-referrer"
    response["Cache-Control"] = "no-store"
    return response
