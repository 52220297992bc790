from django.db import migrations


class Migration(migrations.Migration):
    """In a transaction of its own: the rows of the one before wait for their checks."""

    dependencies = [
        ('runs', '0013_said_and_judged'),
    ]

    operations = [
        migrations.RemoveField(
            model_name='run',
            name='observations',
        ),
    ]
