"""Measures with one value per turn or per run, worked out from traces and turns."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.edge import shin_edge
from proklisis.core.measures.registry import get
from proklisis.core.readings.readings import Reading, Refusal, reading, refusal
from proklisis.core.readings.trace import Trace, difference, ratio
from proklisis.core.rider.figure import Figure
from proklisis.core.rider.geometry import leg_length, length, ski_heading
from proklisis.core.signals import derivative, lowpass
from proklisis.core.splitting.tilt import BY_DEPTH
from proklisis.core.splitting.units import Unit, duration
from proklisis.core.uncertainty import Value, frame_time_u

Array = NDArray[np.float64]

#: Range of noise with standard deviation 1 over a turn: a mean of about ±1.5σ (house choice).
NOISE_RANGE = 2.6
RANGE_HZ = 3.0
#: Of a rider who lies over, the bends that a side view shows are so much in doubt (house choice, from simulated experts).
FLEX_RANGE_REL_U = 0.16
#: The shin bends in the boot between the change and the belly, which reads as edge (house choice).
EDGE_GAIN_MODEL_U = 4.0
#: A knee that bends while the edges change is read as edge by a camera ahead or behind.
EDGE_RATE_REL_U = 0.40
#: A panning camera looks along the line to the rider, which swings a little with the turns.
SWING_MODEL_U = 1.5


@dataclass(frozen=True)
class Run:
    """What the unit measures look at."""

    figure: Figure
    traces: dict[tuple[str, str], Trace]
    units: list[Unit]
    graded: bool

    def can(self, measure_id: str, refused: list[Refusal]) -> bool:
        why = refusal(get(measure_id), self.figure)
        if why:
            refused.append(why)
        return why is None


def unit_readings(run: Run) -> tuple[list[Reading], list[Refusal]]:
    """Return every per-turn and per-run reading, and the measures this clip cannot give."""
    refused: list[Refusal] = []
    out: list[Reading] = list(_times(run))
    edges = [i for i in ("edge_gain", "edge_rate") if run.can(i, refused)]
    # Without an edge in each frame, as where one end of a ski is lost, there is none to gain.
    if edges and any(i == "edge" for i, _ in run.traces):
        out += _edges(run)
    if run.can("boot_gap_growth", refused):
        out += _boot_gap(run)
    if run.can("time_to_fall_line", refused):
        out += _headings(run)
    if run.can("flex_range", refused):
        out += _flex_range(run)
    if run.can("hip_rise", refused):
        out += _hip_rise(run)
    if run.can("pole_plant_fore", refused):
        out += _pole_plant(run)
    return out, refused


def _times(run: Run) -> Iterator[Reading]:
    for turn in run.units:
        v = duration(turn.start, turn.end)
        yield reading("turn_time", v, turn, turn.start.t)
        if run.graded:
            a, b = turn.phases["transition"]
            rate = turn.peak * np.pi / max(v.value, 0.1)
            u = float(np.hypot(2**0.5 * frame_time_u(run.figure.fps), 2.0 / rate))
            yield reading("transition_time", Value(b - a, u), turn, (a + b) / 2)
    if len(run.units) > 2:
        times = np.array([turn.end.t - turn.start.t for turn in run.units])
        mean, sd = float(times.mean()), float(times.std(ddof=1))
        u_each = float(np.sqrt(np.mean([duration(t.start, t.end).u ** 2 for t in run.units])))
        u = 100 * u_each / mean / np.sqrt(len(times) - 1)
        yield reading("rhythm_cv", Value(100 * sd / mean, float(u)))


def _edges(run: Run) -> Iterator[Reading]:
    trace = run.traces["edge", "outside" if ("edge", "outside") in run.traces else ""]
    # The new outside shin carries through the change; the trace itself swaps feet there.
    rates = {foot: derivative(shin_edge(run.figure, foot), trace.t) for foot in "lr"}
    for turn in run.units:
        belly, start = trace.mean(*turn.phases["belly"]), trace.at(turn.phases["transition"][1])
        if belly and start:
            v = difference(start, belly).whole(EDGE_GAIN_MODEL_U)
            yield reading("edge_gain", v, turn, turn.phases["transition"][1])
        a, b = turn.phases["transition"]
        i, j = np.searchsorted(trace.t, [a, b])
        rate = rates[turn.outside_foot or "l"]
        if j > i and np.isfinite(rate[i:j]).any():
            k = i + int(np.nanargmax(np.abs(rate[i:j])))
            noise = trace.noise[k] * np.sqrt(2 * trace.cutoff_hz / trace.fps)
            u = float(noise * 2 * np.pi * trace.cutoff_hz / 3**0.5)
            yield reading(
                "edge_rate",
                Value(
                    abs(float(rate[k])), float(np.hypot(u, EDGE_RATE_REL_U * abs(float(rate[k]))))
                ),
                turn,
                float(trace.t[k]),
            )


def _boot_gap(run: Run) -> Iterator[Reading]:
    trace = run.traces["stance_width", ""]
    for turn in run.units:
        belly, change = trace.mean(*turn.phases["belly"]), trace.mean(*turn.phases["transition"])
        if belly and change and change.value > 0:
            yield reading(
                "boot_gap_growth",
                ratio(belly, change).whole(0.09),
                turn,
                sum(turn.phases["belly"]) / 2,
            )


def heading_u(run: Run) -> Array:
    """(n,) standard uncertainty of the mean ski heading, smoothed."""
    return run.traces["heading", ""].frame_u() / 2**0.5


def _headings(run: Run) -> Iterator[Reading]:
    f = run.figure
    h, u_h, t = ski_heading(f), heading_u(run), f.t
    rate = np.abs(derivative(h, t))
    for turn in run.units:
        sign = 1.0 if turn.side == "right" else -1.0
        a, b = turn.start, turn.end
        i, j = (int(k) for k in np.searchsorted(t, [a.t, b.t]))
        if j - i < 5 or not np.isfinite(h[i:j]).all():
            continue
        h0, h1 = (float(np.interp(x, t, h)) for x in (a.t, b.t))
        if "fall_line" in turn.events:
            fall = turn.events["fall_line"]
            k = min(int(np.searchsorted(t, fall)), len(t) - 1)
            u = float(np.hypot(a.u, u_h[k] / max(rate[k], 5.0)))
            yield reading("time_to_fall_line", Value(fall - a.t, u), turn, fall)
        if a.t + 0.5 <= t[-1]:
            later = float(np.interp(a.t + 0.5, t, h))
            k = min(int(np.searchsorted(t, a.t + 0.5)), len(t) - 1)
            # The start's doubt moves both ends of the half second.
            u = float(
                np.sqrt(2 * u_h[k] ** 2 + (a.u * abs(rate[k] - rate[i])) ** 2 + SWING_MODEL_U**2)
            )
            yield reading("swing_in_half_second", Value(sign * (later - h0), u), turn, a.t + 0.5)
        done = sign * (h[i:j] - h0)
        half = sign * (h1 - h0) / 2
        passed = np.flatnonzero(done >= half)
        if half > 5.0 and len(passed):
            k = i + int(passed[0])
            span = b.t - a.t
            u_t = np.hypot(u_h[k] / max(rate[k], 5.0), frame_time_u(f.fps))
            u = float(np.hypot(u_t, np.hypot(a.u, b.u) / 2) / span)
            yield reading("turn_shape", Value(float((t[k] - a.t) / span), u), turn, float(t[k]))


def _flex_range(run: Run) -> Iterator[Reading]:
    trace = run.traces["knee_flex", "outside"]
    for turn in run.units:
        i, j = (int(k) for k in np.searchsorted(trace.t, [turn.start.t, turn.end.t]))
        v = trace.value[i:j]
        if j - i < 5 or np.isfinite(v).sum() < 0.8 * (j - i):
            continue
        calm = lowpass(v[np.isfinite(v)], trace.fps, RANGE_HZ)
        share = np.sqrt(min(1.0, 2 * RANGE_HZ / trace.fps))
        sigma = float(np.nanmean(trace.noise[i:j]) * share)
        wide = float(calm.max() - calm.min())
        value = float(np.sqrt(max(wide**2 - (NOISE_RANGE * sigma) ** 2, 0.0)))
        k = i + int(np.argmax(calm))
        yield reading(
            "flex_range",
            Value(
                value, float(np.sqrt((1.4 * sigma) ** 2 + 2.5**2 + (FLEX_RANGE_REL_U * value) ** 2))
            ),
            turn,
            float(trace.t[min(k, j - 1)]),
        )


def _hip_rise(run: Run) -> Iterator[Reading]:
    f = run.figure
    height = f["mid_hip"][:, 2] - f["mid_ankle"][:, 2]
    leg = float(np.nanpercentile((leg_length(f, "l") + leg_length(f, "r")) / 2, 90))
    sigma = float(np.nanmedian(np.hypot(f.u["mid_hip"], f.u["mid_ankle"])))
    sigma *= float(np.sqrt(min(1.0, 2 * f.cutoff_hz / f.fps)))
    for turn in run.units:
        a, b = turn.phases["transition"]
        i, j = (int(k) for k in np.searchsorted(f.t, [a, b]))
        v = height[i:j]
        if j - i < 3 or not np.isfinite(v).all():
            continue
        yield reading(
            "hip_rise", Value(float((v.max() - v.min()) / leg), float(np.hypot(1.4 * sigma / leg, 0.018))),
            turn, float(f.t[i + int(v.argmax())]),
        )  # fmt: skip


def _pole_plant(run: Run) -> Iterator[Reading]:
    """The inside pole of the new turn, at the instant its basket stands deepest near the change."""
    f = run.figure
    if f.by_depth > BY_DEPTH:
        return  # a change of edges known by depths alone does not tell which plant belongs to it
    boot = max(float(np.nanpercentile(length(f[f"{s}_toe"] - f[f"{s}_heel"]), 90)) for s in "lr")
    for turn in run.units:
        s = "r" if turn.side == "right" else "l"
        tip, toe = f[f"{s}_pole_tip"], f[f"{s}_toe"]
        span = min(0.35, 0.4 * (turn.end.t - turn.start.t))
        i, j = (
            int(k) for k in np.searchsorted(f.t, [turn.start.t - span, turn.start.t + span / 2])
        )
        if j - i < 4:
            continue
        above_snow = f.normal(tip - f["mid_ankle"])[i:j]
        if not np.isfinite(above_snow).all():
            continue
        k = i + int(np.argmin(above_snow))
        ahead = float(f.travel(tip - toe)[k])
        u = float(np.hypot(f.u[f"{s}_pole_tip"][k], f.u[f"{s}_toe"][k]))
        u *= float(np.sqrt(min(1.0, 2 * f.cutoff_hz / f.fps)))
        value = Value(
            ahead / boot, float(np.sqrt((u / boot) ** 2 + (0.05 * ahead / boot) ** 2 + 0.15**2))
        )
        yield reading("pole_plant_fore", value, turn, float(f.t[k]))
