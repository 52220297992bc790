"""From joint positions to the parts of a dressed figure, each a rounded, tapered limb."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.simulate.render.gear import add_gear
from proklisis.simulate.render.outfit import Outfit
from proklisis.simulate.render.parts import FLOATS, GLASS, SHELL, SKIN, Parts, unit

Array = NDArray[np.float64]


def figure_parts(p: dict[str, Array], o: Outfit, stature: float) -> NDArray[np.float32]:
    """Return (k, 20) rows for the limb shader from one frame's landmarks (name → (3,) metres): body and gear."""
    k = stature / 1.75
    out = Parts([])
    mid_hip, mid_sh = (p["l_hip"] + p["r_hip"]) / 2, (p["l_shoulder"] + p["r_shoulder"]) / 2
    across_sh, across_hip = unit(p["r_shoulder"] - p["l_shoulder"]), unit(p["r_hip"] - p["l_hip"])
    up = unit(mid_sh - mid_hip)
    ahead = unit(np.cross(up, across_sh))
    _trunk(out, mid_hip, mid_sh, across_hip, across_sh, up, o, k)
    for s, sign in (("l", -1.0), ("r", 1.0)):
        hip, knee, ankle = p[f"{s}_hip"], p[f"{s}_knee"], p[f"{s}_ankle"]
        out.add(
            hip + 0.01 * k * up,
            knee,
            0.098 * k,
            0.068 * k,
            o.trousers,
            stripe=o.stripe,
            stripe_width=0.10,
            side=sign * across_hip,
        )
        shaft = ankle + 0.42 * (knee - ankle)
        out.add(
            knee,
            shaft,
            0.068 * k,
            0.070 * k,
            o.trousers,
            stripe=o.stripe,
            stripe_width=0.10,
            side=sign * across_hip,
        )
        _boot(out, p, s, shaft, o, k)
        shoulder, elbow, wrist = p[f"{s}_shoulder"], p[f"{s}_elbow"], p[f"{s}_wrist"]
        out.add(shoulder, elbow, 0.066 * k, 0.052 * k, o.jacket)
        out.add(elbow, wrist, 0.052 * k, 0.043 * k, o.sleeve)
        hand = wrist + 0.07 * k * unit(wrist - elbow)
        out.add(wrist, hand, 0.046 * k, 0.050 * k, o.glove)
    _head(out, p, mid_sh, up, ahead, o, k)
    add_gear(out, p, o)
    return np.asarray(out.rows, np.float32)


def gear_parts(
    p: dict[str, Array], o: Outfit, stature: float, footwear: str
) -> NDArray[np.float32]:
    """As :func:`figure_parts`, of gear and footwear alone: the body is drawn by its skin."""
    k = stature / 1.75
    out = Parts([])
    for s in "lr":
        if footwear in ("boots", "skates"):
            shaft = p[f"{s}_ankle"] + 0.42 * (p[f"{s}_knee"] - p[f"{s}_ankle"])
            _boot(out, p, s, shaft, o, k)
        elif footwear:
            _shoe(out, p, s, o, k)
        if footwear == "skates":
            _wheels(out, p, s, k)
    add_gear(out, p, o)
    return np.asarray(out.rows, np.float32).reshape(-1, FLOATS)


def _trunk(
    out: Parts,
    hip: Array,
    sh: Array,
    across_hip: Array,
    across_sh: Array,
    up: Array,
    o: Outfit,
    k: float,
) -> None:
    waist = hip + 0.42 * (sh - hip)
    chest = hip + 0.74 * (sh - hip)
    out.add(
        hip - 0.02 * k * up,
        hip + 0.07 * k * up,
        0.155 * k,
        0.150 * k,
        o.trousers,
        side=across_hip,
        flat=0.72,
    )
    out.add(
        hip + 0.10 * k * up,
        waist,
        0.152 * k,
        0.145 * k,
        o.jacket,
        side=unit(across_hip + across_sh),
        flat=0.72,
    )
    out.add(
        waist,
        chest,
        0.146 * k,
        0.170 * k,
        o.jacket,
        side=across_sh,
        flat=0.66,
        stripe=o.stripe,
        stripe_width=0.05,
    )
    out.add(chest, sh - 0.03 * k * up, 0.168 * k, 0.130 * k, o.jacket, side=across_sh, flat=0.64)
    half = 0.155 * k
    out.add(
        sh - half * across_sh - 0.01 * up,
        sh + half * across_sh - 0.01 * up,
        0.072 * k,
        0.072 * k,
        o.jacket,
    )


def _boot(out: Parts, p: dict[str, Array], s: str, shaft: Array, o: Outfit, k: float) -> None:
    ankle, heel, toe = p[f"{s}_ankle"], p[f"{s}_heel"], p[f"{s}_toe"]
    out.add(
        ankle,
        shaft,
        0.066 * k,
        0.070 * k,
        o.boot,
        material=SHELL,
        stripe=o.stripe,
        stripe_width=0.06,
    )
    out.add(
        heel + 0.01, toe - 0.04 * unit(toe - heel), 0.055 * k, 0.048 * k, o.boot, material=SHELL
    )
    out.add(heel, ankle, 0.055 * k, 0.062 * k, o.boot, material=SHELL)


def _shoe(out: Parts, p: dict[str, Array], s: str, o: Outfit, k: float) -> None:
    ankle, heel, toe = p[f"{s}_ankle"], p[f"{s}_heel"], p[f"{s}_toe"]
    ahead, up = unit(toe - heel), unit(ankle - (heel + toe) / 2)
    across = np.cross(ahead, up)
    out.add(
        heel + 0.035 * k * ahead + 0.025 * k * up, toe - 0.05 * k * ahead + 0.012 * k * up, 0.045 * k, 0.047 * k, o.boot,
        material=SHELL, side=across, flat=0.8, stripe=o.stripe, stripe_width=0.05,
    )  # fmt: skip
    out.add(heel + 0.035 * k * ahead + 0.03 * k * up, ankle, 0.045 * k, 0.05 * k, o.boot)


def _wheels(out: Parts, p: dict[str, Array], s: str, k: float) -> None:
    heel, toe = p[f"{s}_heel"], p[f"{s}_toe"]
    ahead = unit(toe - heel)
    up = unit(p[f"{s}_ankle"] - (heel + toe) / 2 - ((p[f"{s}_ankle"] - heel) @ ahead) * ahead)
    for share in (0.05, 0.35, 0.65, 0.95):
        hub = heel + share * (toe - heel) - 0.045 * k * up
        across = np.cross(ahead, up)
        out.add(hub - 0.008 * across, hub + 0.008 * across, 0.03 * k, 0.03 * k, (0.85, 0.55, 0.15))


def _head(
    out: Parts, p: dict[str, Array], sh: Array, up: Array, ahead: Array, o: Outfit, k: float
) -> None:
    ears = (p["l_ear"] + p["r_ear"]) / 2
    across = unit(p["r_ear"] - p["l_ear"])
    look = unit(p["nose"] - ears)
    crown = unit(np.cross(across, look))
    out.add(sh + 0.02 * up, ears - 0.05 * k * crown, 0.062 * k, 0.058 * k, o.stripe)
    out.add(
        ears - 0.045 * k * crown + 0.02 * look,
        ears + 0.035 * k * crown + 0.02 * look,
        0.078 * k,
        0.088 * k,
        o.skin,
        side=across,
        material=SKIN,
    )
    out.add(
        p["nose"] - 0.03 * look - 0.005 * crown,
        p["nose"] - 0.012 * look - 0.012 * crown,
        0.016 * k,
        0.014 * k,
        o.skin,
        material=SKIN,
    )
    chin = ears - 0.088 * k * crown + 0.052 * k * look
    out.add(chin, chin + 0.02 * look, 0.036 * k, 0.030 * k, o.skin, side=across, material=SKIN)
    mouth = ears - 0.058 * k * crown + 0.090 * k * look
    out.add(
        mouth - 0.018 * across,
        mouth + 0.018 * across,
        0.008,
        0.008,
        (0.55, 0.28, 0.26),
        material=SKIN,
    )
    eyes = ears + 0.022 * k * crown + 0.072 * k * look
    out.add(
        eyes - 0.046 * k * across,
        eyes + 0.046 * k * across,
        0.034 * k,
        0.034 * k,
        (0.10, 0.12, 0.16),
        material=GLASS,
    )
    top = ears + 0.055 * k * crown - 0.012 * k * look
    out.add(
        top - 0.012 * look,
        top + 0.010 * look,
        0.112 * k,
        0.108 * k,
        o.helmet,
        side=across,
        material=SHELL,
        stripe=o.stripe,
        stripe_width=0.05,
    )
    for s, sign in (("l", -1.0), ("r", 1.0)):
        e = p[f"{s}_ear"] - 0.012 * look
        out.add(e, e + 0.004 * sign * across, 0.040 * k, 0.034 * k, o.helmet, material=SHELL)
