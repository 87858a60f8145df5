"""What attempts told stands with the evidence now; its table was renamed there."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("practice", "0004_whole"), ("evidence", "0007_told")]

    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name="Told")])
    ]
