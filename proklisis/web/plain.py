"""What a request may hold: JSON that a database can keep and a page can show, and pages of a bounded length."""

from __future__ import annotations

import math
from typing import Any

from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter
from rest_framework.exceptions import ParseError
from rest_framework.pagination import LimitOffsetPagination
from rest_framework.parsers import JSONParser
from rest_framework.request import Request

REMOVED = OpenApiParameter(
    "removed",
    OpenApiTypes.BOOL,
    description="what was removed and can be brought back, in place of what is there",
)
FOR_GOOD = OpenApiParameter(
    "for_good",
    OpenApiTypes.BOOL,
    description="erase at once, with every file; nothing can bring it back",
)
#: Lists and objects in each other, at the most; nothing that is sent here is deeper.
DEEPEST = 24
#: Whole numbers beyond this fit no column.
LARGEST = 2**53


class PlainJSONParser(JSONParser):
    """JSON without what cannot be kept: zero characters, halves of characters, numbers without end."""

    def parse(self, stream: Any, media_type: Any = None, parser_context: Any = None) -> Any:
        try:
            data = super().parse(stream, media_type, parser_context)
        except RecursionError as e:
            raise ParseError(
                "The lists and objects in this request lie too deep in each other."
            ) from e
        check_plain(data)
        return data


def check_plain(data: Any) -> None:
    """Raise ParseError for anything in ``data`` that cannot be stored or answered."""
    left = [(data, 0)]
    while left:
        value, depth = left.pop()
        if depth > DEEPEST:
            raise ParseError("The lists and objects in this request lie too deep in each other.")
        if isinstance(value, str):
            check_text(value)
        elif isinstance(value, float) and not math.isfinite(value):
            raise ParseError("A number in this request is too large to be one.")
        elif isinstance(value, int) and abs(value) > LARGEST:
            raise ParseError("A number in this request is too large.")
        elif isinstance(value, dict):
            left += [(k, depth + 1) for k in value] + [(v, depth + 1) for v in value.values()]
        elif isinstance(value, list):
            left += [(v, depth + 1) for v in value]


def check_text(text: str) -> None:
    if "\x00" in text:
        raise ParseError("A text in this request has a zero character in it. Type it again.")
    if any("\ud800" <= c <= "\udfff" for c in text):
        raise ParseError("A text in this request has half a character in it. Type it again.")


def whole(text: str | None) -> int | None:
    """A whole number of a query, or None where it is none."""
    return int(text) if text and text.isascii() and text.isdigit() and len(text) < 16 else None


class Pages(LimitOffsetPagination):
    """Pages of at most two hundred rows."""

    max_limit = 200

    def get_offset(self, request: Request) -> int:
        return min(super().get_offset(request), LARGEST)


def asked_for(request: Request, what: str) -> bool:
    """Whether a yes-or-no question of the address is answered with yes."""
    return request.query_params.get(what, "").lower() in ("1", "true", "yes")
