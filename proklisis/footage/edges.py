"""Straight edges around the rider, off the body: what skis, boards, poles and masts look like in one picture."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import CHAIN
from proklisis.core.tracks.landmarks import BODY

Array = NDArray[np.float64]
#: So many edges of a picture are kept, the longest ones.
MOST = 48
#: The square around the rider reaches so many statures from the hips.
REACH = 1.25
#: It is looked at at this many pixels a side.
SIDE = 480
#: Shorter edges are none, statures.
SHORTEST = 0.045
#: An edge that lies in the body for more than this share is the body's.
IN_BODY = 0.5
#: An edge whose line passes farther from feet, hands and hips, or begins farther from them, is the background's; statures.
PASSES, BEGINS = 0.16, 0.75
ANCHORS = ("l_ankle", "r_ankle", "l_toe", "r_toe", "l_wrist", "r_wrist", "l_hip", "r_hip")
#: Points along an edge at which it is held against the body.
LOOKS = 5
#: Half as thick as limbs are with clothes on, statures.
ARM, LEG, TRUNK, FOOT, HEAD = 0.035, 0.05, 0.085, 0.03, 0.085
LIMBS = (
    *((f"{s}_{a}", f"{s}_{b}", r) for s in "lr" for a, b, r in (
        ("shoulder", "elbow", ARM), ("elbow", "wrist", ARM), ("shoulder", "hip", TRUNK), ("hip", "knee", LEG), ("knee", "ankle", LEG),
        ("ankle", "heel", FOOT), ("ankle", "toe", FOOT),
    )),
    ("l_shoulder", "r_hip", TRUNK), ("r_shoulder", "l_hip", TRUNK), ("l_shoulder", "r_shoulder", ARM), ("l_ear", "r_ear", HEAD), ("nose", "nose", HEAD),
)  # fmt: skip
#: Pictures over which the stature in pixels is steadied.
STEADY = 15


@dataclass
class Edges:
    """Feed pictures in order; each call returns the edges of one."""

    _statures: deque[float] = field(
        default_factory=lambda: deque(maxlen=STEADY), init=False, repr=False
    )
    _finder: cv2.LineSegmentDetector = field(
        default_factory=lambda: cv2.createLineSegmentDetector(cv2.LSD_REFINE_STD),
        init=False,
        repr=False,
    )

    def at(self, picture: NDArray[np.uint8], body: Array) -> NDArray[np.float32]:
        """(MOST, 4) x, y of both ends of each edge in pixels, longest first; NaN where there are fewer.

        ``body`` (19, 2) is where the rider was found in this picture.
        """
        out = np.full((MOST, 4), np.nan, np.float32)
        self._statures.append(stature_px(body))
        tall = float(np.median(self._statures))
        h, w = picture.shape[:2]
        at = {n: body[BODY.index(n)] for n in BODY}
        centre = (at["l_hip"] + at["r_hip"]) / 2
        x0, y0 = np.maximum(centre - REACH * tall, 0).astype(int)
        x1, y1 = np.minimum(centre + REACH * tall, [w, h]).astype(int)
        if x1 - x0 < 32 or y1 - y0 < 32 or tall < 20:
            return out
        scale = min(SIDE / (2 * REACH * tall), 1.0)
        grey = cv2.cvtColor(picture[y0:y1, x0:x1], cv2.COLOR_RGB2GRAY)
        if scale < 1:
            grey = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        found = self._finder.detect(grey)[0]
        if found is None:
            return out
        lines = np.asarray(found, float).reshape(-1, 4)
        long = np.linalg.norm(lines[:, 2:] - lines[:, :2], axis=1)
        lines = lines[long > SHORTEST * tall * scale]
        shape = _shape(grey.shape, at, np.array([x0, y0]), scale, tall)
        lines = lines[_share_inside(lines, shape) < IN_BODY] / scale + [x0, y0, x0, y0]
        lines = lines[_near(lines, np.array([at[n] for n in ANCHORS]), tall)]
        long = np.linalg.norm(lines[:, 2:] - lines[:, :2], axis=1)
        lines = lines[np.argsort(-long)[:MOST]]
        out[: len(lines)] = lines
        return out


def stature_px(body: Array) -> float:
    """Stature in pixels from the longer leg and the trunk as they show, of a (19, 2) body."""
    at = {n: body[BODY.index(n)] for n in BODY}
    legs = [
        np.linalg.norm(at[f"{s}_hip"] - at[f"{s}_knee"]) + np.linalg.norm(at[f"{s}_knee"] - at[f"{s}_ankle"])
        for s in "lr"
    ]  # fmt: skip
    trunk = np.linalg.norm(
        at["l_shoulder"] + at["r_shoulder"] - at["l_hip"] - at["r_hip"]
    ) / 2  # fmt: skip
    return float((max(legs) + trunk) / CHAIN)


def _shape(
    size: tuple[int, ...], at: dict[str, Array], corner: Array, scale: float, tall: float
) -> NDArray[np.uint8]:
    """Where the body is in the small picture: limbs as thick as they are, 255 inside."""
    out = np.zeros(size[:2], np.uint8)
    for a, b, thick in LIMBS:
        p, q = ((scale * (at[n] - corner)).round().astype(int) for n in (a, b))
        width = max(1, round(2 * thick * tall * scale))
        cv2.line(out, (int(p[0]), int(p[1])), (int(q[0]), int(q[1])), 255, width)
    return out


def _near(lines: Array, anchors: Array, tall: float) -> NDArray[np.bool_]:
    """(k,) whether an edge could belong to what feet, hands or hips stand on or hold."""
    d = lines[:, 2:] - lines[:, :2]
    long = np.maximum(np.linalg.norm(d, axis=1), 1e-9)
    along = d / long[:, None]
    away = anchors[None] - lines[:, None, :2]
    off = np.abs(away[..., 0] * along[:, None, 1] - away[..., 1] * along[:, None, 0])
    where = (away * along[:, None]).sum(axis=-1)
    gap = np.maximum(np.maximum(-where, where - long[:, None]), 0)
    return np.asarray(((off < PASSES * tall) & (gap < BEGINS * tall)).any(axis=1))


def _share_inside(lines: Array, shape: NDArray[np.uint8]) -> Array:
    """(k,) share of each edge that lies in the body."""
    h, w = shape.shape
    along = np.linspace(0, 1, LOOKS)[:, None]
    hits = np.zeros(len(lines))
    for part in along:
        x, y = ((1 - part) * lines[:, :2] + part * lines[:, 2:]).T
        hits += shape[y.astype(int).clip(0, h - 1), x.astype(int).clip(0, w - 1)] > 0
    return hits / LOOKS
