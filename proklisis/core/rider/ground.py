"""What runs on the ice, read off a picture taken from anywhere, by four marked corners of a known rectangle.

Only what lies on the ice can be read that way, the skating blade. Boots and body are above it, and would be
shown behind where they are.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera.projection import on_plane, plane_from_four, undistort_radial
from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import BLADES
from proklisis.core.tracks.tracks import Plane, Tracks

Array = NDArray[np.float64]
#: The unit of what was read: so many to the metre, near what a picture has.
PER_METRE = 200.0
#: Corners are this far from lying on one line, as a share of their sides (house choice).
LEAST_BEND = 0.05


def is_flat(tracks: Tracks) -> bool:
    """Whether only the ice is read of these tracks: filmed obliquely, with its four corners marked."""
    return tracks.xyz is None and tracks.facts.view == "oblique" and tracks.facts.plane is not None


def check_plane(plane: Plane) -> None:
    """Raise InputError where the four corners are no four-sided figure, marked one after the other around it."""
    p = np.asarray(plane.corners)
    side = np.roll(p, -1, axis=0) - p
    long = np.hypot(*side.T)
    after = np.roll(side, -1, axis=0)
    bend = (side[:, 0] * after[:, 1] - side[:, 1] * after[:, 0]) / np.maximum(
        long * np.roll(long, -1), 1e-9
    )
    if not ((bend > LEAST_BEND).all() or (bend < -LEAST_BEND).all()):
        raise InputError(
            "these four places are no corners of a rectangle",
            "camera",
            "mark its corners one after the other, all the way round",
        )


def onto_ice(plane: Plane, xy: Array) -> Array:
    """(…, 2) units on the ice as seen from above, y down, of undistorted pixels; NaN beyond the horizon.

    The first corner is the origin and the first side the x axis. Corners may go round either way: what is
    seen from above is never mirrored.
    """
    p = np.asarray(plane.corners)
    d = np.roll(p, -1, axis=0)
    way = float(np.sign((p[:, 0] * d[:, 1] - p[:, 1] * d[:, 0]).sum()))
    a, b = plane.sides_m
    return PER_METRE * on_plane(
        plane_from_four(p, np.array([[0, 0], [a, 0], [a, way * b], [0, way * b]])), xy
    )


def _stretch(plane: Plane, px: Array) -> tuple[Array, Array]:
    """(…, 2) where pixels lie on the ice, and (…) how far a step of one pixel goes there, the mean over its directions."""
    at, right, down = (onto_ice(plane, px + step) for step in ([0.0, 0.0], [1.0, 0.0], [0.0, 1.0]))
    return at, np.sqrt((((right - at) ** 2).sum(axis=-1) + ((down - at) ** 2).sum(axis=-1)) / 2)


def metres_per_px(plane: Plane) -> float:
    """How far on the ice a pixel is in the middle of the four corners."""
    return float(_stretch(plane, np.mean(plane.corners, axis=0))[1]) / PER_METRE


def ice_points(tracks: Tracks) -> tuple[dict[str, Array], dict[str, Array]]:
    """The blades: name → (n, 3) across, along, and up in the picture; name → (n,) standard uncertainty.

    The way of the background is taken out, so that places are those of the ice.
    """
    f = tracks.facts
    assert f.plane is not None
    centre = np.array([f.width, f.height]) / 2
    drift = (
        tracks.point("scene_drift") if "scene_drift" in tracks.index else np.zeros((len(tracks), 2))
    )
    points, u = {}, {}
    for name in (n for n in tracks.names if n in BLADES):
        px = undistort_radial(tracks.point(name), f.focal_px or f.width, centre, f.k1, f.k2) - drift
        at, stretch = _stretch(f.plane, px)
        points[name] = np.stack([at[:, 0], -at[:, 1], -px[:, 1]], axis=1)
        u[name] = tracks.u[:, tracks.index[name]] * stretch
    return points, u
