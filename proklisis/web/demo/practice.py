"""Three weeks of Eye sessions of the demo's coach, and two helpers who answered some of the same riders. All of it invented."""

from __future__ import annotations

import math
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from proklisis.core.measures.registry import REGISTRY
from proklisis.core.review import playbook
from proklisis.figures import figures
from proklisis.simulate.items import OTHERS, SIZES
from proklisis.web.clubs.models import Club, Coach, Role
from proklisis.web.demo.cast import HELPERS
from proklisis.web.eye.models import EyeItem
from proklisis.web.eye.sessions import answer

DAYS, EACH = 21, 17
#: Measures whose line is drawn, by discipline.
LINES = (("alpine_carve", "leg_lean"), ("alpine_carve", "trunk_lean"), ("snowboard", "leg_lean"))
FAULTS = (("alpine_carve", "front"), ("snowboard", "front"))
STEP_S, CELLS = 1 / 30, 40


class _Seer:
    """A person who answers: off by ``bias`` ± ``spread`` degrees, and sees a fault of ``smallest`` scales three times out of four."""

    def __init__(self, coach: Coach, bias: float, spread: float, smallest: float, alarms: float, seed: int) -> None:  # fmt: skip
        self.coach, self.bias, self.spread, self.smallest, self.alarms = coach, bias, spread, smallest, alarms  # fmt: skip
        self.rng = np.random.default_rng(seed)

    def answer(self, item: EyeItem, learnt: float) -> dict[str, Any]:
        """What they say; ``learnt`` from 0 to 1 draws their errors in."""
        rng, less = self.rng, 1 - 0.4 * learnt
        if item.exercise == "angle":
            true = item.truth["deg"]
            deg = true + math.copysign(1.0, true) * less * rng.normal(self.bias, self.spread)
            a = math.radians(deg)
            return {"line": [[0.5, 0.7], [0.5 + 0.3 * math.sin(a), 0.7 - 0.3 * math.cos(a)]]}
        if item.exercise == "frame":
            return {"frame": round(item.truth["frames"][0] + less * rng.normal(0.9, 1.6))}
        ids = [o["id"] for o in item.question["options"]]
        if item.size == 0:
            wrong = rng.random() < self.alarms * less
            return {"answer": str(rng.choice([i for i in ids if i])) if wrong else ""}
        seen = rng.random() < 1 - 0.8 * math.exp(
            -((item.size / (self.smallest * less)) ** 2) * 1.16
        )
        others = [i for i in ids if i != item.truth["answer"]]
        return {"answer": item.truth["answer"] if seen else str(rng.choice(others))}


def practise(club: Club, coach: Coach, now: datetime) -> None:
    """Put three weeks of sessions down."""
    helpers = []
    for username, name in HELPERS:
        user = User.objects.create_user(username)
        user.set_unusable_password()
        user.save()
        helpers.append(Coach.objects.create(user=user, club=club, name=name, role=Role.HELPER))
    seers = [_Seer(coach, 2.6, 4.0, 0.9, 0.25, 1), _Seer(helpers[0], -1.0, 5.5, 1.2, 0.35, 2), _Seer(helpers[1], 0.5, 3.2, 1.0, 0.1, 3)]  # fmt: skip
    rng = np.random.default_rng(8)
    number = 0
    for day in range(0, DAYS, 2):
        for k in range(EACH):
            number += 1
            item = _item(rng, number)
            at = now - timedelta(days=DAYS - day, minutes=45 - k)
            for i, seer in enumerate(seers):
                # Helpers practise less, and later in the day.
                if i == 0 or (number + i) % 3:
                    answer(seer.coach, item, seer.answer(item, day / DAYS), float(rng.uniform(4, 15)), at + timedelta(hours=i))  # fmt: skip


def _item(rng: np.random.Generator, number: int) -> EyeItem:
    """A question without its pictures: it was answered, and is not asked again."""
    kind = number % 4
    facts: dict[str, Any]
    if kind == 0:
        discipline, measure = LINES[number // 4 % len(LINES)]
        deg = float(rng.uniform(-35, 35))
        facts = {
            "exercise": "angle", "topic": measure, "size": 1.0, "question": {"ask": f"Draw the line for {REGISTRY[measure].title.lower()}.", "points": 2},
            "truth": {"deg": deg, "line": [], "says": f"Tilt in the picture: {deg:.1f}°."},
        }  # fmt: skip
        view = "front"
    elif kind == 1 and number % 8 == 1:
        discipline, view = FAULTS[number // 8 % 2]
        facts = {
            "exercise": "frame", "topic": "begins", "size": 1.0, "question": {"ask": "Stop where the turn begins."},
            "truth": {"frames": [float(rng.uniform(10, CELLS - 10))], "step_s": STEP_S, "says": "Here the turn begins."},
        }  # fmt: skip
    else:
        discipline, view = FAULTS[number % 2]
        book = playbook(discipline)
        known = [f for f in figures(discipline) if f in book.faults]
        offered = [str(f) for f in rng.choice(known, OTHERS + 1, replace=False)]
        clean = rng.random() < 0.3
        fault, size = offered[0], float(rng.choice(SIZES))
        rng.shuffle(offered)
        options = [{"id": f, "title": book.faults[f].title} for f in offered]
        facts = {
            "exercise": "fault", "topic": fault, "size": 0.0 if clean else size,
            "question": {"ask": "What is wrong here?", "options": [*options, {"id": "", "title": "Nothing"}]},
            "truth": {"answer": "" if clean else fault, "says": "Nothing." if clean else f"{book.faults[fault].title}, {size:g} scales."},
        }  # fmt: skip
    return EyeItem.objects.create(discipline=discipline, level="intermediate", view=view, seed=-number, strips=[], **facts)  # fmt: skip
