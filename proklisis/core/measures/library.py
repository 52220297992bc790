"""Loads every measure module, so that the registry is whole."""

from __future__ import annotations

from proklisis.core.measures import (
    drops,
    edge,
    fore_aft,
    joints,
    load,
    loops,
    inline,
    jumps,
    kites,
    poling,
    rope,
    sails,
    skating,
    waves,
    wheels,
    rotation,
    shared,
    snowboarding,
    stance,
    tilt,
    timing,
)
from proklisis.core.measures.declared import gates
from proklisis.core.measures.registry import REGISTRY, Measure

#: Handed in on run sheets, not read from tracks.
DECLARED = (gates,)
#: Modules that declare measures as they load.
MODULES = (drops, edge, fore_aft, joints, load, loops, inline, jumps, kites, poling, rope, sails, skating, waves, wheels, rotation, shared, snowboarding, stance, tilt, timing, *DECLARED)
ALL: list[Measure] = list(REGISTRY.values())
