"""A Script as it stands: what was judged, with the coach's changes laid over it."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.utils import timezone

from proklisis.core.playbook.sheet import parse_sheet
from proklisis.core.playbook.words import describe_evidence, target_words
from proklisis.core.review import judge, nothing_found, playbook
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import Script

RETEST_AFTER = timedelta(days=14)


def script_of(run: Run) -> Script:
    script, _ = Script.objects.get_or_create(run=run)
    return script


def composed(run: Run, script: Script) -> dict[str, Any]:
    """The prescription with dropped faults left out and the coach's words in place."""
    book = playbook(run.discipline)
    # What was dropped before the run's discipline was put right says nothing of this one.
    dropped = {fault: reason for fault, reason in script.dropped.items() if fault in book.faults}
    prescription = judge(parse_sheet(run.result.sheet), dropped=dropped)
    main = prescription["main"]
    if main and script.cue and script.cue_for == main["fault"]:
        main["cue"] = script.cue
        prescription["cues"] = [
            {**c, "cue": script.cue} if c["fault"] == main["fault"] else c
            for c in prescription["cues"]
        ]
    named = {f["fault"] for f in prescription["findings"]} | set(dropped)
    named |= {c["fault"] for c in prescription["cannot_tell"]}
    return {
        "prescription": prescription,
        "nothing_words": nothing_found(prescription),
        "titles": {
            **{i: book.faults[i].title for i in named if i in book.faults},
            **{f["fault"]: f["title"] for f in prescription["findings"]},
        },
        "cue_options": list(book.faults[main["fault"]].cues) if main else [],
        "targets": [target_words(t) for t in prescription["retest"]],
        "evidence_words": {
            f["fault"]: [describe_evidence(e, book.unit) for e in f["evidence"][:4]]
            for f in prescription["findings"]
        },
        "message": script.message,
        "dropped": dropped,
        "retest_on": (script.retest_on or (timezone.now() + RETEST_AFTER).date()).isoformat(),
    }
