"""The Bench of one run: what it shows, the questions it asks, and the corrections made on it."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
from django.db.models import QuerySet
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.imperial import (
    NOT_SENTENCES,
    bench_in_feet,
    factor_of,
    in_feet,
    prescription_in_feet,
    text_in_feet,
)
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.prepare import points_in_words
from proklisis.core.playbook.words import unit_words
from proklisis.core.review import nothing_found, playbook
from proklisis.core.tracks.landmarks import in_words, meaning
from proklisis.web.analysis import carrying
from proklisis.web.analysis.payload import drawn_points
from proklisis.web.analysis.reviewing import (
    answer,
    brought_up_to_date,
    check_edit,
    corrected,
    questions,
    reviewed,
    schools_of,
    tracker_tracks,
    way_on,
)
from proklisis.web.bench.saying import SayingActions, said_of
from proklisis.web.bench.several import SeveralActions, clips_shown
from proklisis.web.bench.shown import (
    AnswerSerializer,
    BenchSerializer,
    EditSerializer,
    LeadingSerializer,
    QuestionSerializer,
)
from proklisis.web.clips import found, gear
from proklisis.web.clubs.access import coach_of, for_coaches, in_feet_for
from proklisis.web.clubs.books import club_playbook
from proklisis.web.clubs.entries import opened
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs.models import Edit, Result, Run
from proklisis.web.runs.writing import changed, judged_anew, one_writer, put_down


class TraceSerializer(serializers.Serializer[Any]):
    """A measure in every frame, with its standard uncertainty; null where it cannot be read."""

    value = serializers.ListField(child=serializers.FloatField(allow_null=True))
    u = serializers.ListField(child=serializers.FloatField(allow_null=True))


class BenchActions(SayingActions, SeveralActions):
    @extend_schema(responses={200: BenchSerializer, 409: ProblemSerializer})
    @action(detail=True)
    def bench(self, request: Request, pk: str) -> Response:
        run = self.get_object()
        opened(run.club, request.user, run)
        return Response(self._bench(run))

    @extend_schema(
        request=AnswerSerializer,
        responses={200: BenchSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def answer(self, request: Request, pk: str) -> Response:
        """Answer what the picture asks of the view, the front foot or the clock; the run is then judged."""
        run = self.get_object()
        if not hasattr(run, "result"):
            raise Conflict("This run is not measured yet. Wait until its analysis is done.")
        given = AnswerSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with one_writer(run):
            answer(run, **given.validated_data)
        return Response(self._bench(run))

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    @action(detail=True)
    def points(self, request: Request, pk: str) -> HttpResponse:
        """Little-endian float32 pixels, frame by frame, x and y of each landmark; NaN where unseen."""
        tracks, _ = corrected(self.get_object())
        _, xy = drawn_points(tracks)
        return HttpResponse(xy.astype("<f4").tobytes(), content_type="application/octet-stream")

    @extend_schema(
        responses=TraceSerializer,
        parameters=[
            OpenApiParameter("measure", OpenApiTypes.STR, OpenApiParameter.QUERY, required=True),
            OpenApiParameter("limb", OpenApiTypes.STR),
        ],
    )
    @action(detail=True)
    def trace(self, request: Request, pk: str) -> Response:
        """One measure in every frame."""
        done = reviewed(self.get_object())
        wanted = request.query_params.get("measure", ""), request.query_params.get("limb", "")
        trace = done.traces.get(wanted)
        if trace is None:
            known = wanted[0] in REGISTRY
            raise NotFound(
                f"{REGISTRY[wanted[0]].title} is not read frame by frame here."
                if known
                else "There is no such measure."
            )

        factor = factor_of(unit_words(wanted[0])) if in_feet_for(request) else 1.0

        def plain(x: Any) -> list[float | None]:
            return [round(float(v) * factor, 3) if np.isfinite(v) else None for v in x]

        return Response({"value": plain(trace.value), "u": plain(trace.u)})

    @extend_schema(responses={200: QuestionSerializer(many=True), 409: ProblemSerializer})
    @action(detail=True, pagination_class=None)
    def questions(self, request: Request, pk: str) -> Response:
        """The frames where one correction would most reduce the doubt in the verdict, the best first."""
        asked = [asdict(q) for q in questions(self.get_object())]
        return Response(in_feet(asked, NOT_SENTENCES) if in_feet_for(request) else asked)

    @extend_schema(responses={200: LeadingSerializer, 409: ProblemSerializer})
    @action(detail=True, pagination_class=None)
    def leading(self, request: Request, pk: str) -> Response:
        """The fewest marks that tell more, one after the other; no steps where none would."""
        run = self.get_object()
        done = reviewed(run)
        found = way_on(run, done, Result.objects.get(run=run).prescription)
        book = playbook(run.discipline)
        return Response({
            "steps": [asdict(s) for s in found.steps] if found else [],
            "points": points_in_words(found.points) if found else "",
            "faults": [book.faults[f].title for f in found.faults] if found else [],
            "done": found.done if found else 0,
        })  # fmt: skip

    @extend_schema(request=EditSerializer, responses={200: BenchSerializer, 400: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def edits(self, request: Request, pk: str) -> Response:
        """Put a point or a boundary right; everything downstream follows."""
        run = self.get_object()
        given = EditSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        if given.validated_data["kind"] in Edit.WORD:
            for_coaches(request)
        with one_writer(run):
            check_edit(run, **given.validated_data)
            said = _by_number(run, given.validated_data)
            edit = put_down(run, coach_of(request).user, **said)
            self._changed(run, edit)
        return Response(self._bench(run))

    @extend_schema(request=None, responses={200: BenchSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def undo(self, request: Request, pk: str) -> Response:
        """Take back the asking coach's own last correction."""
        return self._toggle(True, "There is nothing of yours to undo.")

    @extend_schema(request=None, responses={200: BenchSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def redo(self, request: Request, pk: str) -> Response:
        """Put the asking coach's correction back that was taken back last."""
        return self._toggle(False, "There is nothing of yours to redo.")

    def _mine(self, run: Run) -> QuerySet[Edit]:
        return run.corrections.filter(by=coach_of(self.request).user)

    def _toggle(self, undone: bool, nothing: str) -> Response:
        run = self.get_object()
        with one_writer(run):
            mine = self._mine(run).filter(undone=not undone)
            edit = mine.last() if undone else mine.first()
            if edit is None:
                raise Conflict(nothing)
            edit.undone = undone
            edit.save(update_fields=["undone"])
            self._changed(run, edit)
        return Response(self._bench(run))

    def _changed(self, run: Run, edit: Edit) -> None:
        if edit.kind not in Edit.MEASURING:
            judged_anew(run=run)
            return
        changed(run=run)
        self._carry(run, edit)

    def _carry(self, run: Run, edit: Edit) -> None:
        landmark = edit.values.get("landmark")
        if landmark in gear.MARKABLE and landmark not in tracker_tracks(run).index:
            carrying.queue_carrying(run, landmark)

    def _bench(self, run: Run) -> dict[str, Any]:
        if not hasattr(run, "result"):
            raise Conflict("This run is not measured yet. Wait until its analysis is done.")
        run.refresh_from_db()
        there = brought_up_to_date(run)
        given = tracker_tracks(run)
        tracks, _ = corrected(run)
        names, _ = drawn_points(tracks)
        shown, prescription = run.result.bench, run.result.prescription
        options, whose = schools_of(run)
        nothing = nothing_found(prescription)
        if in_feet_for(self.request):
            shown, prescription, nothing = (
                bench_in_feet(shown),
                prescription_in_feet(prescription),
                text_in_feet(nothing),
            )
        return {
            "run": self.get_serializer(run).data,
            **shown,
            "prescription": prescription,
            **clips_shown(run),
            "nothing_words": nothing,
            "points": names,
            "markable": [
                n for n in gear.wanted_gear(run.discipline) if given.names and n not in given.index
            ],
            "point_words": {n: meaning(n) for n in gear.wanted_gear(run.discipline)},
            "found_gear": found.shown(run, found.found_gear(run, given)),
            "carrying": gear.waiting(run, given),
            "carry_problems": gear.troubles(run),
            "corrections": [
                {
                    "words": _in_words(e),
                    "by": e.by.get_username() if e.by else "somebody who has left",
                    "made": e.made,
                }
                for e in run.corrections.filter(undone=False)
                .select_related("by", "run")
                .order_by("-id")[:200]
            ],
            **said_of(run, shown["units"]),
            "schools_in_force": {q: {"option": o, "whose": whose[q]} for q, o in options.items()},
            "by_eye": run.result.by_eye,
            "verdict_change": run.result.verdict_change,
            "version": f"{run.result.made.isoformat()} {run.result.changes}",
            "measuring": not there,
            "trouble": run.result.trouble,
            "can_undo": self._mine(run).filter(undone=False).exists(),
            "can_redo": self._mine(run).filter(undone=True).exists(),
        }


def _in_words(edit: Edit) -> str:
    v, kind = edit.values, edit.kind
    book = club_playbook(edit.run.club, edit.run.discipline)

    def title(i: str) -> str:
        own = book.noted.get(i, i)
        known = book.faults.get(own) or book.observations.get(own)
        return known.title if known else book.strengths[own].text if own in book.strengths else i

    match kind:
        case Edit.Kind.SIDE:
            return f"the unit at {v['t']:.2f} s is {in_words(v['side'])}"
        case Edit.Kind.GEAR:
            words = next(
                (b.words for b in found.bars_of(edit.run) if b.front == v["landmark"]),
                in_words(v["landmark"]),
            )
            return f"{words} as it was found: {'right' if v['on'] else 'left out'}"
        case Edit.Kind.COUNT:
            units = playbook(edit.run.discipline).units
            return f"{v['count']} {units} counted" if v["count"] else f"{units} not counted"
        case Edit.Kind.NOTE:
            what = title(v["fault"]) if v["fault"] else f"“{v['words']}”"
            return f"{'seen' if v['seen'] else 'looked for, not there'}: {what}"
        case Edit.Kind.UNNOTE:
            return "a note taken back"
        case Edit.Kind.CHOOSE:
            return (
                f"the main thing: {title(v['fault']) if v['fault'] else 'as the software has it'}"
            )
        case Edit.Kind.ALSO:
            return f"{'given too' if v['on'] else 'kept for later'}: {title(v['fault'])}"
        case Edit.Kind.CUE:
            return f"cue for {title(v['fault'])}: {v['cue'] or 'as the software has it'}"
        case Edit.Kind.DRILL:
            return f"another drill for {title(v['fault'])}"
        case Edit.Kind.DROP:
            return f"{'dropped' if v['reason'] else 'taken back'}: {', '.join(map(title, v['faults']))}"
    if edit.kind == Edit.Kind.MARK:
        return f"{in_words(v['landmark'])} marked in frame {v['frame']}"
    if edit.kind == Edit.Kind.MOVE:
        return f"boundary moved from {v['old_t']:.2f} s to {v['t']:.2f} s"
    return (
        f"boundary added at {v['t']:.2f} s"
        if edit.kind == Edit.Kind.ADD
        else f"boundary deleted at {v['old_t']:.2f} s"
    )


def _by_number(run: Run, said: dict[str, Any]) -> dict[str, Any]:
    """A note of a unit that is only counted is of its number: where the unit is in the clip nobody knows."""
    values = said["values"]
    if said["kind"] != Edit.Kind.NOTE or values["scope"] not in ("unit", "phase"):
        return said
    units = run.result.bench["units"] if hasattr(run, "result") else []
    if not units or not units[0].get("counted"):
        return said
    n = values["unit"] or next((u["n"] for u in units if u["start"] <= (values["t"] or 0) <= u["end"]), None)  # fmt: skip
    return {**said, "values": {**values, "unit": n, "t": None}}
