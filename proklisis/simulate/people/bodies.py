"""Bodies of people: a mesh, the joints inside it, and which bones move which part of the skin.

They come from a parametric human mesh in the public domain (CC0, see NOTICE), blended by
``tools/make_bodies.py``. Body axes: across (to the right), along (ahead), up; metres; the middle of the
hip joints is the origin.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from proklisis.core.errors import InputError

Array = NDArray[np.float64]
FILE = Path(__file__).with_name("bodies.npz")
#: Landmark → the bone that begins at its joint.
JOINTS = {
    "hip": "thigh", "knee": "calf", "ankle": "foot", "shoulder": "upperarm", "elbow": "lowerarm", "wrist": "hand",
}  # fmt: skip
#: The eyeballs are the last vertices.
EYE_VERTICES = 144


@dataclass(frozen=True)
class Body:
    """One person at rest.

    Attributes
    ----------
    number : which of the people
    stature_m : their height
    child : whether they are one
    woman : whether they are a woman or a girl
    vertices : (v, 3) the skin
    faces : (f, 3) corners of its triangles
    bones, shares : (v, 4) the bones that move each vertex, and how much
    joints : bone → (3,) where it begins
    marks : landmark of the skin → its vertex
    """

    number: int
    stature_m: float
    child: bool
    woman: bool
    vertices: Array
    faces: NDArray[np.int32]
    bones: NDArray[np.uint8]
    shares: Array
    joints: dict[str, Array]
    marks: dict[str, int]

    @property
    def bone_names(self) -> tuple[str, ...]:
        return tuple(self.joints)

    @cached_property
    def landmarks(self) -> dict[str, Array]:
        """Landmark → (3,) where it is at rest."""
        joints = {
            f"{s}_{mark}": self.joints[f"{bone}_{s}"] for mark, bone in JOINTS.items() for s in "lr"
        }
        return joints | {name: self.vertices[i] for name, i in self.marks.items()}

    def as_tall_as(self, stature_m: float) -> Body:
        """The same build at another height."""
        k = stature_m / self.stature_m
        joints = {name: k * at for name, at in self.joints.items()}
        return replace(self, stature_m=stature_m, vertices=k * self.vertices, joints=joints)

    def length(self, a: str, b: str) -> float:
        """Metres from one landmark to another at rest, the mean of both sides."""
        at = self.landmarks
        return float(np.mean([np.linalg.norm(at[f"{s}_{a}"] - at[f"{s}_{b}"]) for s in "lr"]))

    @cached_property
    def normals(self) -> Array:
        """(v, 3) outward unit normals of the skin at rest."""
        a, b, c = (self.vertices[self.faces[:, k]] for k in range(3))
        each = np.cross(b - a, c - a)
        out = np.zeros_like(self.vertices)
        for k in range(3):
            np.add.at(out, self.faces[:, k], each)
        return np.asarray(out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12))


@lru_cache(maxsize=1)
def _stored() -> dict[str, NDArray[np.generic]]:
    with np.load(FILE) as file:
        return {name: file[name] for name in file.files}


def how_many() -> int:
    """How many people there are."""
    return len(_stored()["steps"])


@lru_cache(maxsize=8)
def body(number: int) -> Body:
    """One of the people. InputError where there is no such number."""
    stored = _stored()
    if not 0 <= number < len(stored["steps"]):
        raise InputError(
            f"there is no body {number}",
            "--body",
            f"give a number from 0 to {len(stored['steps']) - 1}",
        )
    about = json.loads(str(stored["about"]))[number]
    names = [str(n) for n in stored["names"]]
    shares = stored["shares"].astype(float)  # type: ignore[attr-defined]
    return Body(
        number, about["stature_m"], about["age"] < 0.35, about["sex"] < 0.5,
        np.cumsum(stored["steps"][number].astype(np.int64), axis=0) * 1e-4, stored["faces"].astype(np.int32), stored["bones"],  # type: ignore[index,arg-type]
        shares / shares.sum(axis=1, keepdims=True),
        dict(zip(names, stored["joints"][number].astype(float), strict=True)), json.loads(str(stored["marks"])),  # type: ignore[index]
    )  # fmt: skip
