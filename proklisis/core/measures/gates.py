"""Skis through gates."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.registry import declare_table, measure
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import SKI_POINTS, ground, ski_heading
from proklisis.core.signals import lowpass
from proklisis.core.splitting.events import at, between, bridged
from proklisis.core.splitting.units import Unit

Array = NDArray[np.float64]
FEET = ("l_ankle", "r_ankle")
#: A gate further than this from the feet when passed is not this turn's, metres (house choice).
FAR_M = 4.0
#: Low-pass of the lean, hertz (house choice).
PEAK_HZ = 4.0
#: A second peak of lean stands out by this share of the first (house choice).
STANDS_OUT = 0.18

declare_table("""
rise_room | ratio | Room above the gate | how far above the gate, along its rise line, the turn starts ÷ gate offset | front, rear, above |
gate_gap | m | Gap to the gate | outside ski to panel at the gate | front, rear, above |
gate_time | s | Gate to gate | time from one gate to the next | front, rear, above |
direction_done_at_gate | ratio | Direction done at the gate | share of the heading change that is done when passing the gate | front, rear, above |
belly_peaks | ratio | Peaks in the turn | number of separate peaks of lean between two gates | front, rear |
""")


def passes(f: Figure) -> list[tuple[float, str]]:
    """(time, gate) of every gate passed, in time order: the feet are level with it down the slope."""
    out = []
    reach = FAR_M * f.facts["scale"] if np.isfinite(f.facts["scale"]) else np.inf
    for name in sorted(f.points):
        if not name.startswith("gate_"):
            continue
        across, down = _to_gate(f, name)
        # The skier comes from above: what is still to go turns from + to −.
        k = np.flatnonzero((down[:-1] > 0) & (down[1:] <= 0))
        if len(k) and abs(across[k[0]]) < reach:
            i = int(k[0])
            out.append(
                (float(f.t[i] + (f.t[i + 1] - f.t[i]) * down[i] / (down[i] - down[i + 1])), name)
            )
    return sorted(out)


def _to_gate(f: Figure, name: str) -> tuple[Array, Array]:
    """From the feet to a gate: across the slope and down it."""
    across, down = ground(f, f[name] - f["mid_ankle"])
    return bridged(across, f.t), bridged(down, f.t)


def gate_of(f: Figure, unit: Unit) -> tuple[int, list[tuple[float, str]]] | None:
    """Index into the passes of the gate that a turn goes round, and the passes."""
    found = f.once("passes", lambda: passes(f))
    inside = [i for i, (when, _) in enumerate(found) if unit.start.t <= when < unit.end.t]
    return (inside[0], found) if inside else None


@measure("gate_time", points=FEET, model_u=0.004, at_gates=True)
def gate_time(f: Figure, unit: Unit) -> float:
    found = gate_of(f, unit)
    return (
        found[1][found[0]][0] - found[1][found[0] - 1][0]
        if found and found[0] > 0
        else float("nan")
    )


@measure("gate_gap", points=FEET, model_u=0.05, at_gates=True)
def gate_gap(f: Figure, unit: Unit) -> float:
    found = gate_of(f, unit)
    if not found:
        return float("nan")
    when, name = found[1][found[0]]
    return abs(at(f, _to_gate(f, name)[0], when, 0.03)) * f.metres()


#: More room than so many times its offset nobody has above a gate (house choice).
MOST_ROOM = 10.0


@measure("rise_room", points=FEET, model_u=0.2, at_gates=True)
def rise_room(f: Figure, unit: Unit) -> float:
    """From where the skier crosses the line straight up from the gate down to the gate."""
    found = gate_of(f, unit)
    if not found or found[0] == 0:
        return float("nan")
    (before, earlier), (when, name) = found[1][found[0] - 1 : found[0] + 1]
    offset, _ = ground(f, f[name] - f[earlier])
    across, down = _to_gate(f, name)
    t, x = between(f, f.t, before, when), between(f, across, before, when)
    crossed = np.flatnonzero(x[:-1] * x[1:] < 0)
    if not len(crossed):
        return 0.0
    k = int(crossed[-1])
    start = float(t[k] + (t[k + 1] - t[k]) * x[k] / (x[k] - x[k + 1]))
    sideways = abs(float(np.nanmedian(between(f, offset, before, when))))
    room = at(f, down, start, 0.03)
    # Gates that stand under each other leave nothing to count in: they were marked, or followed, wrongly.
    return room / sideways if abs(room) < MOST_ROOM * sideways else float("nan")


@measure("direction_done_at_gate", points=(*FEET, *SKI_POINTS), model_u=0.04, at_gates=True)
def direction_done_at_gate(f: Figure, unit: Unit) -> float:
    found = gate_of(f, unit)
    if not found:
        return float("nan")
    h = lowpass(bridged(ski_heading(f), f.t), f.fps, PEAK_HZ)
    first, last = at(f, h, unit.start.t, 0.03), at(f, h, unit.end.t, 0.03)
    return (at(f, h, found[1][found[0]][0], 0.03) - first) / (last - first)


@measure("belly_peaks", points=(*FEET, "l_hip", "r_hip"), model_u=0.0, at_gates=True)
def belly_peaks(f: Figure, unit: Unit) -> float:
    from scipy.signal import find_peaks

    d = f["mid_hip"] - f["mid_ankle"]
    lean = lowpass(bridged(np.degrees(np.arctan2(d[:, 0], d[:, 2])), f.t), f.fps, PEAK_HZ)
    x = unit.sign * between(f, lean, unit.start.t, unit.end.t)
    return float(len(find_peaks(x, prominence=max(STANDS_OUT * float(x.max()), 3.0))[0]))
