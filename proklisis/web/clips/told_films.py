"""A told film: what is shown in each of its frames is laid out when it is asked for, a job makes it."""

from __future__ import annotations

import tempfile
from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.utils import timezone

from proklisis.core.errors import InputError
from proklisis.core.shapes.telling import Played
from proklisis.core.telling.played import film_rows
from proklisis.core.telling.seen import Seen
from proklisis.figures import figure_file
from proklisis.footage.told import Other, told
from proklisis.web.clips.filming import make_film
from proklisis.web.clips.footage import footage_of
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import Clip, Recording, Run, ToldFilm
from proklisis.web.stored import on_disk

#: The longest Telling that is made a film, seconds.
MOST_S = 15 * 60
#: Processor time for each frame of the film, seconds, and besides.
FRAME_CPU_S, BESIDES_S = 1.0, 240.0
#: A film that is sent to nobody is kept so long; it can be made again.
KEPT = timedelta(days=7)
#: A recording that no Telling has is kept so long, so that it can be undone.
SPOKEN = timedelta(days=30)


def ask(
    run: Run,
    played: Played,
    seen: Seen,
    numbers: list[int],
    burnt: bool,
    others: Mapping[int, Sequence[int]],
) -> ToldFilm:
    """Put a told film into the queue. Raises InputError for one that is empty or too long, or whose clip is not there.

    ``numbers`` are the clip's numbers of the run's frames, ``others`` those of runs that are shown beside it.
    """
    if not hasattr(run, "clip") or not run.clip.working:
        raise InputError("this run has no clip here", "", "choose a run with its clip")
    if not 0 < played["length_s"] <= MOST_S:
        raise InputError(
            f"the Telling lasts {played['length_s']:.0f} s", "passages", f"tell something, and no longer than {MOST_S // 60} minutes"
        )  # fmt: skip
    rows = film_rows(played, seen)
    plan = {
        "played": {**played, "overlays": [_text_keys(o) for o in played["overlays"]]},
        "rows": rows,
        "numbers": {str(r): numbers[r] for r in set(rows)},
        "discipline": run.discipline,
        "others": {str(r): _needed(played, r, theirs) for r, theirs in others.items()},
    }
    film = ToldFilm.objects.create(run=run, burnt=burnt, plan=plan, state=ToldFilm.State.QUEUED)
    put("told_film", film_id=film.pk)
    return film


def _needed(played: Played, run: int, numbers: Sequence[int]) -> dict[str, int]:
    """Frame of another run → its number in its clip, of those that are shown."""
    shown = {
        h["other"]
        for o in played["overlays"]
        if "pair" in o and o["pair"]["run"] == run
        for h in o["pair"]["at"].values()
    }
    return {str(f): numbers[min(f, len(numbers) - 1)] for f in shown}


def _text_keys(over: Any) -> dict[str, Any]:
    """An overlay as JSON holds it, whose keys are text."""
    out = {**over, "marks": {str(k): m for k, m in over["marks"].items()}}
    if "pair" in over:
        out["pair"] = {**over["pair"], "at": {str(k): h for k, h in over["pair"]["at"].items()}}
    return out


def _number_keys(over: Any) -> dict[str, Any]:
    out = {**over, "marks": {int(k): m for k, m in over["marks"].items()}}
    if "pair" in over:
        out["pair"] = {**over["pair"], "at": {int(k): h for k, h in over["pair"]["at"].items()}}
    return out


def make(film_id: int) -> None:
    """Make the film, unless it is not wanted any more."""
    film = ToldFilm.objects.select_related("run__clip__film").filter(pk=film_id).first()
    if film is None or not film.busy:
        return
    clip, plan = film.run.clip, film.plan
    overlays = [_number_keys(o) for o in plan["played"]["overlays"]]
    played: Any = {**plan["played"], "overlays": overlays}
    wanted = {o["figure"] for o in overlays if o["figure"]}
    figures = {f: p for f in wanted if (p := figure_file(plan["discipline"], f, True))}
    rows, numbers = plan["rows"], {int(k): n for k, n in plan["numbers"].items()}
    with ExitStack() as held:
        source = held.enter_context(on_disk(clip.source))
        folder = Path(held.enter_context(tempfile.TemporaryDirectory()))
        recordings: dict[int, Path] = {}
        for recording in Recording.objects.filter(
            run=film.run_id, pk__in={h["recording"] for h in played["heard"]}
        ):
            path = folder / f"recording-{recording.pk}"
            path.write_bytes(recording.content())
            recordings[recording.pk] = path
        others: dict[int, Other] = {}
        for number, theirs in plan.get("others", {}).items():
            beside = Clip.objects.select_related("film").get(run=int(number))
            path = held.enter_context(on_disk(beside.source))
            others[int(number)] = Other(
                footage_of(beside, path), {int(k): n for k, n in theirs.items()}
            )
        # Frames of others are decoded on the way too.
        beside_frames = sum(
            max(o.numbers.values()) - min(o.numbers.values()) + 1 for o in others.values()
        )
        frames = beside_frames + len(rows) + max(numbers.values()) - min(numbers.values())
        make_film(
            film, clip.name, BESIDES_S + FRAME_CPU_S * frames, told,
            footage_of(clip, source), played, rows, numbers, figures, recordings, others, film.burnt,
        )  # fmt: skip


def purge() -> None:
    """Let go of films that were made long ago and are sent to nobody, and of what was spoken and is in no Telling."""
    ToldFilm.objects.filter(added__lt=timezone.now() - KEPT, sent=False).delete()
    Recording.objects.filter(added__lt=timezone.now() - SPOKEN, used=False).delete()
