"""Jobs on the PostgreSQL queue. A job carries ids only; the work itself is elsewhere, and puts the next job in by its name (``jobs``)."""

from __future__ import annotations

import os
from typing import Any

from asgiref.sync import sync_to_async
from django.core.management import call_command
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Status

from proklisis.web.analysis import carrying, drawn, work
from proklisis.web.clips import (
    crops,
    filming,
    letting_go,
    pair_films,
    removing,
    told_films,
    uploading,
)
from proklisis.web.goes import finding
from proklisis.web.goes import removing as session_films
from proklisis.web.runs import queueing
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import MadeFilm, PairFilm, ToldFilm
from proklisis.web.watching import failing

#: A worker that has not been heard of for so long is lost, and its job is done by another.
LOST_S = float(os.environ.get("PROKLISIS_LOST_S", 30))
RETRY = RetryStrategy(max_attempts=2, wait=5)
#: Jobs that make a film, by what they make.
FILMS: dict[str, type[MadeFilm]] = {"pair_film": PairFilm, "told_film": ToldFilm}


@app.task(name="analyse", queue="clips", retry=RETRY)
def analyse(run_id: int, attempt: int) -> None:
    """Look at one attempt's clip and cut its work into parts."""
    work.analyse_run(run_id, attempt)


@app.task(name="copy", queue="clips", retry=RETRY, priority=1)
def copy(run_id: int, attempt: int) -> None:
    """Make the copy that browsers step through."""
    work.copy_clip(run_id, attempt)


@app.task(name="follow", queue="clips", retry=RETRY)
def follow(run_id: int, attempt: int, number: int) -> None:
    """Follow the rider through one piece of a clip."""
    work.follow_part(run_id, attempt, number)


@app.task(name="join", queue="clips", retry=RETRY, priority=1)
def join(run_id: int, attempt: int) -> None:
    """Join a clip's pieces, measure and judge."""
    work.join_parts(run_id, attempt)


@app.task(name="carry", queue="clips", retry=RETRY, priority=5)
def carry_point(run_id: int, landmark: str) -> None:
    """Carry a marked point through the frames between its marks."""
    carrying.carry_now(run_id, landmark)


@app.task(name="measure", queue="clips", retry=RETRY, priority=5)
def measure(run_id: int) -> None:
    """Work a run out where it is outdated."""
    carrying.measure_now(run_id)


@app.task(name="crop", queue="clips", retry=RETRY, priority=5)
def crop(track_set_id: int) -> None:
    """Cut the rider out of the frames that a page has asked for."""
    crops.make(track_set_id)


@app.task(name="pair_film", queue="clips", retry=RETRY, priority=2)
def pair_film(film_id: int) -> None:
    """Make a film of two runs beside each other."""
    pair_films.make(film_id)


@app.task(name="draw_reference", queue="clips", retry=RETRY, priority=2)
def draw_reference(run_id: int) -> None:
    """Draw a rider for runs to be held against."""
    drawn.draw(run_id)


@app.task(name="told_film", queue="clips", retry=RETRY, priority=3)
def told_film(film_id: int) -> None:
    """Make a film of a Telling."""
    told_films.make(film_id)


@app.task(name="film_is_here", queue="clips", retry=RETRY, priority=1)
def film_is_here(film_id: int) -> None:
    """Begin the work on a session film that has arrived."""
    finding.film_is_here(film_id)


@app.task(name="find_goes", queue="clips", retry=RETRY)
def find_goes(session_id: int, of_attempt: int) -> None:
    """Find the goes of a session film."""
    finding.find_goes(session_id, of_attempt)


@app.periodic(cron="* * * * * */5")
@app.task(
    name="take_up_lost", queue="clips", pass_context=True, priority=10, queueing_lock="take_up_lost"
)
async def take_up_lost(context: JobContext, timestamp: int) -> None:
    """Put the jobs of lost workers back into the queue; give up one that was lost again and again."""
    # The worker's own connection reads a job's ids as they were put; the server's gives them as text.
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=LOST_S):
        which: dict[str, Any] = job.task_kwargs
        if job.attempts >= work.MOST_LOST and "attempt" in which:
            await manager.finish_job(job, Status.FAILED, delete_job=False)
            await sync_to_async(work.give_up)(which["run_id"], which["attempt"])
        elif job.attempts >= work.MOST_LOST and "of_attempt" in which:
            await manager.finish_job(job, Status.FAILED, delete_job=False)
            await sync_to_async(finding.give_up)(which["session_id"], which["of_attempt"])
        elif job.attempts >= work.MOST_LOST and job.task_name == "look_at_sent":
            await manager.finish_job(job, Status.FAILED, delete_job=False)
            await sync_to_async(put)("give_up_sent", sent_id=which["sent_id"])
        elif job.attempts >= work.MOST_LOST and job.task_name == "draw_reference":
            await manager.finish_job(job, Status.FAILED, delete_job=False)
            await sync_to_async(drawn.give_up)(which["run_id"])
        elif job.attempts >= work.MOST_LOST and job.task_name in FILMS:
            await manager.finish_job(job, Status.FAILED, delete_job=False)
            await sync_to_async(filming.give_up)(FILMS[job.task_name], which["film_id"])
        else:
            try:
                await manager.retry_job(job)
            except UniqueViolation:
                # Another that does the same waits already.
                await manager.finish_job(job, Status.FAILED, delete_job=True)


@app.periodic(cron="* * * * *")
@app.task(name="resume", queue="clips", queueing_lock="resume")
def resume(timestamp: int) -> None:
    """Queue again what no job is left for."""
    queueing.resume()


@app.periodic(cron="41 3 * * *")
@app.task(name="purge", queue="clips", queueing_lock="purge")
def purge(timestamp: int) -> None:
    """Erase what was removed long ago, files that no row knows of, and what nobody needs any more."""
    session_films.purge()
    pair_films.purge()
    told_films.purge()
    removing.purge()
    removing.sweep()
    failing.clear_old()
    call_command("clearsessions")
    session_films.let_films_go()
    letting_go.let_films_go()


@app.periodic(cron="17 * * * *")
@app.task(name="clear_uploads", queue="clips", queueing_lock="clear_uploads")
def clear_uploads(timestamp: int) -> None:
    """Clear away uploads that nobody went on with."""
    uploading.clear_old()
