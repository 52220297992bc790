"""Bring back what `backup` wrote into a folder, on an empty server."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from proklisis.core.errors import InputError
from proklisis.web.watching.backups import restore


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--over", action="store_true", help="put it over what is here")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            done = restore(options["folder"], options["over"])
        except (InputError, OSError) as e:
            raise CommandError(str(e)) from e
        rows = ", ".join(f"{n} {k.rpartition('.')[2].lower()}s" for k, n in done.rows.items())
        self.stdout.write(
            f"{done.database}: {rows}; {done.files} files, {done.copied} of them copied now"
        )
