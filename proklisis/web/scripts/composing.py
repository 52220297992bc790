"""A Script as it stands: what was judged, with the coach's changes laid over it."""

from __future__ import annotations

from datetime import date, timedelta
from typing import Any

from django.utils import timezone

from proklisis.core.playbook.words import describe_evidence, target_words
from proklisis.core.review import nothing_found, playbook
from proklisis.core.shapes.prescription import Prescription
from proklisis.web.analysis.said import in_force, notes_of, word_of
from proklisis.web.runs.models import Run
from proklisis.web.scripts.models import Script

RETEST_AFTER = timedelta(days=14)


def script_of(run: Run) -> Script:
    script, _ = Script.objects.get_or_create(run=run)
    return script


def film_again(script: Script) -> date:
    """The day of the next clip."""
    return script.retest_on or (timezone.now() + RETEST_AFTER).date()


def composed(run: Run, script: Script) -> dict[str, Any]:
    """The verdict with what the coach writes around it."""
    book = playbook(run.discipline)
    prescription: Prescription = run.result.prescription
    edits = in_force(run)
    # What was dropped before the run's discipline was put right says nothing of this one.
    dropped = {i: reason for i, reason in word_of(edits).dropped.items() if i in book.faults}
    named = {f["fault"] for f in prescription["findings"]} | set(dropped)
    named |= {c["fault"] for c in prescription["cannot_tell"]}
    return {
        "prescription": prescription,
        "nothing_words": nothing_found(prescription),
        "titles": {
            **{i: book.faults[i].title for i in named if i in book.faults},
            **{f["fault"]: f["title"] for f in prescription["findings"]},
        },
        "targets": [target_words(t) for t in prescription["retest"]],
        "evidence_words": {
            f["fault"]: [describe_evidence(e, book.unit) for e in f["evidence"][:4]]
            for f in prescription["findings"]
        },
        "message": script.message,
        "noted_words": [e.values["words"] for e in notes_of(edits) if e.values.get("words")],
        "dropped": dropped,
        "retest_on": film_again(script).isoformat(),
    }
