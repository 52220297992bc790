"""The rider cut out of single frames: asked for by a page, made by a job, kept with the tracks."""

from __future__ import annotations

import logging
from collections.abc import Iterable

import numpy as np
from django.core.files.base import ContentFile

from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import SCENE
from proklisis.core.tracks.tracks import Tracks
from proklisis.footage.crops import crops as cut
from proklisis.footage.limited import limited
from proklisis.web.clips.footage import footage_of
from proklisis.web.runs.blobs import unpack
from proklisis.web.runs.jobs import put_once
from proklisis.web.runs.models import Crop, Run, TrackSet
from proklisis.web.stored import on_disk

logger = logging.getLogger(__name__)
#: So much of their largest extent is shown around a rider, and no less than this, pixels (house choice).
AROUND, LEAST_PX = 0.2, 48
#: Pictures that are made in one go, so that the first can be looked at early.
AT_ONCE = 60
#: CPU seconds that decoding a frame may take, as for a slow codec at 4K, and that opening takes.
FRAME_CPU_S, LOOK_CPU_S = 1.0, 60.0


def asked(run: Run, numbers: Iterable[int]) -> dict[int, Crop]:
    """The crops of these frames; those that are not there are put down, and a job makes them. Empty where there is no clip."""
    stored = run.tracks
    if stored is None or not hasattr(run, "clip") or not run.clip.working:
        return {}
    wanted = sorted(set(numbers))
    have = {c.frame: c for c in stored.crops.filter(frame__in=wanted)}
    missing = [n for n in wanted if n not in have]
    if missing:
        tracks = unpack(stored.data)
        Crop.objects.bulk_create(
            [Crop(track_set=stored, frame=n, box=box_of(tracks, n, run.clip.width, run.clip.height)) for n in missing],
            ignore_conflicts=True,
        )  # fmt: skip
        have |= {c.frame: c for c in stored.crops.filter(frame__in=missing)}
    if any(not c.file and not c.problem for c in have.values()):
        put_once("crop", f"crop-{stored.pk}", track_set_id=stored.pk)
    return have


def box_of(tracks: Tracks, number: int, width: int, height: int) -> list[float]:
    """A square about the rider in a frame (left, top, width, height, pixels of the clip), the whole picture where nobody is seen near it."""
    row = int(np.abs(tracks.frames - number).argmin())
    names = [k for k, n in enumerate(tracks.names) if n not in SCENE]
    points = tracks.xy[row, names]
    points = points[np.isfinite(points).all(axis=1)]
    inside = points[((points >= 0) & (points <= [width, height])).all(axis=1)]
    if not len(inside):
        return [0.0, 0.0, float(width), float(height)]
    low, high = inside.min(axis=0), inside.max(axis=0)
    half = max((0.5 + AROUND) * float((high - low).max()), LEAST_PX)
    half = min(half, width / 2, height / 2)
    x, y = np.clip((low + high) / 2, half, [width - half, height - half])
    return [round(float(v), 2) for v in (x - half, y - half, 2 * half, 2 * half)]


def make(track_set_id: int) -> None:
    """Make what is asked for of these tracks, some at a time, until nothing is left."""
    stored = (
        TrackSet.objects.select_related("run__clip__film").filter(pk=track_set_id).first()
    )  # fmt: skip
    if stored is None or not hasattr(stored.run, "clip"):
        return
    clip = stored.run.clip
    while waiting := list(stored.crops.filter(file="", problem="")[:AT_ONCE]):
        frames = waiting[-1].frame - waiting[0].frame + 1
        try:
            with on_disk(clip.source) as path:
                made = limited(
                    cut, footage_of(clip, path), {c.frame: c.box for c in waiting},
                    name=clip.name, seconds=LOOK_CPU_S + FRAME_CPU_S * frames,
                )  # fmt: skip
            why = "This frame cannot be decoded."
        except InputError as e:
            made, why = {}, str(e)[:300]
        except RuntimeError:
            # Asked for again and again, it would fail again and again.
            logger.exception("crops of tracks %s", track_set_id)
            made, why = {}, "This picture could not be made."
        for crop in waiting:
            if crop.frame in made:
                crop.file.save("crop.jpg", ContentFile(made[crop.frame].tobytes()), save=False)
                # The tracks may have gone meanwhile, and the row with them.
                if not Crop.objects.filter(pk=crop.pk).update(file=crop.file.name):
                    crop.file.storage.delete(crop.file.name or "")
            else:
                Crop.objects.filter(pk=crop.pk).update(problem=why)
