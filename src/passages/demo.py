"""The demo: a youth wind band, four of its students, and a passage each from the suite that it prepares."""

import tomllib

from django.conf import settings

from catalogue.queries import of_instrument
from evidence import services as evidence
from passages import services
from practice import demo as practice
from studio.services import add_instrument, save_student
from studio.shipped import instrument

DEMO = settings.DATA / "demo"


def load(teacher):
    """Make the students, their instruments, what was judged and read on them, and a passage each.

    The newest passage stands first in the list; so the first movement is made last.
    """
    band = tomllib.loads((DEMO / "band.toml").read_text("utf-8"))
    for desk in reversed(band["student"]):
        student = save_student(teacher, name=desk["name"], level=desk["level"], notes=desk["notes"])
        owned = add_instrument(teacher, student, **details(**desk["instrument"]))
        in_hand = of_instrument(owned)
        for entry, cents in desk["readings"].items():
            evidence.type_readings(teacher, owned, in_hand, entry, cents)
        for entry, words in desk["judged"].items():
            evidence.judge(teacher, owned, in_hand, entry, **words)
        practice.load(teacher, owned, desk["practice"])
        model, score = owned.model, (DEMO / desk["score"]).read_bytes()
        passage, notices, _ = services.read_source(score, model, desk["pitch_is"])
        added = services.add_passage(
            teacher, title="", instrument=model, passage=passage, notices=notices, owned=owned
        )
        services.set_due(teacher, added, owned.plan.due)


def details(*, model, lacks, **others):
    """An instrument as the services ask for it: what is fitted, instead of what it lacks."""
    return {"model": model, "fitted": set(instrument(model).optional) - set(lacks), **others}
