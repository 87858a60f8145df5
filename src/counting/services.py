"""Every change to what is counted: one function a use case, for the acting teacher."""

from dataclasses import dataclass, replace

from django.core.exceptions import ValidationError
from django.db import transaction

from catalogue.queries import of_instrument
from core.practice.attempts import By
from counting.mending import attempts_named
from evidence import services as evidence
from evidence.models import AttemptMade
from practice.queries import logged_on
from practice.services import tell
from studio.access import of, own
from studio.models import OwnedInstrument

KEPT, BEFORE, REFUSED = "kept", "kept before", "refused"
GONE = "Its instrument is not there any more."


@dataclass(frozen=True)
class PressAnswer:
    """What became of a press, by its key: kept, kept before, or refused, and why."""

    key: str
    became: str
    why: str = ""


@transaction.atomic
def keep_presses(teacher, presses, page=None) -> list[PressAnswer]:
    """Keep presses as they were drawn, each by itself, and what they tell.

    Parameters
    ----------
    presses : sequence of (str, counting.presses.Press or None, str)
        As `counting.presses.Sent` has them.
    page : int or None
        Key of the student's page through which they came: only what was drawn there is kept.
    """
    instruments = _instruments(teacher, (press for _, press, _ in presses if press))
    answers, by_instrument = {}, {}
    for n, (key, press, why) in enumerate(presses):
        owned = instruments.get(press.drawn.owned) if press else None
        if press is None:
            answers[n] = PressAnswer(key, REFUSED, why)
        elif press.drawn.page != page:
            answers[n] = PressAnswer(key, REFUSED, "It was drawn on another page.")
        elif owned is None:
            answers[n] = PressAnswer(key, REFUSED, GONE)
        else:
            by_instrument.setdefault(owned, []).append((n, press))
    for owned, some in by_instrument.items():
        answers |= _keep(teacher, owned, some)
    return [answers[n] for n in range(len(presses))]


def _instruments(teacher, presses):
    keys = {press.drawn.owned for press in presses}
    return of(teacher, OwnedInstrument).select_related("student").in_bulk(keys) if keys else {}


def _keep(teacher, owned, some):
    keys = [press.logged.key for _, press in some]
    before = set(AttemptMade.objects.filter(instrument=owned, key__in=keys).values_list("key", flat=True))
    new = [press.logged for _, press in some if press.logged.key not in before]
    if new:
        try:
            evidence.log_attempts(teacher, owned, new)
        except ValidationError as error:
            why = " ".join(error.messages)
            return {
                n: PressAnswer(str(key), BEFORE) if key in before else PressAnswer(str(key), REFUSED, why)
                for (n, _), key in zip(some, keys, strict=True)
            }
        tell(teacher, owned, of_instrument(owned))
    return {
        n: PressAnswer(str(press.logged.key), BEFORE if press.logged.key in before else KEPT)
        for n, press in some
    }


@transaction.atomic
def take_back(teacher, keys, page=None) -> None:
    """Take presses back by their keys; those that are not there are as good as gone.

    Through a student's page only what a student counted on its instrument goes.
    """
    rows = of(teacher, AttemptMade).filter(key__in=keys)
    if page is not None:
        rows = rows.filter(by=By.STUDENT, instrument=page.instrument_id)
    touched = sorted(set(rows.values_list("instrument", flat=True)))
    for owned in of(teacher, OwnedInstrument).select_related("student").filter(pk__in=touched):
        mine = list(rows.filter(instrument=owned).values_list("key", flat=True))
        evidence.take_back_attempts(teacher, owned, mine)
        tell(teacher, owned, of_instrument(owned))


@transaction.atomic
def delete_counted(teacher, owned, names) -> int:
    """Take away what was counted, as `counting.mending` names it; gives back how many attempts that were."""
    owned = own(teacher, owned)
    keys = list(attempts_named(owned, names).values_list("key", flat=True))
    evidence.take_back_attempts(teacher, owned, keys)
    tell(teacher, owned, of_instrument(owned))
    return len(keys)


@transaction.atomic
def move_counted(teacher, owned, names, *, to=None, entry="", day=None) -> int:
    """Put what was counted where it belongs; gives back how many attempts that were.

    Parameters
    ----------
    to : OwnedInstrument, optional
        Another instrument of the same model.
    entry : str
        Id of the fingering with which a note alone was played; empty for that which was said.
    day : datetime.date, optional
        The day on which it was; the time of day stays.

    Raises
    ------
    ValidationError
        If the instrument is of another model, or has no such fingering for the note.
    """
    owned = own(teacher, owned)
    to = own(teacher, to) if to else owned
    if to.model != owned.model:
        raise ValidationError("Attempts can be moved to an instrument of the same model alone.", code="model")
    rows = attempts_named(owned, names)
    if entry and rows.exclude(spot=None).exists():
        raise ValidationError(
            "A spot is played with the fingerings that it has; move notes alone.", code="spot"
        )
    logged = [_mended(one, entry, day) for one in logged_on(owned, rows)]
    evidence.check_attempts(of_instrument(to), logged)
    rows.delete()
    evidence.log_attempts(teacher, to, logged)
    for changed in dict.fromkeys((owned, to)):
        tell(teacher, changed, of_instrument(changed))
    return len(logged)


def _mended(one, entry, day):
    attempt = replace(one.attempt, fingering=entry) if entry else one.attempt
    made = one.made.replace(year=day.year, month=day.month, day=day.day) if day else one.made
    return replace(one, attempt=replace(attempt, day=made.date().toordinal()), made=made)
