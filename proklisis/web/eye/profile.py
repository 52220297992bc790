"""What a coach's answers say of their eye, alone and beside the club's other coaches."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable
from typing import Any

import numpy as np

from proklisis.core.eye.agreement import FEWEST, Agreement, icc, in_words, kappa
from proklisis.core.eye.lines import tilt_of
from proklisis.core.eye.profile import Interval, bias_and_spread, by_week, detection
from proklisis.core.eye.threshold import threshold
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.cues import share
from proklisis.core.review import playbook
from proklisis.core.splitting.library import splitter
from proklisis.simulate.items import SET_S
from proklisis.web.clubs.models import Coach
from proklisis.web.eye.models import EyeAnswer
from proklisis.web.eye.sessions import GUESSES

#: Answers that are looked at: a year's, at the pace of a session a day.
MOST = 8000
DAY_S = 86_400.0


def answers_of(coaches: Iterable[Coach]) -> list[EyeAnswer]:
    rows = EyeAnswer.objects.filter(coach__in=list(coaches)).select_related("item")
    return list(rows.order_by("-at", "-id")[:MOST])[::-1]


def first_answers(coach: Coach) -> list[EyeAnswer]:
    """A coach's first answer to each item: after it the truth was told, and a later one shows memory too."""
    first: dict[int, EyeAnswer] = {}
    for a in answers_of([coach]):
        first.setdefault(a.item_id, a)
    return list(first.values())


def profile(coach: Coach) -> dict[str, Any]:
    """Everything that is known of a coach's eye."""
    mine = first_answers(coach)
    first = mine[0].at.timestamp() if mine else 0.0
    return {
        "answers": len(mine),
        "read": _read(mine),
        "smallest": _smallest(mine),
        "alarms": _alarms(mine),
        "shares": _shares(mine),
        "weeks": [
            {"start": w.start, "right": w.right, "n": w.n}
            for w in by_week([(a.at.timestamp() - first) / DAY_S for a in mine], [a.right for a in mine])
        ],
        "agreement": agreement(coach),
    }  # fmt: skip


def _grouped(rows: Iterable[EyeAnswer], key: Callable[[EyeAnswer], Hashable]) -> dict[Any, list[EyeAnswer]]:  # fmt: skip
    out: dict[Any, list[EyeAnswer]] = defaultdict(list)
    for a in rows:
        out[key(a)].append(a)
    return out


def _interval(x: Interval) -> dict[str, float]:
    return {"value": x.value, "low": x.low, "high": x.high}


def _read(rows: list[EyeAnswer]) -> list[dict[str, Any]]:
    """Bias and spread of angles by measure and of moments by discipline."""
    out = []
    # Of the club's own frames the truth is measured, and its errors are not the coach's.
    known = [a for a in rows if a.item.reference_id is None]
    angles = _grouped((a for a in known if a.item.exercise == "angle"), lambda a: a.item.topic)
    moments = _grouped(
        (a for a in known if a.item.exercise == "frame"),
        lambda a: (a.item.discipline, a.item.topic),
    )
    for groups, unit in ((angles, "°"), (moments, "s")):
        for name, group in groups.items():
            found = bias_and_spread([a.error for a in group if a.error is not None])
            if found is None:
                continue
            title = (
                REGISTRY[name].title
                if unit == "°"
                else f"{playbook(name[0]).title}: {_moment(*name)}"
            )
            out.append({
                "id": name if unit == "°" else " ".join(name), "title": title, "unit": unit, "n": found.bias.n, "bias": _interval(found.bias), "spread": _interval(found.spread),
            })  # fmt: skip
    return sorted(out, key=lambda r: -r["n"])


def _moment(discipline: str, topic: str) -> str:
    begins = splitter(playbook(discipline).split or "carve").begins
    return f"{SET_S:g} s after {begins}" if topic == "after" else begins


def _smallest(rows: list[EyeAnswer]) -> list[dict[str, Any]]:
    """The smallest fault that is seen three times out of four, by exercise, discipline and view."""
    out = []
    wrong = [a for a in rows if a.item.exercise in GUESSES and a.item.size > 0]
    for (exercise, discipline, view), group in _grouped(wrong, lambda a: (a.item.exercise, a.item.discipline, a.item.view)).items():  # fmt: skip
        found = threshold([(a.item.size, a.right) for a in group], GUESSES[exercise])
        if found is not None:
            out.append({
                "exercise": exercise, "discipline": discipline, "title": playbook(discipline).title, "view": view.replace("_", " "),
                "size": found.size, "low": found.low, "high": found.high, "n": found.n,
            })  # fmt: skip
    return sorted(out, key=lambda r: -r["n"])


def _alarms(rows: list[EyeAnswer]) -> dict[str, Any] | None:
    """How well faults are told from none: a rider without a fault who is given one is a false alarm."""
    asked = [a for a in rows if a.item.exercise == "fault"]
    clean = [a for a in asked if a.item.size == 0]
    faults = [a for a in asked if a.item.size > 0]
    # Naming another fault is still seeing that something is wrong.
    said = sum(a.given.get("answer") != "" for a in faults)
    found = detection(said, len(faults), sum(not a.right for a in clean), len(clean))
    if found is None:
        return None
    return {
        "d_prime": _interval(found.d_prime), "criterion": _interval(found.criterion),
        "alarms": {"value": found.false_alarms.share, "low": found.false_alarms.low, "high": found.false_alarms.high}, "n": len(asked), "clean": len(clean),
    }  # fmt: skip


def _shares(rows: list[EyeAnswer]) -> list[dict[str, Any]]:
    out = []
    for exercise, group in _grouped(rows, lambda a: a.item.exercise).items():
        right = sum(a.right for a in group)
        s = share(right, len(group))
        out.append(
            {"exercise": exercise, "right": right, "n": len(group), "low": s.low, "high": s.high}
        )
    return out


#: Exercises whose answers can be held against another's, and how: as words, or as degrees.
WORDS = ("fault", "view", "side", "better")


def agreement(coach: Coach) -> list[dict[str, Any]]:
    """Agreement with each other coach of the club, with all of them, and with oneself some time later."""
    club = list(Coach.objects.filter(club=coach.club_id).order_by("pk"))
    firsts: dict[int, dict[int, EyeAnswer]] = {c.pk: {} for c in club}
    seconds: dict[int, EyeAnswer] = {}
    for a in answers_of(club):
        mine = firsts[a.coach_id]
        if a.item_id not in mine:
            mine[a.item_id] = a
        elif a.coach_id == coach.pk:
            seconds.setdefault(a.item_id, a)
    out = []
    for other in club:
        if other.pk != coach.pk:
            out += _agree(f"{other.name}", [firsts[coach.pk], firsts[other.pk]])
    if len(club) > 2:
        out += _agree("all coaches", [firsts[c.pk] for c in club if firsts[c.pk]])
    out += _agree("yourself, later", [firsts[coach.pk], seconds])
    return out


def _agree(name: str, by_coach: list[dict[int, EyeAnswer]]) -> list[dict[str, Any]]:
    if len(by_coach) < 2:
        return []
    both = sorted(set.intersection(*(set(x) for x in by_coach)))
    words = [i for i in both if by_coach[0][i].item.exercise in WORDS]
    angles = [i for i in both if by_coach[0][i].item.exercise == "angle"]
    found: list[Agreement | None] = [
        kappa([[f"{a[i].item.exercise} {a[i].given.get('answer')}" for a in by_coach] for i in words]),
        icc(np.array([[tilt_of(a[i].given["line"]) for a in by_coach] for i in angles])) if len(angles) >= FEWEST else None,
    ]  # fmt: skip
    return [
        {"with": name, "kind": x.kind, "value": x.value, "low": x.low, "high": x.high, "items": x.items, "coaches": x.raters, "says": in_words(x.value)}
        for x in found if x is not None
    ]  # fmt: skip


def hints(coach: Coach, discipline: str) -> dict[str, str]:
    """Fault → what this coach's own sessions say of how they see it; for those of a discipline that anything is known of.

    A hint beside what the coach notes, never a correction.
    """
    mine = first_answers(coach)
    rows = [a for a in mine if a.item.discipline == discipline]
    read = {r["id"]: r for r in _read(mine) if r["unit"] == "°"}
    alarms = _alarms(rows)
    out = {}
    seen = [a for a in rows if a.item.exercise in GUESSES and a.item.size > 0]
    for fault, group in _grouped(seen, lambda a: a.item.topic).items():
        missed = [a for a in group if not a.right]
        if len(group) >= 4 and len(missed) * 2 >= len(group):
            out[fault] = f"In your Eye sessions you missed this in {len(missed)} of {len(group)}."
    for fault, f in playbook(discipline).faults.items():
        for leaf in f.when.leaves():
            r = read.get(leaf.measure or "")
            if r and not r["bias"]["low"] <= 0 <= r["bias"]["high"]:
                more = "larger" if r["bias"]["value"] > 0 else "smaller"
                half = (r["bias"]["high"] - r["bias"]["low"]) / 2
                line = f"In your Eye sessions you draw {r['title'].lower()} {abs(r['bias']['value']):.1f} ± {half:.1f}° {more} than it is (n = {r['n']})."
                out[fault] = " ".join(x for x in (out.get(fault), line) if x)
                break
    if alarms and alarms["alarms"]["low"] > 0.2:
        out[""] = f"In your Eye sessions of this discipline you found a fault in {100 * alarms['alarms']['value']:.0f} % of {alarms['clean']} riders who had none."  # fmt: skip
    return out
