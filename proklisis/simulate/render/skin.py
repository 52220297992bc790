"""A dressed person in every frame of a run, as triangles for OpenGL."""

from __future__ import annotations

import moderngl
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from proklisis.simulate.motion import Motion
from proklisis.simulate.people.bodies import Body, body
from proklisis.simulate.people.posing import Pose, posed, skinned
from proklisis.simulate.render import shaders
from proklisis.simulate.render.dress import dressed
from proklisis.simulate.render.outfit import Outfit

Array = NDArray[np.float64]


class Skin:
    """The skin and clothes of the person who rides a motion."""

    def __init__(self, gl: moderngl.Context, motion: Motion, outfit: Outfit, seed: int) -> None:
        assert motion.body is not None
        self.who: Body = body(motion.body).as_tall_as(motion.stature_m)
        wears = dressed(self.who, outfit, motion.place, seed)
        self.rest = wears.vertices
        self.pose, _ = posed(self.who, motion.points)
        self.every = np.arange(len(self.rest))
        self.round = _corners_of(self.who.faces, len(self.rest))
        self.program = gl.program(shaders.SKIN_VERTEX, shaders.LIMB_FRAGMENT)
        fixed = np.concatenate([wears.colours, wears.materials[:, None]], axis=1).astype(np.float32)
        self.moving = gl.buffer(reserve=len(self.rest) * 24)
        self.array = gl.vertex_array(
            self.program,
            [(self.moving, "3f 3f", "position", "normal"), (gl.buffer(fixed.tobytes()), "3f 1f", "colour", "material")],
            index_buffer=gl.buffer(self.who.faces.astype(np.int32).tobytes()),
        )  # fmt: skip

    def move(self, i: int) -> None:
        """Take the pose of frame ``i``."""
        pose = Pose(self.pose.turn[i : i + 1], self.pose.begin[i : i + 1])
        at = skinned(self.who, pose, self.every, self.rest)[0]
        a, b, c = (at[self.who.faces[:, k]] for k in range(3))
        normal = self.round @ np.cross(b - a, c - a)
        normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
        self.moving.write(np.concatenate([at, normal], axis=1).astype(np.float32).tobytes())

    def draw(self) -> None:
        self.array.render(moderngl.TRIANGLES)


def _corners_of(faces: NDArray[np.int32], n: int) -> csr_matrix:
    """(n, f) which triangles meet at each vertex."""
    f = len(faces)
    rows, cols = faces.T.ravel(), np.tile(np.arange(f), 3)
    return csr_matrix((np.ones(3 * f), (rows, cols)), shape=(n, f))
