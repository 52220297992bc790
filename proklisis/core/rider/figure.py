"""The rider as measures see them: points in world axes, whatever the camera was.

A :class:`Figure` holds (n, 3) arrays *across* (+ to the rider's right), *along* (+ the way
they travel, horizontal) and *up* (+ against gravity). A single camera shows two of the
three; the third is NaN, so a measure that needs it gives NaN and is answered with
*cannot tell from this view* instead of a guess. Units are pixels from a camera and metres
from 3-D tracks: every measure is an angle or a ratio of lengths.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera import projection
from proklisis.core.camera.views import azimuth_of
from proklisis.core.errors import NotFollowed
from proklisis.core.rider.ground import PER_METRE, ice_points, is_flat
from proklisis.core.rider.mass import MIDPOINTS, com_weights
from proklisis.core.signals import lowpass, residual_cutoff
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import Tracks

Array = NDArray[np.float64]
T = TypeVar("T")
AXES: dict[str, tuple[int, ...]] = {
    "front": (0, 2), "rear": (0, 2), "side_left": (1, 2), "side_right": (1, 2),
    "above": (0, 1), "oblique": (0, 2),
}  # fmt: skip

#: Facts of the scene that every reading leans on, with their standard uncertainty.
#: ``shin_pitch`` is the shin's forward lean in a ski boot (house choice), needed to read an
#: edge from the shin when the camera cannot see along the ski.
FACTS = ("roll", "pitch", "offset", "slope", "shin_pitch", "scale")
CAMERA_FACTS = ("roll", "pitch", "offset")
#: Facts of the rider, which only draws move: ``legs`` is how long the legs are for the trunk, 1 for the usual. People
#: are off it by so much (one standard deviation over the bodies that simulated riders have). ``aside`` is how far knees are from where
#: their likeliest depths put them, standard deviations (see ``geometry.knee_flexion``).
RIDER_FACTS = ("legs", "aside", "feet")
LEGS_U = 0.06
#: A foot is as long as its rider's height says within this share (the same bodies).
FEET_U = 0.06
SHIN_PITCH = (21.5, 5.0)

#: A base whose edges lie the wrong way round by this share of its width was marked so (house choice).
WRONG_WAY = 0.3


@dataclass(frozen=True)
class Figure:
    """Points of the rider over ``n`` frames.

    Attributes
    ----------
    t : (n,) seconds
    fps : frames per second
    points : name → (n, 3) across, along, up
    u : name → (n,) standard uncertainty of each seen coordinate of the raw points
    side : (n,) +1 in a right turn, −1 in a left one, 0 outside any turn
    view : camera view, or None for 3-D tracks
    facts : name → value, degrees (``scale``: length units per metre)
    facts_u : their standard uncertainties
    cutoff_hz : low-pass the points went through
    corr_s : correlation time of the landmark errors, seconds
    """

    t: Array
    fps: float
    points: dict[str, Array]
    u: dict[str, Array]
    side: Array
    view: str | None
    facts: dict[str, float]
    facts_u: dict[str, float]
    cutoff_hz: float
    corr_s: float
    touched: set[str] = field(default_factory=set, repr=False)
    #: The foot toward the nose of a board, where the rider stands on one.
    front_foot: str | None = None
    #: Conditions of the run (rope, planned rotations, …) and the rider's height in metres.
    given: Mapping[str, object] = field(default_factory=dict, repr=False)
    #: Only the blades on the ice are there, with their height in the picture in place of their own (see ``core/ground``).
    flat: bool = False
    #: Points of the body with all three coordinates, across, along and up, where depths were fitted; the figure's unit.
    space: Mapping[str, Array] = field(default_factory=dict, repr=False)
    #: Read in space: all three coordinates of ``points`` are there, the one along the line of sight less surely.
    in_space: bool = False
    #: From where the camera looks (see ``core/camera/views``), degrees; NaN for 3-D tracks.
    azimuth: float = float("nan")
    #: Signals that several measures of this figure share, worked out once.
    memo: dict[str, Any] = field(default_factory=dict, repr=False, compare=False)
    #: Points of the outer and the inner limb, with what they were picked from.
    picked: dict[tuple[int, int, int], tuple[Array, Array, Array, Array]] = field(
        default_factory=dict, repr=False, compare=False
    )

    def __getitem__(self, name: str) -> Array:
        """Return a point, or raise NotFollowed, a KeyError, when it is not tracked."""
        self.touched.add(name)
        if name.startswith(("outside_", "inside_")):
            where, _, part = name.partition("_")
            return self._by_side(where, part)
        if (
            name.startswith(("front_", "back_"))
            and self.front_foot is not None
            and name not in self.points
        ):
            where, _, part = name.partition("_")
            foot = self.front_foot if where == "front" else {"l": "r", "r": "l"}[self.front_foot]
            return self[f"{foot}_{part}"]
        if name not in self.points:
            parts = com_weights() if name == "com" else MIDPOINTS.get(name, ())
            raise NotFollowed(*[p for p in parts if p not in self.points] or [name])
        return self.points[name]

    def _by_side(self, where: str, part: str) -> Array:
        left, right = self[f"l_{part}"], self[f"r_{part}"]
        if where == "inside":
            left, right = right, left
        # Figures that differ in one point share all others, and what is picked from them.
        key = (id(left), id(right), id(self.side))
        if key not in self.picked:
            self.picked[key] = left, right, self.side, np.where(self._outside_is_left, left, right)
        return self.picked[key][3]

    @cached_property
    def _outside_is_left(self) -> NDArray[np.bool_]:
        """(n, 3): a full mask is several times faster to pick by than one that is broadcast."""
        return np.repeat((self.side > 0)[None], 3, axis=0).T

    def limb(self, limb: str, part: str) -> Array:
        """Return ``part`` of ``limb`` (``outside``, ``inside``, ``l`` or ``r``)."""
        return self[f"{limb}_{part}"]

    @property
    def sideways(self) -> bool:
        """Whether the rider stands sideways on a board: legs and trunk then show from other views."""
        return self.front_foot is not None and "board_nose" in self.points

    @property
    def axes(self) -> tuple[int, ...]:
        return (0, 1, 2) if self.view is None else AXES[self.view]

    @property
    def by_depth(self) -> float:
        """How much of what lies across the way of travel is depth to the camera, 0 … 1; 0 where no depths were fitted."""
        known = self.in_space or bool(self.space)
        return abs(float(np.sin(np.radians(self.azimuth)))) if known else 0.0

    @property
    def psi(self) -> float:
        """Radians the camera stands off its ideal view, 0 in 3-D."""
        return float(np.radians(self.facts["offset"]))

    def path(self, name: str) -> Array:
        """(n, 3) path of a point over the ground, in the figure's unit; NotFollowed where the ground's own way is not known."""
        if "scene_drift" in self.points or self.in_space:
            return self[name] - self["scene_drift"]
        return self[name]

    def worst_u(self, *names: str) -> float:
        """The largest usual uncertainty among points, in the figure's unit; never quite zero."""
        return max(0.1, *(float(np.nanmedian(self.u[n])) for n in names))

    def worth(self, names: list[str], beside: list[str]) -> float:
        """What points are worth beside others that show the same, 0 … 1, by their uncertainties."""
        return min((self.worst_u(*beside) / self.worst_u(*names)) ** 2, 1.0)

    def metres(self) -> float:
        """The figure's unit in metres; NaN where the scale is not known."""
        return 1.0 / self.facts["scale"]

    def travel(self, d: Array) -> Array:
        """Component of (n, 3) vectors down the slope, along the general direction of travel."""
        s = np.radians(self.facts["slope"])
        return np.asarray(d[:, 1] * np.cos(s) - d[:, 2] * np.sin(s))

    def normal(self, d: Array) -> Array:
        """Component of (n, 3) vectors square to the surface."""
        s = np.radians(self.facts["slope"])
        return np.asarray(d[:, 1] * np.sin(s) + d[:, 2] * np.cos(s))

    def once(self, name: str, work: Callable[[], T]) -> T:
        """The signal or events of that name, worked out at their first use."""
        if name not in self.memo:
            self.memo[name] = work()
        found: T = self.memo[name]
        return found

    def nudges(self, names: set[str]) -> Iterator[Figure]:
        """Yield this figure with one seen coordinate of one of ``names`` moved by its u."""
        for name in sorted(names & self.points.keys()):
            for axis in self.axes:
                moved = self.points[name].copy(order="K")
                moved[:, axis] += self.u[name]
                yield replace(self, points={**self.points, name: moved}, touched=set(), memo={})


def smoothed(tracks: Tracks, lowest: float = 4.0, highest: float = 8.0) -> tuple[Tracks, float]:
    """Low-pass every landmark at the body's own cut-off; return the tracks and the cut-off (Hz)."""
    major = [i for i, n in enumerate(tracks.names) if n.endswith(("_hip", "_shoulder", "_ankle"))]
    xy = tracks.xy
    fps = tracks.facts.fps
    cutoff = residual_cutoff(xy[:, major], fps, highest=highest) if major else 6.0
    cutoff = max(cutoff, lowest)
    smooth = lowpass(xy, fps, cutoff)
    xyz = None if tracks.xyz is None else lowpass(tracks.xyz, fps, cutoff)
    return replace(tracks, xy=smooth, xyz=xyz), cutoff


def _base_in_order(points: dict[str, Array], u: dict[str, Array]) -> None:
    """Let ``base_out`` be the right edge of a board's or boat's base, whichever of the two was marked as which.

    Measures tell the side of a tilt by it. A base that was marked the other way round lies to the left in nearly all frames;
    from the side, where that does not show, it stays as it is.
    """
    one, other = "base_in", "base_out"
    if one not in points or other not in points:
        return
    d = points[other] - points[one]
    seen = d[np.isfinite(d[:, 0]), 0]
    if len(seen) and float(np.median(seen)) < -WRONG_WAY * float(np.percentile(np.abs(seen), 90)):
        points[one], points[other] = points[other], points[one]
        u[one], u[other] = u[other], u[one]


def _derived(points: dict[str, Array], u: dict[str, Array]) -> None:
    for name, parts in MIDPOINTS.items():
        if all(p in points for p in parts):
            points[name] = sum(points[p] for p in parts) / len(parts)  # type: ignore[assignment]
            u[name] = np.sqrt(sum(u[p] ** 2 for p in parts)) / len(parts)
    weights = com_weights()
    if all(p in points for p in weights):
        points["com"] = _weighted([points[p] for p in weights], list(weights.values()))
        u["com"] = np.sqrt(sum((w * u[p]) ** 2 for p, w in weights.items()))


def _weighted(points: list[Array], weights: list[float]) -> Array:
    """Weighted sum of (n, 3) points, added up in place."""
    out, part = np.zeros_like(points[0]), np.empty_like(points[0])
    for point, w in zip(points, weights, strict=True):
        out += np.multiply(point, w, out=part)
    return out


def _surface_slope(tracks: Tracks) -> float | None:
    """Slope in degrees read from the surface line of a side view, or None."""
    if tracks.facts.view not in ("side_left", "side_right") or not tracks.has(
        "surface_a", "surface_b"
    ):
        return None
    centre = np.array([tracks.facts.width, tracks.facts.height]) / 2
    a = projection.level(tracks.point("surface_a"), tracks.facts.roll_deg, centre)
    b = projection.level(tracks.point("surface_b"), tracks.facts.roll_deg, centre)
    d = b - a
    angles = np.degrees(np.arctan2(d[:, 1], np.abs(d[:, 0])))
    return float(abs(np.nanmedian(angles)))


def scene_facts(tracks: Tracks) -> tuple[dict[str, float], dict[str, float]]:
    """Return the nudgeable facts of a clip and their standard uncertainties."""
    f = tracks.facts
    if tracks.xyz is not None:
        exact = {"roll": 0.0, "pitch": 0.0, "offset": 0.0, "slope": f.slope_deg,
                 "shin_pitch": SHIN_PITCH[0], "scale": 1.0, "legs": 1.0, "aside": 0.0, "feet": 1.0}  # fmt: skip
        return exact, dict.fromkeys((*FACTS, *RIDER_FACTS), 0.0)
    slope, slope_u = f.slope_deg, f.slope_u_deg
    seen = _surface_slope(tracks)
    if seen is not None:
        # The line shares the picture's roll, which is nudged on its own; 1° covers its two marks.
        slope, slope_u = seen, min(slope_u, 1.0)
    # The marks' own doubt is drawn with the corners.
    scale, rel = (
        (PER_METRE, 0.0) if is_flat(tracks) else (f.px_per_m or float("nan"), f.px_per_m_rel_u)
    )
    values = {"roll": f.roll_deg, "pitch": f.pitch_deg, "offset": f.view_offset_deg,
              "slope": slope, "shin_pitch": SHIN_PITCH[0],
              "scale": scale, "legs": 1.0, "aside": 0.0, "feet": 1.0}  # fmt: skip
    us = {"roll": f.roll_u_deg, "pitch": f.pitch_u_deg, "offset": f.view_offset_u_deg,
          "slope": slope_u, "shin_pitch": SHIN_PITCH[1], "scale": scale * rel, "legs": LEGS_U,
          "aside": 1.0, "feet": FEET_U}  # fmt: skip
    return values, us


def build(
    tracks: Tracks,
    cutoff_hz: float,
    side: Array | None = None,
    facts: dict[str, float] | None = None,
) -> Figure:
    """Turn (smoothed) tracks into a figure, with ``facts`` in place of the clip's own if given."""
    own, own_u = scene_facts(tracks)
    facts = own if facts is None else facts
    n = len(tracks)
    side = np.zeros(n) if side is None else side
    points: dict[str, Array] = {}
    u: dict[str, Array] = {}
    if tracks.xyz is not None:
        for k, name in enumerate(tracks.names):
            points[name] = np.asfortranarray(tracks.xyz[:, k])
            u[name] = np.zeros(n)
        view = None
    elif is_flat(tracks):
        view = "above"
        points, u = ice_points(tracks)
    elif read_in_space(tracks):
        view = None
        points = _world(tracks, facts)
        u = {name: tracks.u[:, tracks.index[name]] for name in points}
    else:
        view = tracks.facts.view
        if view is None:
            raise ValueError("a figure needs a view or 3-D tracks")
        pos = _to_axes(tracks, view, facts)
        for k, name in enumerate(tracks.names):
            points[name] = pos[k].T
            u[name] = tracks.u[:, k]
    if not tracks.facts.ground_along and "scene_drift" in points:
        points["scene_drift"] = points["scene_drift"].copy()
        points["scene_drift"][:, 1] = np.nan
    _base_in_order(points, u)
    _derived(points, u)
    f = tracks.facts
    space = _world(tracks, facts) if view in SIDES and tracks.in_space is not None else {}
    given = {**f.conditions, **({"height_m": f.height_cm / 100} if f.height_cm else {})}
    front = {"regular": "l", "goofy": "r"}.get(f.stance or "")
    return Figure(
        tracks.t, f.fps, points, u, side, view, facts, own_u, cutoff_hz, f.error_corr_s, front_foot=front, given=given,
        flat=is_flat(tracks), space=space, in_space=read_in_space(tracks),
        azimuth=float("nan") if tracks.xyz is not None or f.view in (None, "above") else azimuth_of(f.view, facts["offset"]),
    )  # fmt: skip


SIDES = ("side_left", "side_right")


#: A camera further than this off the named view shows the rider in space, degrees.
ON_LINE_DEG = 5.0


def read_in_space(tracks: Tracks) -> bool:
    """Whether all three coordinates are read: depths are known, and no named view shows two of them as they are."""
    f = tracks.facts
    if tracks.in_space is None or tracks.xyz is not None or f.view in (None, "above"):
        return False
    return f.view == "oblique" or abs(f.view_offset_deg) > ON_LINE_DEG


def _to_axes(tracks: Tracks, view: str, facts: dict[str, float]) -> Array:
    """(k, 3, n): each landmark's across, along and up lie together, which is how measures read them."""
    x, y = _straight(tracks)
    c, s = np.cos(np.radians(facts["roll"])), np.sin(np.radians(facts["roll"]))
    pos = np.full((x.shape[0], 3, x.shape[1]), np.nan)
    cos_psi, cos_pitch = np.cos(np.radians(facts["offset"])), np.cos(np.radians(facts["pitch"]))
    across, wide = (1, cos_psi) if view in SIDES else (0, 1.0 if view == "above" else cos_psi)
    high, tall = (1, 1.0) if view == "above" else (2, cos_pitch)
    k = (-1.0 if view in ("front", "side_left") else 1.0) / wide
    pos[:, across] = (k * c) * x + (k * s) * y
    pos[:, high] = (s / tall) * x - (c / tall) * y
    return pos


def _straight(tracks: Tracks) -> tuple[Array, Array]:
    """(k, n) pixels right of the picture's middle and below it, as a straight-line lens would show them."""
    f = tracks.facts
    centre = np.array([f.width, f.height]) / 2
    seen = tracks.by_landmark
    if f.k1 or f.k2:
        xy = projection.undistort_radial(tracks.xy, f.focal_px or f.width, centre, f.k1, f.k2)
        seen = xy.transpose(2, 1, 0)
    return seen[0] - centre[0], seen[1] - centre[1]


#: Gear that lies on the surface, and the points of the body that it lies under.
ON_SURFACE = {
    **{f"{s}_{end}": (f"{s}_heel", f"{s}_toe") for s in "lr" for end in ("ski_tip", "ski_tail", "blade_front", "blade_back", "base_in", "base_out")},
    **dict.fromkeys(("board_nose", "board_tail", "base_in", "base_out"), ("l_heel", "l_toe", "r_heel", "r_toe")),
}  # fmt: skip
#: A line of sight so nearly in the surface that nothing tells how far along it a point lies (sine of the angle).
GRAZING = 0.12


def _world(tracks: Tracks, facts: dict[str, float]) -> dict[str, Array]:
    """Landmark → (n, 3) across, along and up, from places in the picture and depths; gear on the surface where it meets it."""
    assert tracks.in_space is not None and tracks.facts.view is not None
    x, y = _straight(tracks)
    roll, pitch = np.radians(facts["roll"]), np.radians(facts["pitch"])
    slope = np.radians(facts["slope"])
    azimuth = np.radians(azimuth_of(tracks.facts.view, facts["offset"]))
    right = np.cos(roll) * x + np.sin(roll) * y
    high = np.sin(roll) * x - np.cos(roll) * y

    def placed(r: Array, h: Array, z: Array) -> Array:
        level, up = z * np.cos(pitch) - h * np.sin(pitch), h * np.cos(pitch) + z * np.sin(pitch)
        across = r * np.cos(azimuth) - level * np.sin(azimuth)
        along = r * np.sin(azimuth) + level * np.cos(azimuth)
        return np.stack([across, along, up], axis=-1)

    out: dict[str, Array] = {}
    depth = {n: tracks.in_space.z[:, k] for k, n in enumerate(BODY)}
    for name, z in depth.items():
        if name in tracks.index:
            k = tracks.index[name]
            out[name] = np.asfortranarray(placed(right[k], high[k], z))
    # How fast a point rises off the surface per pixel to the right, up and away.
    off = np.array([
        np.sin(azimuth) * np.sin(slope),
        np.cos(pitch) * np.cos(slope) - np.sin(pitch) * np.cos(azimuth) * np.sin(slope),
        np.cos(pitch) * np.cos(azimuth) * np.sin(slope) + np.sin(pitch) * np.cos(slope),
    ])  # fmt: skip
    # Nothing tells how far away it lies where the line of sight all but runs along the surface.
    fall = off[2] if abs(off[2]) >= GRAZING else np.nan
    for name, under in ON_SURFACE.items():
        if name in tracks.index and all(b in tracks.index for b in under):
            k, feet = tracks.index[name], [tracks.index[b] for b in under]
            r0, h0 = right[feet].mean(axis=0), high[feet].mean(axis=0)
            z0 = np.mean([depth[b] for b in under], axis=0)
            z = z0 - (off[0] * (right[k] - r0) + off[1] * (high[k] - h0)) / fall
            at = placed(right[k], high[k], z)
            if "base" in name and np.isnan(fall):
                # The base lies close under the feet: how high its edges are shows all the same.
                at[:, 2] = placed(right[k], high[k], z0)[:, 2]
            out[name] = np.asfortranarray(at)
    return out
