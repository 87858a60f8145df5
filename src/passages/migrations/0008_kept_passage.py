from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('passages', '0007_drills'),
        ('evidence', '0007_told'),
    ]

    operations = [
        migrations.RenameModel(old_name='Passage', new_name='KeptPassage'),
        migrations.RenameIndex(
            model_name='keptpassage',
            new_name='passages_ke_teacher_9f8b86_idx',
            old_name='passages_pa_teacher_ceb2d5_idx',
        ),
    ]
