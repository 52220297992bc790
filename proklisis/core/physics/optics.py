"""What a camera can show: how wide it sees, how much it blurs, what looking from aside does to a line."""

from __future__ import annotations

import math

from proklisis.core.errors import InputError


def picture_width(distance_m: float, sensor_mm: float, focal_mm: float) -> float:
    """Metres across the picture at a distance: distance × sensor width ÷ focal length."""
    if not (distance_m > 0 and sensor_mm > 0 and focal_mm > 0):
        raise InputError(
            "distance, sensor and focal length are all above 0", "camera", "measure them again"
        )
    return distance_m * sensor_mm / focal_mm


def blur_px(speed_ms: float, exposure_s: float, metres_per_px: float) -> float:
    """Pixels that something moving across the picture is smeared over."""
    return speed_ms * exposure_s / metres_per_px


def slowest_shutter(speed_ms: float, metres_per_px: float, most_px: float = 2.0) -> float:
    """Longest exposure in seconds that smears no more than ``most_px``."""
    return most_px * metres_per_px / speed_ms


def seen_tilt(tilt_deg: float, off_view_deg: float) -> float:
    """Seen tilt of a line in a plane that is turned by ψ from the picture's: tan α' = tan α·cos ψ."""
    return math.degrees(
        math.atan(math.tan(math.radians(tilt_deg)) * math.cos(math.radians(off_view_deg)))
    )


def true_tilt(seen_deg: float, off_view_deg: float) -> float:
    """Inverse of :func:`seen_tilt`."""
    return math.degrees(
        math.atan(math.tan(math.radians(seen_deg)) / math.cos(math.radians(off_view_deg)))
    )
