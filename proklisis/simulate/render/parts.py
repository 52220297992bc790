"""The rounded, tapered limbs that a picture is made of."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from proklisis.simulate.render.outfit import Colour

Array = NDArray[np.float64]
CLOTH, SKIN, SHELL, GLASS = 0.0, 1.0, 2.0, 3.0
#: Numbers per part: ends, radii, wide axis, flatness, colour, stripe, stripe width, material.
FLOATS = 20


@dataclass
class Parts:
    """Growing list of limbs of one frame, in world metres."""

    rows: list[list[float]]

    def add(
        self, a: Array, b: Array, ra: float, rb: float, colour: Colour, *, side: Array | None = None,
        flat: float = 1.0, stripe: Colour | None = None, stripe_width: float = 0.0, material: float = CLOTH,
    ) -> None:  # fmt: skip
        """A limb from ``a`` to ``b`` with radii ``ra``, ``rb``; ``flat`` thins it square to ``side``."""
        axis = b - a
        length = float(np.linalg.norm(axis))
        axis = axis / length if length > 1e-6 else np.array([0.0, 0.0, 1.0])
        wide = np.array([1.0, 0.0, 0.0]) if side is None else side
        wide = wide - (wide @ axis) * axis
        size = float(np.linalg.norm(wide))
        wide = wide / size if size > 1e-3 else np.cross(axis, [0.0, 1.0, 0.0])
        self.rows.append(
            [*a, *b, ra, rb, *wide, flat, *colour, *(stripe or colour), stripe_width, material]
        )  # fmt: skip


def unit(v: Array) -> Array:
    return np.asarray(v / max(float(np.linalg.norm(v)), 1e-9))
