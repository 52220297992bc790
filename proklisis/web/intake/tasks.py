"""What is done with sent clips in the background."""

from __future__ import annotations

from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from proklisis.web.intake import looking


@app.task(
    name="look_at_sent", queue="clips", retry=RetryStrategy(max_attempts=2, wait=5), priority=4
)
def look_at_sent(sent_id: int) -> None:
    """Look at a sent clip while its sender is still there."""
    looking.look(sent_id)


@app.task(name="give_up_sent", queue="clips", priority=4)
def give_up_sent(sent_id: int) -> None:
    """Say of a sent clip over which workers were lost again and again that it cannot be judged."""
    looking.give_up(sent_id)


@app.periodic(cron="37 4 * * *")
@app.task(name="purge_sent", queue="clips", queueing_lock="purge_sent")
def purge_sent(timestamp: int) -> None:
    """Let go of what was sent and never became a run."""
    looking.purge()
