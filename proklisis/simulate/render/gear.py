"""What a rider stands on, holds or sits in, and what stands around them: drawn from its landmarks."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np

from proklisis.simulate.render.outfit import Colour, Outfit
from proklisis.simulate.render.parts import SHELL, Array, Parts, unit

STEEL: Colour = (0.62, 0.64, 0.68)
RUBBER: Colour = (0.06, 0.06, 0.07)
SAIL: Colour = (0.86, 0.88, 0.80)
LINE: Colour = (0.90, 0.88, 0.30)


def add_gear(out: Parts, p: dict[str, Array], o: Outfit) -> None:
    """Draw every piece of gear and scene that the landmarks show."""
    for s in "lr":
        if f"{s}_pole_tip" in p:
            _pole(out, p, s, o)
        if f"{s}_ski_tip" in p:
            _ski(out, p, s, o)
        if f"{s}_blade_front" in p:
            _blade(out, p, s)
    if "board_nose" in p:
        _board(out, p, o)
    if "mast_head" in p:
        _rig(out, p, o)
    if "handle" in p and "pylon" in p:
        _rope(out, p)
    if "bar_l" in p and "kite" in p:
        _kite(out, p, o)
    if "bow" in p:
        _boat(out, p, o)
    if "front_axle" in p:
        _bike(out, p, o)
    for name, at in p.items():
        if name.startswith("buoy_"):
            out.add(
                at, at + np.array([0.0, 0.0, 0.25]), 0.22, 0.16, (0.95, 0.45, 0.10), material=SHELL
            )
        elif name.startswith("gate_"):
            top = at + np.array([0.0, 0.0, 1.7])
            out.add(
                at,
                top,
                0.018,
                0.018,
                (0.85, 0.15, 0.12) if int(name.removeprefix("gate_")) % 2 else (0.10, 0.25, 0.75),
            )
            out.add(
                at + np.array([0.3, 0.0, 1.2]),
                at + np.array([0.3, 0.0, 1.6]),
                0.28,
                0.28,
                (0.85, 0.15, 0.12) if int(name.removeprefix("gate_")) % 2 else (0.10, 0.25, 0.75),
                flat=0.06,
            )


def _pole(out: Parts, p: dict[str, Array], s: str, o: Outfit) -> None:
    grip, tip = p[f"{s}_pole_grip"], p[f"{s}_pole_tip"]
    d = unit(tip - grip)
    out.add(grip - 0.05 * d, tip, 0.010, 0.007, (0.25, 0.25, 0.28), material=SHELL)
    out.add(grip - 0.06 * d, grip + 0.08 * d, 0.020, 0.017, (0.05, 0.05, 0.05))
    basket = tip - 0.06 * d
    out.add(basket - 0.004 * d, basket + 0.004 * d, 0.040, 0.040, o.stripe)


def _ski(out: Parts, p: dict[str, Array], s: str, o: Outfit) -> None:
    tip, tail, ankle = p[f"{s}_ski_tip"], p[f"{s}_ski_tail"], p[f"{s}_ankle"]
    along = unit(tip - tail)
    knee = p[f"{s}_knee"]
    # The ski is tipped with the shin; its wide axis lies across it.
    shin = unit(knee - ankle)
    across = unit(np.cross(along, shin))
    thick = 0.22
    lift = 0.02 * unit(np.cross(across, along))
    middle = tail + 0.46 * (tip - tail)
    neck = tip - 0.14 * along
    look: dict[str, Any] = {
        "side": across,
        "flat": thick,
        "material": SHELL,
        "stripe": o.stripe,
        "stripe_width": 0.08,
    }
    for start, end, ra, rb in ((tail, middle, 0.050, 0.036), (middle, neck, 0.036, 0.054)):
        out.add(start + lift, end + lift, ra, rb, o.ski, **look)
    out.add(
        neck + lift,
        tip + lift + 0.07 * unit(np.cross(across, along)),
        0.054,
        0.030,
        o.ski,
        side=across,
        flat=thick,
        material=SHELL,
    )


def _blade(out: Parts, p: dict[str, Array], s: str) -> None:
    front, back = p[f"{s}_blade_front"], p[f"{s}_blade_back"]
    out.add(back, front, 0.010, 0.010, STEEL, material=SHELL)
    middle = (front + back) / 2
    out.add(middle, (p[f"{s}_heel"] + p[f"{s}_toe"]) / 2, 0.018, 0.024, STEEL, material=SHELL)


def _board(out: Parts, p: dict[str, Array], o: Outfit) -> None:
    nose, tail = p["board_nose"], p["board_tail"]
    if "base_in" in p:
        across = unit(p["base_out"] - p["base_in"])
        wide = float(np.linalg.norm(p["base_out"] - p["base_in"])) / 2
    else:
        across, wide = unit(np.cross(nose - tail, [0.0, 0.0, 1.0])), 0.24
    look: dict[str, Any] = {
        "side": across,
        "flat": 0.16,
        "material": SHELL,
        "stripe": o.stripe,
        "stripe_width": 0.06,
    }
    for a, b, ra, rb in ((0.0, 0.25, 0.70, 1.0), (0.25, 0.75, 1.0, 1.0), (0.75, 1.0, 1.0, 0.55)):
        out.add(
            tail + a * (nose - tail), tail + b * (nose - tail), ra * wide, rb * wide, o.ski, **look
        )


#: From where to where along the mast each panel of a sail goes, and below where they are clear.
BATTENS = ((0.06, 0.24), (0.22, 0.40), (0.38, 0.56), (0.54, 0.72), (0.70, 0.86), (0.84, 0.99))
CLEAR_BELOW = 0.6


def _rig(out: Parts, p: dict[str, Array], o: Outfit) -> None:
    foot, top, front, end = p["mast_foot"], p["mast_head"], p["boom_front"], p["boom_end"]
    out.add(foot, top, 0.028, 0.018, (0.10, 0.10, 0.12), material=SHELL)
    out.add(front, end, 0.020, 0.020, (0.12, 0.12, 0.14), material=SHELL)
    up = top - foot
    for low, high in BATTENS:
        a, b = foot + low * up, foot + high * up
        reach = (end - front) * (0.96 if high < 0.5 else 0.96 * (1.25 - high))
        if high < CLEAR_BELOW:
            # Where the rider looks through it, a sail is clear film between battens.
            for at, back in ((a, b), (b, a)):
                out.add(at, at + 0.95 * reach, 0.012, 0.008, o.stripe, material=SHELL)
                out.add(at + 0.95 * reach, back + 0.95 * reach, 0.010, 0.010, SAIL, material=SHELL)
            continue
        out.add((a + b) / 2 + 0.05 * reach, (a + b) / 2 + 0.95 * reach, 0.45, 0.30, o.stripe, side=unit(up), flat=0.04)  # fmt: skip


def _rope(out: Parts, p: dict[str, Array]) -> None:
    handle, far = p["handle"], p["pylon"]
    near = handle + 6.0 * unit(far - handle)
    out.add(handle, near, 0.010, 0.008, LINE)
    across = np.array([0.18, 0.0, 0.0])
    out.add(handle - across, handle + across, 0.022, 0.022, RUBBER)
    for side in ("wake_l", "wake_r"):
        if side in p:
            at = p[side]
            for dy in (-4.0, 0.0, 4.0):
                a = at + np.array([0.0, dy - 1.8, 0.02])
                out.add(a, a + np.array([0.0, 3.6, 0.0]), 0.16, 0.16, (0.88, 0.93, 0.96), flat=0.5)


def _kite(out: Parts, p: dict[str, Array], o: Outfit) -> None:
    out.add(p["bar_l"], p["bar_r"], 0.022, 0.022, RUBBER)
    kite = p["kite"]
    for end in ("bar_l", "bar_r"):
        line = unit(kite - p[end])
        out.add(p[end], p[end] + 7.0 * line, 0.006, 0.006, (0.25, 0.25, 0.28))
    for k in range(-2, 3):
        a = kite + np.array([1.0 * k, 0.0, -0.22 * k * k])
        out.add(
            a - [0.5, 0, 0],
            a + [0.5, 0, 0],
            0.55,
            0.55,
            o.stripe if k % 2 else o.jacket,
            flat=0.25,
            side=np.array([0.0, 1.0, 0.0]),
        )


def _boat(out: Parts, p: dict[str, Array], o: Outfit) -> None:
    bow, stern = p["bow"], p["stern"]
    across = (
        unit(p["base_out"] - p["base_in"])
        if "base_in" in p
        else unit(np.cross(bow - stern, [0.0, 0.0, 1.0]))
    )
    look: dict[str, Any] = {
        "side": across,
        "flat": 0.55,
        "material": SHELL,
        "stripe": o.stripe,
        "stripe_width": 0.05,
    }
    middle = (bow + stern) / 2
    out.add(stern, middle - 0.3 * (middle - stern), 0.06, 0.29, o.ski, **look)
    out.add(
        middle - 0.3 * (middle - stern), middle + 0.3 * (bow - middle), 0.29, 0.29, o.ski, **look
    )
    out.add(middle + 0.3 * (bow - middle), bow, 0.29, 0.07, o.ski, **look)
    left, right = p["blade_l"], p["blade_r"]
    d = unit(right - left)
    out.add(left, right, 0.018, 0.018, (0.12, 0.12, 0.14), material=SHELL)
    for end, way in ((left, d), (right, -d)):
        out.add(end, end + 0.40 * way, 0.10, 0.085, o.stripe, flat=0.15, material=SHELL)


def _bike(out: Parts, p: dict[str, Array], o: Outfit) -> None:
    front, rear = p["front_axle"], p["rear_axle"]
    bars = (p["bar_end_l"] + p["bar_end_r"]) / 2
    pedals = (p["pedal_l"] + p["pedal_r"]) / 2
    across = unit(p["bar_end_r"] - p["bar_end_l"])
    along = unit(front - rear)
    up = unit(np.cross(across, along))
    for hub in (front, rear):
        ring = [
            hub + 0.31 * (np.cos(a) * along + np.sin(a) * up) for a in np.linspace(0, 2 * np.pi, 13)
        ]
        for a, b in itertools.pairwise(ring):
            out.add(a, b, 0.038, 0.038, RUBBER)
    seat = p["saddle"]
    frame: dict[str, Any] = {"material": SHELL}
    out.add(front, bars, 0.035, 0.028, STEEL, **frame)
    out.add(rear, pedals, 0.040, 0.045, o.ski, **frame)
    out.add(pedals, bars - 0.12 * up, 0.060, 0.045, o.ski, **frame)
    out.add(pedals, seat, 0.035, 0.030, o.ski, **frame)
    out.add(seat - 0.16 * along, seat + 0.14 * along, 0.050, 0.035, RUBBER)
    out.add(p["bar_end_l"], p["bar_end_r"], 0.020, 0.020, RUBBER)
    for s in "lr":
        out.add(pedals, p[f"pedal_{s}"], 0.018, 0.018, STEEL)
        at = p[f"pedal_{s}"]
        out.add(at - 0.05 * along, at + 0.05 * along, 0.022, 0.022, RUBBER)
