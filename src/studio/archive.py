"""Rows of tables as a document of records, and back: in the document they are named by words, not by keys.

What only texts name, as an attempt its fingering, is left as it stands.
"""

from collections import Counter
from functools import cache

from django.apps import apps
from django.core.exceptions import ValidationError
from django.db import models

from core.archive.records import Record, read_records, write_records
from core.errors import ArchiveError


def packed(rows) -> tuple[str, dict[str, int]]:
    """A document of rows, and the keys that they and those whom they name have in this database."""
    names, numbers = {}, Counter()

    def name(model, key):
        found = names.get((model, key))
        if found is None:
            kind = model._meta.model_name
            numbers[kind] += 1
            found = names[model, key] = f"{kind}-{numbers[kind]}"
        return found

    for row in rows:
        name(type(row), row.pk)
    document = write_records(_record(row, name) for row in rows)
    return document, {name: key for (_, key), name in names.items()}


def _record(row, name):
    fields, refs = {}, {}
    for field in _fields(type(row)):
        value = field.value_from_object(row)
        if field.is_relation:
            refs[field.name] = None if value is None else name(field.related_model, value)
        else:
            fields[field.name] = _told(field, row, value)
    return Record(row._meta.model_name, name(type(row), row.pk), fields, refs)


def _told(field, row, value):
    is_plain = value is None or isinstance(value, bool | int | float | str | list | dict)
    return value if is_plain else field.value_to_string(row)


def unpacked(document, keys) -> list[models.Model]:
    """The rows of a document, with the keys that are theirs in this database; none is saved.

    Raises
    ------
    ValidationError
        If the document cannot be read, or was written of tables that are others by now.
    """
    try:
        return [_row(record, keys) for record in read_records(document, keys)]
    except (ArchiveError, KeyError) as error:
        raise ValidationError(f"It cannot be read: {error}.", code="archive") from error


def _row(record, keys):
    model = _kinds()[record.kind]
    given, fields = {"pk": keys[record.name]}, _fields(model)
    if strange := {*record.fields, *record.refs} - {field.name for field in fields}:
        raise ArchiveError(f"“{min(strange)}” of {record.name} is kept no more")
    for field in fields:
        if field.is_relation:
            ref = record.refs.get(field.name)
            given[field.attname] = None if ref is None else keys[ref]
        elif field.name in record.fields:
            given[field.name] = field.to_python(record.fields[field.name])
    return model(**given)


def save_as_it_was(row) -> None:
    """Store a row as it stands: nothing of it is set anew, and nothing overwritten."""
    row.save_base(raw=True, force_insert=True)


def _fields(model):
    return [field for field in model._meta.concrete_fields if not field.primary_key]


@cache
def _kinds():
    return {model._meta.model_name: model for model in apps.get_models()}
