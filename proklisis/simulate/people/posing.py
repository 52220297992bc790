"""A person takes the pose of a rider: feet on the same gear, hands on the same grips, limbs as they lie.

The rider's own rig is rigid and has one table's proportions; a person has others, so that joints come to
lie elsewhere and the skin bends. Truth about such a run is what the person's own joints then do.
World axes and metres as in :mod:`proklisis.simulate.motion`.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from proklisis.simulate import rig
from proklisis.simulate.motion import Motion
from proklisis.simulate.people.bodies import JOINTS, Body, body

Array = NDArray[np.float64]
Points = dict[str, Array]
#: Shares of the way from the pelvis' turn to the chest's at which the spine's bones stand.
SPINE = {"spine_01": 1 / 3, "spine_02": 2 / 3, "spine_03": 1.0}


@dataclass(frozen=True)
class Pose:
    """Where every bone of a body is: (n, b, 3, 3) turns from rest and (n, b, 3) where it begins."""

    turn: Array
    begin: Array


def embodied(motion: Motion, number: int) -> Motion:
    """The same run, ridden by one of the people at the rider's height: their joints in place of the rig's."""
    who = body(number).as_tall_as(motion.stature_m)
    pose, reached = posed(who, motion.points)
    points = {**motion.points, **reached, **_skin_marks(who, pose)}
    return replace(motion, points=points, body=number)


def posed(who: Body, p: Points) -> tuple[Pose, Points]:
    """The bones of ``who`` in the pose of landmarks ``p``, and where their joints come to lie."""
    n = len(p["l_hip"])
    at = who.landmarks
    joints = _joints(who, p)
    turn = {b: np.broadcast_to(np.eye(3), (n, 3, 3)) for b in who.bone_names}
    trunk = _mid(p, "shoulder") - _mid(p, "hip")
    rest_trunk = _mid(at, "shoulder") - _mid(at, "hip")
    rest = {k: _frame(at[f"r_{k}"] - at[f"l_{k}"], rest_trunk) for k in ("hip", "shoulder")}
    pelvis = _frame(p["r_hip"] - p["l_hip"], trunk) @ rest["hip"].T
    chest = _frame(p["r_shoulder"] - p["l_shoulder"], trunk) @ rest["shoulder"].T
    turn["pelvis"] = pelvis
    for bone, share in SPINE.items():
        turn[bone] = _between(pelvis, chest, share)
    ears = (p["l_ear"] + p["r_ear"]) / 2
    rest_ears = (at["l_ear"] + at["r_ear"]) / 2
    look = _looking(p["r_ear"] - p["l_ear"], p["nose"] - ears)
    rest_look = _looking(at["r_ear"] - at["l_ear"], (at["nose"] - rest_ears) * [1.0, 1.0, 0.0])
    turn["head"] = look @ rest_look.T
    turn["neck_01"] = _between(chest, turn["head"], 0.4)
    for s in "lr":
        turn[f"clavicle_{s}"] = chest
        for parent, chain in (
            ("pelvis", (("thigh", "hip", "knee"), ("calf", "knee", "ankle"))),
            ("spine_03", (("upperarm", "shoulder", "elbow"), ("lowerarm", "elbow", "wrist"))),
        ):
            before = turn[parent]
            for bone, a, b in chain:
                rest_way = at[f"{s}_{b}"] - at[f"{s}_{a}"]
                before = _swung(before, rest_way, joints[f"{s}_{b}"] - joints[f"{s}_{a}"])
                turn[f"{bone}_{s}"] = before
        turn[f"hand_{s}"] = turn[f"lowerarm_{s}"]
        sole, rest_sole = (
            _looking_foot(q[f"{s}_toe"] - q[f"{s}_heel"], q[f"{s}_ankle"] - q[f"{s}_heel"])
            for q in (p, at)
        )
        turn[f"foot_{s}"] = turn[f"ball_{s}"] = sole @ rest_sole.T
    begin = _chained(who, turn, joints)
    return Pose(np.stack([turn[b] for b in who.bone_names], axis=1), begin), joints


def _joints(who: Body, p: Points) -> Points:
    """The joints of the limbs, with this body's lengths: ankles where they were, wrists where they can reach."""
    at = who.landmarks
    src_leg = np.mean([_far(p, s, "hip", "knee") + _far(p, s, "knee", "ankle") for s in "lr"])
    seg = {
        "thigh": who.length("hip", "knee"), "shank": who.length("knee", "ankle"),
        "upper_arm": who.length("shoulder", "elbow"), "forearm": who.length("elbow", "wrist"),
    }  # fmt: skip
    taller = (seg["thigh"] + seg["shank"]) / src_leg
    feet = _mid(p, "ankle")
    middle = feet + taller * (_mid(p, "hip") - feet)
    out: Points = {f"{s}_ankle": p[f"{s}_ankle"] for s in "lr"}
    trunk = rig.unit(_mid(p, "shoulder") - _mid(p, "hip"))
    for k, centre in (("hip", middle), ("shoulder", None)):
        half = (at[f"r_{k}"] - at[f"l_{k}"])[0] / 2
        across = rig.unit(p[f"r_{k}"] - p[f"l_{k}"])
        if centre is None:
            hips = (out["l_hip"] + out["r_hip"]) / 2
            centre = hips + np.linalg.norm(_mid(at, "shoulder") - _mid(at, "hip")) * trunk
        out[f"l_{k}"], out[f"r_{k}"] = centre - half * across, centre + half * across
        if k == "hip":
            hints = {s: p[f"{s}_knee"] - (p[f"{s}_hip"] + p[f"{s}_ankle"]) / 2 for s in "lr"}
            rig.legs(out, seg, hints)
    for s in "lr":
        hint = p[f"{s}_elbow"] - (p[f"{s}_shoulder"] + p[f"{s}_wrist"]) / 2
        rig.arm(out, s, p[f"{s}_wrist"], hint, seg)
    return out


def _chained(who: Body, turn: dict[str, Array], joints: Points) -> Array:
    """(n, b, 3) where each bone begins: limbs at their joints, the spine from the hips up."""
    rest = who.joints
    middle = (joints["l_hip"] + joints["r_hip"]) / 2
    begin: Points = {"pelvis": middle + turn["pelvis"] @ rest["pelvis"]}
    for before, bone in (
        ("pelvis", "spine_01"), ("spine_01", "spine_02"), ("spine_02", "spine_03"), ("spine_03", "neck_01"), ("neck_01", "head"),
        ("spine_03", "clavicle_l"), ("spine_03", "clavicle_r"),
    ):  # fmt: skip
        begin[bone] = begin[before] + turn[before] @ (rest[bone] - rest[before])
    # The chest goes where the shoulders are; what is over is shared out along the spine.
    hung = [
        begin[f"clavicle_{s}"]
        + turn[f"clavicle_{s}"] @ (rest[f"upperarm_{s}"] - rest[f"clavicle_{s}"])
        for s in "lr"
    ]
    over = (joints["l_shoulder"] + joints["r_shoulder"] - hung[0] - hung[1]) / 2
    shares = {**SPINE, "neck_01": 1.0, "head": 1.0, "clavicle_l": 1.0, "clavicle_r": 1.0}
    for bone, share in shares.items():
        begin[bone] = begin[bone] + share * over
    for s in "lr":
        for mark, bone in JOINTS.items():
            begin[f"{bone}_{s}"] = joints[f"{s}_{mark}"]
        begin[f"ball_{s}"] = begin[f"foot_{s}"] + turn[f"foot_{s}"] @ (
            rest[f"ball_{s}"] - rest[f"foot_{s}"]
        )
    return np.stack([begin[b] for b in who.bone_names], axis=1)


def _skin_marks(who: Body, pose: Pose) -> Points:
    return {
        name: skinned(who, pose, np.array([i]), who.vertices[[i]])[:, 0]
        for name, i in who.marks.items()
    }


def skinned(who: Body, pose: Pose, which: NDArray[np.int64], rest: Array) -> Array:
    """(n, k, 3) where the skin at ``which`` vertices is, from (k, 3) where it is at rest (linear blend skinning)."""
    begins = np.stack([who.joints[b] for b in who.bone_names])
    out = np.zeros((len(pose.turn), len(which), 3))
    for k in range(4):
        bone, share = who.bones[which, k], who.shares[which, k]
        off = rest - begins[bone]
        moved = np.einsum("nvij,vj->nvi", pose.turn[:, bone], off) + pose.begin[:, bone]
        out += share[:, None] * moved
    return out


def _mid(p: Points, part: str) -> Array:
    return np.asarray((p[f"l_{part}"] + p[f"r_{part}"]) / 2)


def _far(p: Points, s: str, a: str, b: str) -> float:
    return float(np.median(np.linalg.norm(p[f"{s}_{a}"] - p[f"{s}_{b}"], axis=-1)))


def _frame(across: Array, up: Array) -> Array:
    """(…, 3, 3) columns right, ahead, up; ``up`` is kept, ``across`` as nearly as may be."""
    z = rig.unit(up)
    x = rig.unit(across - (across * z).sum(axis=-1, keepdims=True) * z)
    return np.stack([x, np.cross(z, x), z], axis=-1)


def _looking(across: Array, ahead: Array) -> Array:
    """(…, 3, 3) columns right, ahead, up of a head; ``across`` is kept."""
    x = rig.unit(across)
    y = rig.unit(ahead - (ahead * x).sum(axis=-1, keepdims=True) * x)
    return np.stack([x, y, np.cross(x, y)], axis=-1)


def _looking_foot(ahead: Array, up: Array) -> Array:
    """(…, 3, 3) columns right, ahead, up of a foot; ``ahead`` is kept."""
    y = rig.unit(ahead)
    z = rig.unit(up - (up * y).sum(axis=-1, keepdims=True) * y)
    return np.stack([np.cross(y, z), y, z], axis=-1)


def _between(a: Array, b: Array, share: float) -> Array:
    """Turns a ``share`` of the way from one to another."""
    if share >= 1:
        return b
    step = Rotation.from_matrix(np.swapaxes(a, -1, -2) @ b).as_rotvec()
    return np.asarray(a @ Rotation.from_rotvec(share * step).as_matrix())


def _swung(before: Array, rest_way: Array, way: Array) -> Array:
    """The turn of a bone that leaves its parent's turn by the shortest swing onto ``way``."""
    now = rig.unit(before @ rest_way)
    to = rig.unit(way)
    axis = np.cross(now, to)
    sin = np.linalg.norm(axis, axis=-1)
    angle = np.arctan2(sin, (now * to).sum(axis=-1))
    swing = Rotation.from_rotvec(axis / np.maximum(sin, 1e-9)[..., None] * angle[..., None])
    return np.asarray(swing.as_matrix() @ before)
