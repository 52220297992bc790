"""What a person wears: colours of the skin's vertices, and how far cloth stands off the body."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from proklisis.simulate.people.bodies import EYE_VERTICES, Body
from proklisis.simulate.render.outfit import Colour, Outfit
from proklisis.simulate.render.parts import CLOTH, GLASS, SHELL, SKIN
from proklisis.simulate.render.place import PLACES

Array = NDArray[np.float64]
#: Where heads are covered by a helmet, and where by goggles too.
HELMETS = frozenset({"snow", "trail", "dirt", "river", "track"})
GOGGLES = frozenset({"snow", "dirt"})
#: Where stiff boots reach up the shin.
HIGH_BOOTS = frozenset({"snow", "ice", "track", "dirt"})
#: A grown person's eyes are so far apart, metres: what heads are measured by.
EYES_APART = 0.060
HAIR: tuple[Colour, ...] = ((0.13, 0.09, 0.07), (0.30, 0.18, 0.10), (0.55, 0.40, 0.22), (0.62, 0.60, 0.58))  # fmt: skip


@dataclass(frozen=True)
class Dressed:
    """A body in its clothes at rest: (v, 3) vertices, (v, 3) colours from 0 to 1, (v,) materials."""

    vertices: Array
    colours: Array
    materials: Array


def dressed(who: Body, o: Outfit, place: str, seed: int = 0) -> Dressed:
    """Dress a person for a place; ``seed`` chooses how loosely and in which folds the clothes hang."""
    rng = np.random.default_rng([seed, who.number, 41])
    v, names = who.vertices, who.bone_names
    owner = np.array([n.rsplit("_", 1)[0] if n[-2:] in ("_l", "_r") else n for n in names])[who.bones[:, 0]]  # fmt: skip
    share = np.zeros((len(v), len(names)))
    np.put_along_axis(share, who.bones.astype(int), who.shares, axis=1)
    colours = np.tile(np.array(o.skin), (len(v), 1))
    materials = np.full(len(v), SKIN)
    out = np.zeros(len(v))

    def paint(where: NDArray[np.bool_], colour: Colour, material: float, stands_off: float | Array) -> None:  # fmt: skip
        colours[where], materials[where] = colour, material
        out[where] = stands_off[where] if isinstance(stands_off, np.ndarray) else stands_off

    k = who.stature_m / 1.75
    loose = float(rng.uniform(0.5, 1.5))
    folds = _folds(v, rng)
    cloth = k * loose * (0.012 + 0.010 * folds)
    upper = np.isin(owner, ("spine_01", "spine_02", "spine_03", "clavicle", "upperarm", "neck_01"))
    neck = who.joints["neck_01"][2]
    hem = v[:, 2] > -0.02 * k
    paint(np.isin(owner, ("thigh", "calf", "pelvis")), o.trousers, CLOTH, cloth)
    paint((owner == "pelvis") & hem, o.jacket, CLOTH, cloth + 0.014 * k * loose)
    paint(upper & (v[:, 2] < neck + 0.01), o.jacket, CLOTH, cloth + 0.006 * k * loose)
    band = (owner == "spine_03") & (np.abs(v[:, 2] - who.joints["spine_03"][2] - 0.05 * k) < 0.03 * k)  # fmt: skip
    paint(band, o.stripe, CLOTH, cloth + 0.006 * k * loose)
    paint(owner == "lowerarm", o.sleeve, CLOTH, cloth)
    paint(owner == "hand", o.glove, SHELL, 0.008 * k)
    ankle = who.joints["foot_l"][2]
    high = 0.17 * k if place in HIGH_BOOTS else 0.03 * k
    boots = np.isin(owner, ("foot", "ball")) | ((owner == "calf") & (v[:, 2] < ankle + high))
    # Toes are hidden in what is worn over them; who wears nothing on the feet shows them.
    paint(boots, *((o.boot, SHELL) if PLACES[place].footwear else (o.skin, SKIN)), 0.0)
    _head(who, o, place, rng, paint)
    return Dressed(v + out[:, None] * who.normals, colours, materials)


def _folds(v: Array, rng: np.random.Generator) -> Array:
    """(v,) how far cloth is pushed out or in along the skin, −1 … 1: a few waves that run round the limbs."""
    out = np.zeros(len(v))
    for _ in range(5):
        wave, phase = rng.normal([0, 0, 60], 25.0), rng.uniform(0, 2 * np.pi)
        out += np.sin(v @ wave + phase) / 5
    return out


def _head(who: Body, o: Outfit, place: str, rng: np.random.Generator, paint) -> None:  # type: ignore[no-untyped-def]
    v = who.vertices
    head = np.asarray(who.bone_names)[who.bones[:, 0]] == "head"
    eye = np.zeros(len(v), bool)
    eye[-EYE_VERTICES:] = True
    left, right = v[-EYE_VERTICES : -EYE_VERTICES // 2], v[-EYE_VERTICES // 2 :]
    between = (left.mean(axis=0) + right.mean(axis=0)) / 2
    d = float(np.linalg.norm(left.mean(axis=0) - right.mean(axis=0))) / EYES_APART
    at = (v - between) / d
    hair = HAIR[int(rng.integers(len(HAIR)))]
    front = at[:, 1] > -0.03
    brows = head & front & (np.abs(at[:, 2] - 0.024) < 0.006) & (np.abs(np.abs(at[:, 0]) - 0.030) < 0.018)  # fmt: skip
    paint(brows, hair, SKIN, 0.001)
    nose = v[who.marks["nose"], 2]
    lips = head & front & (np.abs((v[:, 2] - nose) / d + 0.036) < 0.009) & (np.abs(at[:, 0]) < 0.022)  # fmt: skip
    paint(lips, (0.58, 0.27, 0.26), SKIN, 0.0)
    paint(eye, (0.92, 0.92, 0.90), SKIN, 0.0)
    paint(eye & (at[:, 1] > at[eye, 1].max() - 0.004), (0.16, 0.11, 0.08), GLASS, 0.0005)
    scalp = head & ~eye & (at[:, 2] > 0.048 + 0.55 * np.minimum(at[:, 1], 0.02))
    if place in HELMETS:
        paint(scalp, o.helmet, SHELL, 0.024 * d)
    else:
        paint(scalp, hair, CLOTH, (0.022 if who.woman else 0.012) * d)
        if who.woman:
            nape = (at[:, 1] < -0.10) & (at[:, 2] > -0.20) & (at[:, 2] < 0.06) & (np.abs(at[:, 0]) < 0.07)  # fmt: skip
            paint(nape, hair, CLOTH, 0.03 * d)
    if place in GOGGLES:
        band = head & (np.abs(at[:, 2] - 0.004) < 0.028) & (np.abs(at[:, 0]) < 0.068) & (at[:, 1] > -0.035)  # fmt: skip
        paint(band | eye, (0.10, 0.12, 0.16), GLASS, 0.016 * d)
