"""One shape for every error of the API: ``{"problem": sentence, "fields": {field: sentence}}``."""

from __future__ import annotations

from typing import Any

from django.db import OperationalError
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
    fields = serializers.DictField(child=serializers.CharField(), required=False)


def _flat(detail: Any, path: str = "") -> dict[str, str]:
    if isinstance(detail, dict):
        return {k: v for key, d in detail.items() for k, v in _flat(d, f"{path}.{key}" if path else str(key)).items()}
    if isinstance(detail, list):
        plain = [d for d in detail if not isinstance(d, dict | list)]
        return {path: " ".join(str(d) for d in plain)} if plain else {}
    return {path: str(detail)}


def plain_errors(error: Exception, context: dict[str, Any]) -> Response | None:
    """DRF's exception handler: our own errors and DRF's in one shape."""
    if isinstance(error, InputError):
        return Response({"problem": str(error)}, status=400)
    if isinstance(error, OperationalError):
        return Response({"problem": "The database does not answer. Nothing was changed; try again in a minute."}, status=503)
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
    return response
