"""One simulated run: motion, shot, exact tracks, the tracker's tracks and the truth about it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.playbook.schema import Level
from proklisis.core.review import Review, playbook, review, run_sheet
from proklisis.core.splitting.turns import Boundary
from proklisis.core.tracks import Tracks, View
from proklisis.simulate.filming import Shot, exact_tracks, film, tracked
from proklisis.simulate.skier import Motion, ski
from proklisis.simulate.style import styled

SIMULATED = ("alpine_carve",)


@dataclass(frozen=True)
class Simulated:
    """A run with everything known about it. ``tracks`` is what a tracker would give."""

    discipline: str
    level: Level
    faults: dict[str, float]
    motion: Motion
    shot: Shot
    exact: Tracks
    tracks: Tracks

    def about(self) -> dict[str, Any]:
        return {
            "level": self.level,
            "rider": {"name": "Simulated rider", "height_cm": round(100 * self.motion.stature_m, 1)},
            "conditions": {"slope_deg": self.motion.slope_deg},
        }

    def truth(self) -> Review:
        """The run measured on its exact 3-D positions, split at its exact boundaries."""
        world = replace(self.exact, facts=self.exact.facts.model_copy(update={"view": None}))
        cuts = [Boundary(float(t), 0.0) for t in self.motion.boundaries]
        return review(world, self.discipline, cuts)

    def truth_sheet(self) -> dict[str, Any]:
        sheet = run_sheet(self.truth(), self.discipline, self.about())
        sheet.clip.view = self.shot.view
        return sheet.model_dump(mode="json", exclude_none=True)


def simulate(
    discipline: str, faults: dict[str, float] | None = None, *, level: Level = "intermediate", units: int = 8,
    view: View | None = None, fps: float = 60.0, noise_px: float = 2.0, seed: int = 0, figure_px: float = 300.0,
    offset_deg: float = 0.0, roll_deg: float = 0.0, k1: float = 0.0, stature_m: float = 1.75,
    width: int = 1280, height: int = 720,
) -> Simulated:  # fmt: skip
    """Simulate one run. Without a view, the first fault's best view is filmed.

    Raises InputError for a discipline, fault or number that cannot be simulated.
    """
    if discipline not in SIMULATED:
        playbook(discipline)
        raise InputError(f"{discipline!r} cannot be simulated yet", "--discipline", f"choose {', '.join(SIMULATED)}")
    for value, name, lo, hi in (
        (units, "--units", 2, 500), (fps, "--fps", 15, 1000), (noise_px, "--noise", 0, 50), (figure_px, "--figure", 60, 4000),
        (stature_m, "--height", 0.9, 2.3), (abs(offset_deg), "--offset", 0, 60), (abs(roll_deg), "--roll", 0, 45),
    ):  # fmt: skip
        if not lo <= value <= hi:
            raise InputError(f"{value:g} is out of range", name, f"give a number from {lo} to {hi}")
    style = styled(playbook(discipline), level, faults or {})
    motion = ski(style, units, fps, seed, stature_m)
    shot = film(motion, view or style.view, figure_px=figure_px, offset_deg=offset_deg, roll_deg=roll_deg, k1=k1,
                width=width, height=height)  # type: ignore[arg-type]  # fmt: skip
    exact = exact_tracks(motion, shot, fps)
    return Simulated(discipline, level, dict(faults or {}), motion, shot, exact, tracked(exact, noise_px, seed))
