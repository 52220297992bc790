"""Flights as the body's axis, a tenth of a second apart."""

from __future__ import annotations

import numpy as np

from proklisis.core.maps.sketch import Measured, Sketch, no_map
from proklisis.core.rider.geometry import full_trunk
from proklisis.core.uncertainty import digits

#: Time from one axis to the next, seconds (handbook, comparing).
STEP_S = 0.1
#: The axis is drawn so long before the take-off and after the landing, seconds.
AROUND_S = 0.2
#: Flights lie below each other, body lengths apart; axes beside each other.
BELOW, BESIDE = 2.0, 0.8


def flights(m: Measured) -> Sketch:
    """Feet to shoulders every tenth of a second, with air time and what the rotation needs."""
    f = m.figure
    if f.view == "above":
        raise no_map(
            "The axis in the air does not show from above. Film from the side or from ahead."
        )
    if not all(p in f.points for p in ("mid_ankle", "mid_shoulder")):
        raise no_map("Feet and shoulders are not followed on this clip, so the axis is not known.")
    across = 1 if f.view in ("side_left", "side_right") else 0
    d = (f["mid_shoulder"] - f["mid_ankle"])[:, [across, 2]] / full_trunk(f)
    tall = float(np.nanpercentile(np.hypot(*d.T), 90))
    d = d / tall
    s = Sketch("Axis in the air", ("", ""), ("", ""), equal=True)
    # Where several flights stand, the time of one is read under its own axes.
    for k, unit in enumerate(m.units):
        base = -BELOW * k
        s.mark([-0.9, base + 0.5], unit=unit, kind="tick", t=unit.start.t, words=f"jump {unit.n}")
        for j, when in enumerate(
            np.arange(unit.start.t - AROUND_S, unit.end.t + AROUND_S + 1e-9, STEP_S)
        ):
            if not f.t[0] <= when <= f.t[-1]:
                continue
            row = int(np.abs(f.t - when).argmin())
            foot = np.array([BESIDE * j, base])
            air = unit.start.t <= when <= unit.end.t
            s.line(np.stack([foot, foot + d[row]]), unit=unit, kind="strong" if air else "body", t=f.t[[row, row]],
                   words=f"{_from_take_off(when - unit.start.t)} s from take-off")  # fmt: skip
            s.line(np.stack([foot, foot + [0, 1]]), unit=unit, kind="plain")
            s.mark(
                foot - [0, 0.14],
                unit=unit,
                kind="tick",
                t=float(f.t[row]),
                words=_from_take_off(when - unit.start.t),
            )
        for name, words in (
            ("air_time", "{} s in the air"), ("rotation_period", "{} s a turn at its tightest"),
            ("air_margin", "{} s to spare over what the planned turns need"), ("shortfall", "{}° short on landing"),
        ):  # fmt: skip
            r = m.reading(name, unit.n)
            if r is not None:
                s.says.append(
                    f"Jump {unit.n}: {words.format(f'{digits(r.value, r.u)} ± {digits(2 * r.u, r.u)}')}."
                )
    s.says.insert(0, f"Feet to shoulders every {STEP_S:g} s, seen {'from the side' if across else 'from ahead or behind'}; strong in the air, "
                     "with the plumb line beside each. The number is the time from take-off, s. A lean toward the camera or away does not show.")  # fmt: skip
    return s


def _from_take_off(s: float) -> str:
    return "0" if abs(s) < 0.05 else f"{s:+.1f}".replace("-", "−")
