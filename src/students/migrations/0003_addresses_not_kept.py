"""Addresses of pages are made of the row and a secret from now on; open ones of before go on by their digest."""

import hashlib
import secrets

from django.db import migrations, models

import students.models


def digested(apps, schema_editor):
    for page in apps.get_model("students", "StudentPage").objects.all():
        page.before = hashlib.sha256(page.token.encode()).hexdigest()
        page.nonce = secrets.token_hex(16)
        page.save(update_fields=["before", "nonce"])


class Migration(migrations.Migration):
    dependencies = [("students", "0002_pages")]

    operations = [
        migrations.AddField(
            "studentpage", "nonce", models.CharField(max_length=32, default=students.models.fresh)
        ),
        migrations.AddField("studentpage", "before", models.CharField(max_length=64, blank=True)),
        migrations.RunPython(digested, migrations.RunPython.noop),
        migrations.RemoveField("studentpage", "token"),
    ]
