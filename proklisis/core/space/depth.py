"""How far each point of the body lies behind the picture, from what the network guesses, bones that keep
their length and a body that moves smoothly.

The camera is taken as far away (weak perspective): a point's place in the picture is its place square to the line of
sight, in pixels. What is unknown is its depth. Depths of all points and frames are fitted together by Gauss–Newton steps on

- the network's guess, with its bias taken out, and its spread;
- bones of one length over the clip, the same left and right, near the usual share of the body's size;
- small accelerations.

The normal equations are banded, frame beside frame: one Cholesky factor solves them, and drawing through the same
factor gives depths as unsure as they are, with their correlation over time and between points.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from proklisis.core.anthropometry import (
    FOOT_TO_TRUNK,
    FOREARM_TO_TRUNK,
    SHANK_TO_TRUNK,
    THIGH_TO_TRUNK,
    UPPER_ARM_TO_TRUNK,
)  # fmt: skip
from proklisis.core.tracks.in_space import InSpace, Stretch
from proklisis.core.tracks.landmarks import BODY

Array = NDArray[np.float64]
AT = {name: k for k, name in enumerate(BODY)}
HIPS = [AT["l_hip"], AT["r_hip"]]
#: Bone → its usual length ÷ trunk, and how far people are off it, relative (one standard deviation, from the bodies of
#: grown people and children that simulated riders have).
USUAL: dict[str, tuple[float, float]] = {
    "hips": (0.45, 0.09), "shoulders": (0.75, 0.12), "thigh": (THIGH_TO_TRUNK, 0.08), "shank": (SHANK_TO_TRUNK, 0.08),
    "upper_arm": (UPPER_ARM_TO_TRUNK, 0.12), "forearm": (FOREARM_TO_TRUNK, 0.10), "foot": (FOOT_TO_TRUNK, 0.2), "flank": (1.0, 0.05),
}  # fmt: skip


def _bones() -> list[tuple[str, int, int]]:
    out = [("hips", AT["l_hip"], AT["r_hip"]), ("shoulders", AT["l_shoulder"], AT["r_shoulder"])]
    for s in "lr":
        for kind, a, b in (
            ("thigh", "hip", "knee"), ("shank", "knee", "ankle"), ("upper_arm", "shoulder", "elbow"), ("forearm", "elbow", "wrist"),
            ("foot", "heel", "toe"), ("flank", "hip", "shoulder"),
        ):  # fmt: skip
            out.append((kind, AT[f"{s}_{a}"], AT[f"{s}_{b}"]))
    return out


BONES = _bones()
#: Spread of the network's guess within a clip ÷ the body's size, for each kind of point (rendered people, in a frame).
GUESS_U = {
    "nose": 0.05, "ear": 0.045, "shoulder": 0.04, "elbow": 0.07, "wrist": 0.11, "hip": 0.012, "knee": 0.055, "ankle": 0.07, "heel": 0.07, "toe": 0.08,
}  # fmt: skip
#: What all frames of a clip share, ÷ the body's size (one standard deviation over clips): legs that are guessed too far ahead or
#: behind, and so the upper body and the arms. A pose that is guessed wrongly is so from its first frame to its last.
SHARED_U: tuple[dict[str, float], ...] = (
    {"knee": 0.055, "ankle": 0.07, "heel": 0.075, "toe": 0.09},
    {"shoulder": 0.035, "ear": 0.035, "nose": 0.035, "elbow": 0.045, "wrist": 0.045},
    {"elbow": 0.05, "wrist": 0.08},
    # Which way feet point is guessed apart from where they are.
    {"toe": 0.10, "heel": -0.03},
)
#: Errors of the guess are much the same for so long, seconds.
GUESS_CORR_S = 0.3
#: Bones have the length that was found to this share, all the time: it is one error, not one a frame.
BONE_U = 0.06
#: Points of the body change their speed against the hips so fast, m/s² (one standard deviation).
ACCELERATION = 20.0
#: Size of a body in trunks, and metres.
SIZE_TO_TRUNK, TRUNK_M = 3.5, 0.48
#: A guess farther off than so many spreads pulls no harder.
ROBUST = 2.0
#: The middle of the hips lies at no depth, to this share of the body's size.
MIDDLE_U = 0.002
#: Steps of the fit at the most, and the share of the body's size by which no point moves any more.
ROUNDS, SETTLED = 8, 0.002
#: Frames fitted together, and those on either side of a join that two stretches share: so long a clip takes no more memory.
LONGEST, OVERLAP = 1500, 20


@dataclass(frozen=True)
class Depths:
    """Depths of the body's points over a clip, and what else the fit found.

    Attributes
    ----------
    in_space : the depths
    trunk_px : length of the trunk
    lengths : bone → length, pixels
    strain : by how much of their length bones seem to stretch and shrink, as a median; a body that is followed well keeps
        to some hundredths
    """

    in_space: InSpace
    trunk_px: float
    lengths: dict[str, float]
    strain: float


@dataclass(frozen=True)
class _Seen:
    """What a fit rests on: (n, 19, 2) places and (n, 19) their ±, the network's depths and whether a point is seen."""

    xy: Array
    u: Array
    guess: Array
    seen: NDArray[np.bool_]
    fps: float
    point_corr_s: float
    trunk: float

    def part(self, a: int, b: int) -> _Seen:
        return replace(
            self, xy=self.xy[a:b], u=self.u[a:b], guess=self.guess[a:b], seen=self.seen[a:b]
        )

    @property
    def size(self) -> float:
        return SIZE_TO_TRUNK * self.trunk


def fit_depths(xy: Array, u: Array, guess: Array, t: Array, point_corr_s: float) -> Depths:
    """Fit the depths of a clip.

    Parameters
    ----------
    xy, u : (n, 19, 2) and (n, 19) places of the body's points and their standard uncertainty, pixels; NaN where not seen
    guess : (n, 19) depths as the network has them, pixels behind the middle of the hips
    t : (n,) seconds
    point_corr_s : correlation time of the errors of ``xy``
    """
    n = len(guess)
    seen = np.isfinite(xy[..., 0]) & np.isfinite(guess)
    xy, guess = np.where(seen[..., None], xy, 0.0), np.where(seen, guess, 0.0)
    u = np.where(seen, u, np.inf)
    rests = _Seen(
        xy, u, guess, seen, (n - 1) / (t[-1] - t[0]), point_corr_s, _trunk_px(xy, guess, seen)
    )
    spans = _spans(n)
    weights = _weights(n, spans)
    z, lengths = guess.copy(), dict[str, float]()
    factors: list[Array] = []
    for _ in range(ROUNDS):
        lengths = _lengths(xy, z, seen, rests.trunk)
        new, factors = np.zeros_like(z), []
        for (a, b), w in zip(spans, weights, strict=True):
            part, factor = _solved(rests.part(a, b), z[a:b], lengths)
            new[a:b] += w[:, None] * part
            factors.append(factor)
        moved = float(np.abs(new - z)[seen].max(initial=0.0))
        z = new
        if moved < SETTLED * rests.size:
            break
    stretches = tuple(
        Stretch(a, b, factor, w) for (a, b), factor, w in zip(spans, factors, weights, strict=True)
    )
    shared = np.array([[mode.get(name.split("_")[-1], 0.0) for name in BODY] for mode in SHARED_U])
    space = InSpace(z, stretches, rests.size * shared)
    return Depths(space, rests.trunk, lengths, _strain(xy, z, seen, lengths))


def _spans(n: int) -> list[tuple[int, int]]:
    """Stretches of about equal length that a long clip is fitted in, each sharing frames with the next."""
    count = max(1, int(np.ceil(n / LONGEST)))
    edges = np.linspace(0, n, count + 1).round().astype(int)
    return [(max(0, int(a) - OVERLAP), min(n, int(b) + OVERLAP)) for a, b in pairwise(edges)]


def _weights(n: int, spans: list[tuple[int, int]]) -> list[Array]:
    out = []
    for k, (a, b) in enumerate(spans):
        w = np.ones(b - a)
        ramp = (np.arange(2 * OVERLAP) + 0.5) / (2 * OVERLAP)
        if k:
            w[: 2 * OVERLAP] = ramp
        if k + 1 < len(spans):
            w[-2 * OVERLAP :] = ramp[::-1]
        out.append(w)
    return out


def _solved(rests: _Seen, z: Array, lengths: dict[str, float]) -> tuple[Array, Array]:
    """One Gauss–Newton step from depths ``z`` (m, 19): the new ones, and the factor of its normal equations."""
    from scipy.linalg import cho_solve_banded, cholesky_banded

    n, k = z.shape
    alike = max(1.0, float(np.sqrt(2 * rests.fps * GUESS_CORR_S)))
    repeated = max(1.0, float(np.sqrt(2 * rests.fps * rests.point_corr_s)))
    spread = np.array([GUESS_U[name.split("_")[-1]] for name in BODY]) * rests.size
    band = _smoothness(n, k, rests.fps, ACCELERATION * rests.trunk / TRUNK_M)
    diagonal, right = band[0].reshape(n, k), np.zeros((n, k))
    off = np.abs(z - rests.guess) / spread
    weight = rests.seen / (alike * spread) ** 2 / np.maximum(1.0, off / ROBUST)
    diagonal += weight
    right += weight * rests.guess
    # The middle of the hips is where depths are counted from.
    middle = 1.0 / (MIDDLE_U * rests.size) ** 2
    diagonal[:, HIPS] += middle
    band[HIPS[1] - HIPS[0]].reshape(n, k)[:, HIPS[0]] += middle
    for kind, a, b in BONES:
        long = lengths[kind]
        flat = np.linalg.norm(rests.xy[:, b] - rests.xy[:, a], axis=1)
        dz = z[:, b] - z[:, a]
        far = np.hypot(flat, dz) + 1e-9
        ends = np.hypot(rests.u[:, a], rests.u[:, b])
        slack = np.hypot(alike * BONE_U * long, repeated * ends)
        once = np.hypot(BONE_U * long, ends)
        w = 1.0 / slack**2 / np.maximum(1.0, np.abs(far - long) / once / ROBUST)
        slope = dz / far
        diagonal[:, a] += w * slope**2
        diagonal[:, b] += w * slope**2
        band[abs(b - a)].reshape(n, k)[:, min(a, b)] -= w * slope**2
        # Linearised about where the last step came to lie.
        pull = w * slope * (long - far + slope * dz)
        right[:, b] += pull
        right[:, a] -= pull
    factor = cholesky_banded(band, lower=True, overwrite_ab=True, check_finite=False)
    return cho_solve_banded((factor, True), right.ravel()).reshape(n, k), factor


def _smoothness(n: int, k: int, fps: float, acceleration_px: float) -> Array:
    """Lower banded form of the penalty on second differences, and a trace of one on the depths themselves."""
    # White acceleration: what its spread is over one step of 1/30 s, spread over steps of any length.
    w = fps**4 / acceleration_px**2 * (30.0 / fps)
    diagonal, one, two = np.full(n, 1e-9), np.zeros(n), np.zeros(n)
    if n > 2:
        for shift, weight in ((0, 1.0), (1, 4.0), (2, 1.0)):
            diagonal[shift : n - 2 + shift] += w * weight
        one[: n - 2] -= 2 * w
        one[1 : n - 1] -= 2 * w
        two[: n - 2] += w
    band = np.zeros((2 * k + 1, n * k))
    band[0], band[k], band[2 * k] = (np.repeat(d, k) for d in (diagonal, one, two))
    return band


def _trunk_px(xy: Array, z: Array, seen: NDArray[np.bool_]) -> float:
    whole = seen.all(axis=1)
    mid = [(xy[whole, AT[f"l_{p}"]] + xy[whole, AT[f"r_{p}"]]) / 2 for p in ("hip", "shoulder")]
    deep = [(z[whole, AT[f"l_{p}"]] + z[whole, AT[f"r_{p}"]]) / 2 for p in ("hip", "shoulder")]
    far = np.hypot(np.linalg.norm(mid[1] - mid[0], axis=1), deep[1] - deep[0])
    return float(np.median(far)) if len(far) else 1.0


def _strain(xy: Array, z: Array, seen: NDArray[np.bool_], lengths: dict[str, float]) -> float:
    off = []
    for kind, a, b in BONES:
        if kind != "foot":
            both = seen[:, a] & seen[:, b]
            flat = np.linalg.norm(xy[both, b] - xy[both, a], axis=1)
            off.append(np.abs(np.hypot(flat, z[both, b] - z[both, a]) / lengths[kind] - 1))
    return float(np.median(np.concatenate(off)))


def _lengths(xy: Array, z: Array, seen: NDArray[np.bool_], trunk: float) -> dict[str, float]:
    """Bone → length in pixels: where the bone lies in the picture counts most, with the usual share of the trunk beside it."""
    out = {}
    for kind, (usual, spread) in USUAL.items():
        far, weight = [], []
        for name, a, b in BONES:
            if name == kind:
                both = seen[:, a] & seen[:, b]
                flat = np.linalg.norm(xy[both, b] - xy[both, a], axis=1)
                length = np.hypot(flat, z[both, b] - z[both, a])
                far.append(length)
                weight.append((flat / np.maximum(length, 1e-9)) ** 4)
        length, w = np.concatenate(far), np.concatenate(weight)
        expected = usual * trunk
        if not len(length):
            out[kind] = expected
            continue
        order = np.argsort(length)
        share = np.cumsum(w[order]) / w.sum()
        own = float(length[order][np.searchsorted(share, 0.5)])
        own_u = 0.04 / max(float(np.mean(w)), 0.05)
        p, q = 1 / (spread * expected) ** 2, 1 / (own_u * own) ** 2
        out[kind] = (p * expected + q * own) / (p + q)
    return out
