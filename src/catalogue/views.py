"""Views of fingerings: read the request, make one call, render."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from catalogue import queries, services
from catalogue.charts import CHARTS, chart_text
from catalogue.forms import ChartForm, OwnForm, WalkForm
from catalogue.screens.audit import audited_rows
from catalogue.screens.library import library_page
from catalogue.screens.note import note_page
from catalogue.screens.walk import walk_of
from evidence import services as evidence
from evidence.forms import JudgementForm
from evidence.queries import log_of
from studio.address import Address
from studio.middleware import part_asked

# Pages that a change may lead back to, besides the note.
BACK_TO = {"overtones": "overtones:overtones", "trial": "catalogue:trial-begin"}


@require_GET
def library(request):
    chosen = queries.chosen(request.user, Address.read(request.GET).on)
    page = library_page(chosen.in_hand, request.GET.get("kind", ""), request.GET.get("search", ""))
    context = {"page": page, "chosen": chosen}
    return render(request, "fingerings/library.html", context, status=422 if page.problems else 200)


@require_GET
def note(request):
    return _note(request, request.GET)


def _note(request, asked, *, errors=()):
    here, problems = Address.read(asked), []
    chosen = queries.chosen(request.user, here.on)
    pitch = queries.note_in(chosen.in_hand, here.note, problems)
    page = note_page(chosen.in_hand, pitch, here.touches, asked.get("without", ""), problems)
    errors = [*errors, *page.problems]
    context = {
        "page": page,
        "chosen": chosen,
        "log": log_of(chosen.owned, page.entry.id) if chosen.owned and page.entry else [],
        "errors": errors,
        "typed": request.POST,
    }
    template = "_note.html" if part_asked(request) else "note.html"
    return render(request, f"fingerings/{template}", context, status=422 if errors else 200)


@require_POST
def change(request):
    """A judgement, readings, a preference, hiding, or taking something back."""
    data = request.POST
    sent = Address.read(data)
    chosen = queries.chosen(request.user, sent.on)
    try:
        _changed(request.user, chosen, data)
    except ValidationError as error:
        return _note(request, data, errors=error.messages)
    here = Address(on=sent.on, note=sent.note, touches=sent.touches)
    back_to = BACK_TO.get(data.get("back", ""), "catalogue:note")
    return redirect(here.to(back_to, without=data.get("without", "")))


def _changed(teacher, chosen, data):
    entry, owned, model = data.get("entry", ""), chosen.owned, chosen.in_hand.instrument.name
    of_it = teacher, owned, chosen.in_hand, entry
    match data.get("action"):
        case "judge":
            form = JudgementForm(data)
            if not form.is_valid():
                raise ValidationError([text for errors in form.errors.values() for text in errors])
            evidence.judge(*of_it, **form.cleaned_data)
        case "readings":
            evidence.type_readings(*of_it, data.get("cents", ""))
        case "prefer":
            evidence.prefer(*of_it)
        case "prepared":
            evidence.log_prepared(teacher, owned, chosen.in_hand, data.get("position", ""))
        case "hide-here":
            services.hide(teacher, model, entry, owned)
        case "hide-everywhere":
            services.hide(teacher, model, entry)
        case "show":
            services.show_again(teacher, model, entry, owned)
        case "take-back" if data.get("row", "").isdecimal() and len(data["row"]) < 15:
            evidence.take_back(teacher, owned, data.get("kind", ""), int(data["row"]))
        case _:
            raise ValidationError("That action is not known here.", code="action")


@require_http_methods(["GET", "POST"])
def own(request, pk=None):
    row = queries.own_row(request.user, pk) if pk else None
    asked = request.POST if request.method == "POST" else request.GET
    chosen = queries.chosen(request.user, Address.read(asked).on or (row.model if row else ""))
    initial = {name: asked.get(name, "") for name in ("note", "kind") if asked.get(name)}
    touches = Address.read(asked).touches or (row.touches if row else "")
    initial["touches"] = queries.said(chosen.in_hand, touches)
    if row:
        initial["only_from"] = queries.said(chosen.in_hand, row.only_from)
    form = OwnForm(request.POST or None, instance=row, initial=initial)
    if request.method == "POST" and form.is_valid():
        model = chosen.in_hand.instrument.name
        try:
            saved = services.save_own(request.user, model, row=row, **form.cleaned_data)
        except ValidationError as error:
            form.add_error(None, error)
        else:
            messages.success(request, "Kept as a fingering of your own.")
            shown = {"on": chosen.on, "note": saved.note, "touches": saved.touches}
            return redirect(reverse("catalogue:note", query=shown))
    context = {"form": form, "row": row, "chosen": chosen, "touches": queries.touch_words(chosen.in_hand)}
    return render(request, "fingerings/own.html", context, status=422 if form.errors else 200)


@require_POST
def delete_own(request, pk):
    row = queries.own_row(request.user, pk)
    services.delete_own(request.user, row)
    messages.success(request, "The fingering lies in the bin for 30 days.")
    return redirect("studio:bin")


@require_GET
def walk(request):
    chosen = queries.chosen(request.user, Address.read(request.GET).on)
    form = WalkForm(request.GET, instrument=chosen.in_hand.instrument)
    page = walk_of(chosen.in_hand, form) if form.is_valid() else None
    context = {"form": form, "page": page, "chosen": chosen}
    return render(request, "fingerings/walk.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def audit(request):
    asked = request.POST if request.method == "POST" else request.GET
    chosen = queries.chosen(request.user, Address.read(asked).on)
    form = ChartForm(request.POST or None, request.FILES or None)
    found = None
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data["data"]
        try:
            if request.POST.get("action") == "import":
                return _imported(request, chosen, data)
            found = services.audit(request.user, chosen.in_hand, data)
        except ValidationError as error:
            form.add_error(None, error)
    context = {"form": form, "audit": found, "chosen": chosen}
    context["rows"] = audited_rows(chosen.in_hand, found) if found else ()
    context["chart_text"] = form.cleaned_data["data"].decode("utf-8-sig") if found else ""
    return render(request, "fingerings/audit.html", context, status=422 if form.errors else 200)


def _imported(request, chosen, data):
    lines = {int(line) for line in request.POST.getlist("line") if line.isdecimal() and len(line) < 9}
    in_hand = chosen.in_hand
    taken = services.import_rows(request.user, in_hand.instrument.name, in_hand.fitted, data, lines)
    messages.success(request, f"{taken} taken over as fingerings of your own.")
    return redirect(Address(on=chosen.on).to("catalogue:library", kind="own"))


@require_GET
def chart(request, form):
    if form not in CHARTS:
        raise Http404("no such form of a chart")
    in_hand = queries.chosen(request.user, Address.read(request.GET).on).in_hand
    name, text, kind = chart_text(in_hand, form, request.GET.get("what", ""))
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
