"""Small angle helpers shared by the measures. Vectors are (n, 3) across, along, up."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import (
    HIPS_TO_TRUNK,
    LEG_TO_TRUNK,
    SHANK_TO_TRUNK,
    THIGH_TO_TRUNK,
    TRUNK,
)
from proklisis.core.rider.figure import Figure

Array = NDArray[np.float64]
SKI_POINTS = ("l_ski_tip", "l_ski_tail", "r_ski_tip", "r_ski_tail")
#: Usual along ÷ up of a leg on a slope: what ψ mixes in (house choice).
LEG_DEPTH = 0.25


def tilt(figure: Figure, d: Array, depth: float = 0.0) -> Array:
    """Angle of ``d`` from the vertical in the across–up plane, degrees, + to the rider's right.

    ``depth`` is the usual along ÷ up of this segment; a camera that stands off the ideal
    view by ψ mixes it into *across*, and that mean share is taken out.
    """
    across = d[:, 0] - depth * d[:, 2] * np.tan(figure.psi) * _toward(figure)
    return np.asarray(np.degrees(np.arctan2(across, d[:, 2])))


def _toward(figure: Figure) -> float:
    """Sign with which a forward extent shows up to the rider's right when ψ is positive."""
    return {"front": -1.0, "rear": 1.0}.get(figure.view or "", 0.0)


def flexion(a: Array, joint: Array, b: Array) -> Array:
    """Bend at ``joint`` in degrees: 0 when a–joint–b is straight. Unseen axes are left out."""
    p, q = a - joint, b - joint
    p, q = (np.where(np.isnan(v), 0.0, v) if np.isnan(v).any() else v for v in (p, q))
    norm = np.linalg.norm(p, axis=1) * np.linalg.norm(q, axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        cos = (p * q).sum(axis=1) / norm
    return np.asarray(180.0 - np.degrees(np.arccos(np.clip(cos, -1.0, 1.0))))


#: A segment seen this share of its length long is taken to lie in the picture: bodies differ by so much.
LIES_FLAT = 0.92


def bend_seen(
    a: Array,
    joint: Array,
    b: Array,
    full: tuple[float, float],
    ways: tuple[int, ...] = (1, -1),
    flat: float = LIES_FLAT,
) -> tuple[Array, Array]:
    """Bend at ``joint`` as a camera shows it, and what it cannot know of it, in degrees.

    What the two segments lack of their ``full`` lengths is their depth, toward the camera or away.
    The bend in space is then one of two, besides the one in the picture; the farther of them stands
    at two standard uncertainties. ``ways`` says which there are: 1 where both ends lie on the same side
    of the joint, −1 where the limb passes through it, 0 where one of them lies in the picture. A segment that shows
    ``flat`` of its length is taken to lie in it. In 3-D there is nothing to doubt.
    """
    seen = flexion(a, joint, b)
    p, q = a - joint, b - joint
    if not np.isnan(p).any(axis=0).any():
        return seen, np.zeros_like(seen)
    p, q = np.nan_to_num(p), np.nan_to_num(q)
    depth = [
        np.sqrt(np.maximum((flat * whole) ** 2 - (v**2).sum(axis=1), 0.0))
        for v, whole in ((p, full[0]), (q, full[1]))
    ]
    size = [np.hypot(np.linalg.norm(v, axis=1), d) for v, d in zip((p, q), depth, strict=True)]
    along, away = (p * q).sum(axis=1), depth[0] * depth[1]
    with np.errstate(invalid="ignore", divide="ignore"):
        either = [
            180.0
            - np.degrees(np.arccos(np.clip((along + sign * away) / (size[0] * size[1]), -1, 1)))
            for sign in ways
        ]
    return seen, np.nan_to_num(np.max([np.abs(x - seen) for x in either], axis=0) / 2)


def deepened(d: Array, full: float) -> tuple[Array, int]:
    """A segment's (n, 3) vectors with the unseen axis filled in from what lacks of its ``full`` length, and which axis that is."""
    unseen = int(np.argmax(np.isnan(d).any(axis=0)))
    out = np.nan_to_num(d)
    out[:, unseen] = np.sqrt(np.maximum(full**2 - np.nansum(d**2, axis=1), 0.0))
    return out, unseen


#: How far a knee points aside of straight ahead of its own leg, degrees, as standard deviation (house choice, from simulated skaters).
ASIDE_DEG = 30.0


def knee_flexion(figure: Figure, limb: str) -> Array:
    """Bend of a knee in degrees, as far as a picture that shows the rider's side tells it. In 3-D it is the plain bend.

    What thigh and shank lack of their lengths, known from the trunk, is their depth: both lean the same way out
    of the picture, or one toward the camera and one away. Each of the two bends counts as likely as it is
    that a knee points so far aside; the value is their mean, moved by ``figure.facts["aside"]`` of their standard deviations.
    """
    value, u = figure.once(f"knee {limb}", lambda: knee_bend(figure, limb))
    return value if figure.view is None else np.clip(value + figure.facts["aside"] * u, 0.0, 180.0)


def knee_bend(figure: Figure, limb: str) -> tuple[Array, Array]:
    """A knee's bend and its standard deviation for what depth leaves open, degrees, see :func:`knee_flexion`."""
    hip, knee, ankle = (figure.limb(limb, p) for p in ("hip", "knee", "ankle"))
    if figure.view is None:
        value = flexion(hip, knee, ankle)
        return value, np.zeros_like(value)
    trunk = float(np.nanpercentile(length(figure["mid_shoulder"] - figure["mid_hip"]), 75))
    full = trunk * figure.facts["legs"]
    thigh, unseen = deepened(knee - hip, THIGH_TO_TRUNK * full)
    shank, _ = deepened(ankle - knee, SHANK_TO_TRUNK * full)
    bends, odds = [], []
    for sign in (1.0, -1.0):
        other = shank * np.where(np.arange(3) == unseen, sign, 1.0)
        bends.append(flexion(-thigh, np.zeros_like(thigh), other))
        odds.append(np.exp(-((_aside(thigh, other, unseen) / ASIDE_DEG) ** 2) / 2))
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.where(odds[0] + odds[1] > 0, odds[1] / (odds[0] + odds[1]), 0.5)
    value = bends[0] + share * (bends[1] - bends[0])
    return value, np.sqrt(share * (1 - share)) * np.abs(bends[1] - bends[0])


def _aside(thigh: Array, shank: Array, unseen: int) -> Array:
    """(n,) how far a knee points aside of the plane that holds its leg's line and the way ahead in the picture, degrees."""
    with np.errstate(invalid="ignore", divide="ignore"):
        line = thigh + shank
        line = line / length(line)[:, None]
        out = thigh - (thigh * line).sum(axis=1)[:, None] * line
        side = np.eye(3)[unseen] - line[:, [unseen]] * line
        side = side / length(side)[:, None]
        lateral = np.abs((out * side).sum(axis=1))
        ahead = np.sqrt(np.maximum(length(out) ** 2 - lateral**2, 0.0))
        return np.asarray(np.degrees(np.arctan2(lateral, ahead)))


def trunk_length(figure: Figure, percentile: float = 90.0) -> float:
    """Hip to shoulder in the figure's unit, as long as the view shows it."""
    return float(np.nanpercentile(length(figure["mid_shoulder"] - figure["mid_hip"]), percentile))


def squareness(figure: Figure) -> Array | None:
    """Cosine of how far the hips are turned out of a side view, from how wide they look.

    None for a rider who is never seen from ahead or behind: only one who turns on the spot, on blades.
    """
    if figure.view not in ("side_left", "side_right") or "l_blade_front" not in figure.points:
        return None
    apart = np.abs((figure["l_hip"] - figure["r_hip"])[:, 1])
    wide = float(np.nanpercentile(apart, 95))
    if wide < 0.5 * HIPS_TO_TRUNK * trunk_length(figure):
        return None
    return np.asarray(np.sqrt(np.clip(1 - (apart / wide) ** 2, 0, 1)))


def full_trunk(figure: Figure) -> float:
    """Length of the trunk in the figure's unit, from the rider's height and the scale where both are known."""
    height, scale = figure.given.get("height_m"), figure.facts["scale"]
    if figure.view is not None and isinstance(height, float) and np.isfinite(scale):
        return TRUNK * height * scale
    return trunk_length(figure)


def full_leg(figure: Figure) -> float:
    """Length of a straight leg in the figure's unit, from the trunk: bent legs do not show theirs."""
    if figure.view is None:
        return float(np.nanmedian(leg_length(figure, "l") + leg_length(figure, "r"))) / 2
    return LEG_TO_TRUNK * full_trunk(figure) * figure.facts["legs"]


def knee_from_reach(figure: Figure, limb: str) -> Array:
    """Bend of a knee from how far the hip is from the ankle: it shows however the rider is turned."""
    hip, knee, ankle = (figure.limb(limb, p) for p in ("hip", "knee", "ankle"))
    if figure.view is None:
        return flexion(hip, knee, ankle)
    return np.asarray(
        2 * np.degrees(np.arccos(np.clip(length(hip - ankle) / full_leg(figure), 0, 1)))
    )


def length(d: Array) -> Array:
    """Length of (n, 3) vectors over the axes that are seen."""
    return np.asarray(np.sqrt(np.nansum(d**2, axis=1)))


def span(d: Array) -> Array:
    """Length of (n, 3) vectors in the across–up plane: what a camera ahead or behind sees."""
    return np.asarray(np.hypot(d[:, 0], d[:, 2]))


def wrap(angle_deg: Array) -> Array:
    """Bring degrees into (−180, 180]."""
    return np.asarray((angle_deg + 180.0) % 360.0 - 180.0)


def leg_length(figure: Figure, limb: str) -> Array:
    """hip–knee + knee–ankle of a limb, in the figure's unit."""
    hip, knee, ankle = (figure.limb(limb, p) for p in ("hip", "knee", "ankle"))
    return length(hip - knee) + length(knee - ankle)


def ground(figure: Figure, d: Array) -> tuple[Array, Array]:
    """Split vectors that lie on the slope into (across, down the slope) components.

    From above the second is the along component, stretched by the slope; from the front and
    rear it is read from how far the vector runs down the picture, using the slope's angle to
    the line of sight.
    """
    slope = np.radians(figure.facts["slope"])
    if figure.view is None:
        return d[:, 0], figure.travel(d)
    if figure.view == "above":
        return d[:, 0], d[:, 1] / np.cos(slope)
    pitch = np.radians(figure.facts["pitch"])
    grazing = slope - pitch if figure.view == "front" else slope + pitch
    down = -d[:, 2] * np.cos(pitch) / np.sin(grazing)
    across = d[:, 0] - down * np.cos(slope) * np.tan(figure.psi) * _toward(figure)
    return across, down


def board_heading(figure: Figure) -> Array:
    """Direction of a board on the slope, degrees from the fall line, + to the rider's right."""
    across, down = ground(figure, figure["board_nose"] - figure["board_tail"])
    return np.asarray(np.degrees(np.arctan2(across, down)))


def toe_sign(figure: Figure) -> float:
    """+1 where the toes of a board rider point to the right of travel (left foot in front), else −1."""
    return 1.0 if figure.front_foot == "l" else -1.0


def ski_heading(figure: Figure) -> Array:
    """Mean direction of both skis, degrees from the fall line, + to the rider's right."""
    return (heading_of(figure, "l") + heading_of(figure, "r")) / 2


def heading_of(figure: Figure, limb: str) -> Array:
    """Direction of one ski on the slope, degrees from the fall line, + to the rider's right."""
    across, down = ground(figure, figure.limb(limb, "ski_tip") - figure.limb(limb, "ski_tail"))
    return np.asarray(np.degrees(np.arctan2(across, down)))
