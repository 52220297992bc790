"""Landmark positions over time, and the facts of the clip they came from."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from proklisis.core.errors import InputError
from proklisis.core.tracks.in_space import InSpace

Array = NDArray[np.float64]
View = Literal["front", "rear", "side_left", "side_right", "above", "oblique"]

Number = Annotated[float, Field(allow_inf_nan=False)]
Pixel = tuple[Number, Number]
Side = Annotated[float, Field(ge=0.05, le=200)]

#: Where a point came from; its index is what is stored per point.
SOURCES: tuple[str, ...] = ("auto", "marked", "interpolated", "imported", "simulated")


#: How far a camera that nobody has levelled may be turned, degrees of standard uncertainty (house choice: a phone in the hand).
UNLEVELLED_U_DEG = 2.0


class Plane(BaseModel):
    """Four corners of a rectangle on the ice, one after the other, and the lengths of its first two sides in metres.

    Corners are pixels of the undistorted picture, less the way the background has gone since the first frame;
    ``u_px`` is the standard uncertainty of a corner.
    """

    model_config = ConfigDict(extra="forbid")

    corners: tuple[Pixel, Pixel, Pixel, Pixel]
    sides_m: tuple[Side, Side]
    u_px: float = Field(default=2.0, gt=0)


class ClipFacts(BaseModel):
    """What is known of the clip and its camera. Angles in degrees, ``_u`` standard uncertainty.

    The camera's ``pitch_deg`` is positive when it looks up, ``roll_deg`` when the picture
    must be turned counter-clockwise to stand upright; ``view_offset_deg`` turns the camera
    about the vertical away from the named view, positive toward the rider's right hand.
    """

    model_config = ConfigDict(extra="forbid")

    fps: float = Field(gt=0, le=2000)
    width: int = Field(default=1280, gt=0)
    height: int = Field(default=720, gt=0)
    view: View | None = None
    view_offset_deg: float = 0.0
    view_offset_u_deg: float = 5.0
    #: Whether ``scene_drift`` tells how far the ground went along the travel; how it went up and down it tells always.
    ground_along: bool = True
    roll_deg: float = 0.0
    roll_u_deg: float = UNLEVELLED_U_DEG
    pitch_deg: float = 0.0
    pitch_u_deg: float = 3.0
    slope_deg: float = 15.0
    slope_u_deg: float = 5.0
    k1: float = 0.0
    k2: float = 0.0
    focal_px: float | None = Field(default=None, gt=0)
    px_per_m: float | None = Field(default=None, gt=0)
    px_per_m_rel_u: float = 0.04
    #: The ice by four marks, for what is filmed obliquely.
    plane: Plane | None = None
    #: Correlation time of the landmark errors; 0 where frames are independent.
    error_corr_s: float = Field(default=0.0, ge=0)
    #: The rider and the run, where they are known: a run sheet takes them over.
    stance: Literal["regular", "goofy"] | None = None
    height_cm: float | None = Field(default=None, gt=50, lt=260)
    conditions: dict[str, str | bool | float] = {}
    #: What a coach has confirmed, where the picture spoke against it or could not tell.
    sure: list[Literal["view", "front_foot", "rate", "level"]] = []


@dataclass(frozen=True)
class Tracks:
    """Positions of ``k`` landmarks in ``n`` frames.

    Attributes
    ----------
    frames : (n,) int, strictly rising
    t : (n,) seconds from the clip's first frame
    names : k landmark ids
    xy : (n, k, 2) pixels, x to the right and y down; NaN where not seen
    u : (n, k) standard uncertainty of either coordinate, pixels
    source : (n, k) index into :data:`SOURCES`
    facts : ClipFacts
    xyz : (n, k, 3) metres, across/along/up in the gravity-aligned world, or None
    depth : (n, 19) how far each point of the body lies behind the middle of the hips, pixels, as the
        tracker's network guesses it; or None where no network looked
    in_space : depths of the body as they were fitted to all that is known; or None
    """

    frames: NDArray[np.int64]
    t: Array
    names: tuple[str, ...]
    xy: Array
    u: Array
    source: NDArray[np.uint8]
    facts: ClipFacts
    xyz: Array | None = None
    depth: Array | None = None
    in_space: InSpace | None = None
    index: dict[str, int] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        n, k = len(self.frames), len(self.names)
        if self.xy.shape != (n, k, 2) or self.u.shape != (n, k) or self.t.shape != (n,):
            raise InputError("the track's columns differ in length", "tracks")
        if n and (np.diff(self.t) <= 0).any():
            i = int(np.argmax(np.diff(self.t) <= 0))
            raise InputError(
                f"time does not move on after frame {self.frames[i]}", "tracks t_s",
                "give every frame a later time than the one before",
            )  # fmt: skip
        object.__setattr__(self, "index", {name: i for i, name in enumerate(self.names)})

    def __len__(self) -> int:
        return len(self.frames)

    @cached_property
    def by_landmark(self) -> Array:
        """(2, k, n): the pixels with each landmark's path lying together, which is read several times faster."""
        return np.ascontiguousarray(self.xy.transpose(2, 1, 0))

    def has(self, *names: str) -> bool:
        """Tell whether every landmark is there and seen in at least one frame."""
        return all(
            n in self.index and bool(np.isfinite(self.xy[:, self.index[n], 0]).any()) for n in names
        )

    def point(self, name: str) -> Array:
        """Return one landmark's (n, 2) path in pixels."""
        return self.xy[:, self.index[name]]

    def with_facts(self, **changes: object) -> Tracks:
        """Return the same tracks with some facts of the clip replaced (and checked)."""
        facts = ClipFacts.model_validate({**self.facts.model_dump(), **changes})
        return replace(self, facts=facts)

    def filmed_at(self, fps: float) -> Tracks:
        """Return the tracks on the clock of the camera, for a file that plays slower than filmed."""
        if not 0 < fps <= 2000:
            raise InputError(
                f"{fps:g} frames a second is out of range", "fps", "give a number from 1 to 2000"
            )
        stretch = self.facts.fps / fps
        return replace(self, t=self.t * stretch, facts=self.facts.model_copy(update={"fps": fps}))


def imported(tracks: Tracks) -> Tracks:
    """Return the same tracks marked as handed in by another program or a hand."""
    return replace(tracks, source=np.full_like(tracks.source, SOURCES.index("imported")))
