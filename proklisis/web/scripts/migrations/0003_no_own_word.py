from django.db import migrations


class Migration(migrations.Migration):
    """In a transaction of its own: the rows of the one before wait for their checks."""

    dependencies = [
        ('scripts', '0002_said_and_judged'),
    ]

    operations = [
        migrations.RemoveField(
            model_name='script',
            name='cue',
        ),
        migrations.RemoveField(
            model_name='script',
            name='cue_for',
        ),
        migrations.RemoveField(
            model_name='script',
            name='dropped',
        ),
    ]
