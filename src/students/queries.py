"""Reads: what a student is on with, from all that is kept of them."""

from dataclasses import dataclass

from django.http import Http404

from catalogue.queries import Chosen, chosen
from core.practice.learning import Learning
from passages import queries as passages
from passages.models import Passage
from passages.queries import Opened
from practice import queries as practice
from practice.models import Plan


@dataclass(frozen=True)
class OnWith:
    """A student's instrument with its plan, what was learned on it, and the passage that is practised.

    Parameters
    ----------
    plan : Plan
        As it was set; one that aims at the guessed reach where none was.
    music : Opened or None
        The passage changed last.
    """

    at: Chosen
    plan: Plan
    learning: Learning
    music: Opened | None


def instrument_named(teacher, on) -> Chosen:
    """A student's instrument that an address names; 404 for a model at large."""
    at = chosen(teacher, on)
    if at.owned is None:
        raise Http404("a week belongs to a student's instrument")
    return at


def on_with(teacher, on) -> OnWith:
    """What the student of an instrument is on with."""
    at = instrument_named(teacher, on)
    guess = practice.guess_on(at.owned, at.in_hand)
    plan = practice.plan_of(at.owned) or Plan(instrument=at.owned, target_midi=guess)
    learning = practice.learning_on(at.owned, at.in_hand, guess)
    latest = (
        Passage.objects.select_related("current__parent", "owned__student").filter(owned=at.owned).first()
    )
    return OnWith(at, plan, learning, passages.opened(latest, latest.current) if latest else None)
