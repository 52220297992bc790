"""A unit beside another as a passage of a Telling: both play as one, phase by phase, the riders as tall as each other."""

from __future__ import annotations

from typing import Any

import numpy as np
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.comparing import pair as core
from proklisis.core.comparing.sides import side_word
from proklisis.core.errors import InputError
from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.playbook.words import day_words, phase_words, upper_first
from proklisis.core.review import playbook
from proklisis.core.shapes.telling import Passage
from proklisis.core.telling.captions import reading_s
from proklisis.web.analysis.compared import compared
from proklisis.web.clubs.access import in_feet_for
from proklisis.web.errors import ProblemSerializer
from proklisis.web.pair.films import boxes_of
from proklisis.web.pair.views import UNIT_SIDES, matched_units, row_in_words
from proklisis.web.runs.models import Run
from proklisis.web.shape import Shape
from proklisis.web.telling.others import check_beside, made_of
from proklisis.web.telling.views import OfTelling

#: A passage has no more rows than this, and plays this slowly.
MOST_ROWS, SPEED = 80, 0.25


class PairAskedSerializer(serializers.Serializer[Any]):
    b = serializers.IntegerField(min_value=1, help_text="the other run, or this one")
    unit = serializers.IntegerField(min_value=1, help_text="of this run")
    unit_b = serializers.IntegerField(
        min_value=1, required=False, allow_null=True, help_text="of the other; the same one where it is not said"
    )  # fmt: skip
    mirror = serializers.BooleanField(default=False)


class PairPassageSerializer(serializers.Serializer[Any]):
    passage = Shape(Passage)


class TellingPairView(OfTelling):
    @extend_schema(
        operation_id="telling_pair",
        request=PairAskedSerializer,
        responses={200: PairPassageSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """A passage that shows a unit beside another. It is not kept: the Telling that it is put into is."""
        given = PairAskedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        own = self.run(request, run)
        other = own if asked["b"] == own.pk else self.run(request, asked["b"])
        if other.pk != own.pk:
            check_beside(own, [other.pk])
        said = {"passage": passage_of(own, other, asked)}
        return Response(in_feet(said, NOT_SENTENCES) if in_feet_for(request) else said)


def passage_of(own: Run, other: Run, asked: dict[str, Any]) -> dict[str, Any]:
    """The passage. InputError where the two have no unit in common."""
    a = compared(own)
    b = a if other.pk == own.pk else compared(other)
    unit, unit_b = asked["unit"], asked.get("unit_b")
    if unit_b is None:
        unit_b = _same_in(a, b, unit, asked["mirror"])
    same = next(iter(matched_units(a, b, (unit, unit_b), asked["mirror"])), None)
    if same is None:
        raise InputError("these two units are not the same kind", "unit", "choose another one")
    assert a.review is not None and b.review is not None
    one, two = a.review.tracks, b.review.tracks
    inside = np.flatnonzero((one.t >= same["a"][0] - 1e-6) & (one.t <= same["a"][-1] + 1e-6))
    picked = inside[np.unique(np.linspace(0, len(inside) - 1, min(MOST_ROWS, len(inside))).round().astype(int))]  # fmt: skip
    there = np.interp(one.t[picked], same["a"], same["b"])
    frames_b = [int(np.abs(two.t - t).argmin()) for t in there]
    own_boxes, other_boxes = boxes_of(one), boxes_of(two)
    rows = [
        {
            "frame": int(f), "other": g, "box": own_boxes[f].round(1).tolist(),
            "other_box": other_boxes[g].round(1).tolist(),
        }
        for f, g in zip(picked, frames_b, strict=True)
    ]  # fmt: skip
    kind = playbook(own.discipline).unit
    plays = float(one.t[picked[-1]] - one.t[picked[0]]) / SPEED
    days = (day_of(own), day_of(other)) if own.pk != other.pk else ("", "")
    words = [
        _whose(own, kind, unit, same["side_a"], days[0], False),
        _whose(other, kind, unit_b, same["side_b"], days[1], asked["mirror"]),
    ]
    caption = (
        _says(a, b, unit, unit_b, asked["mirror"])
        or f"{upper_first(kind)} {unit} beside {kind} {unit_b}."
    )
    length = round(max(plays + 1.0, reading_s(caption)), 2)
    return {
        "id": f"pair-{other.pk}-{unit}-{unit_b}{'-m' if asked['mirror'] else ''}", "caption": caption, "length_s": length,
        "acts": [
            {"act": "play", "at_s": 0.0, "frame": int(picked[0]), "to_frame": int(picked[-1]), "speed": SPEED},
            {
                "act": "pair", "at_s": 0.0, "until_s": length, "run": other.pk, "made": made_of(other), "mirror": asked["mirror"], "words": words,
                "rows": rows,
            },
        ],
    }  # fmt: skip


def _same_in(a: core.Run, b: core.Run, unit: int, mirror: bool) -> int:
    """The unit of B that is held against a unit of A: its counterpart in the row of both, else the first of its side."""
    matched = matched_units(a, b, (None, None), mirror)
    if (found := next((s["unit_b"] for s in matched if s["unit_a"] == unit), None)) is not None:
        return int(found)
    mine = next((s for s in a.side(None).units if s.n == unit), None)
    if mine is None:
        raise InputError(f"there is no unit {unit}", "unit", "choose one of the run")
    word = side_word(mine)
    wanted = UNIT_SIDES.get(word or "", word) if mirror else word
    of_side = (s.n for s in b.side(None).units if side_word(s) in (wanted, None))
    found = next(of_side, None)
    if found is None:
        raise InputError(f"the other run has no {wanted} one", "unit", "choose another one")
    return int(found)


def day_of(run: Run) -> str:
    """When a run was ridden, as far as that is known."""
    return day_words(run.filmed_on or run.added.date())


def _whose(run: Run, kind: str, unit: int, side: str | None, day: str, mirror: bool) -> str:
    number = f"{run.rider.number} " if run.rider.number is not None else ""
    return f"{number}{run.rider.name}, {f'{day}, ' if day else ''}{kind} {unit}{f', {side}' if side else ''}{', mirrored' if mirror else ''}"


def _says(a: core.Run, b: core.Run, unit: int, unit_b: int, mirror: bool) -> str:
    """What differs first beyond doubt, in a sentence; empty where nothing does."""
    got = core.pair(a, b, unit, unit_b, None, mirror)
    row = next(
        (r for r in sorted(got["rows"], key=lambda r: -r["p"]) if r["verdict"] == "differs"), None
    )
    if row is None:
        return ""
    said = row_in_words(row)
    at = f" at the {phase_words(row['phase'])}" if row["phase"] else ""
    return f"{said['title']}{at}: {said['a']} here, {said['b']} beside it."
