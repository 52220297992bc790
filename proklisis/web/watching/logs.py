"""Logs: one line an event, for people or as JSON, each with the number of its request or job and without a token of a link."""

from __future__ import annotations

from collections.abc import Callable, MutableMapping
from typing import Any

import structlog
from django.http import HttpRequest, HttpResponse

from proklisis.web.shared_links import SHARED

Event = MutableMapping[str, Any]


def without_tokens(logger: object, method: str, event: Event) -> Event:
    """A processor that takes the tokens of links out of whatever text an event holds."""
    for key, value in event.items():
        if isinstance(value, str) and SHARED.search(value):
            event[key] = SHARED.sub(r"/\1/…", value)
    return event


#: Done to our own events and to those of other packages alike.
ALWAYS: list[Any] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso", utc=True),
]


def logging_of(as_json: bool, level_of_requests: str) -> dict[str, Any]:
    """Django's LOGGING, with structlog told the same."""
    structlog.configure(
        processors=[
            *ALWAYS,
            structlog.stdlib.PositionalArgumentsFormatter(),
            structlog.stdlib.ProcessorFormatter.wrap_for_formatter,
        ],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
    last: list[Any] = (
        [structlog.processors.format_exc_info, without_tokens, structlog.processors.JSONRenderer()]
        if as_json
        # A traceback is text too, and may hold an address.
        else [
            structlog.processors.format_exc_info,
            without_tokens,
            structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback),
        ]
    )  # fmt: skip
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "event": {
                "()": structlog.stdlib.ProcessorFormatter,
                "processors": [structlog.stdlib.ProcessorFormatter.remove_processors_meta, *last],
                "foreign_pre_chain": [*ALWAYS, structlog.stdlib.ExtraAdder(allow=[])],
            }
        },
        "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "event"}},
        "root": {"handlers": ["console"], "level": "WARNING"},
        "loggers": {
            "proklisis": {"level": "INFO"},
            "django_structlog": {"level": level_of_requests},
        },
    }


def number_of_request(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware that tells the browser its request's number, so that somebody can name it."""

    def middleware(request: HttpRequest) -> HttpResponse:
        number = structlog.contextvars.get_contextvars().get("request_id", "")
        response = get_response(request)
        response.headers["X-Request-ID"] = number
        return response

    return middleware
