"""What became of the targets that a run is held against, what else changed, and what to do about a cue in vain."""

from __future__ import annotations

from typing import Any

from proklisis.core.comparing.pair import pair
from proklisis.core.errors import InputError
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.cues import in_vain, next_cue, next_drill, outcome
from proklisis.core.playbook.words import followed_words, phase_words, value_words
from proklisis.core.shapes.prescription import Followed
from proklisis.web.analysis.compared import compared
from proklisis.web.analysis.said import preferred
from proklisis.web.book.outcomes import day_of, outcomes
from proklisis.web.clubs.books import club_playbook
from proklisis.web.errors import Conflict
from proklisis.web.runs.models import Edit, Run
from proklisis.web.scripts.composing import ladder_begins, script_of
from proklisis.web.targets.models import Prescribed, before, open_for

#: So many other changes are told, the surest first.
MOST_CHANGES = 4


def following(run: Run) -> dict[str, Any] | None:
    """What a run shows of the last prescription before it; None where there is none."""
    last = open_for(run)
    if last is None:
        return None
    rows: list[Followed] = run.result.prescription["followup"]
    earlier = last.run
    return {
        "run": earlier.pk, "title": earlier.title, "on": day_of(earlier), "fault": last.title, "cue": last.cue,
        "outcome": outcome(rows) if rows else "cannot_tell", "rows": [followed_words(r) for r in rows],
        "changed": _changed(earlier, run, rows), "instead": instead(run, last),
        "stepped": ladder_begins(run, script_of(run))[0],
    }  # fmt: skip


def instead(run: Run, last: Prescribed) -> dict[str, str] | None:
    """What to try next where the last cue changed nothing in two runs; None where that is not so."""
    given = [g for g in outcomes(before(run)) if g.prescribed.fault == last.fault]
    same = [x.outcome for g in given if g.prescribed.cue == last.cue for x in g.later if x.on <= day_of(run)]  # fmt: skip
    if not in_vain(same):
        return None
    book, cues = club_playbook(run.club, run.discipline), [g.prescribed.cue for g in given]
    own = [
        e.values["cue"] for e in preferred(run, Edit.Kind.CUE) if e.values["fault"] == last.fault
    ]
    cue = next_cue(book, last.fault, cues) or next((c for c in own if c and c not in cues), "")
    says = "Two runs in a row show no change that can be told with this cue."
    if cue:
        return {"cue": cue, "says": f"{says} The next one is: “{cue}”"}
    drill = next_drill(book, last.fault, [g.prescribed.drill for g in given])
    other = f"Try another drill, {drill}, or" if drill else "Find"
    return {
        "cue": "",
        "says": f"{says} The playbook has no other for it. {other} words of your own.",
    }


def _changed(earlier: Run, run: Run, rows: list[Followed]) -> list[str]:
    """What else is different beyond doubt since the earlier run."""
    try:
        got = pair(compared(earlier), compared(run))
    except (InputError, Conflict):
        return []
    targets = {(r["measure"], r["phase"]) for r in rows}
    out = []
    for r in sorted(got["rows"], key=lambda r: -r["p"]):
        if r["verdict"] != "differs" or (r["measure"], r["phase"]) in targets:
            continue
        if r["measure"] not in REGISTRY:
            continue
        at = f" at the {phase_words(r['phase'])}" if r["phase"] else ""
        was, now = (value_words(r["measure"], r[k]["value"], r[k]["u"]) for k in ("a", "b"))
        out.append(f"{REGISTRY[r['measure']].title}{at}: {was} then, {now} now")
    return out[:MOST_CHANGES]
