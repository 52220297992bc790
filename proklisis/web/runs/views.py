"""Runs of the coach's club: their facts, clip, Bench and corrections."""

from __future__ import annotations

import tempfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.db import transaction
from django.db.models import Case, Q, QuerySet, When
from django.http import FileResponse, HttpResponse
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.errors import InputError
from proklisis.core.imperial import (
    NOT_SENTENCES,
    bench_in_feet,
    factor_of,
    in_feet,
    prescription_in_feet,
    text_in_feet,
)
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.words import unit_words
from proklisis.core.review import nothing_found
from proklisis.core.tracks.landmarks import in_words, meaning
from proklisis.core.tracks.tracks import Tracks, imported
from proklisis.footage.limited import limited
from proklisis.formats.files import read_tracks, write_tracks
from proklisis.web.clubs.access import coach_of, in_feet_for, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import FOR_GOOD, REMOVED, asked_for, check_text, whole
from proklisis.web.runs import carrying, gear, removing, uploading, work
from proklisis.web.runs.bench import drawn_points
from proklisis.web.runs.blobs import pack
from proklisis.web.runs.models import Edit, Run
from proklisis.web.runs.portrait import portrait
from proklisis.web.runs.ranged import ranged
from proklisis.web.runs.reviewing import (
    answer,
    brought_up_to_date,
    check_edit,
    corrected,
    questions,
    reviewed,
    tracker_tracks,
)
from proklisis.web.runs.serializers import BusySerializer, RunSerializer
from proklisis.web.runs.shown import (
    AnswerSerializer,
    BenchSerializer,
    EditSerializer,
    QuestionSerializer,
)
from proklisis.web.runs.writing import changed, nothing_changed, one_writer

#: Formats in which tracks are saved, and their files' endings.
FORMS = {"json": ".json", "csv": ".csv", "parquet": ".parquet", "coco": ".coco.json", "c3d": ".c3d"}
#: Changing one of these changes what the numbers mean, so they are worked out again.
JUDGED = {
    "level", "intention_text", "intention_faults", "conditions", "gear", "schools", "observations", "view", "view_offset_deg",
    "roll_deg", "filmed_fps", "rider", "discipline", "sure",
}  # fmt: skip


#: So many runs are told how far they are, at the most.
MOST_BUSY = 100
#: What is large and on no list.
NOT_LISTED = (
    "result__sheet", "result__bench", "result__prescription", "script__approved", "clip__index", "clip__people", "clip__looks", "camera",
)  # fmt: skip


class UploadSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True)


class TraceSerializer(serializers.Serializer[Any]):
    """A measure in every frame, with its standard uncertainty; null where it cannot be read."""

    value = serializers.ListField(child=serializers.FloatField(allow_null=True))
    u = serializers.ListField(child=serializers.FloatField(allow_null=True))


@extend_schema_view(
    list=extend_schema(
        parameters=[
            OpenApiParameter("rider", OpenApiTypes.INT, description="only this rider's runs"),
            OpenApiParameter("state", OpenApiTypes.STR, description="only runs in this state"),
            OpenApiParameter(
                "discipline", OpenApiTypes.STR, description="only runs of this discipline"
            ),
            OpenApiParameter(
                "find",
                OpenApiTypes.STR,
                description="part of a rider's name, a title or an intention; or a rider's number",
            ),
            REMOVED,
        ]
    ),
    destroy=extend_schema(parameters=[FOR_GOOD]),
)
class RunViewSet(viewsets.ModelViewSet[Run]):
    queryset = Run.objects.none()
    serializer_class = RunSerializer

    def get_queryset(self) -> QuerySet[Run]:
        runs = Run.objects.select_related("rider", "clip", "result", "script")
        if asked_for(self.request, "for_good") and self.action == "destroy":
            return of_club(runs, self.request) | of_club(runs, self.request, removed=True)
        runs = of_club(
            runs,
            self.request,
            removed=self.action == "restore" or asked_for(self.request, "removed"),
        )
        if self.action != "list":
            return runs
        # What waits for the coach comes first, over all pages.
        waits_first = Case(When(script__approved_at=None, then=0), default=1)
        return self._found(runs.defer(*NOT_LISTED)).order_by(waits_first, "-added", "-id")

    def _found(self, runs: QuerySet[Run]) -> QuerySet[Run]:
        """The runs that a list is asked for."""
        given = self.request.query_params
        if rider := given.get("rider"):
            runs = (
                runs.filter(rider=number) if (number := whole(rider)) is not None else runs.none()
            )
        for name in ("state", "discipline"):
            if wanted := given.get(name):
                check_text(wanted)
                runs = runs.filter(**{name: wanted})
        if find := given.get("find", "").strip():
            check_text(find)
            words = (
                Q(rider__name__icontains=find)
                | Q(title__icontains=find)
                | Q(intention_text__icontains=find)
            )
            number = whole(find)
            runs = runs.filter(
                words | Q(rider__number=number) if number is not None and number < 10**4 else words
            )
        return runs

    def perform_create(self, serializer: Any) -> None:
        serializer.save(club=coach_of(self.request).club)

    def perform_update(self, serializer: Any) -> None:
        with one_writer(serializer.instance):
            before = serializer.instance.filmed_fps
            nothing_changed(
                serializer.validated_data.pop("was", None),
                self.get_serializer(serializer.instance).data,
                serializer.initial_data,
            )
            run = serializer.save()
            if run.filmed_fps != before and (run.camera.get("scale") or {}).get("by") == "fall":
                # It was read off a fall on another clock; it is offered again on this one.
                del run.camera["scale"]
                run.save(update_fields=["camera"])
            judged = bool(JUDGED & set(serializer.validated_data)) and hasattr(run, "result")
            if judged:
                changed(run=run)
        if judged:
            run.refresh_from_db()
            brought_up_to_date(run)

    def perform_destroy(self, run: Run) -> None:
        if asked_for(self.request, "for_good"):
            removing.erase(run)
        else:
            removing.remove(run)

    @extend_schema(responses={200: BusySerializer(many=True)})
    @action(detail=False, pagination_class=None, filter_backends=[])
    def busy(self, request: Request) -> Response:
        """How far the runs are that are being analysed: all that a list has to ask again and again."""
        busy = of_club(Run.objects.filter(state__in=(Run.State.QUEUED, Run.State.WORKING)), request)
        rows = busy.only("state", "step", "progress", "following_since")[:MOST_BUSY]
        return Response(BusySerializer(rows, many=True).data)

    @extend_schema(request=None, responses={200: RunSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def restore(self, request: Request, pk: str) -> Response:
        """Bring a removed run back."""
        run = self.get_object()
        if run.rider.removed_at is not None:
            raise Conflict(f"{run.rider.name} was removed too. Bring the rider back first.")
        removing.bring_back(run)
        return Response(self.get_serializer(run).data)

    @extend_schema(
        request={"multipart/form-data": UploadSerializer},
        responses={202: RunSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def upload(self, request: Request, pk: str) -> Response:
        """Store a clip that comes in one request, untouched, and queue its analysis. Large ones better go by ``/api/uploads``."""
        run = self.get_object()
        uploading.may_have(run)
        given = UploadSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        uploading.check_whole(file.name, file)
        run = uploading.accept(run, file.name, file, file.size)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(
        request={"multipart/form-data": UploadSerializer},
        responses={202: RunSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["post"])
    def tracks(self, request: Request, pk: str) -> Response:
        """Hand in tracks of the clip (``tracks/1`` as JSON, CSV or Parquet, COCO keypoints or C3D), with gear and scene where they are marked.

        They are kept beside what the tracker gave and judged in its place.
        """
        run = self.get_object()
        if run.busy:
            raise Conflict("The analysis is running. Wait until it is done, or cancel it.")
        if not hasattr(run, "clip") or not run.clip.frames:
            raise Conflict(
                "The clip comes first. Send it, and hand in its tracks when it has been looked at."
            )
        given = UploadSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        if file.size > settings.LARGEST_TRACKS:
            raise InputError(
                f"the file is larger than {settings.LARGEST_TRACKS // 1024**2} MB",
                file.name,
                "cut it to the run",
            )
        tracks = _read_tracks(file)
        if len(tracks) == 0 or int(tracks.frames[-1]) >= run.clip.frames:
            raise InputError(
                f"the tracks reach frame {int(tracks.frames[-1]) if len(tracks) else 0}, the clip has {run.clip.frames}", file.name,
                "hand in the tracks of this very clip",
            )  # fmt: skip
        with transaction.atomic():
            # Marks made on the old tracks mean nothing on these; those on somebody else stay theirs.
            run.edits.filter(person=run.clip.chosen).delete()
            # Pieces of a following that was cancelled are not waited for.
            run.pieces.all().delete()
            run.follow_again = False
            run.save(update_fields=["follow_again"])
            run.track_sets.create(data=pack(imported(tracks)), person=run.clip.chosen)
            work.enqueue(run)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY, 409: ProblemSerializer},
        parameters=[
            OpenApiParameter(
                "form", OpenApiTypes.STR, enum=list(FORMS), description="the file's format"
            )
        ],
    )
    @tracks.mapping.get
    def save_tracks(self, request: Request, pk: str) -> HttpResponseBase:
        """The run's tracks as they stand with all corrections, as a file."""
        form = request.query_params.get("form", "json")
        if form not in FORMS:
            raise InputError(f"the format {form!r} is not known", "form", f"use {', '.join(FORMS)}")
        run = self.get_object()
        tracks, _ = corrected(run)
        with tempfile.TemporaryDirectory(prefix="proklisis-") as folder:
            path = Path(folder) / f"run-{run.pk}{FORMS[form]}"
            write_tracks(tracks, path)
            # The open file outlives its folder.
            return FileResponse(path.open("rb"), as_attachment=True, filename=path.name)

    @extend_schema(request=None, responses={200: RunSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str) -> Response:
        """Stop the analysis; the clip is kept."""
        run = self.get_object()
        if not run.busy:
            raise Conflict("There is nothing to cancel; no analysis is running.")
        work.cancel(run)
        return Response(self.get_serializer(run).data)

    @extend_schema(request=None, responses={202: RunSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str) -> Response:
        """Queue the analysis again, from where it got to."""
        run = self.get_object()
        if run.busy:
            raise Conflict("The analysis is running already.")
        if not hasattr(run, "clip"):
            raise Conflict("There is no clip to analyse yet. Upload one first.")
        work.enqueue(run)
        return Response(self.get_serializer(run).data, status=status.HTTP_202_ACCEPTED)

    @extend_schema(responses={200: BenchSerializer, 409: ProblemSerializer})
    @action(detail=True)
    def bench(self, request: Request, pk: str) -> Response:
        return Response(self._bench(self.get_object()))

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

        return Response({"value": plain(trace.value), "u": plain(trace.frame_u())})

    @extend_schema(responses={(200, "video/mp4"): OpenApiTypes.BINARY})
    @action(detail=True)
    def video(self, request: Request, pk: str) -> HttpResponseBase:
        """The copy that browsers step through, with HTTP ranges."""
        run = self.get_object()
        if not hasattr(run, "clip") or not run.clip.working:
            raise NotFound("There is no clip to show yet.")
        f = run.clip.working
        answer = ranged(request._request, f.storage.open(f.name or "", "rb"), f.size, "video/mp4")
        answer["Cache-Control"] = "private, max-age=86400, immutable"
        return answer

    @extend_schema(responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 404: ProblemSerializer})
    @action(detail=True)
    def portrait(self, request: Request, pk: str) -> HttpResponseBase:
        """A small picture of the rider on this run."""
        clip = portrait(self.get_object())
        if clip is None:
            raise NotFound("There is no picture of this run yet.")
        answer = FileResponse(clip.portrait.open("rb"), content_type="image/jpeg")
        answer["Cache-Control"] = "private, max-age=86400"
        return answer

    @extend_schema(responses={200: QuestionSerializer(many=True), 409: ProblemSerializer})
    @action(detail=True, pagination_class=None)
    def questions(self, request: Request, pk: str) -> Response:
        """The frames where one correction would most reduce the doubt in the verdict, the best first."""
        asked = [asdict(q) for q in questions(self.get_object())]
        return Response(in_feet(asked, NOT_SENTENCES) if in_feet_for(request) else asked)

    @extend_schema(request=EditSerializer, responses={200: BenchSerializer, 400: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def edits(self, request: Request, pk: str) -> Response:
        """Put a point or a boundary right; everything downstream follows."""
        run = self.get_object()
        given = EditSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        with one_writer(run):
            check_edit(run, **given.validated_data)
            self._mine(run).filter(undone=True).delete()
            edit = run.edits.create(
                by=coach_of(request).user, person=run.person, **given.validated_data
            )
            changed(run=run)
            self._carry(run, edit)
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
            changed(run=run)
            self._carry(run, edit)
        return Response(self._bench(run))

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
            "nothing_words": nothing,
            "points": names,
            "markable": [n for n in gear.wanted_gear(run.discipline) if n not in given.index],
            "point_words": {n: meaning(n) for n in gear.wanted_gear(run.discipline)},
            "carrying": gear.waiting(run, given),
            "carry_problems": gear.troubles(run),
            "corrections": [
                {
                    "words": _in_words(e),
                    "by": e.by.get_username() if e.by else "somebody who has left",
                    "made": e.made,
                }
                for e in run.corrections.filter(undone=False)
                .select_related("by")
                .order_by("-id")[:200]
            ],
            "version": f"{run.result.made.isoformat()} {run.result.changes}",
            "measuring": not there,
            "trouble": run.result.trouble,
            "can_undo": self._mine(run).filter(undone=False).exists(),
            "can_redo": self._mine(run).filter(undone=True).exists(),
        }


def _in_words(edit: Edit) -> str:
    v = edit.values
    if edit.kind == Edit.Kind.MARK:
        return f"{in_words(v['landmark'])} marked in frame {v['frame']}"
    if edit.kind == Edit.Kind.MOVE:
        return f"boundary moved from {v['old_t']:.2f} s to {v['t']:.2f} s"
    return (
        f"boundary added at {v['t']:.2f} s"
        if edit.kind == Edit.Kind.ADD
        else f"boundary deleted at {v['old_t']:.2f} s"
    )


def _read_tracks(file: Any) -> Tracks:
    """Tracks of a stranger's file, read in a process of its own."""
    with tempfile.NamedTemporaryFile(prefix="proklisis-") as copy:
        for chunk in file.chunks():
            copy.write(chunk)
        copy.flush()
        tracks: Tracks = limited(
            read_tracks, Path(copy.name), file.name, name=file.name, seconds=120
        )
    return tracks
