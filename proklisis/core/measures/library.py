"""Loads every measure module, so that the registry is whole."""

from __future__ import annotations

from proklisis.core.measures import (
    edge,
    fore_aft,
    joints,
    load,
    rotation,
    stance,
    tilt,
    timing,
)
from proklisis.core.measures.registry import REGISTRY, Measure

#: Modules that declare measures as they load.
MODULES = (edge, fore_aft, joints, load, rotation, stance, tilt, timing)
ALL: list[Measure] = list(REGISTRY.values())
