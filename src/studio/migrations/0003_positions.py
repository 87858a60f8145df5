"""One position an instrument becomes a position a question, with the teacher's own as the default."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

import studio.shipped

QUESTIONS = {
    "lift": "clarinet first finger",
    "half-hole": "clarinet first finger",
    "flick the vent": "bassoon vents",
    "hold the vent": "bassoon vents",
}


def to_positions(apps, schema_editor):
    for owned in apps.get_model("studio", "OwnedInstrument").objects.exclude(school=""):
        if owned.school in QUESTIONS:
            owned.positions = {QUESTIONS[owned.school]: owned.school}
            owned.save(update_fields=["positions"])


def to_school(apps, schema_editor):
    for owned in apps.get_model("studio", "OwnedInstrument").objects.all():
        kept = [position for position in owned.positions.values() if position in QUESTIONS]
        owned.school = kept[0] if kept else ""
        owned.save(update_fields=["school"])


class Migration(migrations.Migration):
    dependencies = [
        ("studio", "0002_school"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AlterField(
            model_name="ownedinstrument",
            name="model",
            field=models.CharField(choices=studio.shipped.instrument_choices, max_length=40),
        ),
        migrations.AddField(
            model_name="ownedinstrument",
            name="positions",
            field=models.JSONField(blank=True, default=dict),
        ),
        migrations.RunPython(to_positions, to_school),
        migrations.RemoveField(model_name="ownedinstrument", name="school"),
        migrations.CreateModel(
            name="Teaching",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("question", models.CharField(max_length=60)),
                ("position", models.CharField(max_length=100)),
                (
                    "teacher",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="teaching",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ["pk"],
                "constraints": [models.UniqueConstraint(fields=("teacher", "question"), name="teaching_once")],
            },
        ),
    ]
