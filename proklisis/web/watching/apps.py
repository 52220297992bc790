"""The app of watching: it hears of requests that failed and adds what waits to the figures."""

from __future__ import annotations

from django.apps import AppConfig


class WatchingConfig(AppConfig):
    name = "proklisis.web.watching"

    def ready(self) -> None:
        from proklisis.web.watching import failing, figures

        failing.listen()
        figures.register()
