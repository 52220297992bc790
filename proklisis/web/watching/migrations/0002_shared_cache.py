"""The table that all web servers and workers share for what is counted and soon forgotten."""

from __future__ import annotations

from django.core.management import call_command
from django.db import migrations


def make(apps, schema_editor):
    call_command("createcachetable", database=schema_editor.connection.alias, verbosity=0)


class Migration(migrations.Migration):
    dependencies = [("watching", "0001_first")]
    operations = [migrations.RunPython(make, migrations.RunPython.noop)]
