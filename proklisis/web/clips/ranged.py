"""Send a file with HTTP ranges (RFC 9110 §14), without which a browser cannot seek in a video."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import IO

from django.http import FileResponse, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

CHUNK = 256 * 1024
_RANGE = re.compile(r"bytes=([0-9]{0,18})-([0-9]{0,18})$")


def _piece(f: IO[bytes], left: int) -> Iterator[bytes]:
    with f:
        while left > 0 and (data := f.read(min(CHUNK, left))):
            left -= len(data)
            yield data


def ranged(request: HttpRequest, f: IO[bytes], size: int, content_type: str) -> HttpResponseBase:
    """Answer 206 for one satisfiable byte range, 416 for one that is not, else 200 with it all."""
    asked = _RANGE.match(request.headers.get("Range", ""))
    if asked is None or asked.groups() == ("", ""):
        whole = FileResponse(f, content_type=content_type)
        whole["Accept-Ranges"] = "bytes"
        return whole
    first, last = asked.groups()
    if first:
        start, end = int(first), min(int(last) if last else size - 1, size - 1)
    else:
        start, end = max(size - int(last), 0), size - 1
    if start >= size or end < start:
        f.close()
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    f.seek(start)
    part = StreamingHttpResponse(_piece(f, end - start + 1), status=206, content_type=content_type)
    part["Content-Range"] = f"bytes {start}-{end}/{size}"
    part["Content-Length"] = str(end - start + 1)
    part["Accept-Ranges"] = "bytes"
    return part
