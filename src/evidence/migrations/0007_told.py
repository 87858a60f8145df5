"""What attempts told moves here from practice, its rows with it."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("evidence", "0006_spots"), ("practice", "0004_whole"), ("studio", "0004_hands")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="Told",
                    fields=[
                        (
                            "id",
                            models.BigAutoField(
                                auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                            ),
                        ),
                        ("guess", models.PositiveSmallIntegerField()),
                        ("last", models.PositiveBigIntegerField()),
                        ("count", models.PositiveIntegerField()),
                        ("state", models.BinaryField()),
                        ("day", models.DateField(null=True)),
                        ("lesson", models.DateField(null=True)),
                        ("low", models.PositiveSmallIntegerField()),
                        ("holding", models.JSONField(default=list)),
                        ("top", models.PositiveSmallIntegerField(null=True)),
                        ("missing", models.PositiveSmallIntegerField(null=True)),
                        ("sessions", models.PositiveSmallIntegerField(default=0)),
                        (
                            "instrument",
                            models.OneToOneField(
                                on_delete=django.db.models.deletion.CASCADE,
                                related_name="told",
                                to="studio.ownedinstrument",
                            ),
                        ),
                    ],
                    options={"db_table": "practice_told"},
                ),
            ],
        ),
        migrations.AlterModelTable("Told", None),
    ]
