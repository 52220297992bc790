"""The pool of items: made by a job ahead of time, one at a time, where there are fewest."""

from __future__ import annotations

from collections import Counter
from itertools import product

from django.core.files.base import ContentFile
from django.db import transaction

from proklisis.core.review import playbook, playbook_ids
from proklisis.simulate.items import EXERCISES, Item, make_item
from proklisis.web.eye import own
from proklisis.web.eye.models import EyeAnswer, EyeItem
from proklisis.web.runs.jobs import put_once

#: Items of each exercise and discipline that the coach who has seen most has still before them.
AHEAD = 3
#: Seeds that are tried for one item; some give none.
TRIES = 8


def kinds(discipline: str = "") -> list[tuple[str, str]]:
    """Every (exercise, discipline) that there is; sides are asked only where there are two."""
    return [
        (e, d) for e, d in product(EXERCISES, [discipline] if discipline else playbook_ids())
        if e != "side" or len(playbook(d).sides) == 2
    ]  # fmt: skip


def most_wanted(discipline: str = "") -> tuple[str, str] | None:
    """The kind of which there is least ahead of whoever has answered most of it; None where there is enough of all."""
    have = Counter(
        EyeItem.objects.filter(first__gt="", reference=None).values_list("exercise", "discipline")
    )
    seen = Counter[tuple[str, str]]()
    answered = EyeAnswer.objects.filter(item__first__gt="", item__reference=None).values_list("coach", "item__exercise", "item__discipline", "item").distinct()  # fmt: skip
    by_coach = Counter((coach, exercise, of) for coach, exercise, of, _ in answered)
    for (_, exercise, of), n in by_coach.items():
        seen[exercise, of] = max(seen[exercise, of], n)
    order = {e: k for k, e in enumerate(EXERCISES)}
    disciplines = {d: k for k, d in enumerate(playbook_ids())}
    short = [(have[k] - seen[k], k) for k in kinds(discipline) if have[k] - seen[k] < AHEAD]
    if not short:
        return None
    # Round by round; within a round the exercises take turns, so that few items are of all kinds.
    return min(short, key=lambda x: (x[0], (disciplines[x[1][1]] + order[x[1][0]]) % len(order), disciplines[x[1][1]]))[1]  # fmt: skip


def ask_for_more(discipline: str = "") -> bool:
    """Have a worker make items, those of a discipline first; whether any are wanted."""
    wanted = most_wanted(discipline) is not None or most_wanted() is not None
    # Of references nothing is promised: their pictures may have to be cut first, or their Bench asks a question.
    if wanted or own.short().exists():
        put_once("make_eye_item", f"eye {discipline}", discipline=discipline)
    return wanted


def make_next(discipline: str = "") -> EyeItem | None:
    """Make the item that is wanted most, and ask for the next; None where there is enough."""
    mine = own.make_next()
    if mine is not None:
        ask_for_more(discipline)
        return mine
    kind = most_wanted(discipline) or (most_wanted() if discipline else None)
    if kind is None:
        return None
    exercise, of = kind
    last = (
        # Those of the demo have numbers below 1, and no pictures that could be made again.
        EyeItem.objects.filter(exercise=exercise, discipline=of, reference=None, seed__gt=0)
        .order_by("-seed")
        .first()
    )
    first = 1 if last is None else last.seed + 1
    kept = None
    for seed in range(first, first + TRIES):
        item = make_item(exercise, of, seed)
        if item is not None:
            kept = keep(item, seed)
            break
    ask_for_more(discipline)
    return kept


def keep(item: Item, seed: int) -> EyeItem:
    """Put an item into the pool."""
    strips = [{"count": s.count, "columns": s.columns, "cell_px": s.cell_px, "step_s": s.step_s} for s in item.strips]  # fmt: skip
    row = EyeItem(
        exercise=item.exercise, discipline=item.discipline, level=item.level, view=item.view, topic=item.topic, size=item.size,
        seed=seed, question=item.question, truth=item.truth, strips=strips,
    )  # fmt: skip
    with transaction.atomic():
        for name, strip in zip(("first", "second"), item.strips, strict=False):
            getattr(row, name).save(f"{seed}.webp", ContentFile(strip.webp), save=False)
        row.save()
    return row
