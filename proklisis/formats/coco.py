"""Tracks as COCO keypoints: one image per frame and one annotation of the rider in it.

What COCO has no place for (times, ±, sources, metres and the clip's facts) stands beside its own keys,
where readers of COCO pass it over. Files of other programs are read by their keypoints' names.
"""

from __future__ import annotations

from collections import defaultdict
from typing import Any

import numpy as np

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.tracks.landmarks import ALL, BONES, is_scene
from proklisis.core.tracks.tracks import SOURCES, Tracks
from proklisis.formats.table import facts_from

#: Keypoints of the COCO person category that go by another name here; the eyes are not followed.
NAMES = {
    f"{long}_{part}": f"{short}_{part}" for long, short in (("left", "l"), ("right", "r"))
    for part in ("ear", "shoulder", "elbow", "wrist", "hip", "knee", "ankle", "heel", "toe")
} | {"left_big_toe": "l_toe", "right_big_toe": "r_toe"}  # fmt: skip
PASSED_OVER = ("left_eye", "right_eye")


def to_coco(tracks: Tracks) -> dict[str, Any]:
    """Return the tracks as a COCO object ready for JSON. Visibility is 2 where a point is seen, else 0."""
    facts = tracks.facts
    seen = np.isfinite(tracks.xy[..., 0])
    images, annotations = [], []
    for i, frame in enumerate(tracks.frames.tolist()):
        images.append(
            {
                "id": frame,
                "file_name": f"{frame:06d}.png",
                "width": facts.width,
                "height": facts.height,
                "t_s": float(tracks.t[i]),
            }
        )
        points = [
            v
            for xy, s in zip(tracks.xy[i].tolist(), seen[i], strict=True)
            for v in ((*xy, 2) if s else (0, 0, 0))
        ]
        lo, hi = _box(tracks.xy[i][seen[i]])
        annotation: dict[str, Any] = {
            "id": frame + 1, "image_id": frame, "category_id": 1, "iscrowd": 0, "keypoints": points, "num_keypoints": int(seen[i].sum()),
            "bbox": [*lo, *(b - a for a, b in zip(lo, hi, strict=True))], "area": (hi[0] - lo[0]) * (hi[1] - lo[1]),
            "keypoints_u": [v if s else None for v, s in zip(tracks.u[i].tolist(), seen[i], strict=True)],
            "keypoints_source": [SOURCES[s] for s in tracks.source[i]],
        }  # fmt: skip
        if tracks.xyz is not None:
            annotation["keypoints_m"] = [
                p if np.isfinite(p).all() else None for p in tracks.xyz[i].tolist()
            ]
        annotations.append(annotation)
    index = {name: k + 1 for k, name in enumerate(tracks.names)}
    return {
        "info": {"description": "Tracks of one rider", "format": "tracks/1", "clip": facts.model_dump(exclude_none=True)},
        "licenses": [],
        "images": images,
        "annotations": annotations,
        "categories": [
            {
                "id": 1, "name": "person", "supercategory": "person", "keypoints": list(tracks.names),
                "skeleton": [[index[a], index[b]] for a, b in BONES if a in index and b in index],
            }
        ],
    }  # fmt: skip


def _box(points: np.ndarray) -> tuple[list[float], list[float]]:
    if not len(points):
        return [0.0, 0.0], [0.0, 0.0]
    return points.min(axis=0).tolist(), points.max(axis=0).tolist()


def from_coco(data: dict[str, Any], where: str) -> Tracks:
    """Read a COCO object. Of several people in the pictures it takes the one with the largest boxes in all.

    Raises InputError where the keypoints have no names, or the frames no times and no rate.
    """
    try:
        return _read(data, where)
    except (KeyError, TypeError, ValueError, IndexError, AttributeError) as e:
        if isinstance(e, InputError):
            raise
        raise InputError(
            f"this is not COCO keypoints as the format has them ({e!r})", where, "export it again"
        ) from e


def _read(data: dict[str, Any], where: str) -> Tracks:
    categories = {c["id"]: c for c in data["categories"] if c.get("keypoints")}
    if not categories:
        raise InputError(
            "no category names its keypoints", f"{where}: categories", "export keypoints, not boxes"
        )
    images = sorted(data["images"], key=lambda im: (im.get("t_s", im["id"]), im["id"]))
    info = data.get("info") or {}
    facts = info.get("clip") or {
        "fps": info.get("fps") or _rate(images, where), "width": images[0].get("width", 1280), "height": images[0].get("height", 720),
    }  # fmt: skip
    clip = facts_from(facts, where)
    chosen = _rider(data["annotations"], categories)
    if not chosen:
        raise InputError("nobody has keypoints", f"{where}: annotations")
    category = categories[next(iter(chosen.values()))["category_id"]]
    names = [NAMES.get(n, n) for n in category["keypoints"]]
    strange = next(
        (n for n in names if n not in ALL and not is_scene(n) and n not in PASSED_OVER), None
    )
    if strange is not None:
        raise InputError(
            f"the keypoint {strange!r} is not known", f"{where}: categories", nearest(strange, ALL)
        )
    used = [k for k, n in enumerate(names) if n not in PASSED_OVER]
    frames = np.array([im.get("frame", im["id"]) for im in images], np.int64)
    if "t_s" not in images[0] and not info.get("clip"):
        frames = frames - frames[0]
    t = np.array(
        [im.get("t_s", f / clip.fps) for im, f in zip(images, frames.tolist(), strict=True)], float
    )
    shape = (len(images), len(used))
    xy, u = np.full((*shape, 2), np.nan), np.full(shape, np.nan)
    source = np.full(shape, SOURCES.index("imported"), np.uint8)
    xyz = np.full((*shape, 3), np.nan) if any("keypoints_m" in a for a in chosen.values()) else None
    for i, image in enumerate(images):
        a = chosen.get(image["id"])
        if a is None:
            continue
        points = np.array(a["keypoints"], float).reshape(-1, 3)[used]
        seen = points[:, 2] > 0
        xy[i, seen] = points[seen, :2]
        given_u = a.get("keypoints_u") or [2.0] * len(names)
        u[i, seen] = [given_u[k] for k, s in zip(used, seen, strict=True) if s]
        if "keypoints_source" in a:
            source[i] = [SOURCES.index(a["keypoints_source"][k]) for k in used]
        if xyz is not None and "keypoints_m" in a:
            for j, k in enumerate(used):
                if a["keypoints_m"][k] is not None:
                    xyz[i, j] = a["keypoints_m"][k]
    if not np.isfinite(xy).any():
        raise InputError("no keypoint is visible in any frame", f"{where}: annotations")
    return Tracks(frames, t, tuple(names[k] for k in used), xy, u, source, clip, xyz)


def _rate(images: list[dict[str, Any]], where: str) -> float:
    times = [im["t_s"] for im in images if "t_s" in im]
    if len(times) == len(images) > 1:
        return float(1 / np.median(np.diff(times)))
    raise InputError(
        "the frames have no times",
        f"{where}: images",
        'give each image "t_s" in seconds, or info "fps"',
    )


def _rider(
    annotations: list[dict[str, Any]], categories: dict[int, Any]
) -> dict[int, dict[str, Any]]:
    """Image id → the rider's annotation: one person throughout where they are known apart, else the largest."""
    area: dict[Any, float] = defaultdict(float)
    people = [a for a in annotations if a.get("category_id") in categories and a.get("keypoints")]
    for a in people:
        area[a.get("track_id")] += (
            a["bbox"][2] * a["bbox"][3] if a.get("bbox") else float(a.get("area", 0))
        )
    who = max(area, key=lambda k: area[k], default=None)
    out: dict[int, dict[str, Any]] = {}
    for a in (a for a in people if a.get("track_id") == who):
        old = out.get(a["image_id"])
        if old is None or a.get("area", 0) > old.get("area", 0):
            out[a["image_id"]] = a
    return out
