"""Views of overtones and of the model: read the request, make one call, render."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from catalogue.queries import choices_of, hand_named
from overtones import queries
from studio.middleware import PART_HEADER


@require_GET
def overtones(request):
    hand, owned = hand_named(request.user, request.GET.get("on", ""))
    page = queries.overtones_page(hand, request.GET)
    context = {"page": page, "hand": hand, "owned": owned, "choices": choices_of(request.user)}
    template = "_overtones.html" if request.headers.get(PART_HEADER) else "overtones.html"
    return render(request, f"overtones/{template}", context, status=422 if page.problems else 200)


@require_GET
def near(request):
    hand, owned = hand_named(request.user, request.GET.get("on", ""))
    page = queries.near_page(hand, request.GET)
    context = {"page": page, "hand": hand, "owned": owned, "choices": choices_of(request.user)}
    return render(request, "overtones/near.html", context, status=422 if page.problems else 200)


@require_GET
def tone(request):
    hand, _ = hand_named(request.user, request.GET.get("on", ""))
    sound, problem = queries.simulated_tone(hand, request.GET)
    if problem:
        return HttpResponse(problem, status=422, content_type="text/plain; charset=utf-8")
    return HttpResponse(sound, content_type="audio/wav")
