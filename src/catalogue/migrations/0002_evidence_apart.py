"""Judgements, readings and preferences move to an app of their own; hiding may hold on one instrument only."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

import studio.shipped

MOVED = ("JudgementMade", "ReadingsTaken", "Preference")


class Migration(migrations.Migration):
    dependencies = [
        ("catalogue", "0001_students_and_instruments"),
        ("studio", "0003_positions"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.AlterModelTable(name=name, table=f"evidence_{name.lower()}") for name in MOVED
            ],
            state_operations=[migrations.DeleteModel(name=name) for name in MOVED],
        ),
        migrations.RemoveConstraint(model_name="hiddenfingering", name="hidden_once"),
        migrations.AddField(
            model_name="hiddenfingering",
            name="instrument",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="hidden_fingerings",
                to="studio.ownedinstrument",
            ),
        ),
        migrations.AlterField(
            model_name="hiddenfingering",
            name="model",
            field=models.CharField(choices=studio.shipped.instrument_choices, max_length=40),
        ),
        migrations.AlterField(
            model_name="ownfingering",
            name="model",
            field=models.CharField(choices=studio.shipped.instrument_choices, max_length=40),
        ),
        migrations.AddConstraint(
            model_name="hiddenfingering",
            constraint=models.UniqueConstraint(
                condition=models.Q(("instrument__isnull", True)),
                fields=("teacher", "model", "entry"),
                name="hidden_everywhere_once",
            ),
        ),
        migrations.AddConstraint(
            model_name="hiddenfingering",
            constraint=models.UniqueConstraint(fields=("instrument", "entry"), name="hidden_here_once"),
        ),
    ]
