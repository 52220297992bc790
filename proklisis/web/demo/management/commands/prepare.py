"""Everything the database needs before the application starts: tables, the demo, lost jobs, results of an older version, riders for the Eye."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        call_command("load_demo")
        call_command("resume_jobs")
        call_command("measure_again", queue=True)
        call_command("make_eye_items")
