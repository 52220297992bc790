"""Write the database and all files into a folder, from which `restore` brings them back."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from proklisis.core.errors import InputError
from proklisis.web.watching.backups import backup


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            done = backup(options["folder"])
        except (InputError, OSError) as e:
            raise CommandError(str(e)) from e
        rows = ", ".join(f"{n} {k.rpartition('.')[2].lower()}s" for k, n in done.rows.items())
        self.stdout.write(
            f"{done.database}: {rows}; {done.files} files, {done.copied} of them copied now"
        )
