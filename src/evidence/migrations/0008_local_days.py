"""The day of an attempt by the clock where it was made, and how it came here.

What was kept until now was told by the day in UTC, and stays so.
"""

from django.db import migrations, models
from django.db.models import F
from django.db.models.functions import TruncDate
from django.db.models import Q


def by_utc(apps, schema_editor):
    apps.get_model("evidence", "AttemptMade").objects.update(day=TruncDate(F("made")))


class Migration(migrations.Migration):
    dependencies = [("evidence", "0007_told")]

    operations = [
        migrations.AddField("attemptmade", "day", models.DateField(null=True)),
        migrations.RunPython(by_utc, migrations.RunPython.noop),
        migrations.AlterField("attemptmade", "day", models.DateField()),
        migrations.AddField("attemptmade", "offset_min", models.SmallIntegerField(default=0)),
        migrations.AddField(
            "attemptmade",
            "origin",
            models.CharField(
                choices=[("pressed", "pressed"), ("brought in", "from a file")], default="pressed", max_length=20
            ),
        ),
        migrations.AddConstraint(
            "attemptmade",
            models.CheckConstraint(
                condition=Q(cracked_to=None) | Q(result="cracked"), name="attempt_cracked_to"
            ),
        ),
    ]
