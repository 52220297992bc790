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
#: A camera is taken to stand as said up to here, degrees.
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
    rough = roughly(depths)
    notes = (ROUGH.format(100 * depths.strain),) if rough > ROUGH_FROM else ()
    if not facing:
        return Placed(tracks, notes=notes)
    found = faced(xy[whole], depths.in_space.z[whole])
    f = tracks.facts
    if f.view == "above" or not np.isfinite(found.value):
        return Placed(tracks, notes=notes)
    # The picture's own level, where it is known, turns the body a little with it; that is small beside its ±.
    if f.view is None:
        view, off = nearest_view(found.value)
        off = off if abs(off) > AS_SAID_DEG else 0.0
        said = tracks.with_facts(
            view=view, view_offset_deg=round(off, 1), view_offset_u_deg=found.u
        )
        where = VIEW_WORDS[view]
        return Placed(
            said,
            found,
            0.0,
            (
                f"Nobody said from where it was filmed: by the rider's body it was {where}{_beside(off)}.",
            ),
        )
    off = turned(found.value - azimuth_of(f.view, f.view_offset_deg))
    if "view" in f.sure or abs(off) <= AS_SAID_DEG:
        return Placed(tracks, found, 0.0, notes)
    if abs(off) > NEAR_DEG:
        return Placed(tracks, found, off, notes)
    stands = f.view_offset_deg + (off if f.view == "rear" else -off)
    taken = tracks.with_facts(view_offset_deg=round(stands, 1), view_offset_u_deg=found.u)
    note = (
        f"By the rider's body the camera stands {abs(stands):.0f} ± {2 * found.u:.0f}° off the line, toward the rider's "
        f"{'right' if stands > 0 else 'left'}: the run is read so."
    )  # fmt: skip
    return Placed(taken, found, 0.0, (*notes, note))


def _beside(off: float) -> str:
    return (
        f", {abs(off):.0f}° toward the rider's {'right' if off > 0 else 'left'} of it"
        if off
        else ""
    )
