"""Who is in the demo and what their runs show. All of it is made up."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from proklisis.simulate.render.outfit import Colour, Outfit, outfit

CLIPS = Path(__file__).parent / "clips"
CLUB = "Lanternfell"
COACH = ("ottilie", "Ottilie Marrable", "snowlight-26")


@dataclass(frozen=True)
class Part:
    """A rider and the one run that is filmed of them at the snow hall."""

    key: str
    jacket: Colour
    name: str
    number: int
    colours: str
    level: str
    born: int
    height_cm: float
    view: str
    seed: int
    title: str
    intention: str
    faults: dict[str, float] = field(default_factory=dict)
    intention_faults: tuple[str, ...] = ()
    observations: tuple[dict[str, Any], ...] = ()
    guardian_consent: bool = False
    #: Tracks are shipped with the clip, so that the run opens at once.
    ready: bool = False

    def outfit(self) -> Outfit:
        """The seed's outfit in the jacket that the rider's colours name."""
        return replace(outfit(self.seed), jacket=self.jacket, sleeve=(0.93, 0.91, 0.86))


CAST: tuple[Part, ...] = (
    Part(
        "wren", (0.88, 0.50, 0.10), "Wren Hallowell", 7, "orange jacket", "intermediate", 2013, 158, "front", 102, "Snow hall, lane 2, run 1",
        "let the hip come inside", {"hip_out": 1.6}, ("hip_out",), guardian_consent=True, ready=True,
        observations=({"id": "looks_ahead", "segment": None, "sure": True},),
    ),
    Part(
        "bram", (0.12, 0.38, 0.66), "Bram Oldacre", 23, "blue jacket", "intermediate", 1979, 183, "front", 103, "Snow hall, lane 2, run 1",
        "quieter shoulders", {"not_level": 1.6}, ("not_level",),
    ),
    Part(
        "isolde", (0.16, 0.50, 0.28), "Isolde Fenwick", 41, "green jacket", "intermediate", 1996, 169, "front", 104, "Snow hall, lane 1, run 2",
        "more grip in the steeper half", {"edge_stays_flat": 1.6},
    ),
    Part(
        "corin", (0.46, 0.20, 0.54), "Corin Tarrant", 12, "purple jacket", "intermediate", 1958, 176, "rear", 105, "Snow hall, lane 1, run 3",
        "keep what works", {},
        observations=({"id": "clean_tracks", "segment": None, "sure": True},),
    ),
)  # fmt: skip
