"""Work out again what an older version worked out, or what has changed since."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from proklisis.web.analysis.reviewing import outdated, queue_measuring, up_to_date
from proklisis.web.runs.models import Run


class Command(BaseCommand):
    help = "Work out every run again whose numbers an older version made, or that something has changed of."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--queue", action="store_true", help="leave the work to the workers")

    def handle(self, *args: Any, **options: Any) -> None:
        done = failed = 0
        for run in (
            Run.objects.select_related("rider", "clip", "result")
            .filter(result__isnull=False, removed_at=None)
            .iterator(20)
        ):
            if not outdated(run.result):
                continue
            done += 1
            if options["queue"]:
                queue_measuring(run)
            elif trouble := up_to_date(run).trouble:
                failed += 1
                self.stderr.write(f"Run {run.pk} of {run.rider.name}: {trouble}")
        if options["queue"]:
            if done:
                self.stdout.write(f"{done} runs are worked out again as this version does it.")
        else:
            self.stdout.write(f"{done} runs worked out again, {failed} of them could not be.")
