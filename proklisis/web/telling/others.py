"""Other runs that a Telling shows beside its own: only the same rider's, or a reference whose rider agrees to be shown to others."""

from __future__ import annotations

from collections.abc import Iterable

from proklisis.core.shapes.telling import Played
from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.errors import Conflict
from proklisis.web.references.models import in_force
from proklisis.web.riders.models import Agreed
from proklisis.web.runs.models import Run, ToldFilm


def runs_beside(played: Played) -> set[int]:
    """The runs that a Telling shows in a half of their own."""
    return {o["pair"]["run"] for o in played["overlays"] if "pair" in o}


def may_be_beside(run: Run, other: Run) -> bool:
    """Whether a run's rider may be shown another run."""
    if other.club_id != run.club_id or other.removed_at is not None:
        return False
    if other.rider_id == run.rider_id:
        return True
    kept = in_force(run.club_id, other.discipline).filter(run=other)
    return other.rider.agrees_to(Agreed.GROUP) and kept.exists()


def check_beside(run: Run, numbers: Iterable[int]) -> list[Run]:
    """The runs of these numbers; Conflict where one may not be shown to this run's rider, or is not there."""
    out = []
    for number in sorted(set(numbers)):
        other = (
            Run.objects.select_related("rider", "clip", "result")
            .filter(pk=number, club=run.club_id)
            .first()
        )
        if other is None or not may_be_beside(run, other):
            raise Conflict(
                f"Run {number} may not be shown to {run.rider.name}: it is of somebody else, and no reference whose rider agrees to be shown to other riders. Take it out of the Telling."
            )
        if not hasattr(other, "clip") or not other.clip.working or not hasattr(other, "result"):
            raise Conflict(f"Run {number} has no clip here any more. Take it out of the Telling.")
        out.append(other)
    return out


def made_of(run: Run) -> str:
    """When a run's numbers came out as they are, as a Telling keeps it."""
    made: str = run.result.made.isoformat()
    return made


def changed_beside(played: Played) -> list[int]:
    """The runs whose numbers or frames are others now than when they were put beside this one."""
    beside = [o["pair"] for o in played["overlays"] if "pair" in o]
    rows = Run.objects.filter(pk__in={p["run"] for p in beside}, result__isnull=False)
    now = {r.pk: made_of(r) for r in rows.select_related("result")}
    return sorted({p["run"] for p in beside if now.get(p["run"]) != p["made"]})


def frames_beside(run: Run, played: Played) -> dict[int, list[int]]:
    """Run → the numbers in its clip of its frames, of every run that is shown beside this one; Conflict where one is another by now."""
    others = check_beside(run, runs_beside(played))
    if changed := changed_beside(played):
        raise Conflict(
            f"Run {changed[0]} was changed after it was put beside. Take that passage out of the Telling, and put it in again."
        )
    return {other.pk: [int(n) for n in reviewed(other).tracks.frames] for other in others}


def may_be_shown(film: ToldFilm) -> bool:
    """Whether a told film may still be seen: what it shows of others may be withdrawn at any time."""
    numbers = {int(n) for n in film.plan.get("others", {})} - {film.run_id}
    others = Run.objects.select_related("rider").filter(pk__in=numbers)
    return len(others) == len(numbers) and all(may_be_beside(film.run, o) for o in others)
