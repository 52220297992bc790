"""Free flight: what time in the air says about height."""

from __future__ import annotations

from proklisis.core.errors import InputError

#: Standard acceleration of gravity, m/s² (3rd CGPM, 1901).
GRAVITY = 9.80665


def flight_height(air_time_s: float) -> float:
    """Rise in metres of a flight that ends at the height where it began: g·t²/8.

    Half the time is spent falling from the top: h = g·(t/2)²/2.
    """
    if not air_time_s >= 0:
        raise InputError(
            f"an air time of {air_time_s:g} s cannot be", "air_time", "give seconds, 0 or more"
        )
    return GRAVITY * air_time_s**2 / 8


def air_time(height_m: float) -> float:
    """Seconds aloft for a rise of ``height_m``: the inverse of :func:`flight_height`."""
    if not height_m >= 0:
        raise InputError(
            f"a height of {height_m:g} m cannot be", "flight_height", "give metres, 0 or more"
        )
    return float((8 * height_m / GRAVITY) ** 0.5)
