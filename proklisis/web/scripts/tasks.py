"""What is put right of Scripts in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

from proklisis.web.scripts.approving import set_older


@app.periodic(cron="23 * * * *")
@app.task(name="prescribe_older", queue="clips", queueing_lock="prescribe_older", priority=-4)
def prescribe_older(timestamp: int) -> None:
    """Set the targets of Scripts that were approved before targets were kept."""
    set_older()
