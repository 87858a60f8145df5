"""Trials at the stand: begun, answered a tap at a time, and at the end kept as judgements and readings."""

from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from core.errors import CoreError
from core.evidence import trial as rules
from core.evidence.trial import Answer, TrialResponse
from evidence import services
from evidence.models import ReadingsTaken, Trial
from studio.access import own
from studio.refusals import refuse

# A response as a judgement says it.
SPEAKS_WORD = {TrialResponse.SPEAKS: "ready", TrialResponse.CRACKS: "unsure", TrialResponse.SILENT: "unsure"}
UNTRIED = "touches:"  # how an item is named that no chart has


@transaction.atomic
def begin(teacher, owned, *, note_midi, items, coming_from="", blind=False, shuffle=True, colour=False):
    """Begin a trial of fingerings on a student's instrument.

    Parameters
    ----------
    items : sequence of str
        Ids of entries, or touches after `UNTRIED`; tried in this order unless shuffled.
    coming_from : str
        Id of the entry that each is come to from; empty for none.
    colour : bool
        Whether colour is listened for.
    """
    if owned is None:
        raise ValidationError("Only a student's instrument can be tried. Choose one.", code="unknown")
    if not items:
        raise ValidationError("Choose at least one fingering to try.", code="empty")
    if len(items) > rules.ITEMS_LIMIT:
        raise ValidationError(f"At most {rules.ITEMS_LIMIT} fingerings can be tried at once.", code="many")
    owned = own(teacher, owned)
    begun = Trial.objects.create(
        instrument=owned,
        setup=owned.setup,
        note_midi=note_midi,
        coming_from=coming_from,
        blind=blind,
        colour=colour,
    )
    begun.items = rules.shuffled(items, begun.pk) if shuffle else list(items)
    begun.save(update_fields=["items"])
    return begun


@transaction.atomic
def answer(teacher, trial, word):
    """Keep one tap."""
    trial = _open(teacher, trial)
    try:
        answers = rules.answered(answers_of(trial), len(trial.items), word, colour=trial.colour)
    except CoreError as error:
        raise refuse(error, "answer") from error
    trial.answers = [one.as_json for one in answers]
    trial.save(update_fields=["answers"])
    return trial


@transaction.atomic
def finish(teacher, trial, in_hand):
    """End a trial: what was answered of the chart's fingerings becomes judgements and readings."""
    trial = _open(teacher, trial)
    for item, one in zip(trial.items, answers_of(trial), strict=False):
        if one.response is None or item not in in_hand.catalogue.by_id:
            continue
        of_it = teacher, trial.instrument, in_hand, item
        said = {name: str(word) for name in ("tone", "colour") if (word := getattr(one, name))}
        said |= {"speaks": SPEAKS_WORD[one.response], "pitch": str(one.tuning or "")}
        remark = f"in a trial: {one.words}" if one.response is not TrialResponse.SPEAKS else "in a trial"
        services.judge(*of_it, remark=remark, trial=trial, **said)
        if one.cents is not None:
            services.take_readings(*of_it, [one.cents], origin=ReadingsTaken.Origin.TYPED, trial=trial)
    trial.finished = timezone.now()
    trial.save(update_fields=["finished"])
    return trial


def answers_of(trial) -> list[Answer]:
    return [Answer.from_json(one) for one in trial.answers]


def _open(teacher, trial):
    own(teacher, trial.instrument)
    trial = Trial.objects.select_for_update().select_related("instrument").get(pk=trial.pk)
    if trial.finished:
        raise ValidationError("This trial has ended; begin another.", code="ended")
    return trial
