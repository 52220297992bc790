"""Send kept files: by the proxy before us where there is one, else with HTTP ranges (RFC 9110 §14), without which a browser cannot seek in a video."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from typing import IO, Any
from urllib.parse import quote, urlsplit

from django.conf import settings
from django.db.models.fields.files import FieldFile
from django.http import FileResponse, HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

CHUNK = 256 * 1024
#: A proxy begins to fetch what it was sent to at once.
SIGNED_S = 300
_RANGE = re.compile(r"bytes=([0-9]{0,18})-([0-9]{0,18})$")


def _piece(f: IO[bytes] | io.RawIOBase, left: int) -> Iterator[bytes]:
    with f:
        while left > 0 and (data := f.read(min(CHUNK, left))):
            left -= len(data)
            yield data


def ranged(
    request: HttpRequest, f: IO[bytes] | io.RawIOBase, size: int, content_type: str
) -> HttpResponseBase:
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


def send(request: HttpRequest, file: FieldFile, content_type: str) -> HttpResponseBase:
    """A kept file. A proxy that was told where files lie sends it, so that no thread of ours waits for a slow line;
    without one it is sent from here, of a store no more than was asked for."""
    name = file.name or ""
    if settings.ACCEL:
        answer = HttpResponse(content_type=content_type)
        answer["X-Accel-Redirect"] = _inside(file.storage, name)
        return answer
    if hasattr(file.storage, "bucket"):
        return ranged(request, Stored(file.storage, name, file.size), file.size, content_type)
    return ranged(request, file.storage.open(name, "rb"), file.size, content_type)


def _inside(storage: Any, name: str) -> str:
    """Where the proxy finds a file: below ``/kept/`` on a disk, below ``/store/`` by a signed link that ends soon."""
    if not hasattr(storage, "bucket"):
        return f"/kept/{quote(name)}"
    signed = urlsplit(storage.url(name, expire=SIGNED_S))
    return f"/store{signed.path}?{signed.query}"


class Stored(io.RawIOBase):
    """A file in a store of objects, of which only what is read is asked for."""

    def __init__(self, storage: Any, name: str, size: int) -> None:
        self.object = storage.open(name, "rb").obj
        self.size, self.at = size, 0
        self.body: Any = None

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        self.at = offset + (0, self.at, self.size)[whence]
        self.body = None
        return self.at

    def tell(self) -> int:
        return self.at

    def readinto(self, buffer: Any) -> int:
        if self.at >= self.size:
            return 0
        if self.body is None:
            self.body = self.object.get(Range=f"bytes={self.at}-")["Body"]
        data: bytes = self.body.read(len(buffer))
        buffer[: len(data)] = data
        self.at += len(data)
        return len(data)

    def close(self) -> None:
        if self.body is not None:
            self.body.close()
        super().close()
