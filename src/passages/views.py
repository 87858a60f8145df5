"""Views: read the request, make one call, render."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.core.paginator import Paginator
from django.http import Http404
from django.shortcuts import redirect, render
from django.template.defaultfilters import pluralize
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from passages import queries, services
from passages.forms import CHORDS, GRID_WORDS, WRITTEN_OR_SOUNDING, DueForm, ScoreForm
from passages.screens.preview import preview as preview_of
from studio.address import Address
from studio.views import refused_on_a_page

PASSAGES_A_PAGE = 40


@require_GET
def passage_list(request):
    pages = Paginator(queries.passages_of(request.user), PASSAGES_A_PAGE)
    return render(request, "passages/list.html", {"page": pages.get_page(request.GET.get("page"))})


@require_http_methods(["GET", "POST"])
def new_passage(request):
    form = ScoreForm(
        request.POST or None,
        request.FILES or None,
        teacher=request.user,
        to_keep=True,
        initial={"instrument": Address.read(request.GET).on},
    )
    if request.method == "POST" and form.is_valid():
        cleaned = form.cleaned_data
        asked = {name: cleaned[name] for name in ("title", "owned", "passage", "notices")}
        asked["instrument"] = cleaned["model"]
        if cleaned["student_name"]:
            passage = services.add_first_passage(request.user, cleaned["student_name"], **asked)
            cleaned["owned"] = passage.owned
        else:
            passage = services.add_passage(request.user, **asked)
        if not form.others:
            return redirect("bench:bench", passage.pk)
        _bring_in_more(request, form)
        return redirect("passages:list")
    return render(request, "passages/new.html", {"form": form}, status=422 if form.errors else 200)


def _bring_in_more(request, form):
    """Each further file as a passage of its own; what cannot be read is said by its name."""
    cleaned = form.cleaned_data
    brought = 1
    for file in form.others:
        try:
            passage, notices, _ = services.read_source(file.read(), cleaned["model"], cleaned["pitch_is"])
        except ValidationError as error:
            messages.error(request, f"{file.name[:80]}: {' '.join(error.messages)}")
            continue
        services.add_passage(
            request.user,
            title="",
            instrument=cleaned["model"],
            owned=cleaned["owned"],
            passage=passage,
            notices=notices,
        )
        brought += 1
    messages.success(request, f"{brought} passage{pluralize(brought)} brought in.")


@require_POST
def preview(request):
    form = ScoreForm(request.POST, request.FILES, teacher=request.user)
    shown = None
    if form.is_valid():
        shown = preview_of(
            form.cleaned_data, queries.in_hand_to_be(request.user, form.cleaned_data), len(form.others)
        )
    context = {"form": form, "preview": shown, "chords": CHORDS, "grids": GRID_WORDS.items()}
    return render(request, "passages/_preview.html", context | {"ways": WRITTEN_OR_SOUNDING})


@require_POST
@refused_on_a_page
def due(request, pk):
    """Say by when a passage is to be played, from the page of its student."""
    passage, form = queries.passage_of(request.user, pk), DueForm(request.POST)
    if passage.owned is None:
        raise Http404("a passage is due for a student")
    if not form.is_valid():
        raise ValidationError([error for found in form.errors.values() for error in found])
    services.set_due(request.user, passage, form.cleaned_data["due"])
    return redirect("students:student", passage.owned.student_id)


@require_POST
def delete(request, pk):
    passage = queries.passage_of(request.user, pk)
    services.delete_passage(request.user, passage)
    messages.success(request, f"“{passage.title}” lies in the bin for 30 days.")
    return redirect("studio:bin")
