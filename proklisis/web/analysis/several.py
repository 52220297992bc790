"""Several clips of one run: each is followed and measured as a run of its own, and judged with the first one.

The first clip's run is what the Desk lists and the Script is written for. Another clip's run is ``part_of`` it.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.playbook.together import (
    By,
    Offset,
    Part,
    Together,
    offsets_by_units,
    together,
)
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.footage.limited import limited
from proklisis.footage.sound import offset_by_clock, offset_by_sound
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Run
from proklisis.web.runs.writing import judged_anew
from proklisis.web.stored import on_disk

#: Processor time for listening to two clips, seconds.
LISTEN_CPU_S = 120.0
#: An offset that was found by hand: a frame of either side, at this rate where the clip's is not known.
USUAL_FPS = 30.0
MOST_CLIPS = 8


def first_of(run: Run) -> Run:
    """The run that a clip's run is judged with: itself, where it is the first."""
    return run.part_of if run.part_of is not None else run


def others_of(run: Run) -> list[Run]:
    """Other clips' runs, in the order they were added."""
    rows = run.others.filter(removed_at=None).select_related("rider", "clip", "result", "part_of")
    return list(rows.order_by("id"))


def add(run: Run, same_pass: bool) -> Run:
    """A run for another clip, as the first one in everything but how it was filmed. Conflict where there are too many."""
    first = first_of(run)
    others = others_of(first)
    if len(others) + 1 >= MOST_CLIPS:
        raise Conflict(f"A run has {MOST_CLIPS} clips at the most.")
    last = max([1, *(o.pass_no for o in others)])
    return Run.objects.create(
        club=first.club, rider=first.rider, part_of=first, pass_no=1 if same_pass else last + 1, discipline=first.discipline,
        level=first.level, title=first.title, filmed_on=first.filmed_on, **_shared(first),
    )  # fmt: skip


#: What is said of a run and not of one clip of it.
SHARED = ("conditions", "gear", "intention_text", "intention_faults", "schools")


def _shared(run: Run) -> dict[str, Any]:
    return {name: getattr(run, name) for name in SHARED}


def pass_on(first: Run, given: set[str]) -> bool:
    """Give what was changed of a run to its other clips; whether there are any."""
    names = given & {*SHARED, "rider", "discipline", "level", "title", "filmed_on"}
    if names:
        first.others.update(**{n: getattr(first, n) for n in names})
    return first.others.exists()


def with_others(run: Run, own: RunSheet) -> Together | None:
    """A run's sheet together with those of its other clips that are measured; None where it has none."""
    measured = _measured(run)
    if not measured:
        return None
    parts = [Part(own)]
    for o in measured:
        sheet = RunSheet.model_validate(o.result.sheet)
        parts.append(Part(sheet, o.pass_no, offset_of(o)))
    return together(parts)


def clips_of(run: Run) -> list[tuple[Run, dict[int, int] | None]]:
    """The runs whose clips a run is judged by, the first one first, with their own unit numbers → the run's; None for the same."""
    measured = _measured(run)
    if not measured:
        return [(run, None)]
    made = with_others(run, RunSheet.model_validate(run.result.sheet))
    return list(zip([run, *measured], made.numbers if made else [], strict=True))


def _measured(run: Run) -> list[Run]:
    if run.part_of_id is not None:
        return []
    return [o for o in others_of(run) if hasattr(o, "result")]


def offset_of(run: Run) -> Offset | None:
    if run.offset_s is None:
        return None
    return Offset(run.offset_s, run.offset_u_s or 0.0, run.offset_by)  # type: ignore[arg-type]


def match(run: Run, by: By, at_s: float | None = None, first_s: float | None = None) -> Offset:
    """Find how far a clip's clock is from the first clip's, and keep it. By hand: ``at_s`` shows what the first shows at ``first_s``.

    Raises InputError where it cannot be told, Conflict for a clip of another pass.
    """
    first = run.part_of
    if first is None or run.pass_no != 1:
        raise Conflict("Only another clip of the same pass is matched.")
    if by == "hand":
        if at_s is None or first_s is None:
            raise InputError("the moment is not said", "at_s", "give at_s and first_s")
        frames = [1 / (r.clip.fps or USUAL_FPS) for r in (run, first) if hasattr(r, "clip")]
        # Either moment is right to half a frame to both sides.
        found = Offset(first_s - at_s, sum((f / 2) ** 2 for f in frames) ** 0.5, "hand")
    elif by == "units":
        found = _by_units(run, first)
    else:
        found = _by_files(run, first, by)
    Run.objects.filter(pk=run.pk).update(offset_s=found.s, offset_u_s=found.u, offset_by=found.by)
    run.offset_s, run.offset_u_s, run.offset_by = found.s, found.u, found.by
    judged_anew(run=first)
    return found


def match_by_itself(run: Run) -> None:
    """Match a clip that was just measured, by what both heard, else by the units where they leave one way only."""
    if run.part_of is None or run.pass_no != 1 or run.offset_s is not None:
        return
    ways: tuple[By, ...] = ("sound", "units")
    for by in ways:
        try:
            match(run, by)
        except (InputError, Conflict):
            continue
        return


def _by_units(run: Run, first: Run) -> Offset:
    if not (hasattr(run, "result") and hasattr(first, "result")):
        raise Conflict("Both clips have to be measured first.")
    sheets = [RunSheet.model_validate(r.result.sheet) for r in (first, run)]
    try:
        prior: Offset | None = _by_files(run, first, "clock")
    except (InputError, Conflict):
        prior = None
    found = offsets_by_units(sheets[0].segments, sheets[1].segments, prior)
    if len(found) != 1:
        what = (
            "the units of the two clips fit nowhere" if not found
            else f"the units are so even that they fit at {len(found)} places"
        )  # fmt: skip
        raise InputError(what, "", "match it by sound, or show one moment in both")
    return found[0]


def _by_files(run: Run, first: Run, by: By) -> Offset:
    clips = [getattr(r, "clip", None) for r in (first, run)]
    if any(c is None or not c.source for c in clips):
        raise Conflict("Both clips have to be here first.")
    if any(r.filmed_fps or r.clip.filmed_hint for r in (first, run)):
        raise InputError(
            "one of the clips plays slower than it was filmed, and its sound with it", clips[1].name,  # type: ignore[union-attr]
            "show one moment in both",
        )  # fmt: skip
    how: Callable[[Path, Path], tuple[float, float]] = (
        offset_by_sound if by == "sound" else offset_by_clock
    )
    with on_disk(clips[0].source) as one, on_disk(clips[1].source) as other:  # type: ignore[union-attr]
        s, u = limited(how, one, other, name=clips[1].name, seconds=LISTEN_CPU_S)  # type: ignore[union-attr]
    # A part of a file counts from its own first frame.
    into = [c.into_s for c in clips]  # type: ignore[union-attr]
    return Offset(s + into[1] - into[0], u, by)
