"""Simulated riders, one module per discipline."""

from __future__ import annotations

from importlib import import_module

from proklisis.simulate.score import Rider

_MODULES = (
    "double_pole",
    "drop_boof",
    "figure_jump",
    "figure_loop",
    "inline_start",
    "kite_roll",
    "moto_stance",
    "slalom_ski",
    "snowboard",
    "speed_skate",
    "surf_turn",
    "trail_stance",
    "windsurf_gybe",
)
RIDERS: dict[str, Rider] = {name: import_module(f"{__name__}.{name}").RIDER for name in _MODULES}
