"""Speed over snow as cycles and their length."""

from __future__ import annotations


def speed(cadence_hz: float, cycle_m: float) -> float:
    """Metres a second: cycles a second × metres a cycle."""
    return cadence_hz * cycle_m


def cycle_length(speed_ms: float, cadence_hz: float) -> float:
    """Metres a cycle."""
    return speed_ms / cadence_hz
