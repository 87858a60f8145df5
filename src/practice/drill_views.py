"""Views of drills: read the request, make one call, render."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.shortcuts import redirect, render
from django.template.defaultfilters import pluralize
from django.views.decorators.http import require_http_methods

from bench.queries import Opened
from bench.queries import opened as opened_of
from catalogue.queries import chosen, note_in
from jobs.models import Job
from jobs.services import work
from passages.queries import passage_of, state_of
from practice import drilling, services
from practice.screens.drills import drills_page, name_of
from studio.address import Address
from studio.views import refused_on_a_page

# Drills of a longer spot are made by another process.
NOTES_HERE = 8


@dataclass(frozen=True)
class DrillsAsked:
    """What drills are asked for.

    Parameters
    ----------
    make : callable
        Makes them, each with its route; not called where another process does.
    opened : bench.queries.Opened or None
        The passage that they serve.
    about : str
        The notes, in words.
    back, back_words : str
        Where they were asked for.
    """

    make: Callable[[], list]
    in_hand: object
    owned: object
    opened: Opened | None
    about: str
    back: str
    back_words: str
    cut: bool = False


@require_http_methods(["GET", "POST"])
@refused_on_a_page
def of_spot(request, pk):
    """Drills of a spot of a passage; of one note where none other is named."""
    passage = passage_of(request.user, pk)
    here = Address.read(request.GET, pk)
    asked = here.state, here.first, here.last
    opened = opened_of(passage, state_of(passage, here.state))
    spot = drilling.spot_between(opened, here.first, here.last)
    material = drilling.material_of(opened, here.first, here.last)
    bench = Address(pk, state=str(opened.state.number)).to("bench:bench")
    make = partial(drilling.drills_for, material, opened.in_hand, opened.settings.sources)
    about, page = drilling.about(material), None
    if request.method == "GET" and len(material.notes) > NOTES_HERE:
        key = request.user.pk, pk, *asked, request.GET.get("kind", "")
        title, address = f"Drills for {about}", request.get_full_path()
        page = work(request.user, "drills", *key, title=title, address=address)
        if isinstance(page, Job):
            return redirect(page)
    asked = DrillsAsked(make, opened.in_hand, opened.owned, opened, about, bench, "Bench", cut=spot.cut)
    return _drills(request, asked, page)


@require_http_methods(["GET", "POST"])
@refused_on_a_page
def of_note(request):
    """Drills of a note on an instrument."""
    here, problems = Address.read(request.GET), []
    at = chosen(request.user, here.on)
    note = note_in(at.in_hand, here.note, problems)
    if note is None:
        raise ValidationError(problems or ["Choose a note."])
    entry = at.in_hand.catalogue.by_id.get(here.entry)
    if entry is None or entry.note.midi != note.midi:
        entry = at.in_hand.plainest(note)
    material = drilling.material_of_note(at.in_hand, note, entry, drilling.top_on(at.owned, at.in_hand))
    back = Address(on=at.on, note=note.ascii).to("catalogue:note")
    make = partial(drilling.drills_for, material, at.in_hand)
    return _drills(request, DrillsAsked(make, at.in_hand, at.owned, None, str(note), back, f"{note} closely"))


def _drills(request, asked, page=None):
    if request.method == "POST":
        return _keep(request, asked)
    page = page or drills_page(asked.make(), asked.in_hand, asked.owned, request.GET.get("kind", ""))
    query = request.GET.copy()
    query.pop("kind", None)
    context = {"page": page, "asked": asked, "query": query.urlencode()}
    return render(request, "practice/drills.html", context)


def _keep(request, asked):
    """Keep the drills that were chosen, or one that is to be opened."""
    wanted = request.POST.getlist("drill")[: services.DRILLS_AT_ONCE]
    by_name = {name_of(drill): drill for drill, *_ in asked.make()}
    some = [by_name[name] for name in dict.fromkeys(wanted) if name in by_name]
    if not some:
        raise ValidationError("Choose at least one drill; go back and mark it.")
    kept = services.keep_drills(
        request.user, some, model=asked.in_hand.instrument.name, owned=asked.owned, serves=asked.opened
    )
    if len(kept) == 1:
        return redirect("bench:bench", kept[0].pk)
    messages.success(request, f"{len(kept)} drill{pluralize(len(kept))} kept among the passages.")
    return redirect("passages:list")
