"""The exact truth of a simulated run, as written to ``truth.json``."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from proklisis.simulate.run import Simulated


def truth(sim: Simulated) -> dict[str, Any]:
    """Return what was put in, where the units really begin, and the exact sheet and positions.

    ``landmarks`` maps a name to one row per frame: x, y in pixels, then x, y, z in metres.
    """
    exact = sim.exact
    assert exact.xyz is not None
    rows = np.concatenate([np.round(exact.xy, 3), np.round(exact.xyz, 5)], axis=2)
    return {
        "format": "truth/1",
        "discipline": sim.discipline,
        "level": sim.level,
        "faults": sim.faults,
        "clip": exact.facts.model_dump(exclude_none=True),
        "t_s": exact.t.tolist(),
        "boundaries_s": [float(b) for b in sim.motion.boundaries],
        "run_sheet": sim.truth_sheet(),
        "landmarks": {name: _known(rows[:, k]) for k, name in enumerate(exact.names)},
    }


def _known(rows: NDArray[np.float64]) -> list[list[float | None]]:
    """A landmark's rows; what the camera cannot see, such as a gate behind it, is null."""
    return [[v if math.isfinite(v) else None for v in row] for row in rows.tolist()]
