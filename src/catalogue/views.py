"""Views of fingerings: read the request, make one call, render."""

from urllib.parse import urlencode

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from catalogue import queries, services
from catalogue.charts import CHARTS, chart_text
from catalogue.forms import ChartForm, JudgementForm, OwnForm, WalkForm
from catalogue.library_page import LibraryPage
from catalogue.models import OwnFingering
from studio.middleware import PART_HEADER


@require_GET
def library(request):
    hand, owned = queries.hand_named(request.user, request.GET.get("on", ""))
    page = LibraryPage(hand, request.GET.get("kind", ""), request.GET.get("search", "")[:20])
    context = {"page": page, "hand": hand, "owned": owned, "choices": queries.choices_of(request.user)}
    return render(request, "fingerings/library.html", context, status=422 if page.problems else 200)


@require_GET
def note(request):
    return _note(request, request.GET)


def _note(request, asked, *, errors=()):
    hand, owned = queries.hand_named(request.user, asked.get("on", ""))
    page = queries.note_page(hand, asked.get("note", ""), asked.get("touches", ""), asked.get("without", ""))
    log = queries.log_of(owned, page.entry.id) if owned and page.entry else []
    errors = [*errors, *page.problems]
    template = "_note.html" if request.headers.get(PART_HEADER) else "note.html"
    context = {
        "page": page,
        "hand": hand,
        "owned": owned,
        "log": log,
        "errors": errors,
        "typed": request.POST,
        "choices": queries.choices_of(request.user),
    }
    return render(request, f"fingerings/{template}", context, status=422 if errors else 200)


@require_POST
def change(request):
    """A judgement, readings, a preference, hiding, or taking something back."""
    data = request.POST
    hand, owned = queries.hand_named(request.user, data.get("on", ""))
    try:
        _changed(request.user, hand, owned, data)
    except ValidationError as error:
        return _note(request, data, errors=error.messages)
    kept = {name: data[name] for name in ("on", "note", "touches", "without") if data.get(name)}
    return redirect(f"{reverse('catalogue:note')}?{urlencode(kept)}")


def _changed(teacher, hand, owned, data):
    entry = data.get("entry", "")
    match data.get("action"):
        case "judge":
            form = JudgementForm(data)
            if not form.is_valid():
                raise ValidationError([said for errors in form.errors.values() for said in errors])
            services.judge(teacher, owned, hand, entry, **form.cleaned_data)
        case "readings":
            services.take_readings(teacher, owned, hand, entry, data.get("cents", ""))
        case "prefer":
            services.prefer(teacher, owned, hand, entry)
        case "hide" | "show":
            services.set_hidden(teacher, hand.model, entry, hidden=data["action"] == "hide")
        case "take-back" if owned is not None and data.get("row", "").isdecimal() and len(data["row"]) < 15:
            services.take_back(teacher, owned, data.get("kind", ""), int(data["row"]))
        case _:
            raise ValidationError("That action is not known here.", code="action")


@require_http_methods(["GET", "POST"])
def own(request, pk=None):
    row = get_object_or_404(OwnFingering, teacher=request.user, pk=pk) if pk else None
    asked = request.POST if request.method == "POST" else request.GET
    hand, owned = queries.hand_named(request.user, asked.get("on", "") or (row.model if row else ""))
    initial = {name: asked.get(name, "") for name in ("note", "touches", "kind") if asked.get(name)}
    form = OwnForm(request.POST or None, instance=row, initial=initial)
    if request.method == "POST" and form.is_valid():
        try:
            saved = services.save_own(request.user, hand.model, row=row, **form.cleaned_data)
        except ValidationError as error:
            form.add_error(None, error)
        else:
            messages.success(request, "Kept as a fingering of your own.")
            shown = {"on": hand.on, "note": saved.note, "touches": saved.touches}
            return redirect(f"{reverse('catalogue:note')}?{urlencode(shown)}")
    context = {"form": form, "row": row, "hand": hand, "owned": owned}
    return render(request, "fingerings/own.html", context, status=422 if form.errors else 200)


@require_POST
def delete_own(request, pk):
    row = get_object_or_404(OwnFingering, teacher=request.user, pk=pk)
    services.delete_own(request.user, row)
    messages.success(request, "The fingering was deleted.")
    return redirect(f"{reverse('catalogue:library')}?{urlencode({'on': row.model})}")


@require_GET
def walk(request):
    hand, owned = queries.hand_named(request.user, request.GET.get("on", ""))
    instrument = hand.instrument
    asked = {"tonic": "C", "mode": "major", "way": "up"} | queries.usual_walk(instrument)
    asked |= {
        name: request.GET[name] for name in ("tonic", "mode", "low", "high", "way") if name in request.GET
    }
    form = WalkForm(asked, instrument=instrument)
    page = None
    if form.is_valid():
        scale = {name: form.cleaned_data[name] for name in ("tonic", "mode", "low", "high")}
        page = queries.walk_page(hand, form, down=form.cleaned_data["way"] == "down", **scale)
    context = {
        "form": form,
        "page": page,
        "hand": hand,
        "owned": owned,
        "choices": queries.choices_of(request.user),
    }
    return render(request, "fingerings/walk.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def audit(request):
    asked = request.POST if request.method == "POST" else request.GET
    hand, owned = queries.hand_named(request.user, asked.get("on", ""))
    form = ChartForm(request.POST or None, request.FILES or None)
    found = None
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data["data"]
        try:
            if request.POST.get("action") == "import":
                lines = {
                    int(line) for line in request.POST.getlist("line") if line.isdecimal() and len(line) < 9
                }
                taken = services.import_rows(request.user, hand.model, hand.fitted, data, lines)
                messages.success(request, f"{taken} taken over as fingerings of your own.")
                return redirect(f"{reverse('catalogue:library')}?{urlencode({'on': hand.on, 'kind': 'own'})}")
            found = services.audit(hand, data)
        except ValidationError as error:
            form.add_error(None, error)
    context = {
        "form": form,
        "audit": found,
        "hand": hand,
        "owned": owned,
        "choices": queries.choices_of(request.user),
    }
    context["chart_text"] = form.cleaned_data["data"].decode("utf-8-sig") if found else ""
    return render(request, "fingerings/audit.html", context, status=422 if form.errors else 200)


@require_GET
def chart(request, form):
    if form not in CHARTS:
        raise Http404("no such form of a chart")
    hand, _ = queries.hand_named(request.user, request.GET.get("on", ""))
    name, text, kind = chart_text(hand, form, request.GET.get("what", ""))
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
