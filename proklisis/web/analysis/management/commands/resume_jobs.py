"""Queue again the runs that no job is left for. Run before workers start.

A job whose worker was killed is not lost: another worker takes it up (``tasks.take_up_lost``).
"""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from proklisis.web.runs.queueing import resume


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        for pk in resume():
            self.stdout.write(f"Run {pk} goes on from where it was.")
