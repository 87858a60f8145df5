import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('students', '0001_links'),
    ]

    operations = [
        migrations.RenameModel(old_name='StudentLink', new_name='StudentPage'),
        migrations.AlterField(
            model_name='studentpage',
            name='instrument',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pages', to='studio.ownedinstrument'),
        ),
    ]
