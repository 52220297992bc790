"""Crossings behind a boat, lines on a wave, gybes and drops."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.maps.sketch import Measured, Sketch, no_map, round_length, share
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.rider.geometry import full_trunk
from proklisis.core.splitting.drops import boat_middle, strokes_between
from proklisis.core.splitting.events import at, bridged
from proklisis.core.splitting.rope import by_lean, crossing_lean, rope_signal
from proklisis.core.splitting.sails import ZONE_DEG, course
from proklisis.core.splitting.waves import wave_signal
from proklisis.core.uncertainty import digits

Array = NDArray[np.float64]
#: So long before the lip the boat's way is drawn, seconds (house choice).
BEFORE_LIP_S = 2.2
AFTER_LANDING_S = 1.0


def crossings(m: Measured) -> Sketch:
    """All crossings from above, laid over each other at the centre line."""
    f = m.figure
    if f.view in ("side_left", "side_right"):
        raise no_map("Places between the wakes do not show from the side. Film from the boat.")
    if by_lean(f):
        raise no_map(
            "Places between the wakes are not told by the lean alone. Mark both wake crests."
        )
    x = rope_signal(f).values
    boat = m.sheet.conditions.get("boat_kmh")
    fast = isinstance(boat, int | float) and not isinstance(boat, bool) and boat > 0
    speed = float(boat) / 3.6 if fast and boat is not None else 1.0
    s = Sketch(
        "Crossings from above",
        ("place", "wakes"),
        ("way of the boat after the centre line", "m" if fast else "s"),
    )
    for unit in m.units:
        rows = m.frames(unit.start.t, unit.end.t)
        if len(rows) < 2:
            continue
        lean = share(np.abs(bridged(crossing_lean(f), f.t)))[rows]
        y = (f.t[rows] - unit.events["centre"]) * speed
        s.line(
            np.stack([x[rows], y], axis=1),
            unit=unit,
            width=lean,
            t=f.t[rows],
            words=f"crossing {unit.n}",
        )
        if "edge_start" in unit.events:
            first, last = unit.events["edge_start"], unit.events["edge_end"]
            inside = m.frames(first, last)
            if len(inside) > 1:
                s.line(np.stack([x[inside], (f.t[inside] - unit.events["centre"]) * speed], axis=1), unit=unit, kind="strong",
                       t=f.t[inside], words="change of edge")  # fmt: skip
        way = unit.events["way"]
        for name, kind, words in (
            ("load_peak_at", "dot", "greatest load"),
            ("release_wakes", "ring", "release"),
        ):
            if (r := m.reading(name, unit.n)) is not None:
                when = float(np.interp(r.value, np.maximum.accumulate(way * x[rows]), f.t[rows]))
                s.mark([way * r.value, (when - unit.events["centre"]) * speed], unit=unit, kind=kind, t=when, u=(2 * r.u, 0.0),  # type: ignore[arg-type]
                       words=f"{words} at {digits(r.value, r.u)} ± {digits(2 * r.u, r.u)} wakes")  # fmt: skip
    if m.units and (band := m.band("edge_change_start", m.units[0].n)) and band[0] is not None:
        deep = [line["at"] for line in s.lines]
        lo, hi = min(p[1] for ps in deep for p in ps), max(p[1] for ps in deep for p in ps)
        far = max(abs(p[0]) for ps in deep for p in ps)
        top = far if band[1] is None else min(band[1], far)
        for way in (1.0, -1.0):
            s.area([[way * band[0], lo], [way * top, lo], [way * top, hi], [way * band[0], hi]], "wanted",
                   "where the change of edge may begin on this rope")  # fmt: skip
    s.model_u = (REGISTRY["edge_change_start"].model_u, 0.0)
    s.x_ticks = ([-1.0, 0.0, 1.0], ["left wake", "centre", "right wake"])
    s.says = [
        "Seen from above, the boat going up the page; every crossing is laid over the others at the centre line.",
        "The strong stroke is the change of edge; the dot is the greatest load, the ring the release. The thicker, the more lean.",
        *([] if fast else ["The boat's speed is not given, so its way is counted in seconds; give it with the run to have metres."]),
        "Across and along have scales of their own: a wake is about a metre and a half wide, but it is not measured here.",
    ]  # fmt: skip
    if fast:
        s.scale_words = "metres along the boat's way, by the speed that was given"
    return s


def rides(m: Measured) -> Sketch:
    """Height on the face over time, and where the turns were made."""
    f = m.figure
    if "trough" not in f.points or "lip_top" not in f.points:
        raise no_map(
            "Trough and lip of the wave are not marked, so the height on the face is not known. Mark both on the Bench."
        )
    x = wave_signal(f).values
    s = Sketch(
        "Line on the wave", ("time", "s"), ("height on the face", ""), least=(None, (0.0, 1.0))
    )
    for unit in m.units:
        rows = m.frames(unit.start.t, unit.end.t)
        s.line(
            np.stack([f.t[rows], x[rows]], axis=1),
            unit=unit,
            t=f.t[rows],
            words=f"ride {unit.n}",
        )
        for event, words in (("bottom", "bottom turn"), ("top", "top turn")):
            when = unit.events[event]
            s.mark(
                [when, at(f, x, when)],
                unit=unit,
                kind="dot",
                t=when,
                words=words,
            )
    ends = [p[0] for line in s.lines for p in line["at"]] or [0.0, 1.0]
    lo, hi = min(ends), max(ends)
    for k, words in enumerate(("lower third", "middle third", "upper third")):
        if k % 2 == 0:
            s.area([[lo, k / 3], [hi, k / 3], [hi, (k + 1) / 3], [lo, (k + 1) / 3]], "zone", words)
    s.model_u = (0.0, REGISTRY["top_turn_height"].model_u)
    s.y_ticks = ([0.0, 1 / 3, 2 / 3, 1.0], ["trough", "⅓", "⅔", "lip"])
    s.says = [
        "The wave's face from trough to lip, over time. How far the ride went along the wave is not measured."
    ]
    return s


def gybes(m: Measured) -> Sketch:
    """Course off the wind over time, with the slow zone."""
    f = m.figure
    signed = f.view not in ("side_left", "side_right")
    h = course(f)
    s = Sketch(
        "Course through the gybe",
        ("time from the slow zone's beginning", "s"),
        ("course off straight downwind", "°"),
    )
    for unit in m.units:
        rows = m.frames(unit.start.t - 1.2, unit.end.t + 1.0)
        s.line(
            np.stack([f.t[rows] - unit.start.t, h[rows]], axis=1),
            unit=unit,
            t=f.t[rows],
            words=f"gybe {unit.n}",
        )
        for event, words in (
            ("open", "sail open"),
            ("feet", "feet change"),
            ("rig", "rig half-way over"),
        ):
            when = unit.events.get(event, np.nan)
            if np.isfinite(when):
                s.mark(
                    [when - unit.start.t, at(f, h, when)],
                    unit=unit,
                    kind="dot",
                    t=when,
                    words=words,
                )
        if (r := m.reading("slow_zone_time", unit.n)) is not None:
            s.mark([unit.end.t - unit.start.t, at(f, h, unit.end.t)], unit=unit, kind="tick", t=unit.end.t,
                   words=f"out of the slow zone after {digits(r.value, r.u)} ± {digits(2 * r.u, r.u)} s")  # fmt: skip
    ends = [p[0] for line in s.lines for p in line["at"]] or [0.0, 1.0]
    low = -ZONE_DEG if signed else 0.0
    s.area(
        [[min(ends), low], [max(ends), low], [max(ends), ZONE_DEG], [min(ends), ZONE_DEG]],
        "zone",
        "slow zone",
    )
    s.y_ticks = (
        ([-90.0, -ZONE_DEG, 0.0, ZONE_DEG, 90.0], []) if signed else ([0.0, ZONE_DEG, 90.0], [])
    )
    s.says = ["Downwind is in the middle; in the shaded zone the sail gives little."] if signed else [
        "From the side the angle shows, but not to which side of the wind: both tacks lie on one side of the plot."]  # fmt: skip
    return s


def drops(m: Measured) -> Sketch:
    """The boat's way over the lip from the side, with its pitch and its strokes."""
    f = m.figure
    lacking = [p for p in ("bow", "stern") if p not in f.points]
    if lacking or f.view not in ("side_left", "side_right", None):
        raise no_map(
            "The boat's way over the lip shows from the side. Film from the bank, level with the lip."
            if not lacking else "Bow and stern of the boat are not followed. Mark them on the Bench."
        )  # fmt: skip
    metres = f.metres()
    size, word = (metres, "m") if np.isfinite(metres) else (1.0 / full_trunk(f), "trunk lengths")
    drift = f["scene_drift"] if "scene_drift" in f.points else np.zeros_like(f["bow"])
    ends = [(f[p] - drift)[:, 1:] * size for p in ("stern", "bow")]
    middle = (boat_middle(f) - drift)[:, 1:] * size
    s = Sketch("Over the lip", ("along", word), ("up", word), equal=True)
    for unit in m.units:
        a, b = unit.events["lip"] - BEFORE_LIP_S, unit.end.t + AFTER_LANDING_S
        rows = m.frames(a, b)
        if len(rows) < 2:
            continue
        zero = np.array(
            [np.interp(unit.events["lip"], f.t, bridged(middle[:, k], f.t)) for k in (0, 1)]
        )
        s.line(
            middle[rows] - zero,
            unit=unit,
            t=f.t[rows],
            words=f"attempt {unit.n}, the boat's middle",
        )
        for when in np.arange(unit.events["lip"] - 1.0, unit.end.t + 0.4, 0.2):
            k = int(np.abs(f.t - when).argmin())
            s.line(
                np.stack([ends[0][k], ends[1][k]]) - zero,
                unit=unit,
                kind="body",
                t=f.t[[k, k]],
                words="the boat",
            )
        s.mark([0.0, 0.0], unit=unit, kind="ring", t=unit.events["lip"], words="bow over the lip")
        for catch, out, blade in strokes_between(f, a, b):
            spot = [np.interp(catch, f.t, bridged(middle[:, k], f.t)) - zero[k] for k in (0, 1)]
            side = "left" if blade == "l" else "right"
            early = catch - unit.events["lip"]
            s.mark(spot, unit=unit, kind="dot", t=catch,
                   words=f"{side} stroke, caught {abs(early):.2f} s {'before' if early < 0 else 'after'} the lip, {out - catch:.2f} s in the water")  # fmt: skip
        for name, words in (
            ("lead_speed", "speed of the boat ÷ of the water in the lead-in"),
            ("boat_angle", "off the drop's line"),
        ):
            if (r := m.reading(name, unit.n)) is not None:
                sign = "°" if name == "boat_angle" else ""
                s.says.append(
                    f"Attempt {unit.n}: {digits(r.value, r.u)} ± {digits(2 * r.u, r.u)}{sign} {words}."
                )
    if word == "m":
        s.scale_bar = round_length(
            float(np.ptp([p[0] for line in s.lines for p in line["at"]] or [1.0]))
        )
        s.scale_words = f"{s.scale_bar:g} m"
    s.says.insert(
        0,
        "Seen from the side, from the lip on; the short lines are the boat every 0.2 s. Times of strokes are known to about a frame.",
    )
    if word != "m":
        s.says.insert(1, "No scale is known: lengths are counted in the rider's trunk.")
    return s
