"""The shape of a target and what became of it, as pages show it."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers


class TargetSeenSerializer(serializers.Serializer[Any]):
    """A target and what became of it."""

    target = serializers.CharField()
    before = serializers.CharField(allow_blank=True, help_text="value ± U when it was set")
    now = serializers.CharField(allow_blank=True)
    verdict = serializers.CharField(allow_null=True)
    says = serializers.CharField()
