"""Draws a simulated run frame by frame with OpenGL, on a machine with or without a screen."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import cv2
import moderngl
import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera.projection import undistort_radial
from proklisis.core.errors import InputError
from proklisis.core.tracks.landmarks import is_scene
from proklisis.simulate.filming import DISTANCE_M, Shot
from proklisis.simulate.motion import Motion
from proklisis.simulate.render import shaders
from proklisis.simulate.render.body import figure_parts, gear_parts
from proklisis.simulate.render.outfit import Outfit
from proklisis.simulate.render.parts import FLOATS, Parts
from proklisis.simulate.render.place import PLACES
from proklisis.simulate.render.scenery import add_brush, add_rink, add_trees
from proklisis.simulate.render.skin import Skin

Array = NDArray[np.float64]
SUN = np.array([-0.42, -0.30, 0.86]) / np.linalg.norm([-0.42, -0.30, 0.86])
AROUND, LATITUDES = 14, (-1.0, -0.7, -0.35, -1e-4, 1e-4, 0.35, 0.7, 1.0)
FINE = 2  # the figure is drawn at this many times the picture's resolution
COARSE = 0.5  # snow is soft: its rays are the dearest part of a picture
LIMB = "3f 3f 2f 3f 1f 3f 3f 1f 1f/i"
LIMB_NAMES = (
    "end_a",
    "end_b",
    "radii",
    "wide",
    "flatness",
    "colour",
    "stripe",
    "stripe_width",
    "material",
)
NEAR, FAR = 0.5, 2000.0
#: Parts that one picture draws at most, and how far off trees still stand, metres.
MOST_PARTS, TREES_TO, RINK_TO = 900, 160.0, 14.0
#: Landmarks that belong to no rider: the fine picture is not stretched to hold them.
FAR_AWAY = frozenset({"pylon", "kite", "wake_l", "wake_r", "lip", "lip_top", "trough", "mast_head"})


def _noise(seed: int, size: int = 512) -> NDArray[np.uint8]:
    """(size, size, 4) smooth tiling noise, each channel of its own."""
    rng = np.random.default_rng([seed, 3])
    f = np.hypot(np.fft.fftfreq(size)[:, None], np.fft.fftfreq(size)[None])
    f[0, 0] = 1.0
    out = np.empty((size, size, 4))
    for k in range(4):
        spectrum = np.fft.fft2(rng.standard_normal((size, size))) / f**0.9
        spectrum[0, 0] = 0
        x = np.fft.ifft2(spectrum).real
        out[..., k] = 0.5 + 0.17 * x / x.std()
    return (np.clip(out, 0, 1) * 255).astype(np.uint8)


def _lathe() -> tuple[NDArray[np.float32], NDArray[np.int32]]:
    angles = np.linspace(0, 2 * np.pi, AROUND, endpoint=False)
    ring = np.array([(a, v) for v in LATITUDES for a in angles], np.float32)
    quads = []
    for i in range(len(LATITUDES) - 1):
        for j in range(AROUND):
            a, b = i * AROUND + j, i * AROUND + (j + 1) % AROUND
            quads += [a, b, a + AROUND, b, b + AROUND, a + AROUND]
    return ring, np.asarray(quads, np.int32)


def _read(fbo: moderngl.Framebuffer) -> NDArray[np.uint8]:
    """The drawn part of a framebuffer as (h, w, 4), top row first."""
    _, _, w, h = fbo.viewport
    return np.frombuffer(fbo.read(components=4, viewport=(0, 0, w, h)), np.uint8).reshape(h, w, 4)[
        ::-1
    ]


class Renderer:
    """One run's pictures. Close it (or use ``with``) to free the drawing context."""

    def __init__(self, motion: Motion, shot: Shot, outfit: Outfit, seed: int = 0) -> None:
        try:
            self.gl = moderngl.create_context(standalone=True, backend="egl", require=330)  # type: ignore[arg-type]
        except Exception as e:
            raise InputError(
                f"no OpenGL to draw with ({e})",
                "",
                "install the system packages libegl1 and libgl1-mesa-dri",
            ) from e
        self.motion, self.shot, self.outfit = motion, shot, outfit
        self.place = PLACES[motion.place]
        self.margin = 1.25 if shot.k1 else 1.0
        self.tan_slope = float(np.tan(np.radians(motion.slope_deg)))
        self.reach = float(np.ceil(1.55 * motion.stature_m * shot.focal_px / DISTANCE_M / 8) * 8)
        self.posts = self._scenery(seed)
        self._build(seed)

    def __enter__(self) -> Renderer:
        return self

    def __exit__(self, *_: object) -> None:
        self.gl.release()

    def _build(self, seed: int) -> None:
        gl, w, h = self.gl, self.shot.width, self.shot.height
        screen = gl.buffer(np.array([-1, -1, 1, -1, -1, 1, 1, 1], np.float32).tobytes())
        self.ground = gl.program(shaders.SCREEN_VERTEX, shaders.GROUND_FRAGMENT)
        self.limb = gl.program(shaders.LIMB_VERTEX, shaders.LIMB_FRAGMENT)
        self.ground_quad = gl.vertex_array(self.ground, [(screen, "2f", "corner")])
        ring, index = _lathe()
        self.instances = gl.buffer(reserve=4 * FLOATS * MOST_PARTS)
        self.skin = None if self.motion.body is None else Skin(gl, self.motion, self.outfit, seed)
        self.limbs = gl.vertex_array(
            self.limb,
            [(gl.buffer(ring.tobytes()), "2f", "ring"), (self.instances, LIMB, *LIMB_NAMES)],
            index_buffer=gl.buffer(index.tobytes()),
        )
        gw, gh = int(w * self.margin * COARSE), int(h * self.margin * COARSE)
        self.ground_fbo = gl.framebuffer([gl.texture((gw, gh), 4)], gl.depth_renderbuffer((gw, gh)))
        self.shade_fbo = gl.framebuffer([gl.texture((gw, gh), 1)])
        fine = int(2 * self.reach * FINE)
        self.figure_fbo = gl.framebuffer(
            [gl.texture((fine, fine), 4)], gl.depth_renderbuffer((fine, fine))
        )
        self.lens_map = self._lens_map()
        self.noise = gl.texture((512, 512), 4, _noise(seed).tobytes())
        self.noise.build_mipmaps()
        self.noise.filter = (moderngl.LINEAR_MIPMAP_NEAREST, moderngl.LINEAR)

    def _scenery(self, seed: int) -> NDArray[np.float32]:
        """Brush and trees along the way, so that a panning camera has something to pass."""
        if not (self.place.markers or self.place.trees or self.place.rink):
            return np.zeros((0, FLOATS), np.float32)
        feet = self.motion.ground()
        order = np.argsort(feet[:, 1])

        def ground(x: float, y: float) -> Array:
            z = (
                float(np.interp(y, feet[order, 1], feet[order, 2]))
                if self.tan_slope == 0
                else -y * self.tan_slope
            )
            return np.array([x, y, z])

        out = Parts([])
        ends = float(feet[:, 1].min()), float(feet[:, 1].max())
        if self.place.markers:
            add_brush(out, ground, (ends[0] - 60, ends[1] + 60), np.random.default_rng([seed, 9]))
        if self.place.trees:
            add_trees(
                out, ground, (ends[0] - TREES_TO, ends[1] + TREES_TO), self.place.snowy,
                np.random.default_rng([seed, 10]),
            )  # fmt: skip
        if self.place.rink:
            add_rink(
                out, ground, (ends[0] - RINK_TO, ends[1] + RINK_TO), self.shot.position.mean(axis=0) - feet.mean(axis=0),
                np.random.default_rng([seed, 11]),
            )  # fmt: skip
        return np.asarray(out.rows, np.float32)

    def frames(self) -> Iterator[NDArray[np.uint8]]:
        """Yield (height, width, 3) RGB pictures, one for each frame of the motion."""
        names = list(self.motion.points)
        world = np.stack([self.motion.points[n] for n in names], axis=1)
        for i in range(len(self.motion.t)):
            yield self.frame(i, dict(zip(names, world[i], strict=True)))

    def frame(self, i: int, points: dict[str, Array]) -> NDArray[np.uint8]:
        """Draw frame ``i`` with the rider's landmarks at ``points``."""
        gl, shot = self.gl, self.shot
        eye, rotation = shot.position[i], shot.rotation[i]
        parts = self._posed(i, points)
        half = np.array([shot.width, shot.height]) / 2
        whole = self._clip(np.zeros(2), half * self.margin)
        self._seen_from(i, self.ground)
        self.ground["base"], self.ground["shadow_colour"] = self.place.base, self.place.shadow
        self.ground["far"], self.ground["sky_low"], self.ground["sky_high"] = (
            self.place.far,
            self.place.sky_low,
            self.place.sky_high,
        )
        self.ground["wood"], self.ground["ripple"], self.ground["indoor"] = (
            self.place.wood,
            self.place.ripple,
            self.place.indoor,
        )
        self.ground["moved"] = tuple(self._water(i)[:2])
        middle = (points["l_hip"] + points["r_hip"]) / 2
        centre, reach = self._figure_box(points, rotation, eye)

        gl.disable(moderngl.BLEND)
        self.shade_fbo.use()
        self.shade_fbo.clear()
        gl.disable(moderngl.DEPTH_TEST)
        self._draw_rider(parts, whole, shadow=True)

        self.ground_fbo.use()
        self.ground_fbo.clear(depth=1.0)
        to_world = (rotation.T * np.array([1.0, -1.0, 1.0])).T.astype(np.float32)
        self.ground["to_world"].write(to_world.tobytes())  # type: ignore[union-attr]
        self.ground["tangent"] = tuple(half * self.margin / shot.focal_px)
        self.noise.use(0)
        self.shade_fbo.color_attachments[0].use(1)  # type: ignore[union-attr]
        self.ground["noise"], self.ground["shade"] = 0, 1
        self.ground_quad.render(moderngl.TRIANGLE_STRIP)
        gl.enable(moderngl.DEPTH_TEST)
        self._draw(self._near_posts(middle, eye), whole, shadow=False)

        self._draw_figure(parts, centre, reach)
        return self._through_lens(self._composed(centre, reach))

    def cutout(self, i: int, points: dict[str, Array]) -> tuple[NDArray[np.uint8], Array]:
        """The rider of frame ``i`` alone: (h, w, 4) RGBA, colour times alpha, and the picture's pixel at its middle."""
        parts = self._posed(i, points)
        centre, reach = self._figure_box(points, self.shot.rotation[i], self.shot.position[i])
        self.gl.enable(moderngl.DEPTH_TEST)
        self.gl.disable(moderngl.BLEND)
        self._draw_figure(parts, centre, reach)
        size = (int(2 * reach[0]), int(2 * reach[1]))
        small = cv2.resize(_read(self.figure_fbo), size, interpolation=cv2.INTER_AREA)
        return np.asarray(small, np.uint8), self.shot.centre + centre * [1.0, -1.0]

    def _posed(self, i: int, points: dict[str, Array]) -> NDArray[np.float32]:
        """Body and gear of a frame, ready to be drawn as the camera sees them."""
        if self.skin is not None:
            self.skin.move(i)
        self._seen_from(i, *([self.limb] if self.skin is None else [self.limb, self.skin.program]))
        if self.skin is None:
            return figure_parts(points, self.outfit, self.motion.stature_m)
        return gear_parts(points, self.outfit, self.motion.stature_m, self.place.footwear)

    def _seen_from(self, i: int, *programs: moderngl.Program) -> None:
        """Tell what draws where the camera of frame ``i`` is."""
        eye, rotation = self.shot.position[i], self.shot.rotation[i]
        view = np.eye(4)
        # OpenGL looks along −z with y up; the camera's rows are right, down, forward.
        view[:3, :3] = rotation * np.array([[1.0], [-1.0], [-1.0]])
        view[:3, 3] = -view[:3, :3] @ eye
        for program in programs:
            program["eye"] = tuple(eye)
            program["tan_slope"] = self.tan_slope
            program["level"] = float(self.motion.ground()[i, 2]) if self.tan_slope == 0 else 0.0
            if program is not self.ground:
                program["sun"] = tuple(SUN)
                program["view"].write(view.T.astype(np.float32).tobytes())  # type: ignore[union-attr]

    def _draw_figure(self, parts: NDArray[np.float32], centre: Array, reach: Array) -> None:
        """Draw the rider finely into a framebuffer of its own."""
        used = (2 * reach * FINE).astype(int)
        self.figure_fbo.viewport = (0, 0, int(used[0]), int(used[1]))
        self.figure_fbo.use()
        self.figure_fbo.clear(0, 0, 0, 0, depth=1.0, viewport=(0, 0, int(used[0]), int(used[1])))
        self._draw_rider(parts, self._clip(centre, reach), shadow=False)

    def _water(self, i: int) -> Array:
        """How far the surface has gone by itself."""
        flow = next(iter(self.motion.flow.values()), None)
        return np.zeros(3) if flow is None else flow[i]

    def _composed(self, centre: Array, reach: Array) -> NDArray[np.uint8]:
        """The straight picture: the fine figure laid over the coarse ground."""
        w, h = int(self.shot.width * self.margin), int(self.shot.height * self.margin)
        picture = cv2.resize(
            _read(self.ground_fbo)[..., :3], (w, h), interpolation=cv2.INTER_LINEAR
        )
        size = (2 * reach).astype(int)
        figure = cv2.resize(
            _read(self.figure_fbo), tuple(map(int, size)), interpolation=cv2.INTER_AREA
        )
        x0, y0 = int(w / 2 + centre[0] - reach[0]), int(h / 2 - centre[1] - reach[1])
        a, b = max(x0, 0), max(y0, 0)
        c, d = min(x0 + size[0], w), min(y0 + size[1], h)
        if a < c and b < d:
            part = figure[b - y0 : d - y0, a - x0 : c - x0].astype(np.uint16)
            under = picture[b:d, a:c].astype(np.uint16)
            picture[b:d, a:c] = part[..., :3] + under * (255 - part[..., 3:]) // 255
        return np.asarray(picture)

    def _through_lens(self, straight: NDArray[np.uint8]) -> NDArray[np.uint8]:
        if self.lens_map is None:
            return straight
        return np.asarray(cv2.remap(straight, *self.lens_map, cv2.INTER_LINEAR))

    def _lens_map(self) -> tuple[NDArray[np.float32], NDArray[np.float32]] | None:
        """For each pixel of the bent picture, where it is in the straight one (with its margin)."""
        shot = self.shot
        if not shot.k1:
            return None
        x, y = np.meshgrid(np.arange(shot.width, dtype=float), np.arange(shot.height, dtype=float))
        straight = undistort_radial(
            np.stack([x, y], -1), float(shot.width), shot.centre, shot.k1, 0.0
        )
        out = straight - shot.centre + shot.centre * self.margin
        return out[..., 0].astype(np.float32), out[..., 1].astype(np.float32)

    def _figure_box(
        self, points: dict[str, Array], rotation: Array, eye: Array
    ) -> tuple[Array, Array]:
        """Centre and half size of the box around the rider, whole pixels from the middle, y up."""
        near = [v for name, v in points.items() if not is_scene(name) and name not in FAR_AWAY]
        c = (np.stack(near) - eye) @ rotation.T
        xy = self.shot.focal_px * c[:, :2] * [1.0, -1.0] / c[:, 2:]
        border = 0.24 * self.motion.stature_m * self.shot.focal_px / DISTANCE_M
        lo, hi = np.floor(xy.min(axis=0) - border), np.ceil(xy.max(axis=0) + border)
        reach = np.minimum(np.ceil((hi - lo) / 2), self.reach)
        return np.round((lo + hi) / 2), reach

    def _clip(self, centre: Array, half: Array) -> Array:
        """Projection of the window ``centre`` ± ``half`` (pixels from the picture's middle, y up)."""
        m = np.zeros((4, 4))
        m[0, 0], m[1, 1] = self.shot.focal_px / half
        m[0, 2], m[1, 2] = centre / half
        m[2, 2], m[2, 3] = -(FAR + NEAR) / (FAR - NEAR), -2 * FAR * NEAR / (FAR - NEAR)
        m[3, 2] = -1.0
        return m

    def _draw_rider(self, parts: NDArray[np.float32], clip: Array, shadow: bool) -> None:
        self._draw(parts, clip, shadow)
        if self.skin is not None:
            self.skin.program["clip"].write(clip.T.astype(np.float32).tobytes())  # type: ignore[union-attr]
            self.skin.program["shadow"] = shadow
            self.skin.draw()

    def _draw(self, parts: NDArray[np.float32], clip: Array, shadow: bool) -> None:
        if not len(parts):
            return
        self.limb["clip"].write(clip.T.astype(np.float32).tobytes())  # type: ignore[union-attr]
        self.limb["shadow"] = shadow
        self.instances.write(np.ascontiguousarray(parts[:MOST_PARTS]).tobytes())
        self.limbs.render(instances=min(len(parts), MOST_PARTS))

    def _near_posts(self, rider: Array, eye: Array) -> NDArray[np.float32]:
        feet = self.posts[:, :3]
        close = np.linalg.norm(feet[:, :2] - rider[:2], axis=1) < TREES_TO
        close &= np.linalg.norm(feet - eye, axis=1) > np.linalg.norm(rider - eye) - 3.0
        near = self.posts[close]
        order: Any = np.argsort(np.linalg.norm(near[:, :2] - rider[:2], axis=1))
        return np.asarray(near[order[:MOST_PARTS]], np.float32)
