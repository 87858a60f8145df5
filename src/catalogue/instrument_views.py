"""Views of students and their instruments: read the request, make one call, render."""

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from catalogue import queries
from catalogue.instrument_page import InstrumentPage
from studio import services
from studio.forms import InstrumentForm, StudentForm
from studio.queries import instrument_of, student_of, students_of
from studio.shipped import INSTRUMENTS
from studio.shipped import instrument as model_named


@require_GET
def instruments(request):
    models = [model_named(name) for name in INSTRUMENTS]
    context = {"students": students_of(request.user), "models": models}
    return render(request, "instruments/list.html", context)


@require_http_methods(["GET", "POST"])
def student(request, pk=None):
    row = student_of(request.user, pk) if pk else None
    form = StudentForm(request.POST or None, instance=row)
    if request.method == "POST" and form.is_valid():
        saved = services.save_student(request.user, student=row, **form.cleaned_data)
        messages.success(request, f"{saved.name} is kept.")
        return redirect("catalogue:instruments")
    return render(
        request, "instruments/student.html", {"form": form, "row": row}, status=422 if form.errors else 200
    )


@require_POST
def delete_student(request, pk):
    row = student_of(request.user, pk)
    services.delete_student(request.user, row)
    messages.success(request, f"{row.name} was deleted.")
    return redirect("catalogue:instruments")


@require_http_methods(["GET", "POST"])
def new_instrument(request, student):
    row = student_of(request.user, student)
    asked = request.POST if request.method == "POST" else request.GET
    model = asked.get("model", "") if asked.get("model") in INSTRUMENTS else "alto-saxophone"
    usual = {"fitted": sorted(model_named(model).usually_fitted), "name": INSTRUMENTS[model], "a4_hz": 440}
    form = InstrumentForm(request.POST or None, model=model, initial=usual)
    if request.method == "POST" and form.is_valid():
        owned = services.add_instrument(request.user, row, model=model, **form.details)
        return redirect("catalogue:instrument", owned.pk)
    context = {"form": form, "student": row, "model": model, "models": INSTRUMENTS.items()}
    return render(request, "instruments/new.html", context, status=422 if form.errors else 200)


@require_http_methods(["GET", "POST"])
def instrument(request, pk):
    owned = instrument_of(request.user, pk)
    present = owned.present
    initial = {name: getattr(owned, name) for name in ("name", "fitted", "a4_hz", "notes", "model", "school")}
    initial["a4_hz"] = f"{owned.a4_hz:g}"
    initial |= {"reed": present.reed, "mouthpiece": present.mouthpiece} if present else {}
    data = {**request.POST.dict(), "model": owned.model} if request.method == "POST" else None
    if data is not None:
        data["fitted"] = request.POST.getlist("fitted")
    form = InstrumentForm(data, model=owned.model, initial=initial)
    if request.method == "POST" and form.is_valid():
        try:
            services.change_instrument(request.user, owned, **form.details)
        except ValidationError as error:
            form.add_error(None, error)
        else:
            messages.success(request, f"{owned.name} is kept.")
            return redirect("catalogue:instrument", pk)
    page = InstrumentPage(queries.hand_of(instrument_of(request.user, pk)), owned)
    context = {"form": form, "owned": owned, "page": page}
    return render(request, "instruments/instrument.html", context, status=422 if form.errors else 200)


@require_POST
def delete_instrument(request, pk):
    owned = instrument_of(request.user, pk)
    services.delete_instrument(request.user, owned)
    messages.success(request, f"{owned.name} was deleted.")
    return redirect("catalogue:instruments")
