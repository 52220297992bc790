"""Loads every measure module, so that the registry is whole."""

from __future__ import annotations

from proklisis.core.measures import (
    drops,
    edge,
    fore_aft,
    gates,
    inline,
    joints,
    jumps,
    kites,
    load,
    loops,
    poling,
    rope,
    rotation,
    sails,
    shared,
    skating,
    snowboarding,
    stance,
    tilt,
    timing,
    waves,
    wheels,
)
from proklisis.core.measures.registry import REGISTRY, Measure

#: Modules that declare measures as they load.
MODULES = (
    drops,
    edge,
    fore_aft,
    gates,
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
ALL: list[Measure] = list(REGISTRY.values())
