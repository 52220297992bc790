"""Poling cycles as stick figures, a tenth of a cycle apart."""

from __future__ import annotations

import numpy as np

from proklisis.core.maps.sketch import Measured, Sketch, no_map
from proklisis.core.splitting.events import leg

#: Figures a cycle (handbook, comparing).
FIGURES = 10
#: Figures stand so far apart and cycles so far below each other, leg lengths.
BESIDE, BELOW = 1.5, 2.7
LIMBS = (
    ("ankle", "knee"), ("knee", "hip"), ("hip", "shoulder"), ("shoulder", "elbow"), ("elbow", "wrist"), ("heel", "toe"),
)  # fmt: skip


def cycles(m: Measured) -> Sketch:
    """The near side's limbs and pole at every tenth of each cycle."""
    f = m.figure
    if f.view not in ("side_left", "side_right", None):
        raise no_map("The cycle shows from the side. Film square to the track.")
    s_near = "l" if f.view == "side_left" else "r"
    size, way = 1 / leg(f), -1.0 if f.view == "side_left" else 1.0
    s = Sketch("Cycle by tenths", ("", ""), ("", ""), equal=True)
    for k, unit in enumerate(m.units):
        s.mark(
            [-1.4, 0.7 - BELOW * k], unit=unit, kind="tick", t=unit.start.t, words=f"cycle {unit.n}"
        )
        for j, part in enumerate(np.linspace(0, 1, FIGURES, endpoint=False)):
            when = unit.start.t + part * (unit.end.t - unit.start.t)
            row = int(np.abs(f.t - when).argmin())
            foot = f[f"{s_near}_ankle"][row, 1:]
            base = np.array([BESIDE * j, -BELOW * k])

            def put(name: str) -> np.ndarray:
                d = (f[name][row, 1:] - foot) * size  # noqa: B023
                return np.asarray(base + d * [way if f.view else 1.0, 1.0])  # noqa: B023

            for a, b in LIMBS:
                names = f"{s_near}_{a}", f"{s_near}_{b}"
                if all(n in f.points for n in names):
                    s.line(np.stack([put(n) for n in names]), unit=unit, kind="body", t=f.t[[row, row]],
                           words=f"{100 * part:.0f} % of cycle {unit.n}")  # fmt: skip
            if f"{s_near}_pole_tip" in f.points and f"{s_near}_wrist" in f.points:
                s.line(
                    np.stack([put(f"{s_near}_wrist"), put(f"{s_near}_pole_tip")]),
                    unit=unit,
                    kind="plain",
                    words="pole",
                )
            s.mark(
                base - [0, 0.35],
                unit=unit,
                kind="tick",
                t=float(f.t[row]),
                words=f"{100 * part:.0f} %",
            )
    s.says = [
        "The near side from the side, from plant to plant; every figure stands on its own foot. Lengths are in the rider's own leg."
    ]
    return s
