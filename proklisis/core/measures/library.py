"""Loads every measure module, so that the registry is whole."""

from __future__ import annotations

from proklisis.core.measures import (
    edge,
    fore_aft,
    joints,
    load,
    inline,
    jumps,
    poling,
    skating,
    wheels,
    rotation,
    shared,
    snowboarding,
    stance,
    tilt,
    timing,
)
from proklisis.core.measures.declared import (
    drops,
    gates,
    kites,
    loops,
    rope,
    sails,
    waves,
)
from proklisis.core.measures.registry import REGISTRY, Measure

#: Handed in on run sheets, not read from tracks.
DECLARED = (drops, gates, kites, loops, rope, sails, waves)
#: Modules that declare measures as they load.
MODULES = (edge, fore_aft, joints, load, inline, jumps, poling, skating, wheels, rotation, shared, snowboarding, stance, tilt, timing, *DECLARED)
ALL: list[Measure] = list(REGISTRY.values())
