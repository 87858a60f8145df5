"""What of practice is worked out by another process: asked with keys, read there from the database."""

from django.contrib.auth import get_user_model

from bench.queries import opened as opened_of
from jobs.worker import progress
from passages.queries import passage_of, state_of
from practice import drilling
from practice.screens.drills import DrillsPage, drills_page


def drills_of_spot(
    teacher_pk: int, passage_pk: int, state: str, first: str, last: str, kind: str
) -> DrillsPage:
    """The page of drills of a spot."""
    passage = passage_of(get_user_model().objects.get(pk=teacher_pk), passage_pk)
    opened = opened_of(passage, state_of(passage, state))
    material = drilling.material_of(opened, first, last)
    made = drilling.drills_for(material, opened.in_hand, opened.settings.sources, progress)
    return drills_page(made, opened.in_hand, opened.owned, kind)
