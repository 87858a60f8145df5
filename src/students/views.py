"""Views of students: read the request, make one call, render."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from practice.queries import days_off
from students import queries
from students.calendar import CONTENT_TYPE, calendar_of
from students.screens.week import week_from, week_page
from studio.views import refused_on_a_page


@require_GET
@refused_on_a_page
def week(request):
    on_with, page = _week(request)
    context = {"page": page, "chosen": on_with.at, "plan": on_with.plan, "music": on_with.music}
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
    on_with = queries.on_with(request.user, request.GET.get("on", ""))
    days = week_from(timezone.localdate())
    off = days_off(on_with.plan)
    return on_with, week_page(on_with.at.in_hand, on_with.plan, on_with.learning, on_with.music, days, off)
