"""A stored clip as the ``footage`` package knows it."""

from __future__ import annotations

from pathlib import Path

from proklisis.footage.probe import Clip as Footage
from proklisis.web.runs import blobs
from proklisis.web.runs.models import Clip


def footage_of(clip: Clip, path: Path) -> Footage:
    """The clip as the ``footage`` package knows it, from what was found when it was looked at; ``path`` holds its content."""
    t, keys = blobs.unpack_index(clip.index)
    return Footage(
        path, clip.width, clip.height, clip.codec, clip.rotation, t, clip.container,
        (clip.stored_width, clip.stored_height), clip.start_s, clip.filmed_hint, keys, clip.into_s,
    )  # fmt: skip
