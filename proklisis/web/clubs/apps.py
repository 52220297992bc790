"""The app of clubs: it hears who logs in and out."""

from __future__ import annotations

from django.apps import AppConfig


class ClubsConfig(AppConfig):
    name = "proklisis.web.clubs"

    def ready(self) -> None:
        from proklisis.web.clubs import entries

        entries.listen()
