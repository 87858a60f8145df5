"""Views of the bench: read the request, make one call, render."""

from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from bench import queries, services
from bench.export import FORMS
from bench.forms import AimForm, CompareForm, ElsewhereForm, SetUpForm, TempoForm
from bench.screens.bench import bench_page, lines_of_bench, note_at, note_of_bench
from bench.screens.compare import compare_page
from bench.screens.elsewhere import elsewhere_page
from bench.screens.lesson import lesson_page
from bench.screens.ossia import ossia_page
from bench.screens.sheet import sheet_page
from bench.screens.tempo import tempo_strip
from bench.screens.trouble import trouble_page
from bench.screens.ways import ways_page
from bench.systems import SIZES
from catalogue.queries import of_instrument
from passages.queries import passage_of, state_of
from passages.services import adopt as adopt_moved
from passages.settings import STRANDS, BenchSettings
from studio.address import Address
from studio.middleware import part_asked
from studio.shipped import instrument
from studio.views import refused_on_a_page


@require_GET
@refused_on_a_page
def bench(request, pk):
    return _bench(request, passage_of(request.user, pk))


def _bench(request, passage, *, state=None, set_up=None, errors=(), apart=None, status=200):
    asked = request.GET if request.method == "GET" else request.POST
    opened = queries.opened(passage, state or state_of(passage, Address.read(asked).state))
    part = part_asked(request)
    template = {"inspector": "bench/_inspector.html", "bench": "bench/_bench.html"}.get(
        part, "bench/bench.html"
    )
    # of what a form sent, only the note is where it stands: its entry is what was to change
    address = Address.read(asked) if request.method == "GET" else Address(note=Address.read(asked).note)
    at = opened, address.note, address.entry, bool(address.move)
    if part == "inspector":
        shown = note_of_bench(*at)
    else:
        shown = bench_page(*at, **_set_in(request, asked), reach=queries.reach_on(opened))
    context = {
        "bench": shown,
        "other": queries.other_version(passage, opened.state, asked.get("other", "")),
        "passage": passage,
        "set_up": set_up or _set_up_form(opened.settings, passage),
        "aim": AimForm(initial={"aim": opened.settings.aims.get(shown.note_id, "")}),
        "errors": errors,
        "apart": apart,
        "typed": request.POST if errors else {},
        "forms": FORMS.items(),
        "solved_for": opened.in_hand.solved_for,
    }
    response = render(request, template, context, status=status)
    if asked.get("size") in SIZES:
        response.set_cookie("size", asked["size"], samesite="Lax")
    return response


def _set_in(request, asked):
    """How the lines of the score are set, as the script of every page tells."""
    told = request.COOKIES.get("lines", "")
    return {
        "narrow": told == "narrow",
        "size": asked.get("size", "") or request.COOKIES.get("size", "usual"),
        "windowed": bool(told) and "all" not in asked,
    }


@require_GET
@refused_on_a_page
def lines(request, pk):
    """Some lines of a bench, for its script to put where they belong."""
    _, opened = _opened(request, pk)
    first, last = (_number(request.GET.get(name, "")) for name in ("first", "last"))
    set_in = _set_in(request, request.GET)
    shown = lines_of_bench(opened, first, last, narrow=set_in["narrow"], size=set_in["size"])
    return render(request, "bench/_lines.html", {"lines": shown})


def _number(text):
    return int(text) if text.isascii() and text.isdigit() and len(text) < 5 else 0


@require_POST
@refused_on_a_page
def change(request, pk):
    passage = passage_of(request.user, pk)
    base = state_of(passage, Address.read(request.POST).state)
    set_up = None
    if request.POST.get("action") == "set-up":
        set_up = _set_up_form(BenchSettings.from_json(base.settings), passage, request.POST)
    try:
        state = _changed(request.user, passage, base, request.POST, set_up)
    except ValidationError as error:
        return _bench(request, passage, state=base, set_up=set_up, errors=error.messages, status=422)
    if state.pk != passage.current_id and request.POST.get("action") != "name":
        apart = {"mine": state, "theirs": queries.since(passage, base)}
        return _bench(request, passage, state=passage.current, apart=apart, status=409)
    here = Address(pk, state=str(state.number), note=Address.read(request.POST).note)
    return redirect(here.to("bench:bench"))


def _set_up_form(settings, passage, data=None):
    return SetUpForm(data, settings=settings, instrument=instrument(passage.instrument), owned=passage.owned)


def _changed(teacher, passage, base, data, set_up):
    """The state that a posted action leads to."""
    at = teacher, passage, base
    match data.get("action"):
        case "pin":
            return services.pin(*at, data.get("pinned") or data.get("note", ""), data.get("entry", ""))
        case "ban":
            return services.ban(*at, data.get("note", ""), data.get("entry", ""))
        case "take":
            return services.pin_together(*at, _pins(data.get("pins", "")))
        case "habit":
            always = data.get("always") == "on"
            return services.keep_habit(*at, data.get("entries", "").split(), always=always)
        case "ossia":
            return services.keep_ossia(*at, _pins(data.get("ossia", "")))
        case "name":
            return services.name_version(*at, data.get("version", ""))
        case "tempo":
            return services.set_tempo(*at, _valid(TempoForm(data))["tempo_bpm"])
        case "aim":
            return services.set_aim(*at, data.get("note", ""), **_valid(AimForm(data)))
        case "set-up":
            _valid(set_up)
            return services.set_up(*at, **set_up.details)
        case "clear" | "undo" | "redo" as name:
            return getattr(services, name)(*at)
        case "version":
            return services.take_version(*at, _number(data.get("number", "")))
        case _:
            raise ValidationError("That action is not known here.", code="action")


def _pins(text):
    """Notes and entries as a form names them: note=entry, one after the other."""
    pairs = (word.partition("=") for word in text.split())
    return {note: entry for note, _, entry in pairs}


def _valid(form):
    if not form.is_valid():
        raise ValidationError([error for errors in form.errors.values() for error in errors])
    return form.cleaned_data


@require_GET
@refused_on_a_page
def download(request, pk, form):
    """The passage under a state in one of the forms in which it can be taken away."""
    if form not in FORMS:
        raise Http404("no such form of a passage")
    here, opened = _opened(request, pk)
    made = FORMS[form]
    response = HttpResponse(made.made(opened, here.note), content_type=made.content_type)
    name = slugify(opened.passage.title) or "passage"
    response["Content-Disposition"] = f'attachment; filename="{name}.{form}"'
    return response


def _opened(request, pk):
    """A passage of the teacher's under the state that the address names."""
    passage = passage_of(request.user, pk)
    here = Address.read(request.GET, pk)
    return here, queries.opened(passage, state_of(passage, here.state))


def _page(request, name, opened, shown, status=200, **more):
    """One of the pages beside the bench."""
    context = {"bench": shown, "passage": opened.passage, "tempo_bpm": opened.settings.tempo_bpm}
    context |= {"solved_for": opened.in_hand.solved_for}
    return render(request, f"bench/{name}.html", context | {"strands": STRANDS, **more}, status=status)


@require_GET
@refused_on_a_page
def tempo(request, pk):
    """The tempo strip, for the bench to show."""
    here, opened = _opened(request, pk)
    context = {"strip": tempo_strip(opened), "bench": note_at(opened, here.note)}
    return render(request, "bench/_tempo.html", context | {"passage": opened.passage, "follows": True})


@require_GET
@refused_on_a_page
def ways(request, pk):
    here, opened = _opened(request, pk)
    return _page(request, "ways", opened, ways_page(opened, here.note))


@require_GET
@refused_on_a_page
def trouble(request, pk):
    here, opened = _opened(request, pk)
    return _page(request, "trouble", opened, trouble_page(opened, here.note, request.GET.get("by", "")))


@require_GET
@refused_on_a_page
def compare(request, pk):
    here, opened = _opened(request, pk)
    passage = opened.passage
    asked = {
        name: value for name, value in request.GET.items() if name in ("with", "at", "on", "school") and value
    }
    form = CompareForm(
        asked or None, passage=passage, versions=queries.versions_of(passage), in_hand=opened.in_hand
    )
    other, errors = opened, []
    if form.is_bound and form.is_valid():
        state = state_of(passage, str(form.cleaned_data["with"] or opened.state.number))
        other = queries.other_side(opened, state, **form.other)
    elif form.is_bound:
        errors = [error for errors in form.errors.values() for error in errors]
    elif opened.state.parent:
        other = queries.opened(passage, opened.state.parent)
    shown = compare_page(opened, other, here.note, asked)
    more = {"form": form, "errors": errors, "sides": (shown.one, shown.other), "version": opened.state.name}
    return _page(request, "compare", opened, shown, status=422 if errors else 200, **more)


@require_GET
@refused_on_a_page
def elsewhere(request, pk):
    here, opened = _opened(request, pk)
    form = ElsewhereForm(request.GET or None, passage=opened.passage)
    owned = form.cleaned_data["on"] if form.is_bound and form.is_valid() else None
    there = of_instrument(owned) if owned else opened.in_hand
    shown = elsewhere_page(opened, there, queries.usual_of_family(opened.in_hand), here.note)
    tables = [(f"In other keys: {shown.instrument}", shown.rows), ("On the family, as written", shown.family)]
    errors = [error for errors in form.errors.values() for error in errors]
    more = {"form": form, "errors": errors, "tables": tables}
    return _page(request, "elsewhere", opened, shown, status=422 if errors else 200, **more)


@require_GET
@refused_on_a_page
def ossia(request, pk):
    here, opened = _opened(request, pk)
    asked = request.GET
    reach = queries.reach_on(opened)
    top = asked.get("top", "" if reach is None or reach.top is None else queries.named(reach.top))
    shown = ossia_page(opened, here.note, top, here=bool(asked.get("phrase")))
    return _page(request, "ossia", opened, shown, by_reach="top" not in asked and bool(shown.top))


@require_POST
@refused_on_a_page
def adopt(request, pk):
    passage = passage_of(request.user, pk)
    details = _valid(ElsewhereForm(request.POST, passage=passage))
    made = adopt_moved(request.user, passage, semitones=details["semitones"], owned=details["on"])
    return redirect("bench:bench", made.pk)


@require_GET
@refused_on_a_page
def lesson(request, pk):
    here, opened = _opened(request, pk)
    shown = lesson_page(opened, here.note)
    return _page(request, "_lesson" if part_asked(request) == "lesson" else "lesson", opened, shown)


@require_GET
@refused_on_a_page
def sheet(request, pk):
    passage = passage_of(request.user, pk)
    state = state_of(passage, Address.read(request.GET).state)
    opened = queries.opened(passage, state)
    shown = sheet_page(opened, queries.reach_on(opened))
    return render(request, "bench/sheet.html", {"sheet": shown, "passage": passage})
