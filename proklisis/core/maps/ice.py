"""The traces of loops on the ice, in the box of a good one."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.maps.sketch import Measured, Sketch, no_map, share
from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.events import bridged
from proklisis.core.splitting.loops import blade_m, skating_foot, trace
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
#: Width to length of a good loop (handbook, comparing).
WIDE_TO_LONG = 2 / 3
#: Loops are drawn so far apart, their lengths.
APART = 1.5


def loops(m: Measured) -> Sketch:
    """Every loop beside the next, turned so that its axis stands upright, with where it is pressed."""
    f = m.figure
    if f.view not in (None, "above"):
        raise no_map(
            "The trace on the ice shows from above. Film from the stand or the gallery, or mark the ice's four corners."
        )
    path, metres = trace(f)[:, :2], f.metres()
    scaled = bool(np.isfinite(metres))
    size = metres / blade_m(f) if scaled else 1.0
    s = Sketch(
        "Loops on the ice",
        ("", "blades" if scaled else ""),
        ("", "blades" if scaled else ""),
        equal=True,
    )
    foot = skating_foot(f)
    press, name = _press(m, foot)
    off = 0.0
    for unit in m.units:
        rows = m.frames(unit.start.t, unit.end.t)
        if len(rows) < 4:
            continue
        p, long = _upright(f, path * size, unit, rows)
        if not scaled:
            p, long = p / long, 1.0
        wide = WIDE_TO_LONG * long
        p[:, 0] += off
        s.area(
            [
                [off - wide / 2, 0],
                [off + wide / 2, 0],
                [off + wide / 2, long],
                [off - wide / 2, long],
            ],
            "wanted",
            "2 to 3",
        )
        width = None if press is None else share(press)[rows]
        s.line(
            p,
            unit=unit,
            width=width,
            t=f.t[rows],
            words=f"loop {unit.n}",
        )
        if width is not None and press is not None:
            k = int(np.argmax(press[rows]))
            s.mark(p[k], unit=unit, kind="dot", t=float(f.t[rows[k]]), words=f"most {name}")
        s.mark([off, -0.12 * long], unit=unit, kind="tick", t=unit.start.t, words=str(unit.n))
        off += APART * long
    if scaled:
        s.scale_bar, s.scale_words = (
            1.0,
            f"one blade, {100 * blade_m(f):.0f} cm{'' if 'blade_m' in f.given else ' as usual'}",
        )
    s.says = [
        "Each loop from its crossing (below) to its far end (above); the shaded box is 2 wide to 3 long.",
        f"The thicker, the more {name}; the dot is where it is greatest." if press is not None else "Neither pressure nor knee bend shows from here.",
        *([] if scaled else ["No scale is known: every loop is drawn as long as the others."]),
    ]  # fmt: skip
    return s


def _press(m: Measured, foot: str) -> tuple[Array | None, str]:
    """What the thickness shows, and its name."""
    for key, name in (
        (("blade_pressure", ""), "pressure"),
        (("knee_flex", foot), "knee bend"),
        (("knee_flex", ""), "knee bend"),
    ):
        if key in m.widths and np.isfinite(m.widths[key]).any():
            return np.abs(bridged(m.widths[key], m.figure.t)), name
    return None, ""


def _upright(f: Figure, path: Array, unit: Unit, rows: NDArray[np.int64]) -> tuple[Array, float]:
    """A loop with its crossing at (0, 0) and its far end straight above; its length."""
    start = np.array([np.interp(unit.start.t, f.t, path[:, k]) for k in (0, 1)])
    p = path[rows] - start
    far = p[int(np.argmax(np.hypot(*p.T)))]
    long = float(np.hypot(*far))
    along, aside = far / max(long, 1e-9), np.array([far[1], -far[0]]) / max(long, 1e-9)
    return np.stack([p @ aside, p @ along], axis=1), long
