"""What a pair of units or runs shows: which moments are the same, what differs, and from where on."""

from __future__ import annotations

from math import isfinite
from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.comparing import pair as core
from proklisis.core.comparing.best import best_units
from proklisis.core.comparing.sides import pairs, side_word
from proklisis.core.errors import InputError
from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.words import lower_first, target_words, unit_words, value_words
from proklisis.core.review import book_of, playbook
from proklisis.core.shapes.comparison import BestUnit, ComparedRow, Comparison
from proklisis.core.shapes.prescription import Target
from proklisis.core.shapes.run_sheet import RunSheet
from proklisis.web.analysis import drawn
from proklisis.web.analysis.compared import compared, run_of
from proklisis.web.clubs.access import in_feet_for, of_club
from proklisis.web.clubs.books import club_playbook
from proklisis.web.errors import ProblemSerializer
from proklisis.web.plain import whole
from proklisis.web.references.models import Reference, in_force
from proklisis.web.runs.models import Run
from proklisis.web.shape import Shape

UNIT_SIDES = {"left": "right", "right": "left"}


class PairRowSerializer(serializers.Serializer[Any]):
    """A row of the comparison, in words."""

    measure = serializers.CharField()
    title = serializers.CharField()
    a = serializers.CharField(help_text="value ± U with its unit")
    b = serializers.CharField()
    difference = serializers.CharField(help_text="a − b ± U")
    each_frame = serializers.BooleanField(help_text="both have it in every frame")
    target = serializers.CharField(
        help_text="what the Script of the earlier run set for it, in words; empty where it set nothing"
    )


class SameSerializer(serializers.Serializer[Any]):
    """Two units that are held against each other, and the moments of each that are the same."""

    unit_a = serializers.IntegerField()
    unit_b = serializers.IntegerField()
    side_a = serializers.CharField(allow_null=True)
    side_b = serializers.CharField(allow_null=True)
    phases = serializers.ListField(child=serializers.CharField())
    a = serializers.ListField(
        child=serializers.FloatField(), help_text="begin of each phase and end of the last, s"
    )
    b = serializers.ListField(child=serializers.FloatField())


class PairSerializer(serializers.Serializer[Any]):
    comparison = Shape(Comparison)
    rows = PairRowSerializer(many=True, help_text="the comparison's rows in its order, in words")
    same = SameSerializer(many=True)
    chain = serializers.ListField(
        child=serializers.CharField(), help_text="titles of the faults of the first difference"
    )


class AgainstSerializer(serializers.Serializer[Any]):
    """Something that a unit of a run may be held against."""

    kind = serializers.ChoiceField(["own_best", "other_side", "last_run", "reference", "drawn"])
    words = serializers.CharField()
    b = serializers.IntegerField(
        allow_null=True, help_text="the other run; null: a drawn one that is still to be drawn"
    )
    unit_a = serializers.IntegerField(allow_null=True)
    unit_b = serializers.IntegerField(allow_null=True)
    mirror = serializers.BooleanField()


class AgainstAllSerializer(serializers.Serializer[Any]):
    against = AgainstSerializer(many=True)
    best_units = Shape(list[BestUnit])


class CurvesSerializer(serializers.Serializer[Any]):
    """A signal of both units on matched time; null where it was not seen."""

    title = serializers.CharField()
    unit = serializers.CharField()
    at = serializers.ListField(child=serializers.FloatField())
    a = serializers.ListField(child=serializers.FloatField(allow_null=True))
    a_u = serializers.ListField(child=serializers.FloatField(allow_null=True))
    b = serializers.ListField(child=serializers.FloatField(allow_null=True))
    b_u = serializers.ListField(child=serializers.FloatField(allow_null=True))
    apart = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField()),
        help_text="from where to where they part beyond their combined ±, shares of the unit",
    )


ASKED = [
    OpenApiParameter("a", int, required=True, description="a run"),
    OpenApiParameter("b", int, required=True, description="another, or the same"),
    OpenApiParameter("unit_a", int, description="of both, or of neither"),
    OpenApiParameter("unit_b", int),
    OpenApiParameter("mirror", bool, description="left and right of b change places"),
]


class PairView(APIView):
    @extend_schema(
        parameters=[
            *ASKED,
            OpenApiParameter("event", str, description="start, end or a phase"),
            OpenApiParameter("offset_s", float, description="seconds after the event"),
        ],
        responses={200: PairSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def get(self, request: Request) -> Response:
        """Hold two runs, or two units, against each other."""
        given = request.query_params
        a, b = _runs(request)
        units = whole(given.get("unit_a")), whole(given.get("unit_b"))
        mirror = given.get("mirror", "").lower() in ("1", "true", "yes")
        event = None
        if name := given.get("event"):
            try:
                event = core.Event(name, float(given.get("offset_s") or 0.0))
            except ValueError as e:
                raise InputError("this is no number of seconds", "offset_s", "give 0.3") from e
            if not isfinite(event.offset_s):
                raise InputError("this is no number of seconds", "offset_s", "give 0.3")
        got = core.pair(a, b, *units, event, mirror)
        for letter, run in (("A", a), ("B", b)):
            if run.sheet.rider.name == drawn.NAME:
                got["fairness"].insert(
                    0, f"{letter} is drawn by the simulator: nobody rides quite like that."
                )
        aims = _aims(request)
        answer = {
            "comparison": got,
            "rows": [{**row_in_words(r), "each_frame": _each_frame(r, a, b), "target": _target(r, aims)} for r in got["rows"]],
            "same": matched_units(a, b, units, mirror), "chain": _titles(got, a.sheet),
        }  # fmt: skip
        return Response(in_feet(answer, NOT_SENTENCES) if in_feet_for(request) else answer)


class CurvesView(APIView):
    @extend_schema(
        parameters=[
            *ASKED, OpenApiParameter("measure", str, required=True), OpenApiParameter("limb", str),
        ],
        responses={200: CurvesSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def get(self, request: Request) -> Response:
        """One signal of two units on matched time."""
        given = request.query_params
        a, b = _runs(request)
        unit_a, unit_b = whole(given.get("unit_a")), whole(given.get("unit_b"))
        if unit_a is None or unit_b is None:
            raise InputError("the units are not said", "unit_a", "give unit_a and unit_b")
        measure = given.get("measure", "")
        mirror = given.get("mirror", "").lower() in ("1", "true", "yes")
        drawn = core.curves(a, b, unit_a, unit_b, measure, given.get("limb", ""), mirror)
        title = REGISTRY[measure].title if measure in REGISTRY else measure
        apart = core.apart(drawn, measure, a.name == b.name)
        return Response({"title": title, "unit": unit_words(measure), **drawn, "apart": apart})


class AgainstView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("unit", int, description="the unit that the Bench stands in")],
        responses={200: AgainstAllSerializer, 409: ProblemSerializer},
    )
    def get(self, request: Request, run: int) -> Response:
        """What a unit of this run may be held against."""
        row = run_of(request, run)
        side = compared(row).side(None)
        best = best_units(side, playbook(row.discipline))
        here = whole(request.query_params.get("unit"))
        mine = next((s for s in side.units if s.n == here), None)
        word = side_word(mine) if mine else None
        unit = playbook(row.discipline).unit
        out: list[dict[str, Any]] = []
        if mine is not None:
            own = next((x for x in best if x["side"] == word and x["segment"] != mine.n), None)
            if own is not None:
                what = f"{word} " if word else ""
                out.append(
                    _against(
                        "own_best",
                        f"own best {what}{unit}, {own['segment']}",
                        row.pk,
                        mine.n,
                        own["segment"],
                        False,
                    )
                )
            other = next((x for x in best if word and x["side"] == UNIT_SIDES.get(word)), None)
            if other is not None:
                out.append(
                    _against("other_side", f"best {other['side']} {unit}, {other['segment']}, mirrored", row.pk, mine.n, other["segment"], True)
                )  # fmt: skip
        last = (
            of_club(Run.objects.filter(rider=row.rider, discipline=row.discipline, part_of=None), request)
            .filter(result__isnull=False, id__lt=row.pk).order_by("-id").first()
        )  # fmt: skip
        if last is not None:
            out.append(
                _against("last_run", f"last run, of {last.added:%d %B}", last.pk, None, None, False)
            )
        main = (row.result.prescription.get("main") or {}).get("fault")
        out += [
            _against("reference", _reference_words(kept), kept.run_id, None, None, False)
            for kept in sorted(in_force(row.club_id, row.discipline), key=lambda k: k.fault != main)
            if kept.run_id != row.pk
        ]
        if not any(x["kind"] == "reference" for x in out) and drawn.views_of(row.discipline):
            there = drawn.drawn_for(row)
            ready = there is not None and there.state == Run.State.READY
            mirror = _other_foot(row, there)
            out.append(_against("drawn", "a drawn rider", there.pk if there and ready else None, None, None, mirror))  # fmt: skip
        return Response({"against": out, "best_units": best})


def _other_foot(row: Run, there: Run | None) -> bool:
    """Whether the other one rides with the other foot in front."""
    feet = {row.rider.stance, there.rider.stance if there else ""}
    return feet == {"regular", "goofy"}


def _aims(request: Request) -> list[Target]:
    """The targets of the earlier of two runs of one rider, where its Script was approved."""
    rows = [run_of(request, whole(request.query_params.get(name))) for name in ("a", "b")]
    first = min(rows, key=lambda r: r.pk)
    script = getattr(first, "script", None)
    if rows[0].pk == rows[1].pk or rows[0].rider_id != rows[1].rider_id or script is None:
        return []
    return script.approved["prescription"]["retest"] if script.approved else []  # type: ignore[no-any-return]


def _target(r: ComparedRow, aims: list[Target]) -> str:
    place = (r["measure"], r["phase"], r["limb"])
    return "; ".join(
        target_words(t) for t in aims if (t["measure"], t["phase"], t["limb"]) == place
    )


def _reference_words(kept: Reference) -> str:
    faults = club_playbook(kept.club, kept.run.discipline).faults
    what = f" for {lower_first(faults[kept.fault].title)}" if kept.fault in faults else ""
    return f"reference{what}: {kept.run.rider.name}"


def _against(
    kind: str, words: str, b: int | None, unit_a: int | None, unit_b: int | None, mirror: bool
) -> dict[str, Any]:
    return {
        "kind": kind,
        "words": words,
        "b": b,
        "unit_a": unit_a,
        "unit_b": unit_b,
        "mirror": mirror,
    }


def _runs(request: Request) -> tuple[core.Run, core.Run]:
    numbers = [whole(request.query_params.get(name)) for name in ("a", "b")]
    if None in numbers:
        raise InputError("the runs are not said", "a and b", "give their numbers")
    rows = [run_of(request, n) for n in numbers]
    a = compared(rows[0])
    return a, a if rows[1].pk == rows[0].pk else compared(rows[1])


def row_in_words(r: dict[str, Any] | Any) -> dict[str, Any]:
    measure = r["measure"]
    at = f", {r['limb']}" if r["limb"] else ""
    title = REGISTRY[r["measure"]].title if r["measure"] in REGISTRY else r["measure"]
    return {
        "measure": measure, "title": f"{title}{at}", "a": value_words(measure, r["a"]["value"], r["a"]["u"]),
        "b": value_words(measure, r["b"]["value"], r["b"]["u"]), "difference": value_words(measure, r["difference"], r["u"]),
    }  # fmt: skip


def _titles(got: Comparison, sheet: RunSheet) -> list[str]:
    first = got["first_difference"]
    return [book_of(sheet).faults[i].title for i in first["chain"]] if first else []


def _each_frame(r: Any, a: core.Run, b: core.Run) -> bool:
    return all(
        any(key[0] == r["measure"] for key in run.review.traces) for run in (a, b) if run.review
    )


def matched_units(
    a: core.Run, b: core.Run, units: tuple[int | None, int | None], mirror: bool
) -> list[dict[str, Any]]:
    """Units of both that are the same, with the moments of each that are."""
    one, other = a.side(units[0]), b.side(units[1])
    assert a.review is not None and b.review is not None
    of_a, of_b = ({u.n: u for u in r.review.units} for r in (a, b) if r.review)
    return [
        {
            "unit_a": x, "unit_b": y, "side_a": of_a[x].side, "side_b": of_b[y].side, "phases": phases,
            "a": core.edges(of_a[x], phases), "b": core.edges(of_b[y], phases),
        }
        for x, y in pairs(one.units, other.units, mirror) if x in of_a and y in of_b
        for phases in [core.shared_phases(of_a[x], of_b[y])]
    ]  # fmt: skip
