"""Have workers make items of the Eye ahead of time, or with --now make some here."""

from __future__ import annotations

import argparse
from typing import Any

from django.core.management.base import BaseCommand

from proklisis.web.eye.pool import ask_for_more, make_next


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: argparse.ArgumentParser) -> None:
        parser.add_argument("--now", type=int, default=0, metavar="N", help="make N items here")
        parser.add_argument("--discipline", default="")

    def handle(self, *args: Any, now: int, discipline: str, **options: Any) -> None:
        if not now:
            ask_for_more(discipline)
        for _ in range(now):
            item = make_next(discipline)
            if item is None:
                break
            self.stdout.write(f"{item.exercise} {item.discipline} {item.topic}")
