"""Whether the picture stands upright, by how the rider balances or by the way over level ground.

Nobody says that a phone was held askew, and five degrees of it are a shoulder tilt, a lean or a pitch that is not there.
A rider in balance leans with the turning of the path (the load goes through the feet), whichever way the picture is
turned: what is left over is the picture's. From the side, the way over ice or water is level.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from proklisis.core.measures.load import lateral_acceleration
from proklisis.core.physics.flight import GRAVITY
from proklisis.core.rider.figure import Figure
from proklisis.core.splitting.splitter import Splitter
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import Value

Array = NDArray[np.float64]
#: A picture that is turned by less is taken as it is, degrees (house choice; a phone on a rest stands as well).
LEAST_DEG = 1.5
#: More is no camera held askew but something else, degrees (house choice).
MOST_DEG = 12.0
#: What the balance, or the ground, leaves unsure at the least, degrees (house choice).
LEAST_U_DEG = 0.7
#: The parts of a run must tell the same to this, degrees of standard uncertainty, to be believed (house choice).
AGREE_DEG = 0.8
#: Parts that a run is looked at in.
PARTS = 4
#: The lean ÷ the turning's own, within which a rider is in balance on a true clock (as for the clock's own check).
BALANCED = (0.45, 1.4)
#: A way over the ground is told from this many body heights on (house choice).
WAY_HEIGHTS = 2.0
#: Seconds of a run below which nothing is told.
LEAST_S = 3.0


@dataclass(frozen=True)
class Upright:
    """The tracks as they are to be read, and what a coach should know of it."""

    tracks: Tracks
    notes: tuple[str, ...] = ()
    #: Whether the ride itself shows how the picture stands.
    shown: bool = False


def stood_upright(figure: Figure, how: Splitter, tracks: Tracks) -> Upright:
    """Level a picture that nobody has levelled, where the rider shows by how much it is turned.

    Where it shows that something is turned but not what (ground that may slope), the doubt of the level is widened.
    """
    facts = tracks.facts
    levelled = "level" in facts.sure or facts.roll_deg != 0 or facts.roll_u_deg < 1.0
    if levelled or tracks.xyz is not None:
        return Upright(tracks)
    seen = turned_by(figure, how)
    if seen is None or abs(seen.value) > MOST_DEG:
        return Upright(tracks)
    if abs(seen.value) <= LEAST_DEG:
        # It stands upright, as far as this shows.
        u = min(facts.roll_u_deg, float(np.hypot(seen.u, seen.value / 2)))
        return Upright(tracks.with_facts(roll_u_deg=u), shown=True)
    mark = "Mark what is level on the clip's page to say it yourself."
    if how.upright_by == "level_ground" and not _known_level(tracks):
        wide = float(np.hypot(facts.roll_u_deg, seen.value))
        return Upright(
            tracks.with_facts(roll_u_deg=min(wide, 20.0)),
            (f"The way climbs or falls by {abs(seen.value):.0f}° in the picture, and whether the ground does or the camera leant is not known: what rests on the level is wide. {mark}",),
        )  # fmt: skip
    by = "how the rider balances" if how.upright_by == "balance" else "the way over level ground"
    return Upright(
        tracks.with_facts(roll_deg=seen.value, roll_u_deg=seen.u),
        (f"By {by} the picture is turned by {abs(seen.value):.1f} ± {2 * seen.u:.1f}°; it was levelled so. {mark}",), shown=True,
    )  # fmt: skip


def turned_by(figure: Figure, how: Splitter) -> Value | None:
    """Degrees by which the picture must be turned counter-clockwise to stand upright; None where that does not show."""
    if how.upright_by == "balance" and figure.view in ("front", "rear"):
        return _by_balance(figure)
    if how.upright_by in ("level", "level_ground") and figure.view in ("side_left", "side_right"):
        return _by_the_way(figure)
    return None


def _by_balance(figure: Figure) -> Value | None:
    needed = {"scene_drift", "com", "mid_ankle"}
    if not needed <= figure.points.keys() or not np.isfinite(figure.facts["scale"]):
        return None
    d = figure["com"] - figure["mid_ankle"]
    lean = np.degrees(np.arctan2(d[:, 0], d[:, 2]))
    wanted = np.degrees(np.arctan(lateral_acceleration(figure) / GRAVITY))
    told = _parts(figure, wanted, lean)
    if told is None or not all(BALANCED[0] <= k <= BALANCED[1] for k, _ in told):
        return None
    # Leaning to the rider's right is to the picture's left when they come toward it.
    return _agreed([c if figure.view == "rear" else -c for _, c in told])


def _by_the_way(figure: Figure) -> Value | None:
    if "scene_drift" not in figure.points or "mid_ankle" not in figure.points:
        return None
    path = figure.path("mid_ankle")
    way, up = path[:, 1], path[:, 2]
    tall = float(np.nanpercentile(figure["mid_shoulder"][:, 2] - figure["mid_ankle"][:, 2], 90))
    if not np.nanmax(way) - np.nanmin(way) > WAY_HEIGHTS * tall > 0:
        return None
    told = _parts(figure, way, up)
    if told is None:
        return None
    climbs = [float(np.degrees(np.arctan(k))) for k, _ in told]
    # The way leads to the picture's left when it is filmed from the rider's left.
    return _agreed([c if figure.view == "side_left" else -c for c in climbs])


def _parts(figure: Figure, x: Array, y: Array) -> list[tuple[float, float]] | None:
    """(slope, value at zero) of y over x in each part of the run; None where it is too short."""
    seen = np.flatnonzero(np.isfinite(x) & np.isfinite(y))
    if len(seen) < LEAST_S * figure.fps:
        return None
    out = []
    for rows in np.array_split(seen, PARTS):
        (k, c), *_ = np.linalg.lstsq(np.c_[x[rows], np.ones(len(rows))], y[rows], rcond=None)
        out.append((float(k), float(c)))
    return out


def _agreed(degrees: list[float]) -> Value | None:
    """Mean of the parts with its standard uncertainty; None where they tell different things."""
    u = float(np.std(degrees, ddof=1) / np.sqrt(len(degrees)))
    return None if u > AGREE_DEG else Value(float(np.median(degrees)), max(LEAST_U_DEG, u))


def _known_level(tracks: Tracks) -> bool:
    return tracks.facts.conditions.get("terrain") == "flat"
