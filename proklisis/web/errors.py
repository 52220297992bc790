"""One shape for every error of the API: ``{"problem": sentence, "fields": {field: sentence}}``."""

from __future__ import annotations

import errno
from typing import Any

import structlog
from django.db import DataError, OperationalError
from django.http import HttpRequest, HttpResponse, JsonResponse
from rest_framework import serializers
from rest_framework.exceptions import APIException, ValidationError
from rest_framework.response import Response
from rest_framework.views import exception_handler

from proklisis.core.errors import InputError


class Conflict(APIException):
    """The thing asked for does not fit the state the run is in."""

    status_code = 409


class DiskFull(APIException):
    """There is no room for what is sent."""

    status_code = 507


class ProblemSerializer(serializers.Serializer[Any]):
    """What went wrong, in a sentence a coach can act on."""

    problem = serializers.CharField()
    fields = serializers.DictField(child=serializers.CharField(), required=False)  # type: ignore[assignment]
    run = serializers.IntegerField(
        required=False, help_text="the run that this is about, where it is another"
    )
    theirs = serializers.DictField(
        required=False,
        help_text="what stands there now, where somebody else has changed it meanwhile",
    )


def _flat(detail: Any, path: str = "") -> dict[str, str]:
    if isinstance(detail, dict):
        return {
            k: v
            for key, d in detail.items()
            for k, v in _flat(d, f"{path}.{key}" if path else str(key)).items()
        }
    if isinstance(detail, list):
        plain = [d for d in detail if not isinstance(d, dict | list)]
        return {path: " ".join(str(d) for d in plain)} if plain else {}
    return {path: str(detail)}


def not_from_here(request: HttpRequest, reason: str = "") -> HttpResponse:
    """Django's answer to a change that does not come from this site's own page."""
    return JsonResponse(
        {
            "problem": "This did not come from a page of this site. Load the page again and repeat it."
        },
        status=403,
    )


def too_many(
    request: HttpRequest, response: HttpResponse | None = None, credentials: object = None
) -> HttpResponse:
    """What is answered to a name that had too many wrong passwords from one address."""
    return JsonResponse(
        {
            "problem": "Too many wrong passwords for this name. Wait a quarter of an hour and try again."
        },
        status=429,
    )


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    return JsonResponse({"problem": "There is nothing at this address."}, status=404)


def our_fault(request: HttpRequest) -> HttpResponse:
    number = structlog.contextvars.get_contextvars().get("request_id", "")
    return JsonResponse(
        {
            "problem": "Something went wrong on our side. Nothing was changed; try again, and report it if it happens twice"
            + (f", with the number {number}." if number else ".")
        },
        status=500,
    )


def plain_errors(error: Exception, context: dict[str, Any]) -> Response | None:
    """DRF's exception handler: our own errors and DRF's in one shape."""
    if isinstance(error, InputError):
        return Response({"problem": str(error)}, status=400)
    if isinstance(error, OperationalError):
        return Response(
            {
                "problem": "The database does not answer. Nothing was changed; try again in a minute."
            },
            status=503,
        )
    if isinstance(error, DataError | OverflowError):
        return Response(
            {
                "problem": "Something in this request cannot be stored. Look it over and send it again."
            },
            status=400,
        )
    if isinstance(error, OSError) and error.errno == errno.ENOSPC:
        error = DiskFull(
            "The server's disk is full. Nothing was changed; make room on it and try again."
        )
    response = exception_handler(error, context)
    if response is None:
        return None
    if isinstance(error, ValidationError):
        fields = {k: v for k, v in _flat(error.detail).items() if k != "non_field_errors"}
        whole = _flat(error.detail).get("non_field_errors")
        named = "; ".join(f"{k.replace('_', ' ')}: {v}" for k, v in fields.items())
        response.data = {"problem": whole or named or "This cannot be saved.", "fields": fields}
    else:
        response.data = {"problem": str(getattr(error, "detail", error))}
        for name in ("theirs", "run"):
            if (more := getattr(error, name, None)) is not None:
                response.data[name] = more
    return response
