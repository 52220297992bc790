"""A rider whom the simulator draws, for runs to be held against where a club keeps no reference.

Each is a run in a club of nobody's, made once by a job and read by every club: with its film, its exact places and its result.
"""

from __future__ import annotations

import hashlib
import logging
import tempfile
from pathlib import Path
from typing import Any, cast

from django.core.files import File
from django.db import transaction

from proklisis.core.camera.views import VIEW_WORDS
from proklisis.core.errors import InputError
from proklisis.core.review import judge, playbook, review, run_sheet
from proklisis.core.tracks.tracks import imported
from proklisis.footage.probe import probe
from proklisis.simulate.clip import write_clip
from proklisis.simulate.render.outfit import outfit
from proklisis.simulate.riders import RIDERS
from proklisis.simulate.run import Simulated, simulate
from proklisis.web.analysis.reviewing import refresh
from proklisis.web.analysis.work import note
from proklisis.web.clubs.models import Club
from proklisis.web.riders.models import Rider
from proklisis.web.runs.blobs import pack
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Clip, Run, TrackSet, packed
from proklisis.web.watching.failing import keep

logger = logging.getLogger(__name__)
CLUB, NAME = "Drawn by the simulator", "Drawn rider"
#: Who rides, and how long: house choices. Points are as exact as a careful hand's.
SEED, BODIES, UNITS, FPS, NOISE_PX = 5, (4, 2, 6), 6, 60.0, 0.5
#: The job says how far it is after so many frames.
EVERY = 12


class NotWanted(Exception):
    """Nobody waits for the drawing any more."""


def views_of(discipline: str) -> list[str]:
    """Views from which a discipline's rider can be drawn, the best first; none where nobody can be drawn."""
    if discipline in RIDERS:
        rider = RIDERS[discipline]
        return [rider.view, *rider.views]
    return list(VIEW_WORDS) if playbook(discipline).split == "carve" else []


def drawn_for(run: Run) -> Run | None:
    """The drawn run that this one may be held against, as far as it was asked for."""
    return Run.objects.select_related("rider").filter(club__drawn=True, title=_title(run)).first()


def ask(run: Run) -> Run:
    """Have a drawn run made for this one, unless it is there or being made. InputError where none can be drawn."""
    title = _title(run)
    view = title.split(", ")[1]
    with transaction.atomic():
        club, _ = Club.objects.get_or_create(drawn=True, defaults={"name": CLUB})
        Club.objects.select_for_update().get(pk=club.pk)
        found = drawn_for(run)
        if found is not None and (found.busy or found.state == Run.State.READY):
            if found.cancel_asked:
                Run.objects.filter(pk=found.pk).update(cancel_asked=False)
            return found
        if found is None:
            front = getattr(RIDERS.get(run.discipline), "stance", None) or ""
            rider, _ = Rider.objects.get_or_create(club=club, name=NAME, stance=front)
            found = Run.objects.create(
                club=club, rider=rider, title=title, discipline=run.discipline, level=run.level, view=view
            )  # fmt: skip
        Run.objects.filter(pk=found.pk).update(
            state=Run.State.QUEUED, progress=0.0, problem="", cancel_asked=False
        )
    put("draw_reference", run_id=found.pk)
    found.refresh_from_db()
    return found


def _title(run: Run) -> str:
    views = views_of(run.discipline)
    if not views:
        raise InputError(
            f"no rider can be drawn in {playbook(run.discipline).title.lower()}",
            "",
            "keep a good run as a reference",
        )
    return f"{run.discipline}, {run.view if run.view in views else views[0]}, {run.level}"


def draw(run_id: int) -> None:
    """Draw the rider, unless nobody wants it any more."""
    run = Run.objects.select_related("club", "rider").filter(pk=run_id, club__drawn=True).first()
    if run is None or not run.busy:
        return
    rows = Run.objects.filter(pk=run_id)
    rows.update(state=Run.State.WORKING, step="Drawing the rider")

    def progress(done: int, of: int) -> None:
        if done % EVERY == 0 and not rows.filter(cancel_asked=False).update(progress=0.9 * done / of):  # fmt: skip
            raise NotWanted

    try:
        sim = _without_faults(run)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "drawn.mp4"
            write_clip(sim, path, outfit(SEED), SEED, progress, crf=24, numbered=False)
            _keep(run, sim, path)
    except NotWanted:
        rows.update(state=Run.State.CANCELLED, cancel_asked=False, step="")
    except InputError as e:
        rows.update(state=Run.State.FAILED, problem=str(e)[:500], step="")
    except Exception as e:
        # Nothing else looks after this run: it may not stay "being drawn" for ever.
        logger.exception("drawing %s", run.title)
        keep(e)
        rows.update(
            state=Run.State.FAILED, problem="The rider could not be drawn. Try again; if it fails again, keep a good run as a reference.", step="",
        )  # fmt: skip


def _without_faults(run: Run) -> Simulated:
    """The first of the bodies on whom nothing is found. InputError where there is none: nobody is held against a fault."""
    for body in BODIES:
        sim = simulate(
            run.discipline, {}, level=cast(Any, run.level), view=cast(Any, run.view), seed=SEED, body=body, units=UNITS,
            fps=FPS, noise_px=NOISE_PX,
        )  # fmt: skip
        done = review(imported(sim.tracks), run.discipline)
        if done.units and not judge(run_sheet(done, run.discipline, sim.about()))["main"]:
            return sim
    raise InputError(
        "no drawn rider rides as is wanted in this discipline from this view", "", "keep a good run as a reference"
    )  # fmt: skip


def _keep(run: Run, sim: Simulated, path: Path) -> None:
    about = sim.about()
    Rider.objects.filter(pk=run.rider_id).update(height_cm=round(about["rider"]["height_cm"]))
    run.conditions = about["conditions"]
    run.save(update_fields=["conditions"])
    Clip.objects.filter(run=run).delete()
    TrackSet.objects.filter(run=run).delete()
    clip = Clip(run=run, name="drawn.mp4", size=path.stat().st_size)
    note(clip, probe(path))
    clip.play_width, clip.play_height = clip.width, clip.height
    with path.open("rb") as f:
        clip.sha256 = hashlib.file_digest(f, "sha256").hexdigest()
        f.seek(0)
        clip.working.save("drawn.mp4", File(f), save=False)
    clip.save()
    TrackSet.objects.create(run=run, file=packed(pack(imported(sim.tracks))))
    refresh(Run.objects.select_related("rider", "clip", "club", "part_of").get(pk=run.pk))
    Run.objects.filter(pk=run.pk).update(state=Run.State.READY, progress=1.0, step="")


def give_up(run_id: int) -> None:
    """Say of a drawing whose worker was lost again and again that it could not be made."""
    Run.objects.filter(pk=run_id, state__in=(Run.State.QUEUED, Run.State.WORKING)).update(
        state=Run.State.FAILED, step="", problem="The rider could not be drawn: its worker was stopped each time. Try again."
    )  # fmt: skip
