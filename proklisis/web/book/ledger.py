"""What came of each cue over a club: how often given, and what the next run showed."""

from __future__ import annotations

from collections import Counter
from typing import Any

from proklisis.core.playbook.cues import share
from proklisis.web.book.outcomes import Given, outcomes
from proklisis.web.targets.models import Prescribed


def given_by(club: int, discipline: str) -> list[Given]:
    """Every prescription of a club in a discipline, with what became of it."""
    return outcomes(
        Prescribed.objects.filter(
            run__club=club, run__discipline=discipline, run__removed_at=None, run__rider__removed_at=None
        )
    )  # fmt: skip


def ledger(given: list[Given]) -> list[dict[str, Any]]:
    """A row for each fault, level and cue, those given most often first."""
    rows: dict[tuple[str, str, str], Counter[str]] = {}
    titles: dict[str, str] = {}
    for g in given:
        p = g.prescribed
        titles[p.fault] = p.title
        count = rows.setdefault((p.fault, p.level, p.cue), Counter())
        count["given"] += 1
        count[g.outcome or "not_yet"] += 1
    out = []
    for (fault, level, cue), c in sorted(rows.items(), key=lambda x: (-x[1]["given"], x[0])):
        told = c["moved"] + c["no_change"] + c["worse"]
        out.append({
            "fault": fault, "title": titles[fault], "level": level, "cue": cue, "given": c["given"], "moved": c["moved"],
            "no_change": c["no_change"], "worse": c["worse"], "cannot_tell": c["cannot_tell"], "not_yet": c["not_yet"],
            "says": record(c["moved"], told),
        })  # fmt: skip
    return out


def record(moved: int, told: int) -> str:
    """A cue's record in words, with the interval that so few allow."""
    if not told:
        return "no later run tells yet"
    s = share(moved, told)
    return f"moved the number in {moved} of {told} (95 % interval {100 * s.low:.0f} to {100 * s.high:.0f} %)"
