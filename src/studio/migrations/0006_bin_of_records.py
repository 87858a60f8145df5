"""What lies in the bin is a document of records from here on; what lies there already becomes one."""

import json
from collections import Counter

from django.db import migrations, models


def rewritten(apps, rows):
    """Document and keys of what Django's serialiser had written of rows."""
    names, numbers = {}, Counter()

    def name(label, key):
        if (label, key) not in names:
            kind = label.rpartition(".")[2].lower()
            numbers[kind] += 1
            names[label, key] = f"{kind}-{numbers[kind]}"
        return names[label, key]

    found = json.loads(rows)
    for row in found:
        name(row["model"], row["pk"])
    records = []
    for row in found:
        related = {
            field.name: field.related_model._meta.label_lower
            for field in apps.get_model(row["model"])._meta.concrete_fields
            if field.is_relation
        }
        refs = {
            field: None if row["fields"].get(field) is None else name(label, row["fields"][field])
            for field, label in related.items()
        }
        fields = {field: value for field, value in row["fields"].items() if field not in related}
        kind, its = row["model"].rpartition(".")[2], name(row["model"], row["pk"])
        records.append({"kind": kind, "name": its, "fields": fields, "refs": refs})
    document = json.dumps({"form": "records", "version": 1, "records": records}, ensure_ascii=False, indent=1)
    return document, {its: key for (_, key), its in names.items()}


def rewrite(apps, _):
    binned = apps.get_model("studio.Binned")
    for row in binned.objects.iterator():
        row.document, row.keys = rewritten(apps, row.document)
        row.save(update_fields=["document", "keys"])


class Migration(migrations.Migration):
    dependencies = [("studio", "0005_bin")]

    operations = [
        migrations.RenameField("binned", "rows", "document"),
        migrations.AddField("binned", "keys", models.JSONField(default=dict)),
        migrations.RunPython(rewrite, migrations.RunPython.noop),
    ]
