"""The calculators, in the order in which they are listed."""

from __future__ import annotations

from collections.abc import Iterable

from proklisis.core.reckoner.apart import DIFFERENCE
from proklisis.core.reckoner.arcs import CARVE, LINE
from proklisis.core.reckoner.boards import GYBE, STANCE
from proklisis.core.reckoner.cameras import CAMERA
from proklisis.core.reckoner.declared import Calculator
from proklisis.core.reckoner.desk_time import DESK
from proklisis.core.reckoner.flights import FLIGHT, ROTATION
from proklisis.core.reckoner.ropes import ROPE
from proklisis.core.reckoner.unit_table import UNITS, unit_table
from proklisis.core.reckoner.ways import DROP, POLING, WHEELS

CALCULATORS: dict[str, Calculator] = {
    c.id: c
    for c in (
        FLIGHT, ROTATION, ROPE, CARVE, LINE, STANCE, GYBE, POLING, DROP, WHEELS, CAMERA, DIFFERENCE, UNITS, DESK,
    )
}  # fmt: skip


def for_keys(name: str, keys: Iterable[str]) -> Calculator:
    """A calculator as it is asked with certain keys: units takes any quantity that has one."""
    return unit_table(keys) if name == UNITS.id else CALCULATORS[name]
