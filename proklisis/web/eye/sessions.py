"""What a coach is asked next, and what an answer changes."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import Any

from django.db import transaction
from django.db.models import Count, QuerySet

from proklisis.core.eye.choosing import Candidate, choose
from proklisis.core.eye.scoring import Score, score
from proklisis.core.eye.spacing import reviewed
from proklisis.core.eye.threshold import next_size
from proklisis.simulate.items import SIZES
from proklisis.web.clubs.models import Coach
from proklisis.web.eye.models import EyeAnswer, EyeItem, EyeTopic
from proklisis.web.eye.own import open_to

#: Exercises whose items have sizes, and the chance of guessing right.
GUESSES = {"fault": 0.2, "better": 0.5}
#: Right within so many seconds is easy.
EASY_S = 6.0
#: Of the last so many answers the size of the next fault is taken.
LATELY = 60
#: An answer is not taken for slower than this, seconds: somebody was called away.
LONGEST_S = 600.0


def open_items(coach: Coach, now: datetime) -> QuerySet[EyeItem]:
    """Items that a coach may be shown, with their pictures."""
    return EyeItem.objects.filter(open_to(coach.club_id, now.date()), first__gt="")


def next_items(
    coach: Coach, now: datetime, count: int, leave: Collection[int], exercise: str = "", discipline: str = ""
) -> list[EyeItem]:  # fmt: skip
    """The next items for a coach, ``leave`` those that are already before them."""
    rows = open_items(coach, now).exclude(pk__in=leave)
    if exercise:
        rows = rows.filter(exercise=exercise)
    if discipline:
        rows = rows.filter(discipline=discipline)
    seen = dict(coach.eye_answers.values_list("item").annotate(n=Count("id")))
    pool = [
        Candidate(pk, (e, d, t), size, seen.get(pk, 0))
        for pk, e, d, t, size in rows.values_list("pk", "exercise", "discipline", "topic", "size")
    ]
    due = {(t.exercise, t.discipline, t.topic): t.due for t in coach.eye_topics.all()}
    before = coach.eye_answers.select_related("item").order_by("-at", "-id").first()
    last = None if before is None else _candidate(before.item)
    if leave:
        ahead = EyeItem.objects.filter(pk__in=leave).order_by("-id").first()
        last = last if ahead is None else _candidate(ahead)
    wanted = _wanted(coach, {c.topic for c in pool})
    out: list[int] = []
    for _ in range(count):
        found = choose([c for c in pool if c.item not in out], due, wanted, now, last)
        if found is None:
            break
        out.append(found.item)
        last = found
    rows_by = {r.pk: r for r in EyeItem.objects.filter(pk__in=out)}
    return [rows_by[pk] for pk in out]


def _candidate(item: EyeItem) -> Candidate:
    return Candidate(item.pk, (item.exercise, item.discipline, item.topic), item.size, 0)


def sized(coach: Coach, exercise: str, discipline: str = "") -> QuerySet[EyeAnswer]:
    """A coach's answers to items of an exercise in which something is wrong."""
    rows = coach.eye_answers.filter(item__exercise=exercise, item__size__gt=0)
    return rows.filter(item__discipline=discipline) if discipline else rows


def _wanted(coach: Coach, topics: Collection[tuple[str, str, str]]) -> dict[tuple[str, str, str], float]:  # fmt: skip
    """The size of fault that would tell most, by topic: one for each exercise and discipline."""
    kinds = {(e, d) for e, d, _ in topics if e in GUESSES}
    size = {}
    for e, d in kinds:
        answers = list(
            sized(coach, e, d).order_by("-at").values_list("item__size", "right")[:LATELY]
        )
        if answers:
            size[e, d] = next_size([(_near(s), r) for s, r in answers], SIZES, GUESSES[e])
    return {t: size[t[:2]] for t in topics if t[:2] in size}


def _near(size: float) -> float:
    return min(SIZES, key=lambda s: abs(s - size))


def answer(coach: Coach, item: EyeItem, given: dict[str, Any], took_s: float, now: datetime) -> tuple[Score, datetime]:  # fmt: skip
    """Score and keep an answer; when its topic comes again."""
    found = score(item.exercise, item.question, item.truth, given)
    with transaction.atomic():
        topic = (
            EyeTopic.objects.select_for_update()
            .filter(coach=coach, exercise=item.exercise, discipline=item.discipline, topic=item.topic)
            .first()
        )  # fmt: skip
        card, due = reviewed(topic.card if topic else None, found.right, took_s <= EASY_S, now)
        EyeTopic.objects.update_or_create(
            coach=coach, exercise=item.exercise, discipline=item.discipline, topic=item.topic, defaults={"card": card, "due": due},
        )  # fmt: skip
        EyeAnswer.objects.create(
            coach=coach, item=item, given=given, right=found.right, error=found.error, took_s=min(max(took_s, 0.0), LONGEST_S), at=now
        )  # fmt: skip
    return found, due
