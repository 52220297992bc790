"""When a topic comes again: growing intervals by a kept library (FSRS)."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fsrs import Card, Rating, Scheduler

#: A topic is learnt by looking, not in steps of minutes; the same day it does not come again by itself.
_SCHEDULER = Scheduler(learning_steps=(), relearning_steps=(), enable_fuzzing=False, maximum_interval=180)  # fmt: skip


def reviewed(card: dict[str, Any] | None, right: bool, easily: bool, now: datetime) -> tuple[dict[str, Any], datetime]:  # fmt: skip
    """A topic's card after an answer, as plain data, and when it is due again.

    Parameters
    ----------
    card : as it was kept; None for a topic that was never asked
    easily : right, and at once
    now : with its time zone
    """
    old = Card() if card is None else Card.from_dict(card)  # type: ignore[arg-type]
    rating = Rating.Again if not right else Rating.Easy if easily else Rating.Good
    new, _ = _SCHEDULER.review_card(old, rating, now)
    return dict(new.to_dict()), new.due
