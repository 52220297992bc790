"""The bands a level is held against, one list for every screen that shows a reading."""

from __future__ import annotations

from dataclasses import dataclass

from proklisis.core.playbook.schema import Band, Playbook
from proklisis.core.shapes.run_sheet import Level


@dataclass(frozen=True)
class WantedBand:
    """A measure is good inside [lo, hi]; an end may be open. ``phase`` None: any phase.

    ``side`` names the only side that it holds on; ``given`` says that it holds under some conditions alone.
    """

    measure: str
    phase: str | None
    limb: str | None
    band: Band
    fault: str
    side: str | None = None
    given: bool = False


def wanted_bands(book: Playbook, level: Level) -> list[WantedBand]:
    """Bands of every fault that this level is judged for (apply the schools first)."""
    out = []
    for fault_id, fault in book.faults.items():
        if level not in fault.levels:
            continue
        for leaf in fault.when.leaves():
            if (
                leaf.measure is None
                or leaf.inside
                or leaf.over is not None
                or leaf.minus is not None
            ):
                continue
            band = leaf.band_for(level)
            if band is not None:
                out.append(
                    WantedBand(
                        leaf.measure, leaf.phase, leaf.limb, band, fault_id, leaf.side, bool(leaf.given)
                    )
                )  # fmt: skip
    return out
