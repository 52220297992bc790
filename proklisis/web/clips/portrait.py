"""How a run is told apart at a glance: a small picture of its rider, and the outline of its Ribbon."""

from __future__ import annotations

import cv2
import numpy as np
from django.core.files.base import ContentFile

from proklisis.core.tracks.landmarks import BODY
from proklisis.footage.still import still
from proklisis.web.runs.blobs import unpack
from proklisis.web.runs.models import Clip, Run, TrackSet
from proklisis.web.stored import on_disk

SIDE_PX = 112


def portrait(run: Run) -> Clip | None:
    """The clip with its small picture, made when it is first asked for; None where there is nothing to show."""
    clip: Clip | None = getattr(run, "clip", None)
    stored = run.tracks
    if clip is None or not clip.working or stored is None:
        return None
    if not clip.portrait:
        clip.portrait.save("portrait.jpg", ContentFile(_drawn(stored, clip)), save=False)
        if not Clip.objects.filter(pk=clip.pk, portrait="").update(portrait=clip.portrait.name):
            clip.portrait.storage.delete(clip.portrait.name or "")  # another request was quicker
            clip.refresh_from_db(fields=["portrait"])
    return clip


def _drawn(stored: TrackSet, clip: Clip) -> bytes:
    """The rider, from the frame in the middle of those in which most of them is seen."""
    tracks = unpack(stored.data)
    body = tracks.xy[:, [k for k, n in enumerate(tracks.names) if n in BODY]]
    seen = np.isfinite(body[..., 0]).sum(axis=1)
    best = np.flatnonzero(seen >= seen.max())
    row = int(best[len(best) // 2])
    with on_disk(clip.working) as path:
        picture = still(path, float(tracks.t[row]))
    h, w = picture.shape[:2]
    points = body[row][np.isfinite(body[row, :, 0])] * (clip.play_width / clip.width)
    low, high = points.min(axis=0), points.max(axis=0)
    half = float(np.clip(0.62 * (high - low).max(), 20, min(h, w) / 2))
    x, y = np.clip((low + high) / 2, half, [w - half, h - half])
    part = picture[int(y - half) : int(y + half), int(x - half) : int(x + half)]
    small = cv2.resize(part, (SIDE_PX, SIDE_PX), interpolation=cv2.INTER_AREA)
    return bytes(cv2.imencode(".jpg", small[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 80])[1])
