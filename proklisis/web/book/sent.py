"""What of an approved Script the Book shows: its ladder with what was ticked, and its pictures."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from proklisis.web.scripts.models import Script

NOTHING_SENT: dict[str, Any] = {"drill": "", "steps": 0, "begin": 0, "ticked": [], "pictures": []}


def sent_with(runs: Iterable[int]) -> dict[int, dict[str, Any]]:
    """Run → drill, its steps and which are ticked, and the pictures, of its approved Script."""
    rows = (
        Script.objects.filter(run__in=list(runs), approved_at__isnull=False)
        .prefetch_related("ticks", "pictures")
        .defer("sheet")
    )
    return {s.run_id: _sent(s) for s in rows}


def _sent(script: Script) -> dict[str, Any]:
    body: dict[str, Any] = script.approved or {}
    prescription = body["prescription"]
    main = prescription["main"]
    drill = next((d for d in prescription["drills"] if main and d["fault"] == main["fault"]), None)
    return {
        "drill": drill["title"] if drill else "",
        "steps": len(drill["steps"]) if drill else 0,
        "begin": body.get("begins", {}).get(drill["id"], 0) if drill else 0,
        "ticked": [
            {"step": drill["steps"][t.step]["text"], "at": t.at}
            for t in script.ticks.all()
            if drill and t.drill == drill["id"] and t.step < len(drill["steps"])
        ],
        "pictures": [
            {
                "url": f"/api/runs/{script.run_id}/script/pictures/{p.order}", "caption": p.caption,
                "run": p.run_id, "t": p.t,
            }
            for p in script.pictures.all()
        ],
    }  # fmt: skip
