"""Attempts are a source of evidence; passages kept before name the sources that count, and now these, too."""

from django.db import migrations

OLD = {"taught", "modelled", "judged", "measured"}


def count_attempts(apps, _schema):
    states = apps.get_model("passages", "State").objects
    for state in states.iterator(chunk_size=500):
        sources = set(state.settings.get("sources", ()))
        if sources == OLD:  # whoever switched something off is not asked into more
            state.settings["sources"] = sorted(sources | {"counted"})
            state.save(update_fields=["settings"])


def leave_them(apps, _schema):
    states = apps.get_model("passages", "State").objects
    for state in states.iterator(chunk_size=500):
        sources = set(state.settings.get("sources", ()))
        if "counted" in sources:
            state.settings["sources"] = sorted(sources - {"counted"})
            state.save(update_fields=["settings"])


class Migration(migrations.Migration):
    dependencies = [("passages", "0004_named_versions")]

    operations = [migrations.RunPython(count_attempts, leave_them)]
