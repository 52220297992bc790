"""How an answer compares with the truth of an item."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from proklisis.core.errors import InputError
from proklisis.core.eye.lines import apart, tilt_of

#: Errors within which a moment and an angle count as right, s and degrees (house choice).
NEAR_S, NEAR_DEG = 1 / 15, 5.0
#: Exercises that are answered by one of some choices.
CHOICES = ("better", "fault", "cue", "side", "view")


@dataclass(frozen=True)
class Score:
    """``right``; of a moment or an angle the signed error, + = late or too large, in ``unit``."""

    right: bool
    error: float | None = None
    unit: str = ""
    says: str = ""


def score(exercise: str, question: Mapping[str, Any], truth: Mapping[str, Any], given: Mapping[str, Any]) -> Score:  # fmt: skip
    """Score an answer.

    Parameters
    ----------
    given : ``frame`` of a moment, ``line`` of an angle (points as shares of the picture), ``order`` of a chain, else ``answer``

    Raises
    ------
    InputError
        For an answer that this item cannot have.
    """
    if exercise == "frame":
        frame = _number(given, "frame")
        near = min(truth["frames"], key=lambda x: abs(frame - x))
        error = (frame - near) * float(truth["step_s"])
        words = "on it" if abs(frame - near) <= 0.5 else f"{abs(error):.2f} s {'late' if error > 0 else 'early'}"  # fmt: skip
        return Score(abs(error) <= NEAR_S, error, "s", words)
    if exercise == "angle":
        line = given.get("line")
        points = int(question["points"])
        if not isinstance(line, list) or len(line) != points or not all(_place(p) for p in line):
            raise InputError(f"the line has {points} points in the picture", "line", "draw it again")  # fmt: skip
        drawn = tilt_of(line)
        error = apart(drawn, float(truth["deg"]), points)
        # What was measured is itself known within its ±.
        near = NEAR_DEG + 2 * float(truth.get("u", 0.0))
        return Score(abs(error) <= near, error, "deg", f"drawn {drawn:.1f}°, {abs(error):.1f}° {'too much' if error > 0 else 'too little'}")  # fmt: skip
    options = [o["id"] for o in question["options"]]
    if exercise == "cause":
        order = given.get("order")
        if not isinstance(order, list) or sorted(map(str, order)) != sorted(options):
            raise InputError("the order names each of them once", "order", "put all of them in order")  # fmt: skip
        place = {f: k for k, f in enumerate(order)}
        first = order[0] == truth["order"][0]
        return Score(first and all(place[a] < place[b] for a, b in truth["before"]))
    answer = given.get("answer")
    if answer not in options:
        raise InputError("this is none of the choices", "answer", "choose one of them")
    if exercise == "side":
        # The side counts; by how much is told beside it.
        right = str(answer).partition(":")[0] == truth["side"]
        return Score(right, says="" if answer == truth["answer"] or not right else "the side is right, not by how much")  # fmt: skip
    return Score(answer == truth["answer"])


def _number(given: Mapping[str, Any], key: str) -> float:
    value = given.get(key)
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise InputError(f"{key} is a number", key, "choose again")
    return float(value)


def _place(p: Any) -> bool:
    return (
        isinstance(p, list) and len(p) == 2
        and all(isinstance(x, int | float) and not isinstance(x, bool) and -0.5 <= x <= 1.5 for x in p)
    )  # fmt: skip
