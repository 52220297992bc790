"""Whether the ground went by as fast as riders go, or a camera that went along saw only what is far."""

from __future__ import annotations

import numpy as np

from proklisis.core.anthropometry import TRUNK
from proklisis.core.signals import lowpass
from proklisis.core.tracks.tracks import Tracks

#: Stature that is taken where neither the rider's nor a scale is known, metres (house choice).
USUAL_M = 1.70
#: Riders go at this share of their sport's usual speed at the least: what plays four times slower than life still does.
LEAST_SHARE = 0.12
#: Low-pass of the way, so that a tracker's jitter is none, hertz (house choice).
SWAY_HZ = 1.0
SIDES = ("side_left", "side_right")
NOTE = (
    "The ground beside the rider was not followed: what is far off stands still, as for a camera that goes along. Paths and speeds "
    "over the ground are not read."
)


def ground_held(tracks: Tracks, speed_ms: float) -> tuple[Tracks, tuple[str, ...]]:
    """Tracks that say whether the ground's way along the travel is known, and what to tell the coach where it cannot be true.

    A rider seen from the side passes the ground. Where the background says that they hardly do, it was that of far hills. How the
    picture went up and down is the same for all of it, and stays. ``speed_ms``: the sport's usual speed, metres a second.
    """
    if tracks.facts.view not in SIDES or tracks.xyz is not None or not tracks.has("scene_drift"):
        return tracks, ()
    needed = ("l_hip", "r_hip", "l_shoulder", "r_shoulder")
    if not tracks.has(*needed):
        return tracks, ()
    hips = (tracks.point("l_hip") + tracks.point("r_hip")) / 2
    shoulders = (tracks.point("l_shoulder") + tracks.point("r_shoulder")) / 2
    trunk = float(np.nanpercentile(np.linalg.norm(shoulders - hips, axis=1), 90))
    stature = (tracks.facts.height_cm or 100 * USUAL_M) / 100
    px_per_m = tracks.facts.px_per_m or trunk / (TRUNK * stature)
    way = (hips - tracks.point("scene_drift"))[:, 0]
    seen = np.flatnonzero(np.isfinite(way))
    if len(seen) < 12:
        return tracks, ()
    # There and back counts both ways: loops end where they began.
    filled = lowpass(np.interp(tracks.t, tracks.t[seen], way[seen]), tracks.facts.fps, SWAY_HZ)
    gone = float(np.abs(np.diff(filled)).sum()) / px_per_m
    took = float(tracks.t[seen[-1]] - tracks.t[seen[0]])
    if gone >= LEAST_SHARE * speed_ms * took:
        return tracks, ()
    return tracks.with_facts(ground_along=False), (NOTE,)
