"""Views of sheets and students' pages: for the teacher who makes them, and for whoever has the address."""

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_POST

from jobs.models import Job
from students import queries, services
from students.paper import CONTENT_TYPE, PAPERS, pdf_of
from students.screens.for_student import attempt_named, for_student
from students.screens.sheet import PARTS
from students.sheets import asked_sheet
from studio.address import Address
from studio.views import refused_on_a_page


@require_GET
@refused_on_a_page
def sheet(request):
    asked = asked_sheet(request.user, request.GET)
    owned, made = asked.on_with.at.owned, asked.made_for(request.user, request.get_full_path())
    if isinstance(made, Job):
        return redirect(made)
    context = {
        "sheet": made,
        "asked": asked,
        "chosen": asked.on_with.at,
        "passages": queries.music_of(request.user, owned=owned).get(owned.pk, []),
        "parts": PARTS,
        "papers": PAPERS,
        "pages": [(page, _address(request, page)) for page in queries.pages_on(owned)],
    }
    return render(request, "students/sheet.html", context)


def _address(request, page):
    return request.build_absolute_uri(reverse("students:for-student", args=[page.token]))


@require_GET
@refused_on_a_page
def sheet_pdf(request):
    asked = asked_sheet(request.user, request.GET)
    made = asked.made_for(request.user, request.get_full_path())
    if isinstance(made, Job):
        return redirect(made)
    response = HttpResponse(pdf_of(made, asked.paper), content_type=CONTENT_TYPE)
    response["Content-Disposition"] = 'inline; filename="sheet.pdf"'
    return response


@require_POST
@refused_on_a_page
def make_page(request):
    """Make a student's page of the sheet as it is shown."""
    at = queries.instrument_named(request.user, Address.read(request.POST).on)
    days, asked = request.POST.get("days", ""), request.POST.get("asked", "")
    data = QueryDict(asked, mutable=True)
    data["on"] = at.on
    services.make_page(
        request.user,
        at.owned,
        asked=asked,
        pins=asked_sheet(request.user, data).route,
        days=int(days) if days.isascii() and days.isdigit() and len(days) < 4 else 0,
        may_log=request.POST.get("may_log") == "on",
    )
    messages.success(request, "The link is made; it stands beside the sheet.")
    return redirect(f"{reverse('students:sheet')}?{asked or f'on={at.on}'}")


@require_POST
@refused_on_a_page
def revoke_page(request, pk):
    page = queries.student_page_of(request.user, pk)
    services.revoke_page(request.user, page)
    messages.success(request, "The link is revoked; whoever has it finds nothing more there.")
    return redirect(Address(on=f"i{page.instrument_id}").to("students:sheet"))


@require_GET
@login_not_required
def show_page(request, token):
    """The page of a student; no sign-in, nothing for search engines, nothing told to other sites."""
    page = _open(token)
    return _for_student(request, page, _asked(page))


@csrf_exempt  # no cookie is read: the address alone lets log, so another site gains nothing by forging it
@require_POST
@login_not_required
def log_on_page(request, token):
    page = _open(token)
    asked = _asked(page)
    what = request.POST.get("what", "")
    attempt = attempt_named(asked, what, request.POST.get("result", ""))
    if attempt is None:
        return _for_student(request, page, asked, ["That cannot be logged here; load the page anew."], 422)
    try:
        services.log_on_page(page, attempt)
    except ValidationError as error:
        return _for_student(request, page, asked, error.messages, 429 if error.code == "rate" else 422)
    return _private(redirect(f"{reverse('students:for-student', args=[token])}#{what}"))


def _open(token):
    page = queries.open_page(token)
    if page is None:
        raise Http404("no such page, or it is open no more")
    return page


def _asked(page):
    """What stands behind a page: read as its teacher reads it, on this instrument alone."""
    return asked_sheet(page.instrument.teacher, queries.asked_of(page), page.pins)


def _for_student(request, page, asked, errors=(), status=200):
    today = queries.played_today(page.instrument, asked.music)
    shown = for_student(asked, today, may_log=page.may_log)
    context = {"page": shown, "kept": page, "errors": errors}
    return _private(render(request, "students/for_student.html", context, status=status))


def _private(response):
    response["X-Robots-Tag"] = "noindex, nofollow"
    response["Referrer-Policy"] = "no-referrer"
    response["Cache-Control"] = "no-store"
    return response
