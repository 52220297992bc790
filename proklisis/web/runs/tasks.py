"""Jobs on the PostgreSQL queue. A job carries ids only; the work itself is in ``work``."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from proklisis.web.runs.work import analyse_run


@app.task(name="analyse", queue="clips", retry=RetryStrategy(max_attempts=2, wait=5))
def analyse(run_id: int, attempt: int) -> None:
    """Analyse one attempt at a run."""
    analyse_run(run_id, attempt)
