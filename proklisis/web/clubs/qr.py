"""What a phone is to read off a screen, as a picture: a link, or the secret of a second factor."""

from __future__ import annotations

import io
from base64 import b64encode
from typing import Any

import qrcode
from drf_spectacular.utils import extend_schema
from qrcode.image.svg import SvgPathFillImage
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.web.clubs.access import IsLoggedIn


class SecretSerializer(serializers.Serializer[Any]):
    address = serializers.RegexField(r"^otpauth://totp/", max_length=400)


class PictureOfSecretSerializer(serializers.Serializer[Any]):
    image = serializers.CharField(help_text="a data: address of an SVG")


class PictureOfSecretView(APIView):
    permission_classes = [IsLoggedIn]

    @extend_schema(
        operation_id="secret_picture", request=SecretSerializer, responses=PictureOfSecretSerializer
    )
    def post(self, request: Request) -> Response:
        """The picture of an ``otpauth:`` address. Nothing of it is kept."""
        given = SecretSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response({"image": picture_of(given.validated_data["address"])})


def picture_of(text: str) -> str:
    """A text as a picture that phones read: a data: address of an SVG."""
    out = io.BytesIO()
    qrcode.make(text, image_factory=SvgPathFillImage).save(out)
    return f"data:image/svg+xml;base64,{b64encode(out.getvalue()).decode()}"
