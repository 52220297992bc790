"""Delete files in the media folder that no row knows of; ``--dry-run`` only lists them."""

from __future__ import annotations

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from proklisis.web.clips.removing import strays, sweep


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--dry-run", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["dry_run"]:
            for path in strays():
                self.stdout.write(str(path))
            return
        self.stdout.write(f"{sweep()} stray files deleted.")
