"""What is deleted is kept for thirty days, whole, and comes back whole.

All that goes with a thing is found by Django itself, as its own deleting finds it, and kept as a document of
records; the keys of the rows lie beside it. They are never given twice: all comes back under its old address.
"""

from collections import Counter
from dataclasses import dataclass
from datetime import timedelta
from itertools import chain

from django.apps import apps
from django.core.exceptions import ValidationError
from django.db import DEFAULT_DB_ALIAS, IntegrityError, connection, transaction
from django.db.models.deletion import Collector
from django.utils import timezone

from studio.access import of, own
from studio.archive import packed, save_as_it_was, unpacked
from studio.models import Binned

KEPT_FOR = timedelta(days=30)
# What can be deleted, by the word of an address: its model, the view that deletes it, and where it is listed.
KINDS = {
    "student": ("studio.Student", "catalogue:student-delete", "students:list"),
    "instrument": ("studio.OwnedInstrument", "catalogue:instrument-delete", "catalogue:instruments"),
    "passage": ("passages.KeptPassage", "passages:delete", "passages:list"),
    "fingering": ("catalogue.OwnFingering", "catalogue:own-delete", "catalogue:library"),
}
# What is told of what goes with a thing, in this order; the rest goes without saying.
SAID = {
    "studio.ownedinstrument": "instrument",
    "evidence.attemptmade": "attempt",
    "evidence.judgementmade": "judgement",
    "evidence.readingstaken": "reading",
    "evidence.trial": "trial",
    "evidence.preference": "preference",
    "practice.plan": "plan",
    "students.studentpage": "student's page",
    "passages.state": "state of the bench",
}
PLURALS = {"state of the bench": "states of the bench"}


@dataclass(frozen=True)
class GoesWith:
    """All that goes with a thing: rows by model, and fields of others that named it."""

    rows: list
    named: list[tuple[str, str, int, list[int]]]

    @property
    def said(self) -> list[str]:
        """How many of what, in words; the thing itself is not told."""
        counts = Counter(row._meta.label_lower for row in self.rows[1:])
        return [_counted(counts[label], word) for label, word in SAID.items() if counts[label]]


def _counted(number, word):
    many = PLURALS.get(word, f"{word}s")
    return f"{number:,} {word if number == 1 else many}"


class _Everything(Collector):
    """Finds every row by itself, also those that could go at one stroke."""

    def can_fast_delete(self, *_, **__):
        return False


def goes_with(thing) -> GoesWith:
    """What is deleted with a thing, the thing first."""
    found = _Everything(using=DEFAULT_DB_ALIAS, origin=thing)
    found.collect([thing])
    rows = [row for some in found.data.values() for row in some if row != thing]
    named = []
    for (field, _), some in found.field_updates.items():
        for row in chain.from_iterable(one if hasattr(one, "model") else [one] for one in some):
            named.append((row._meta.label, field.attname, getattr(row, field.attname), row.pk))
    grouped: dict[tuple, list[int]] = {}
    for label, attname, to, pk in named:
        grouped.setdefault((label, attname, to), []).append(pk)
    return GoesWith([thing, *rows], [(*key, pks) for key, pks in grouped.items()])


@transaction.atomic
def put(teacher, thing) -> Binned:
    """Delete a thing of a teacher's with all that goes with it, and keep it for thirty days."""
    thing = own(teacher, thing)
    Binned.objects.filter(deleted__lt=timezone.now() - KEPT_FOR).delete()
    found = goes_with(thing)
    document, keys = packed(found.rows)
    binned = Binned.objects.create(
        teacher=teacher,
        what=str(thing)[: Binned._meta.get_field("what").max_length],
        said=found.said,
        document=document,
        keys=keys,
        named=found.named,
    )
    thing.delete()
    return binned


@transaction.atomic
def bring_back(teacher, binned) -> None:
    """Put everything back as it was, and where it was.

    Raises
    ------
    ValidationError
        If what it belongs to is deleted, too, something else has its place, or it cannot be read.
    """
    binned = own(teacher, binned)
    rows = unpacked(binned.document, binned.keys)
    try:
        with transaction.atomic():
            for row in rows:
                save_as_it_was(row)
            for label, attname, to, pks in binned.named:
                apps.get_model(label).objects.filter(pk__in=pks, **{attname: None}).update(**{attname: to})
            connection.check_constraints()
    except IntegrityError as error:
        raise ValidationError(
            f"{binned.what} cannot come back by itself: bring back first what it belonged to, or delete what "
            "has taken its place.",
            code="place",
        ) from error
    binned.delete()


@transaction.atomic
def forget(teacher, binned) -> None:
    """Delete for good."""
    own(teacher, binned).delete()


def kept_for(teacher):
    """What lies in a teacher's bin, deleted last first."""
    return of(teacher, Binned).filter(deleted__gte=timezone.now() - KEPT_FOR).defer("document", "keys")
