"""What measuring gives: a value ± u per measure, unit, phase and limb, or why there is none."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from proklisis.core.camera.views import ONLY_3D, in_views
from proklisis.core.measures.registry import REGISTRY, Measure, on_the_ice, shows
from proklisis.core.rider.figure import ON_LINE_DEG, Figure
from proklisis.core.shapes.prescription import UntoldReason
from proklisis.core.splitting.units import Boundary, Unit
from proklisis.core.tracks.landmarks import in_words
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]
#: A camera further than this off the named view shows no view-plane angle worth stating.
VIEW_LIMIT_DEG = 15.0
#: Off the line by more than ON_LINE_DEG, what lies along the line of sight shows across it: a trunk's pitch as a tilt, a lean as
#: fore and aft. So much of it at most, per sine of the angle (standard uncertainty; house choice until bodies are read in space).
OFF_LINE_U = {"deg": 30.0, "ratio": 0.5, "pct": 100.0, "deg/s": 60.0, "m": 0.5}
#: A reading whose U is wider than this, and than its own value, says nothing (house choice): widths that collapse to a line, rates of what was lost.
WIDEST_U = {"ratio": 3.0, "deg": 120.0, "deg/s": 600.0, "pct": 100.0}
UNIT_SIGN = {"deg": "°", "deg/s": "°/s", "pct": " %"}
#: Turned to the outside: in the change of edges of the turn that ends, which is the other one's inside.
SQUARE_IN_THE_CHANGE = ("separation", "hip_separation")
NEEDS_IDEAL_VIEW = ("front", "rear", "side_left", "side_right")


@dataclass(frozen=True)
class Reading:
    """One measured value. ``t`` is the instant to look at, seconds from the first frame."""

    id: str
    value: float
    u: float
    segment: int | None = None
    phase: str | None = None
    limb: str | None = None
    t: float | None = None


@dataclass(frozen=True)
class Refusal:
    """A measure that this clip cannot give, and why."""

    id: str
    reason: UntoldReason
    words: str
    #: Landmarks that would have to be there.
    points: tuple[str, ...] = ()


class Series(NamedTuple):
    """A measure in every frame: (n,) values and their standard uncertainties, in the measure's unit; NaN where unseen."""

    value: NDArray[np.float64]
    u: NDArray[np.float64]


@dataclass(frozen=True)
class Measured:
    """What came of splitting and measuring a figure.

    Attributes
    ----------
    figure : as the measures read it, with the side of every frame
    boundaries, units : with the uncertainty of their times
    series : (measure, limb or "") → what it is in every frame, for the measures that are read in each
    """

    figure: Figure
    boundaries: list[Boundary]
    units: list[Unit]
    readings: list[Reading]
    refused: list[Refusal]
    series: dict[tuple[str, str], Series] = field(default_factory=dict)


def refusal(m: Measure, figure: Figure) -> Refusal | None:
    """Say why a measure cannot be read from this figure, or None when it can."""
    if not shows(m, figure):
        wanted = m.seen_from(figure.sideways)
        if ONLY_3D in wanted:
            return Refusal(m.id, "view", f"{m.title} needs 3-D tracks.")
        views = in_views(wanted)
        if figure.view == "oblique" and on_the_ice(m):
            return Refusal(
                m.id,
                "view",
                f"{m.title} shows {views}, or once the four corners of a rectangle on the ice are marked.",
            )
        return Refusal(m.id, "view", f"{m.title} shows {views}.")
    if figure.view in NEEDS_IDEAL_VIEW and m.views and abs(figure.facts["offset"]) > VIEW_LIMIT_DEG:
        return Refusal(
            m.id,
            "view",
            f"The camera stands {figure.facts['offset']:.0f}° off the {figure.view} view.",
        )
    lacking = [
        p for p in m.needs(figure.sideways) if p not in figure.points or not _seen(figure, p)
    ]
    if lacking and figure.flat:
        views = in_views(m.seen_from(figure.sideways))
        return Refusal(
            m.id, "view", f"{m.title} shows {views}; from here only the trace on the ice is read."
        )
    if lacking:
        return unfollowed(m, lacking)
    if m.id == "weight_outside" and not np.isfinite(figure.facts["scale"]):
        return Refusal(m.id, "not_measured", f"{m.title} needs a scale: give the rider's height.")
    return None


def unfollowed(m: Measure, landmarks: Iterable[str]) -> Refusal:
    """What is said of a measure whose landmarks these tracks do not have."""
    lacking = tuple(landmarks)
    return Refusal(
        m.id,
        "not_measured",
        f"{m.title} needs {', '.join(map(in_words, lacking))}, not tracked here.",
        lacking,
    )


def off_line(readings: Iterable[Reading], figure: Figure) -> list[Reading]:
    """Readings with the ± that a camera off the line costs them."""
    return [replace(r, u=float(np.hypot(r.u, off_line_u(r.id, figure)))) for r in readings]


def series_off_line(
    series: dict[tuple[str, str], Series], figure: Figure
) -> dict[tuple[str, str], Series]:
    """Series with the ± that a camera off the line costs them."""
    return {
        key: Series(s.value, np.hypot(s.u, off_line_u(key[0], figure))) for key, s in series.items()
    }


def off_line_u(measure: str, figure: Figure) -> float:
    """Standard uncertainty that a camera off the line adds to a measure, in its unit."""
    psi = abs(figure.facts["offset"])
    m = REGISTRY[measure]
    if psi <= ON_LINE_DEG or figure.view not in NEEDS_IDEAL_VIEW or not m.views:
        return 0.0
    return OFF_LINE_U.get(m.unit, 0.0) * float(np.sin(np.radians(psi)))


def worth_saying(readings: Iterable[Reading]) -> tuple[list[Reading], list[Refusal]]:
    """Readings whose ± says something, and why a measure of which none does is left out."""
    kept, dropped = [], {}
    for r in readings:
        widest = max(WIDEST_U.get(REGISTRY[r.id].unit, np.inf), abs(r.value))
        if np.isfinite(r.u) and 2 * r.u > widest:
            dropped[r.id] = r
        else:
            kept.append(r)
    known = {r.id for r in kept}
    words = "{} is known no better here than to ±{:.0f}{}."
    return kept, [
        Refusal(i, "blur", words.format(REGISTRY[i].title, 2 * r.u, UNIT_SIGN.get(REGISTRY[i].unit, "")))
        for i, r in dropped.items() if i not in known
    ]  # fmt: skip


def _seen(figure: Figure, name: str) -> bool:
    return bool(np.isfinite(figure.points[name][:, figure.axes[0]]).any())


@dataclass(frozen=True)
class SideMean:
    """Mean of a reading over all units of one side."""

    id: str
    side: str
    phase: str | None
    limb: str | None
    value: float
    u: float


def side_means(readings: Iterable[Reading], units: Iterable[Unit]) -> list[SideMean]:
    """Mean per side, phase and limb. The units share camera and model, so their u does not average out."""
    side = {u.n: u.finest_side for u in units if u.finest_side}
    groups: dict[tuple[str, str, str | None, str | None], list[Reading]] = {}
    for r in readings:
        if r.segment in side and np.isfinite(r.value) and np.isfinite(r.u):
            groups.setdefault((r.id, side[r.segment], r.phase, r.limb), []).append(r)
    return [
        SideMean(
            *key,
            float(np.mean([r.value for r in group])),
            float(np.sqrt(np.mean([r.u**2 for r in group]))),
        )
        for key, group in groups.items()
    ]


@dataclass(frozen=True)
class SideGap:
    """How far the means of a measure's two sides lie apart: ``first`` less ``second``, in the measure's unit."""

    id: str
    phase: str | None
    limb: str | None
    first: SideMean
    second: SideMean
    value: float
    u: float

    @property
    def sure(self) -> bool:
        """Whether it is more than the camera and the tracking could make of nothing."""
        return abs(self.value) > 2 * self.u


#: Which side comes first in a gap.
FIRST = ("left", "toe", "onside", "front_hand")


def side_gaps(means: Iterable[SideMean]) -> list[SideGap]:
    """``side_gap`` of every measure that both sides have, the surest first.

    Both sides share the camera. Its errors turn a measure that is + to the inside of the turn up on one side and
    down on the other, so that there both ± are added; elsewhere they are taken as independent. Measures of the
    left or right limb are left out: they are mirrored between the sides.
    """
    by_side: dict[tuple[str, str | None, str | None], dict[str, SideMean]] = {}
    for m in means:
        if m.limb not in ("l", "r"):
            by_side.setdefault((m.id, m.phase, m.limb), {})[m.side] = m
    out = []
    for key, sides in by_side.items():
        if len(sides) != 2:
            continue
        a, b = sorted(sides.values(), key=lambda m: m.side not in FIRST)
        u = a.u + b.u if REGISTRY[a.id].signed else float(np.hypot(a.u, b.u))
        out.append(SideGap(*key, a, b, a.value - b.value, u))
    return sorted(out, key=lambda g: abs(g.value) / max(g.u, 1e-9), reverse=True)


def reading(measure_id: str, v: Value, turn: Unit | None = None, t: float | None = None) -> Reading:
    """A reading that belongs to a unit (or the run) and not to one of its phases."""
    return Reading(measure_id, v.value, v.u, turn.n if turn else None, None, None, t)
