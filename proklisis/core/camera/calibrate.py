"""The camera from what a coach marks on one picture: level, lens and scale, each with its ±.

Pixels have x to the right and y down; the camera's facts are those of :class:`proklisis.core.tracks.tracks.ClipFacts`.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from proklisis.core.camera.projection import undistort_radial
from proklisis.core.errors import InputError
from proklisis.core.tracks.by_hand import HAND_U_SHARE, hand_u

Array = NDArray[np.float64]
#: A horizon or a wall is itself level or plumb to about this, degrees (house choice).
THING_U_DEG = 0.5
#: No camera is held more askew than this; a line beyond it is a slope or a leaning pole.
MOST_ROLL_DEG = 30.0
#: The radial terms are fitted to this many degrees from the picture's middle.
FISHEYE_TO_DEG = 62.0


@dataclass(frozen=True)
class Level:
    """Degrees by which the picture is turned counter-clockwise to stand upright, and its standard uncertainty."""

    roll_deg: float
    u_deg: float


@dataclass(frozen=True)
class Lens:
    """Focal length in pixels and radial terms; ``u_px`` how far from straight the marked lines still are, RMS."""

    focal_px: float
    k1: float
    k2: float
    u_px: float = 0.0


def _ends(points: Sequence[Sequence[float]], what: str, width: int) -> tuple[Array, float]:
    p = np.asarray(points, float)
    if p.shape != (2, 2) or not np.isfinite(p).all():
        raise InputError(f"{what} is marked by two points", "camera", "mark its two ends")
    length = float(np.linalg.norm(p[1] - p[0]))
    if length < 0.04 * width:
        raise InputError(
            f"the two points of {what} are too close together", "camera", "mark them farther apart"
        )
    return p, length


def level_from_line(points: Sequence[Sequence[float]], width: int, plumb: bool = False) -> Level:
    """Roll from two points on the horizon, or on something that stands plumb.

    Raises InputError when they are too close, or lie more than :data:`MOST_ROLL_DEG` off.
    """
    p, length = _ends(points, "a plumb thing" if plumb else "the horizon", width)
    d = p[1] - p[0]
    angle = math.degrees(math.atan2(d[0], -d[1]) if plumb else math.atan2(d[1], d[0]))
    # Either end may have been marked first.
    roll = (angle + 90) % 180 - 90
    if abs(roll) > MOST_ROLL_DEG:
        raise InputError(
            f"that line lies {abs(roll):.0f}° off",
            "camera",
            "mark the horizon, or something that stands plumb",
        )
    u = math.degrees(math.sqrt(2) * HAND_U_SHARE * width / length)
    return Level(roll, math.hypot(u, THING_U_DEG))


def scale_from_length(
    points: Sequence[Sequence[float]], metres: float, width: int
) -> tuple[float, float]:
    """Pixels a metre at the marked thing, and their relative standard uncertainty."""
    if not 0.05 <= metres <= 200:
        raise InputError(
            f"a length of {metres:g} m is out of range", "camera", "give metres from 0.05 to 200"
        )
    _, length = _ends(points, "a known length", width)
    return length / metres, math.hypot(math.sqrt(2) * HAND_U_SHARE * width / length, 0.01)


def lens_from_view(across_deg: float, width: int, fisheye: bool = False) -> Lens:
    """The lens from how wide it sees across the picture, degrees.

    A straight-line lens has no radial terms. A fisheye is taken as equidistant (r = f·θ); its radial
    terms are fitted to that inside :data:`FISHEYE_TO_DEG` of the axis.
    """
    if not 5 <= across_deg <= (170 if fisheye else 140):
        raise InputError(
            f"a view of {across_deg:g}° across is out of range",
            "camera",
            "give 5° to 140°, a fisheye to 170°",
        )
    half = math.radians(across_deg) / 2
    if not fisheye:
        return Lens(width / 2 / math.tan(half), 0.0, 0.0)
    theta = np.linspace(0.02, min(half, math.radians(FISHEYE_TO_DEG)), 60)
    r = np.tan(theta)
    a = np.stack([r**3, r**5], axis=1)
    k, *_ = np.linalg.lstsq(a, theta - r, rcond=None)
    focal = width / 2 / half
    return Lens(
        focal, float(k[0]), float(k[1]), float(focal * np.sqrt(np.mean((a @ k - (theta - r)) ** 2)))
    )


def lens_from_lines(lines: Sequence[Sequence[Sequence[float]]], width: int, height: int) -> Lens:
    """The first radial term that makes lines straight which are straight in the world (plumb-line method).

    Brown, *Close-range camera calibration*, 1971 (the idea; the parametrisation is OpenCV's). The focal
    length is set to the picture's width: it and the radial term cannot be told apart by straight lines.

    Parameters
    ----------
    lines : each three points or more along one straight thing, not all through the picture's middle

    Raises
    ------
    InputError : with fewer than three points a line, or lines that tell nothing of the lens
    """
    given = [np.asarray(line, float) for line in lines]
    if not given or any(line.ndim != 2 or len(line) < 3 for line in given):
        raise InputError(
            "a straight thing is marked by three points or more",
            "camera",
            "mark its ends and points between",
        )
    centre, focal = np.array([width, height]) / 2, float(width)

    def off(k: Array) -> Array:
        return np.concatenate(
            [_off_line(undistort_radial(line, focal, centre, float(k[0]), 0.0)) for line in given]
        )

    fit = least_squares(off, [0.0], bounds=([-1.0], [1.0]))
    spread = float(np.linalg.norm(np.asarray(fit.jac)))
    if spread * 0.05 < hand_u(width):
        raise InputError(
            "these lines tell nothing of the lens",
            "camera",
            "mark long straight things near the picture's edges",
        )
    return Lens(focal, float(fit.x[0]), 0.0, float(np.sqrt(np.mean(off(fit.x) ** 2))))


def _off_line(p: Array) -> Array:
    """Signed distance of each point from the straight line that fits them best."""
    d = p - p.mean(axis=0)
    _, _, v = np.linalg.svd(d, full_matrices=False)
    return np.asarray(d @ v[-1])
