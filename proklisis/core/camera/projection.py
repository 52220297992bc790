"""Lens, level and projection. The forms are OpenCV's, which is the reference in the tests."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError

Array = NDArray[np.float64]
#: Nearer to the horizon than this, of the marks' distance to it, nothing can be read off a plane.
HORIZON = 0.02


def undistort_radial(xy: Array, focal_px: float, centre: Array, k1: float, k2: float) -> Array:
    """Return pixels of a straight-line picture from pixels of a distorted one.

    The radial model distorts normalised coordinates by 1 + k1·r² + k2·r⁴ (r of the straight
    picture); it is inverted by Newton's method on the radius.
    """
    if k1 == 0 and k2 == 0:
        return xy.copy()
    d = (xy - centre) / focal_px
    rd = np.linalg.norm(d, axis=-1)
    r = rd.copy()
    for _ in range(20):
        f = r * (1 + k1 * r**2 + k2 * r**4) - rd
        slope = 1 + 3 * k1 * r**2 + 5 * k2 * r**4
        r = r - f / np.where(np.abs(slope) < 1e-6, 1e-6, slope)
    scale = np.where(rd > 1e-12, r / np.where(rd > 1e-12, rd, 1.0), 1.0)
    return np.asarray(centre + d * scale[..., None] * focal_px)


def distort_radial(xy: Array, focal_px: float, centre: Array, k1: float, k2: float) -> Array:
    """Inverse of :func:`undistort_radial`."""
    p = (xy - centre) / focal_px
    r2 = (p**2).sum(axis=-1, keepdims=True)
    return np.asarray(centre + p * (1 + k1 * r2 + k2 * r2**2) * focal_px)


def level(xy: Array, roll_deg: float, centre: Array) -> Array:
    """Turn picture points by ``roll_deg`` about ``centre`` so that plumb lines stand upright.

    Positive roll turns the points counter-clockwise as seen on screen (y down).
    """
    c, s = np.cos(np.radians(roll_deg)), np.sin(np.radians(roll_deg))
    x, y = xy[..., 0] - centre[0], xy[..., 1] - centre[1]
    out = np.empty(xy.shape)
    out[..., 0] = c * x + s * y + centre[0]
    out[..., 1] = c * y - s * x + centre[1]
    return out


def look_at(position: Array, target: Array, roll_deg: float = 0.0) -> Array:
    """Return the (…, 3, 3) world-to-camera rotation, rows right, down, forward (OpenCV's axes)."""
    forward = target - position
    forward = forward / np.linalg.norm(forward, axis=-1, keepdims=True)
    up = np.broadcast_to(np.array([0.0, 0.0, 1.0]), forward.shape)
    # Straight down the vertical has no roll of its own: the course direction is picture-up there.
    steep = np.abs(forward[..., 2:3]) > 0.999
    up = np.where(steep, np.array([0.0, 1.0, 0.0]), up)
    right = np.cross(forward, up)
    right = right / np.linalg.norm(right, axis=-1, keepdims=True)
    down = np.cross(forward, right)
    c, s = np.cos(np.radians(roll_deg)), np.sin(np.radians(roll_deg))
    rows = np.stack([c * right - s * down, s * right + c * down, forward], axis=-2)
    return np.asarray(rows)


def project(
    points: Array, rotation: Array, position: Array, focal_px: float | Array, centre: Array
) -> Array:
    """Project (…, 3) metres to (…, 2) pixels by a pinhole camera. Points behind it give NaN."""
    p = np.einsum("...ij,...j->...i", rotation, points - position)
    z = np.where(p[..., 2] > 1e-6, p[..., 2], np.nan)
    return np.asarray(centre + np.asarray(focal_px)[..., None] * p[..., :2] / z[..., None])


def plane_from_four(pixels: Array, metres: Array) -> Array:
    """Return the (3, 3) map from undistorted pixels to metres on a plane, from four marked places.

    Parameters
    ----------
    pixels, metres : (4, 2) the same four places in the picture and on the ice, no three in a line

    Raises
    ------
    InputError : when three of the places lie on one line

    Solves the eight unknowns of a plane's perspective picture (Hartley & Zisserman, *Multiple View
    Geometry*, 4.1).
    """
    rows, right = [], []
    for (x, y), (u, v) in zip(pixels, metres, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    a = np.asarray(rows, float)
    if np.linalg.matrix_rank(a, tol=1e-9 * np.abs(a).max()) < 8:
        raise InputError(
            "three of the four marked places lie on one line",
            "calibration",
            "mark the corners of a four-sided figure",
        )
    plane = np.append(np.linalg.solve(a, np.asarray(right, float)), 1.0).reshape(3, 3)
    # One at the marks: what lies beyond the horizon from them is below zero.
    return plane / float(np.mean(np.asarray(pixels) @ plane[2, :2] + plane[2, 2]))


def on_plane(plane: Array, xy: Array) -> Array:
    """Metres on a plane of (…, 2) pixels that lie on it, by :func:`plane_from_four`; NaN at the horizon and beyond."""
    q = np.concatenate([xy, np.ones((*xy.shape[:-1], 1))], axis=-1) @ plane.T
    return np.asarray(q[..., :2] / np.where(q[..., 2:] > HORIZON, q[..., 2:], np.nan))
