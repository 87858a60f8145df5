"""Who may see and change what: today each thing belongs to one teacher, and to nobody else.

The one rule. Every read of what is a teacher's begins with `of`, every change with `own`; what a school
shares will be said here. A model whose teacher stands elsewhere says where, as `OWNED_BY`.
"""

from functools import reduce

from django.core.exceptions import ObjectDoesNotExist, ValidationError


def of(teacher, rows):
    """Of a model, or of rows of it, what a teacher may see and change; `teacher` may be a key, too."""
    rows = rows.all() if hasattr(rows, "all") else rows.objects.all()
    return rows.filter(**{_path(rows.model): teacher})


def own(teacher, thing):
    """Something of this teacher's, as it is stored, inside the transaction that is about to change it.

    Whoever deleted it meanwhile wins: it is never brought back.

    Raises
    ------
    ValidationError
        If it belongs to another teacher, or is there no more.
    """
    try:
        thing.refresh_from_db()
    except ObjectDoesNotExist as error:
        raise ValidationError("It was deleted meanwhile; nothing was changed.", code="gone") from error
    *through, owner = _path(type(thing)).split("__")
    if getattr(reduce(getattr, through, thing), f"{owner}_id") != teacher.pk:
        raise ValidationError("That belongs to another teacher.", code="teacher")
    return thing


def _path(model):
    return getattr(model, "OWNED_BY", "teacher")
