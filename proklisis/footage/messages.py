"""Messages from a child that decodes a stranger's file: plain data and arrays, never code.

A message is a line of JSON and, behind it, the bytes of its arrays. What comes back is built from
names on a list; a child that a hostile file has taken over can send wrong numbers, and nothing else.
"""

from __future__ import annotations

import importlib
import json
import struct
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from pydantic import BaseModel

#: What may come back besides plain data, by the place it is defined at.
KNOWN = frozenset({
    "proklisis.footage.probe:Clip", "proklisis.footage.follow:Piece", "proklisis.footage.people:Someone",
    "proklisis.footage.carry:Carried", "proklisis.core.tracks.tracks:Tracks", "proklisis.core.tracks.tracks:ClipFacts",
    "proklisis.core.tracks.tracks:Plane", "proklisis.footage.goes:Go",
})  # fmt: skip
#: Lengths of the JSON and of the arrays, bytes; and how long either may be.
HEAD = struct.Struct(">QQ")
MOST = 2**31
#: Kinds of numbers an array may hold: truth, whole, unsigned and real.
NUMBERS = "biuf"


class Garbled(Exception):
    """What came is no message of ours."""


def send(out: BinaryIO, kind: str, value: Any) -> None:
    """Write one message. TypeError for a value that no message can hold."""
    arrays: list[bytes] = []
    text = json.dumps([kind, _plain(value, arrays)]).encode()
    out.write(HEAD.pack(len(text), sum(map(len, arrays))))
    out.write(text)
    for data in arrays:
        out.write(data)
    out.flush()


def receive(read: Callable[[int], bytes]) -> tuple[str, Any]:
    """Read one message; ``read(n)`` gives exactly n bytes or raises. Garbled for anything else."""
    text_length, data_length = HEAD.unpack(read(HEAD.size))
    if text_length > MOST or data_length > MOST:
        raise Garbled(f"{text_length} and {data_length} bytes are said to come")
    text, data = read(text_length), read(data_length)
    try:
        kind, value = json.loads(text)
        return str(kind), _built(value, data)
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, RecursionError) as e:
        raise Garbled(str(e)) from e


def _plain(value: Any, arrays: list[bytes]) -> Any:
    if value is None or isinstance(value, bool | int | float | str):
        return value
    if isinstance(value, np.generic):
        return value.item()
    if isinstance(value, np.ndarray):
        if value.dtype.kind not in NUMBERS:
            raise TypeError(f"an array of {value.dtype} is not sent")
        at = sum(map(len, arrays))
        arrays.append(np.ascontiguousarray(value).tobytes())
        return {"array": [value.dtype.str, list(value.shape), at]}
    if isinstance(value, list):
        return {"list": [_plain(v, arrays) for v in value]}
    if isinstance(value, tuple):
        return {"tuple": [_plain(v, arrays) for v in value]}
    if isinstance(value, dict):
        return {"dict": [[_plain(k, arrays), _plain(v, arrays)] for k, v in value.items()]}
    if isinstance(value, Path):
        return {"path": str(value)}
    name = f"{type(value).__module__}:{type(value).__qualname__}"
    if name not in KNOWN:
        raise TypeError(f"{name} is not sent")
    names = (
        type(value).model_fields
        if isinstance(value, BaseModel)
        else [f.name for f in fields(value) if f.init]
    )
    return {"class": name, "fields": {n: _plain(getattr(value, n), arrays) for n in names}}


def _built(value: Any, data: bytes) -> Any:
    if not isinstance(value, dict):
        if isinstance(value, list):
            raise Garbled("a bare list")
        return value
    if "array" in value:
        dtype, shape, at = np.dtype(value["array"][0]), tuple(value["array"][1]), value["array"][2]
        if dtype.kind not in NUMBERS or any(n < 0 for n in shape):
            raise Garbled(f"an array of {dtype}")
        count = int(np.prod(shape, dtype=np.int64))
        return np.frombuffer(data, dtype, count, at).reshape(shape).copy()
    if "list" in value:
        return [_built(v, data) for v in value["list"]]
    if "tuple" in value:
        return tuple(_built(v, data) for v in value["tuple"])
    if "dict" in value:
        return {_built(k, data): _built(v, data) for k, v in value["dict"]}
    if "path" in value:
        return Path(value["path"])
    if value["class"] not in KNOWN:
        raise Garbled(f"{value['class']} is not known")
    module, _, name = value["class"].partition(":")
    kind = getattr(importlib.import_module(module), name)
    given = {k: _built(v, data) for k, v in value["fields"].items()}
    assert is_dataclass(kind) or issubclass(kind, BaseModel)
    return kind(**given)
