"""Turns on snow as arcs by heading, and the line through gates."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from proklisis.core.maps.sketch import Measured, Sketch, no_map, round_length, share
from proklisis.core.measures.gates import passes
from proklisis.core.rider.geometry import SKI_POINTS, board_heading, ground, ski_heading
from proklisis.core.signals import lowpass
from proklisis.core.splitting.events import between, bridged
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]
BOARD = ("board_nose", "board_tail")
#: Low-pass of a heading, hertz (house choice).
HEADING_HZ = 3.0


def arcs(m: Measured) -> Sketch:
    """The way down, from headings alone: equal lengths take equal times, since no speed is measured."""
    f = m.figure
    gear = BOARD if all(p in f.points for p in BOARD) else SKI_POINTS
    missing = [p for p in gear if p not in f.points]
    if missing or f.view in ("side_left", "side_right"):
        what = "nose and tail of the board" if f.sideways else "tips and tails of the skis"
        raise no_map(
            f"The arcs are drawn by where the {'board points' if f.sideways else 'skis point'}, which "
            + ("does not show from the side. Film from below or above the run." if not missing
               else f"is not followed on this clip. Mark the {what} on the Bench in a frame every half second or so.")
        )  # fmt: skip
    heading = board_heading(f) if gear == BOARD else ski_heading(f)
    h = np.radians(lowpass(bridged(heading, f.t), f.fps, HEADING_HZ))
    step = np.gradient(f.t)
    way = np.stack([np.cumsum(np.sin(h) * step), -np.cumsum(np.cos(h) * step)], axis=1)
    s = Sketch("Arcs by heading", ("across", "s"), ("down the slope", "s"), equal=True)
    thick = next((k for k in (("edge", ""), ("lean", "")) if k in m.widths), None)
    for unit in m.units:
        rows = m.frames(unit.start.t, unit.end.t)
        if len(rows) < 2:
            continue
        width = None if thick is None else share(np.abs(bridged(m.widths[thick], f.t)))[rows]
        s.line(way[rows], unit=unit, width=width, t=f.t[rows], words=f"turn {unit.n}")
        s.mark(way[rows[0]], unit=unit, kind="tick", t=unit.start.t, words=str(unit.n))
    s.scale_bar, s.scale_words = 1.0, "one second of the way"
    s.says = [
        "Seen square to the slope, the rider coming down. No speed is measured, so equal lengths are equal times, not metres.",
        *([f"The thicker, the more {'edge' if thick[0] == 'edge' else 'lean'}."] if thick else []),
        "The soft edge is how far the way may lie off, from its beginning on.",
    ]
    return s


def gates(m: Measured) -> Sketch:
    """The line through the gates, the room above each, and where time was left."""
    f = m.figure
    found = f.once("passes", lambda: passes(f))
    if len(found) < 2:
        raise no_map(
            "Fewer than two gates are followed on this clip, so no line between them can be drawn. Mark the feet of the gates on the Bench."
        )
    metres = f.metres()
    scaled = bool(np.isfinite(metres))
    size = metres if scaled else 1.0
    where = [np.zeros(2)]
    for (before, one), (when, other) in itertools.pairwise(found):
        across, down = ground(f, f[other] - f[one])
        seen = [float(np.nanmedian(between(f, x, before, when))) for x in (across, down)]
        where.append(where[-1] + np.array(seen) * size)
    if not scaled:
        usual = float(np.median(np.hypot(*np.diff(where, axis=0).T)))
        where, size = [w / usual for w in where], size / usual
    path = _along(m, found, where, size)
    unit_word = "m" if scaled else "gate distances"
    s = Sketch(
        "Line through the gates", ("across", unit_word), ("down the slope", unit_word), equal=True
    )
    for unit in m.units:
        rows = m.frames(unit.start.t, unit.end.t)
        edge = m.widths.get(("edge", ""), m.widths.get(("lean", "")))
        width = None if edge is None else share(np.abs(bridged(edge, f.t)))[rows]
        s.line(path[rows] * [1, -1], unit=unit, width=width, t=f.t[rows], words=f"turn {unit.n}")
    times = {r.segment: r for r in m.readings if r.id == "gate_time" and np.isfinite(r.value)}
    best = min((r.value for r in times.values()), default=np.nan)
    for (when, _), place in zip(found, where, strict=True):
        here = next((x for x in m.units if x.start.t <= when < x.end.t), None)
        said, costs = [], False
        if here is not None:
            if room := m.reading("rise_room", here.n):
                said.append(
                    f"room above {digits(room.value, room.u)} ± {digits(2 * room.u, room.u)} of the offset"
                )
            if (time := times.get(here.n)) is not None:
                late = time.value - best
                costs = late > 2 * np.sqrt(2) * time.u
                said.append(f"{digits(time.value, time.u)} ± {digits(2 * time.u, time.u)} s" + (
                    f", {digits(late, time.u)} s over the run's best gate" if costs else ""))  # fmt: skip
        s.mark(
            place * [1, -1],
            unit=here,
            kind="costs" if costs else "gate",
            t=when,
            words="; ".join(said),
        )
    if scaled:
        s.scale_bar = round_length(float(np.ptp([p[1] for p in where])))
        s.scale_words = f"{s.scale_bar:g} m"
    s.says = [
        "Seen square to the slope, the rider coming down. " + ("" if scaled else "No scale is known: lengths are counted in the usual distance from gate to gate."),
        "The thicker, the more edge." if ("edge", "") in m.widths else "The thicker, the more lean.",
        "A gate with a ring took longer than the run's own best by more than its ±.",
    ]  # fmt: skip
    return s


def _along(m: Measured, found: list[tuple[float, str]], where: list[Array], size: float) -> Array:
    """(n, 2) the feet in the gates' own frame: told from the gate before and the gate after, by how near in time they are."""
    f = m.figure
    seen = []
    for (_, name), place in zip(found, where, strict=True):
        across, down = ground(f, f[name] - f["mid_ankle"])
        to = np.stack([bridged(across, f.t), bridged(down, f.t)], axis=1)
        seen.append(place - to * size)
    when = np.array([t for t, _ in found])
    k = np.clip(np.searchsorted(when, f.t), 1, len(found) - 1)
    w = np.clip((f.t - when[k - 1]) / (when[k] - when[k - 1]), 0, 1)[:, None]
    stack = np.array(seen)
    rows = np.arange(len(f.t))
    return np.asarray((1 - w) * stack[k - 1, rows] + w * stack[k, rows])
