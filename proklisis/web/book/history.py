"""The Book of a rider: each prescription with what became of it, measures over time, gear as it was."""

from __future__ import annotations

from typing import Any

from django.db.models.fields.json import KeyTransform

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.words import (
    followed_words,
    phase_words,
    target_words,
    unit_words,
    value_words,
)
from proklisis.core.readings.over_time import Place, points
from proklisis.core.review import playbook
from proklisis.core.shapes.run_sheet import Aim
from proklisis.web.analysis.reviewing import brought_up_to_date
from proklisis.web.book.outcomes import day_of, outcomes
from proklisis.web.book.sent import NOTHING_SENT, sent_with
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.targets.models import Prescribed


def disciplines(rider: Rider) -> list[dict[str, Any]]:
    """Which disciplines a rider has judged runs of, the most recent first."""
    rows = _judged(rider).order_by("-added").values_list("discipline", flat=True)
    found = list(dict.fromkeys(rows))
    counts = {d: sum(x == d for x in rows) for d in found}
    return [{"id": d, "title": playbook(d).title, "runs": counts[d]} for d in found]


def book(rider: Rider, discipline: str) -> dict[str, Any]:
    """What a page of the Book shows. What an older run was judged by is brought up to date first, where that takes a moment."""
    for run in _judged(rider).filter(discipline=discipline, result__stale=True).select_related("result"):  # fmt: skip
        brought_up_to_date(run)
    prescribed = Prescribed.objects.filter(
        run__rider=rider, run__discipline=discipline, run__removed_at=None
    )
    given = outcomes(prescribed)
    sent = sent_with(g.prescribed.run_id for g in given)
    runs = list(
        _judged(rider)
        .filter(discipline=discipline)
        .annotate(
            readings=KeyTransform("readings", "result__bench"),
            units=KeyTransform("units", "result__bench"),
        )
        .order_by("added", "pk")
        .defer("camera")
    )
    return {
        "rider": rider.name, "discipline": discipline, "disciplines": disciplines(rider),
        "runs": [
            {
                "run": r.pk, "on": day_of(r), "title": r.title, "level": r.level, "gear": _gear(r.gear),
                "set_up": r.gear, "felt": str(r.gear.get("felt", "")),
            }
            for r in runs
        ],
        "prescribed": [
            {
                "run": g.prescribed.run_id, "on": day_of(g.prescribed.run), "fault": g.prescribed.title, "cue": g.prescribed.cue,
                "outcome": g.outcome, "targets": _targets(g.prescribed, g.later[0].rows if g.later else []),
                "seen_in": g.later[0].run if g.later else None, "film_again": g.prescribed.film_again,
                **sent.get(g.prescribed.run_id, NOTHING_SENT),
            }
            for g in reversed(given)
        ],
        "series": _series(runs, [a for g in reversed(given) for a in g.prescribed.aims]),
    }  # fmt: skip


def _judged(rider: Rider) -> Any:
    return Run.objects.filter(rider=rider, part_of=None, removed_at=None, result__isnull=False)


def _targets(prescribed: Prescribed, rows: list[Any]) -> list[dict[str, Any]]:
    """Targets in words, with what became of them where a run was held against them."""
    if rows:
        return [dict(followed_words(r)) for r in rows]
    out = []
    for given in prescribed.aims:
        before = Aim.model_validate(given).before
        read = "" if before is None else value_words(given["measure"], before.value, before.u)
        out.append({"target": target_words(given), "before": read, "now": "", "verdict": None, "says": "not filmed again yet"})  # fmt: skip
    return out


def _series(runs: list[Any], aims: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Each measure over the runs, one line a side; what was a target first, then what most runs have."""
    lines: dict[Place, list[dict[str, Any]]] = {}
    for r in runs:
        sides = {u["n"]: u["finest_side"] or u["side"] for u in r.units or []}
        for place, p in points(r.readings or [], sides).items():
            lines.setdefault(place, []).append({
                "run": r.pk, "on": day_of(r), "value": p.value, "pm": 2 * p.u, "units": p.n,
                "says": value_words(place.measure, p.value, p.u),
            })  # fmt: skip
    wanted = {(a["measure"], a["phase"], a["limb"]): a["target"] for a in reversed(aims)}
    groups: dict[tuple[str, str | None, str | None], list[Place]] = {}
    for place in lines:
        groups.setdefault(place[:3], []).append(place)
    out: list[dict[str, Any]] = []
    for (measure, phase, limb), places in groups.items():
        if measure not in REGISTRY:
            continue
        at = f" at the {phase_words(phase)}" if phase else ""
        on = f", {phase_words(limb)}" if limb else ""
        out.append({
            "title": f"{REGISTRY[measure].title}{at}{on}", "unit": unit_words(measure).strip(),
            "target": wanted.get((measure, phase, limb)),
            "sides": [{"side": p.side, "points": lines[p]} for p in sorted(places, key=lambda p: p.side)],
        })  # fmt: skip
    order = list(wanted.values())
    out.sort(
        key=lambda s: (
            s["target"] not in order,
            -max(len(x["points"]) for x in s["sides"]),
            s["title"],
        )
    )
    return out


def _gear(gear: dict[str, Any]) -> list[str]:
    """A run's gear in a few words."""
    said = ((k, v) for k, v in gear.items() if isinstance(v, str | int | float) and k != "felt")
    return [str(v) if k == "notes" else f"{k.replace('_', ' ')} {v}" for k, v in said]
