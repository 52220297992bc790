"""A drawing of each discipline for its page: a simulated rider with the lines that are read.

python -m proklisis.simulate.drawing docs/disciplines
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.schema import Playbook
from proklisis.core.review import playbook, playbook_ids
from proklisis.core.rider.mass import MIDPOINTS, centre_of_mass, com_weights
from proklisis.core.tracks.landmarks import BODY, BONES, is_scene
from proklisis.simulate.run import simulate

Array = NDArray[np.float64]
WIDE, HIGH, EDGE = 640, 480, 36
FAR = ("pylon", "kite", "trough", "lip_top", "lip", "mast_head", "wake_l", "wake_r")


def drawing(book: Playbook) -> str:
    """SVG of one frame in the middle of the first unit, seen as the discipline is usually filmed."""
    level = (
        "intermediate" if "intermediate" in next(iter(book.faults.values())).levels else "advanced"
    )
    sim = simulate(book.discipline, {}, seed=6, units=2, level=level, noise_px=0.0)  # type: ignore[arg-type]
    unit = sim.truth().units[0]
    row = int(np.abs(sim.exact.t - (0.55 * unit.start.t + 0.45 * unit.end.t)).argmin())
    points = {
        n: sim.exact.xy[row, k]
        for k, n in enumerate(sim.exact.names)
        if np.isfinite(sim.exact.xy[row, k]).all()
    }
    points.update(
        {
            name: np.mean([points[p] for p in parts], axis=0)
            for name, parts in MIDPOINTS.items()
            if all(p in points for p in parts)
        }
    )
    if all(p in points for p in com_weights()):
        points["com"] = centre_of_mass(points)
    outside = unit.outside_foot or "l"
    for where, foot in (("outside", outside), ("inside", "r" if outside == "l" else "l")):
        points.update(
            {f"{where}_{n[2:]}": p for n, p in list(points.items()) if n.startswith(f"{foot}_")}
        )
    return _svg(book, sim.shot.view, points)


def _svg(book: Playbook, view: str, points: dict[str, Array]) -> str:
    near = np.array(
        [
            p
            for n, p in points.items()
            if n not in FAR and not is_scene(n) and "drift" not in n and not n.startswith("surface")
        ]
    )
    low, high = near.min(axis=0), near.max(axis=0)
    scale = float(
        min(
            (WIDE - 2 * EDGE) / max(high[0] - low[0], 1),
            (HIGH - 2 * EDGE) / max(high[1] - low[1], 1),
        )
    )
    shift = np.array([WIDE, HIGH]) / 2 - scale * (low + high) / 2

    def at(name: str) -> str:
        x, y = scale * points[name] + shift
        return f"{x:.1f},{y:.1f}"

    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {HIGH}" font-family="sans-serif" font-size="13" role="img">',
        f"<title>{book.title}, seen from {view.replace('_', ' ')}</title>", f'<rect width="{WIDE}" height="{HIGH}" fill="#f4f7fa"/>',
    ]  # fmt: skip
    for a, b in BONES:
        if a in points and b in points and a not in FAR and b not in FAR:
            body = a in BODY and b in BODY
            out.append(
                f'<polyline points="{at(a)} {at(b)}" stroke="{"#8896a5" if body else "#b9854a"}" stroke-width="{3 if body else 4}" fill="none" stroke-linecap="round"/>'
            )
    for number, line in enumerate(
        dict.fromkeys(REGISTRY[i].angle for i in book.measures if len(REGISTRY[i].angle) > 1),
        start=1,
    ):
        if not all(p in points for p in line):
            continue
        out.append(
            f'<polyline points="{" ".join(map(at, line))}" stroke="#0b5fa5" stroke-width="1.6" fill="none" stroke-dasharray="5 3"/>'
        )
        first, last = scale * points[line[-2]] + shift, scale * points[line[-1]] + shift
        share = 0.35 + 0.06 * (number % 5)
        x, y = first + share * (last - first) + [6, -3]
        out.append(f'<text x="{x:.1f}" y="{y:.1f}" fill="#0b3d6b">{number}</text>')
    return "\n".join([*out, "</svg>", ""])


def main() -> None:
    folder = Path(sys.argv[1])
    for i in playbook_ids():
        (folder / f"{i}.svg").write_text(drawing(playbook(i)), "utf-8")


if __name__ == "__main__":
    main()
