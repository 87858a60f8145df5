"""Views of overtones and of the model: read the request, make one call, render."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from catalogue.queries import chosen, note_in
from overtones.queries import fingering_asked, simulated_tone
from overtones.screens.overtones import overtones_page
from overtones.screens.untried import untried_page
from studio.address import Address
from studio.middleware import part_asked


@require_GET
def overtones(request):
    here, problems = Address.read(request.GET), []
    at = chosen(request.user, here.on)
    note = note_in(at.in_hand, here.note, problems)
    page = overtones_page(at.in_hand, note, here.touches, here.first, problems)
    template = "_overtones.html" if part_asked(request) else "overtones.html"
    status = 422 if page.problems else 200
    return render(request, f"overtones/{template}", {"page": page, "chosen": at}, status=status)


@require_GET
def near(request):
    here, problems = Address.read(request.GET), []
    at = chosen(request.user, here.on)
    note = note_in(at.in_hand, here.note, problems)
    vary = fingering_asked(at.in_hand, here.touches, problems) if "vary" in request.GET else None
    page = untried_page(at.in_hand, note, problems, vary=vary)
    status = 422 if page.problems else 200
    return render(request, "overtones/near.html", {"page": page, "chosen": at}, status=status)


@require_GET
def tone(request):
    here = Address.read(request.GET)
    sound, problem = simulated_tone(chosen(request.user, here.on).in_hand, here)
    if problem:
        return HttpResponse(problem, status=422, content_type="text/plain; charset=utf-8")
    return HttpResponse(sound, content_type="audio/wav")
