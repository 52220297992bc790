"""Write out, or erase, everything that is kept of one rider.

python manage.py rider_data export 12 --to rider.zip
python manage.py rider_data erase 12 --yes
"""

from __future__ import annotations

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from proklisis.web.clips.removing import erase_rider
from proklisis.web.riders.keeping import export
from proklisis.web.riders.models import Rider


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("what", choices=["export", "erase"])
        parser.add_argument(
            "rider", type=int, help="the rider's number in the address of their page"
        )
        parser.add_argument("--to", default="rider.zip", help="the file to write")
        parser.add_argument("--yes", action="store_true", help="erase without asking")

    def handle(self, *args: Any, **options: Any) -> None:
        rider = Rider.objects.filter(pk=options["rider"]).first()
        if rider is None:
            raise CommandError(f"there is no rider {options['rider']}")
        if options["what"] == "export":
            with open(options["to"], "wb") as out:
                export(rider, out)
            self.stdout.write(f"Everything of {rider.name} is in {options['to']}.")
            return
        if (
            not options["yes"]
            and input(f"Erase {rider.name} and every clip for good? Type the name: ") != rider.name
        ):
            raise CommandError("nothing was erased")
        name = rider.name
        erase_rider(rider)
        self.stdout.write(f"{name} is erased.")
