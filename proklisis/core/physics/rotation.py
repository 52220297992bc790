"""The rotation budget of a jump: what air time a spin needs, and what spin an air time needs."""

from __future__ import annotations

#: Time of a jump that is spent opening and closing the position, by planned turns (house choice,
#: fitted to the trade's check values).
OVERHEAD_S = ((4.0, 0.18), (3.0, 0.10), (0.0, 0.05))

QUARTER_DEG = 90.0


def overhead(planned: float) -> float:
    """Seconds that are not spent at full spin."""
    return next(s for turns, s in OVERHEAD_S if planned >= turns)


def air_time_needed(planned: float, period_s: float) -> float:
    """Air time in seconds for ``planned`` turns at ``period_s`` a turn."""
    return planned * period_s + overhead(planned)


def period_needed(planned: float, air_time_s: float, overhead_s: float) -> float:
    """Seconds a turn may take when ``planned`` turns have to fit into an air time, less what closing and opening takes."""
    return (air_time_s - overhead_s) / planned


def judging_class(shortfall_deg: float, u: float = 0.0) -> str | None:
    """How judges name a jump that lands short (international figure skating rules; value from memory).

    Missing a quarter turn is marked, more than a quarter is under-rotated, half or more is downgraded. A shortfall with
    standard uncertainty ``u`` counts as a quarter where its U = 2u reaches one.
    """
    if abs(shortfall_deg - QUARTER_DEG) <= 2 * u or shortfall_deg == QUARTER_DEG:
        return "short by a quarter"
    if shortfall_deg >= 2 * QUARTER_DEG:
        return "downgraded"
    return "under-rotated" if shortfall_deg > QUARTER_DEG else None
