"""What a new run of a rider is guessed to be."""

from __future__ import annotations

from typing import Any

from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run


def usual(rider: Rider) -> dict[str, Any]:
    """As their last run was, else as the club's last one, in a run's own fields; ``as_on`` says when their last one was made."""
    runs = Run.objects.filter(club=rider.club_id, removed_at=None, part_of=None).order_by(
        "-added", "-id"
    )
    last = runs.filter(rider=rider).first()
    like = last or runs.first()
    return {
        "discipline": like.discipline if like else "alpine_carve",
        "level": last.level if last else rider.level,
        "conditions": last.conditions if last else {},
        "gear": last.gear if last else {},
        "title": last.title if last else "",
        "intention_text": last.intention_text if last else "",
        "intention_faults": last.intention_faults if last else [],
        "as_on": last.added if last else None,
    }
