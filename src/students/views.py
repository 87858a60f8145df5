"""Views of students: read the request, make one call, render."""

from datetime import timedelta

from django.conf import settings
from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from practice import demo
from students import queries
from students.calendar import CONTENT_TYPE, calendar_of
from students.screens.log import WEEKS, hits_by_week, log_page
from students.screens.students import in_order, one_student
from students.sheets import week_of
from studio.address import Address
from studio.shipped import INSTRUMENTS
from studio.shipped import instrument as model_named
from studio.views import refused_on_a_page
from studio.zones import week_begins


@require_GET
def students(request):
    page = queries.page_of(in_order(queries.students_of(request.user)), request.GET.get("page"))
    today, music = timezone.localdate(), queries.music_of(request.user, owned__student__in=page.object_list)
    page.object_list = [one_student(row, music, today) for row in page.object_list]
    models = [model_named(name) for name in INSTRUMENTS]
    context = {"page": page, "models": models}
    return render(request, "students/list.html", context | {"demo": settings.DEMO})


@require_GET
def student(request, pk):
    row = queries.student_of(request.user, pk)
    today, music = timezone.localdate(), queries.music_of(request.user, owned__student=row)
    weekly = queries.weekly_on(list(row.instruments.all()), timezone.localdate() - timedelta(weeks=WEEKS))
    begins = week_begins(request.user)
    hits = {key: hits_by_week(attempts, today, begins) for key, attempts in weekly.items()}
    page = one_student(row, music, today, hits)
    return render(request, "students/student.html", {"page": page})


@require_POST
def next_week(request):
    """Of the demo alone: a week passes."""
    if not settings.DEMO:
        raise Http404("weeks pass by themselves")
    demo.next_week(request.user)
    messages.success(request, "A week has passed, as simulated players play.")
    return redirect("students:list")


@require_GET
@refused_on_a_page
def log(request):
    on_with = queries.on_with(request.user, Address.read(request.GET).on)
    owned, in_hand, today = on_with.at.owned, on_with.at.in_hand, timezone.localdate()
    fingered = queries.fingered_on(owned)
    weekly = queries.weekly_on([owned], timezone.localdate() - timedelta(weeks=WEEKS)).get(owned.pk, [])
    playings = queries.playings_of(on_with.music)
    told = weekly, fingered, queries.cracks_on(owned), on_with.music, playings, queries.stumbles_on(owned)
    page = log_page(in_hand, *told, today, week_begins(request.user))
    context = {"page": page, "chosen": on_with.at, "by_student": queries.by_student(owned)}
    return render(request, "students/log.html", context)


@require_GET
@refused_on_a_page
def week(request):
    on_with, page = _week(request)
    context = {"page": page, "chosen": on_with.at, "plan": on_with.plan}
    return render(request, "students/week.html", context)


@require_GET
@refused_on_a_page
def week_calendar(request):
    on_with, page = _week(request)
    owned = on_with.at.owned
    name = f"{owned.student.name}: {owned.name}"
    response = HttpResponse(
        calendar_of(name, f"i{owned.pk}", page, timezone.now()), content_type=CONTENT_TYPE
    )
    response["Content-Disposition"] = 'attachment; filename="week.ics"'
    return response


def _week(request):
    on_with = queries.on_with(request.user, Address.read(request.GET).on)
    return on_with, week_of(on_with)
