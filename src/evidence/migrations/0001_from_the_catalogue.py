"""Judgements, readings and preferences, whose tables the catalogue hands over; readings say whence they come."""

import django.db.models.deletion
from django.db import migrations, models

PITCH, TONE, SPEAKS, HANDS = (
    [(word, word) for word in words]
    for words in (
        ("very flat", "flat", "in tune", "sharp", "very sharp"),
        ("thin", "light", "even", "full"),
        ("unsure", "needs care", "ready", "sure"),
        ("awkward", "careful", "fair", "easy"),
    )
)
KEY = ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID"))


def of_instrument():
    return models.ForeignKey(
        on_delete=django.db.models.deletion.CASCADE, related_name="%(class)ss", to="studio.ownedinstrument"
    )


class Migration(migrations.Migration):
    initial = True
    dependencies = [("catalogue", "0002_evidence_apart"), ("studio", "0003_positions")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="JudgementMade",
                    fields=[
                        KEY,
                        ("entry", models.CharField(max_length=60)),
                        ("setup", models.PositiveIntegerField()),
                        ("pitch", models.CharField(blank=True, choices=PITCH, max_length=20)),
                        ("tone", models.CharField(blank=True, choices=TONE, max_length=20)),
                        ("speaks", models.CharField(blank=True, choices=SPEAKS, max_length=20)),
                        ("hands", models.CharField(blank=True, choices=HANDS, max_length=20)),
                        ("remark", models.CharField(blank=True, max_length=300)),
                        ("made", models.DateTimeField(auto_now_add=True)),
                        ("instrument", of_instrument()),
                    ],
                    options={
                        "ordering": ["pk"],
                        "indexes": [
                            models.Index(fields=["instrument", "entry"], name="catalogue_j_instrum_003492_idx")
                        ],
                    },
                ),
                migrations.CreateModel(
                    name="ReadingsTaken",
                    fields=[
                        KEY,
                        ("entry", models.CharField(max_length=60)),
                        ("setup", models.PositiveIntegerField()),
                        ("cents", models.JSONField()),
                        ("made", models.DateTimeField(auto_now_add=True)),
                        ("instrument", of_instrument()),
                    ],
                    options={
                        "ordering": ["pk"],
                        "indexes": [
                            models.Index(fields=["instrument", "entry"], name="catalogue_r_instrum_731520_idx")
                        ],
                    },
                ),
                migrations.CreateModel(
                    name="Preference",
                    fields=[
                        KEY,
                        ("entry", models.CharField(max_length=60)),
                        ("note_midi", models.PositiveIntegerField()),
                        ("instrument", of_instrument()),
                    ],
                    options={
                        "constraints": [
                            models.UniqueConstraint(fields=("instrument", "note_midi"), name="preference_once")
                        ],
                    },
                ),
            ],
        ),
        migrations.RenameIndex(
            model_name="judgementmade",
            old_name="catalogue_j_instrum_003492_idx",
            new_name="evidence_ju_instrum_a386b7_idx",
        ),
        migrations.RenameIndex(
            model_name="readingstaken",
            old_name="catalogue_r_instrum_731520_idx",
            new_name="evidence_re_instrum_5ae919_idx",
        ),
        migrations.AddField(
            model_name="readingstaken",
            name="origin",
            field=models.CharField(
                choices=[("typed", "typed from a tuner")], default="typed", max_length=20
            ),
        ),
        migrations.AddField(
            model_name="readingstaken",
            name="kind",
            field=models.CharField(choices=[("note", "single notes")], default="note", max_length=20),
        ),
    ]
