"""Where the camera stands, by the rider's body in space, held against what was said of it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from proklisis.core.camera.views import VIEW_WORDS, azimuth_of, nearest_view, turned
from proklisis.core.rider.ground import is_flat
from proklisis.core.space.azimuth import faced
from proklisis.core.space.bias import roughly, without_bias
from proklisis.core.space.depth import fit_depths
from proklisis.core.tracks.gap_filling import fill_short_gaps
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import Value

#: Frames with the whole body without which nothing is said of it.
ENOUGH = 12
#: A camera is taken to stand as said up to here, degrees, and as far as the body itself is unsure.
AS_SAID_DEG = 8.0
#: Up to here it is read with the camera where the body shows it to be; beyond, the view itself is asked about.
NEAR_DEG = 35.0
#: A body that is followed so many times worse than usual is spoken of.
ROUGH_FROM = 1.5
ROUGH = "The rider is followed roughly: limbs seem to change their length by {:.0f} % from frame to frame. Numbers are wide; a closer, sharper film tells more."


@dataclass(frozen=True)
class Placed:
    """Tracks with depths where the tracker gave any; where the camera stands by them; and what to tell the coach.

    ``azimuth`` is None where nothing shows it; ``off_deg`` how far it lies from what was said, 0 where it agrees or was taken.
    """

    tracks: Tracks
    azimuth: Value | None = None
    off_deg: float = 0.0
    notes: tuple[str, ...] = ()
    #: By how much of their length limbs seem to stretch and shrink, see ``depth``; None where no depths were fitted.
    strain: float | None = None

    @property
    def off_line_deg(self) -> Value | None:
        """How far off the line of its view the camera stands, degrees toward the rider's right; None where nothing shows it."""
        view = self.tracks.facts.view
        if self.azimuth is None or view is None:
            return None
        off = turned(self.azimuth.value - azimuth_of(view, 0.0))
        return Value(off if view == "rear" else -off, self.azimuth.u)


def placed(tracks: Tracks, facing: bool) -> Placed:
    """Fit depths, and take the camera to stand where the body shows it to be, if that is near what was said.

    Parameters
    ----------
    tracks : of one clip; without the network's depths they are given back as they are
    facing : whether riders on the whole face the way they go
    """
    if (
        tracks.xyz is not None
        or tracks.depth is None
        or is_flat(tracks)
        or not set(BODY) <= tracks.index.keys()
    ):
        return Placed(tracks)
    filled = fill_short_gaps(tracks)
    columns = [filled.index[n] for n in BODY]
    xy, u = filled.xy[:, columns], filled.u[:, columns]
    whole = np.isfinite(xy[..., 0]).all(axis=1) & np.isfinite(tracks.depth).all(axis=1)
    if whole.sum() < ENOUGH:
        return Placed(tracks)
    depths = fit_depths(xy, u, tracks.depth, tracks.t, tracks.facts.error_corr_s)
    tracks = replace(without_bias(tracks, depths), in_space=depths.in_space)
    rough = roughly(depths) > ROUGH_FROM
    done = Placed(
        tracks, notes=(ROUGH.format(100 * depths.strain),) if rough else (), strain=depths.strain
    )
    if not facing or tracks.facts.view == "above":
        return done
    found = faced(xy[whole], depths.in_space.z[whole])
    return done if not np.isfinite(found.value) else _held(done, found)


def _held(done: Placed, found: Value) -> Placed:
    """What was said of the view, held against the azimuth that was found."""
    f = done.tracks.facts
    if f.view is None:
        view, off = nearest_view(found.value)
        off = off if abs(off) > AS_SAID_DEG else 0.0
        note = f"Nobody said from where it was filmed: by the rider's body it was {VIEW_WORDS[view]}{_beside(off)}."
        facts = {"view": view, "view_offset_deg": round(off, 1), "view_offset_u_deg": found.u}
    else:
        off = turned(found.value - azimuth_of(f.view, f.view_offset_deg))
        if "view" in f.sure or abs(off) <= max(AS_SAID_DEG, found.u):
            return replace(done, azimuth=found)
        if abs(off) > NEAR_DEG:
            return replace(done, azimuth=found, off_deg=off)
        stands = f.view_offset_deg + (off if f.view == "rear" else -off)
        note = (
            f"By the rider's body the camera stands {abs(stands):.0f} ± {2 * found.u:.0f}° off the line, toward the rider's "
            f"{'right' if stands > 0 else 'left'}: the run is read so."
        )  # fmt: skip
        facts = {"view_offset_deg": round(stands, 1), "view_offset_u_deg": found.u}
    tracks = done.tracks.with_facts(**facts)
    return replace(done, tracks=tracks, azimuth=found, notes=(*done.notes, note))


def _beside(off: float) -> str:
    return (
        f", {abs(off):.0f}° toward the rider's {'right' if off > 0 else 'left'} of it"
        if off
        else ""
    )
