"""Views of students and their instruments: read the request, make one call, render."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from catalogue import queries
from catalogue.screens.instrument import instrument_page
from studio import services
from studio.forms import InstrumentForm, StudentForm, TeachingForm
from studio.queries import details_to_start_from, instrument_of, student_of, teaching_of
from studio.shipped import INSTRUMENTS

DEFAULT_MODEL = "alto-saxophone"


TYPED_OF_ANY = ("name", "a4_hz", "reed", "mouthpiece", "notes")


@require_http_methods(["GET", "POST"])
def student(request, pk=None):
    row = student_of(request.user, pk) if pk else None
    form = StudentForm(request.POST or None, instance=row)
    if request.method == "POST" and form.is_valid():
        saved = services.save_student(request.user, student=row, **form.details)
        messages.success(request, f"{saved.name} is kept.")
        return redirect("catalogue:instruments")
    return render(
        request, "instruments/student.html", {"form": form, "row": row}, status=422 if form.errors else 200
    )


@require_POST
def delete_student(request, pk):
    row = student_of(request.user, pk)
    services.delete_student(request.user, row)
    messages.success(request, f"{row.name} lies in the bin for 30 days.")
    return redirect("studio:bin")


@require_http_methods(["GET", "POST"])
def teaching(request):
    form = TeachingForm(request.POST or None, taught=teaching_of(request.user))
    if request.method == "POST" and form.is_valid():
        services.take_positions(request.user, form.answers)
        messages.success(request, "Kept: this is how you teach.")
        return redirect("catalogue:instruments")
    return render(request, "instruments/teaching.html", {"form": form}, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def new_instrument(request, student):
    row = student_of(request.user, student)
    asked = request.POST if request.method == "POST" else request.GET
    model = asked.get("model", "") if asked.get("model") in INSTRUMENTS else DEFAULT_MODEL
    # another model is looked at: what was typed of any of them stays
    looking = asked.get("do") == "model"
    typed = {name: asked[name] for name in TYPED_OF_ANY if asked.get(name)} if looking else {}
    form = InstrumentForm(
        None if looking else request.POST or None,
        model=model,
        taught=teaching_of(request.user),
        initial=details_to_start_from(request.user, model) | typed,
    )
    if form.is_bound and form.is_valid():
        try:
            owned = services.add_instrument(request.user, row, model=model, **form.details)
        except ValidationError as error:
            form.add_error(None, error)
        else:
            return redirect("catalogue:instrument", owned.pk)
    context = {"form": form, "student": row, "model": model, "models": INSTRUMENTS.items()}
    return render(request, "instruments/new.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def instrument(request, pk):
    owned = instrument_of(request.user, pk)
    form = _details_form(request, owned)
    if request.method == "POST" and form.is_valid():
        try:
            services.change_instrument(request.user, owned, **form.details)
        except ValidationError as error:
            form.add_error(None, error)
        else:
            messages.success(request, f"{form.cleaned_data['name']} is kept.")
            return redirect("catalogue:instrument", pk)
    context = {"form": form, "owned": owned, "page": _page(request, owned)}
    return render(request, "instruments/instrument.html", context, status=422 if form.errors else 200)


def _page(request, owned):
    """How the instrument tends, beside the set-up that the address names, or the last before."""
    others = [setup.number for setup in owned.setups.all() if setup.number != owned.setup]
    asked = request.GET.get("beside", "")
    beside = next((n for n in others if str(n) == asked), others[-1] if others else None)
    in_hand = queries.of_instrument(owned)
    words = {setup.number: setup.unlike(owned.present) for setup in owned.setups.all()}
    learned = queries.changes_learned(in_hand, owned) if others else ()
    under = beside and owned.in_force_with(beside)
    return instrument_page(in_hand, owned.name, owned.setup, beside, under, learned, words)


def _details_form(request, owned):
    present = owned.present
    initial = {name: getattr(owned, name) for name in ("name", "fitted", "notes", "model", "positions")}
    initial["a4_hz"] = f"{owned.a4_hz:g}"
    if present:
        initial |= {name: getattr(present, name) for name in ("reed", "mouthpiece", "keeps")}
    data = None
    if request.method == "POST":
        many = {name: request.POST.getlist(name) for name in ("fitted", "keeps")}
        data = {**request.POST.dict(), "model": owned.model, **many}
    taught = teaching_of(request.user)
    return InstrumentForm(data, model=owned.model, taught=taught, kept=True, initial=initial)


@require_POST
def delete_instrument(request, pk):
    owned = instrument_of(request.user, pk)
    services.delete_instrument(request.user, owned)
    messages.success(request, f"{owned.name} lies in the bin for 30 days.")
    return redirect("studio:bin")
