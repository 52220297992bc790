"""The places that a run is drawn in: colours of the ground, the far hills, the sky and the woods."""

from __future__ import annotations

from dataclasses import dataclass

from proklisis.simulate.render.outfit import Colour


@dataclass(frozen=True)
class Place:
    """Colours from 0 to 1; ``ripple`` is how much the surface mirrors the sky, ``indoor`` 1 in a hall."""

    base: Colour
    shadow: Colour
    far: Colour = (0.80, 0.86, 0.94)
    sky_low: Colour = (0.78, 0.87, 0.97)
    sky_high: Colour = (0.36, 0.56, 0.86)
    wood: Colour = (0.16, 0.25, 0.25)
    ripple: float = 0.0
    indoor: float = 0.0
    #: Brush markers beside the way, so that a panning camera has something to pass.
    markers: bool = False
    #: What riders wear on their feet: "boots", "shoes", "skates" (boots on wheels) or nothing.
    footwear: str = "boots"
    #: Trees at the edges, and whether their boughs carry snow.
    trees: bool = False
    snowy: bool = False
    #: Boards along the sides, and lines on the ice.
    rink: bool = False


PLACES: dict[str, Place] = {
    "snow": Place((0.97, 0.985, 1.0), (0.60, 0.70, 0.88), markers=True, trees=True, snowy=True),
    "ice": Place(
        (0.86, 0.92, 0.97),
        (0.62, 0.72, 0.84),
        sky_low=(0.62, 0.66, 0.70),
        sky_high=(0.40, 0.44, 0.48),
        ripple=0.25,
        indoor=1.0,
        rink=True,
    ),
    "water": Place(
        (0.16, 0.38, 0.46),
        (0.08, 0.22, 0.30),
        far=(0.55, 0.68, 0.76),
        ripple=0.7,
        wood=(0.14, 0.26, 0.18),
    ),
    "wave": Place(
        (0.12, 0.42, 0.46),
        (0.06, 0.24, 0.30),
        far=(0.50, 0.66, 0.72),
        ripple=0.8,
        footwear="",
        wood=(0.30, 0.44, 0.50),
    ),
    "river": Place(
        (0.30, 0.42, 0.38),
        (0.16, 0.26, 0.24),
        far=(0.45, 0.55, 0.50),
        ripple=0.6,
        footwear="shoes",
        trees=True,
        wood=(0.16, 0.24, 0.14),
    ),
    "trail": Place(
        (0.46, 0.37, 0.25),
        (0.24, 0.19, 0.13),
        far=(0.52, 0.60, 0.52),
        wood=(0.14, 0.24, 0.12),
        markers=True,
        footwear="shoes",
        trees=True,
    ),
    "dirt": Place(
        (0.55, 0.42, 0.29),
        (0.28, 0.21, 0.15),
        far=(0.58, 0.62, 0.56),
        wood=(0.18, 0.28, 0.14),
        markers=True,
        trees=True,
    ),
    "track": Place(
        (0.40, 0.42, 0.45),
        (0.20, 0.21, 0.24),
        far=(0.62, 0.68, 0.72),
        wood=(0.18, 0.30, 0.18),
        markers=True,
        footwear="skates",
        trees=True,
    ),
}
