"""The clip itself: its check, who is in it, the camera, and how to film next time."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.clock_doubts import fall_doubt
from proklisis.core.errors import InputError
from proklisis.core.filming import Look, check, judged, plans
from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.playbook.words import upper_first
from proklisis.core.review import playbook
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import UNLEVELLED_U_DEG
from proklisis.footage.looks import summed_up
from proklisis.web.analysis.reviewing import brought_up_to_date, tracker_tracks
from proklisis.web.clips import people
from proklisis.web.clips.camera import CameraSerializer, camera_facts, checked, fall_scale
from proklisis.web.clips.letting_go import check_film
from proklisis.web.clubs.access import in_feet_for, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs.blobs import unpack, unpack_index
from proklisis.web.runs.models import Run
from proklisis.web.runs.queueing import enqueue
from proklisis.web.runs.serializers import RunSerializer
from proklisis.web.runs.writing import changed, one_writer


class VerdictSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    grade = serializers.ChoiceField(["good", "fair", "poor", "unknown"])
    words = serializers.CharField()
    hides = serializers.CharField()
    next_time = serializers.CharField()


class PersonSerializer(serializers.Serializer[Any]):
    """Somebody in the picture, and where they are seen best."""

    frame = serializers.IntegerField()
    box = serializers.ListField(
        child=serializers.FloatField(), help_text="left, top, right, bottom in pixels of the clip"
    )
    share = serializers.FloatField(help_text="of the frames that were looked at")
    by_hand = serializers.BooleanField(
        help_text="whether the coach pointed at them, since the search did not find them"
    )


class PlanSerializer(serializers.Serializer[Any]):
    view = serializers.CharField()
    shows = serializers.ListField(child=serializers.CharField())
    words = serializers.ListField(child=serializers.CharField())


class ChoiceSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()


class FootageSerializer(serializers.Serializer[Any]):
    run = RunSerializer()
    t = serializers.ListField(
        child=serializers.FloatField(), help_text="each frame's own time in the file"
    )
    verdicts = VerdictSerializer(many=True)
    filmed_hint = serializers.FloatField(allow_null=True)
    hint_words = serializers.CharField(
        help_text="why the clip seems to play slower than it was filmed; may be empty"
    )
    people = PersonSerializer(many=True)
    chosen = serializers.IntegerField()
    camera = CameraSerializer()
    on_ice = serializers.BooleanField(
        help_text="whether a trace on the ice is read, so that four corners on it help"
    )
    camera_words = serializers.DictField(child=serializers.CharField())
    fall_words = serializers.CharField(
        help_text="the scale that the fall in the air gives; empty where there is none, or it is in force"
    )
    measures = ChoiceSerializer(many=True, help_text="measures that a plan can be made for")
    plans = PlanSerializer(many=True)


class FootageView(APIView):
    helpers_may = ("patch",)

    @extend_schema(
        responses={200: FootageSerializer, 409: ProblemSerializer},
        parameters=[
            OpenApiParameter(
                "measures",
                OpenApiTypes.STR,
                description="measures the plan is for, separated by commas",
            )
        ],
    )
    def get(self, request: Request, run: int) -> Response:
        """The clip's check, the people in it, its camera, and a filming plan."""
        return Response(footage(_run(request, run), request))

    @extend_schema(
        request=CameraSerializer, responses={200: FootageSerializer, 400: ProblemSerializer}
    )
    def patch(self, request: Request, run: int) -> Response:
        """Mark the camera or the scene; the numbers are worked out again."""
        found = _run(request, run)
        given = CameraSerializer(data=request.data, partial=True)
        given.is_valid(raise_exception=True)
        with one_writer(found):
            found.camera = checked(found, given.validated_data)
            found.save(update_fields=["camera"])
            if hasattr(found, "result"):
                # What cannot be is refused before it is kept.
                tracker_tracks(found)
            changed(run=found)
        if hasattr(found, "result"):
            brought_up_to_date(found)
        return Response(footage(found, request))


class RiderMarkSerializer(serializers.Serializer[Any]):
    """Where the rider stands in one frame, pixels of the clip."""

    frame = serializers.IntegerField(min_value=0)
    head = serializers.ListField(child=serializers.FloatField(), min_length=2, max_length=2)
    feet = serializers.ListField(child=serializers.FloatField(), min_length=2, max_length=2)


class PersonChoiceSerializer(serializers.Serializer[Any]):
    """One of the people found, or where the rider is."""

    person = serializers.IntegerField(min_value=0, required=False)
    mark = RiderMarkSerializer(required=False)

    def validate(self, attrs: dict[str, Any]) -> dict[str, Any]:
        if len(attrs) != 1:
            raise serializers.ValidationError("give either person or mark")
        return attrs


class PersonView(APIView):
    helpers_may = ("post",)

    @extend_schema(
        request=PersonChoiceSerializer,
        responses={202: RunSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Choose the rider among the people in the picture, or point at them; they are followed again.

        Corrections to the one who was followed before are kept, and in force again once they are chosen again.
        """
        found = _run(request, run)
        given = PersonChoiceSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        mark, person = given.validated_data.get("mark"), given.validated_data.get("person")
        if found.busy:
            raise Conflict("The analysis is running. Wait until it is done, or cancel it.")
        check_film(found)
        clip, before = found.clip, found.person
        if mark is not None:
            people.point_at(clip, mark["frame"], tuple(mark["head"]), tuple(mark["feet"]))
        elif person >= len(clip.people):
            raise InputError("there is nobody of that number in the picture", "person")
        else:
            clip.chosen = person
        if mark is not None or clip.chosen != before:
            with transaction.atomic():
                clip.save(update_fields=["people", "chosen"])
                found.pieces.all().delete()
                known = mark is None and found.track_sets.filter(person=clip.chosen).exists()
                Run.objects.filter(pk=found.pk).update(follow_again=not known)
                enqueue(found)
        return Response(
            RunSerializer(_run(request, run), context={"request": request}).data,
            status=status.HTTP_202_ACCEPTED,
        )


def _run(request: Request, pk: int) -> Run:
    run: Run = get_object_or_404(
        of_club(Run.objects.select_related("rider", "clip", "result", "script"), request), pk=pk
    )
    if not hasattr(run, "clip") or not run.clip.index:
        raise Conflict("The clip has not been looked at yet. Wait until its analysis has begun.")
    return run


def look_of(run: Run) -> Look:
    """What is known of the run's pictures."""
    clip, looks = run.clip, run.clip.looks or _looks_of_tracks(run)
    new = clip.fps * (1 - len(clip.doubled) / clip.frames) if clip.doubled else clip.fps
    stretch = run.filmed_fps / clip.fps if run.filmed_fps else 1.0
    facts, _ = camera_facts(run.camera, clip.width, clip.height)
    roll_u, turned = facts.get("roll_u_deg", UNLEVELLED_U_DEG), None
    if "roll_u_deg" not in facts and run.roll_deg == 0 and hasattr(run, "result"):
        shown = run.result.bench
        roll_u = shown.get("roll_u_deg", UNLEVELLED_U_DEG)
        turned = shown["roll_deg"] if shown.get("level_by_ride") else None
    off_line, strain, found = None, None, None
    if hasattr(run, "result"):
        off_line, strain, found = (
            run.result.bench.get(k) for k in ("off_line_deg", "strain", "view")
        )
    lens = {"lines": "straight lines you marked"}.get(
        (run.camera.get("lens") or {}).get("by", ""), "the lens you chose"
    )
    return Look(
        fps=new * stretch, play_fps=new, frames=clip.frames, missing=len(clip.missing_after), doubled=len(clip.doubled),
        rider_px=looks.get("rider_px"), rider_px_least=looks.get("rider_px_least"), picture_px=clip.height, blur=looks.get("blur"),
        light=looks.get("light"), view=run.view or found or "", offset_deg=run.view_offset_deg, ice=bool(run.camera.get("plane")),
        levelled=bool(run.camera.get("level")) or run.roll_deg != 0, roll_u_deg=roll_u, turned_deg=turned,
        lens=lens if run.camera.get("lens") else "", doubt=_doubt(run), off_line_deg=tuple(off_line) if off_line else None, strain=strain,
    )  # fmt: skip


def _doubt(run: Run) -> str:
    """What the picture says against the said view or front foot; "" where it says nothing."""
    doubt = run.result.bench.get("doubt") if hasattr(run, "result") else None
    return str(doubt["says"]) if doubt and doubt["kind"] != "rate" else ""


def _looks_of_tracks(run: Run) -> dict[str, float | None]:
    """Where the tracks were handed in, only the rider's size can be told from them."""
    stored = run.tracks
    if stored is None:
        return {}
    tracks = unpack(stored.data)
    body = tracks.xy[:, [k for k, n in enumerate(tracks.names) if n in BODY]]
    nothing = np.full(len(tracks), np.nan)
    return summed_up(body, nothing, nothing, run.clip.height)


def footage(run: Run, request: Request) -> dict[str, Any]:
    clip, book = run.clip, playbook(run.discipline)
    wanted = [m for m in request.query_params.get("measures", "").split(",") if m]
    unknown = next((m for m in wanted if m not in REGISTRY), None)
    if unknown:
        raise InputError(f"the measure {unknown!r} is not known", "measures")
    stature = run.rider.height_cm / 100 if run.rider.height_cm else 1.75
    hint, words = filmed_hint(run)
    t, _ = unpack_index(clip.index)
    shown = {
        "run": RunSerializer(run, context={"request": request}).data,
        "t": [round(float(v), 6) for v in t],
        "verdicts": [asdict(v) for v in check(look_of(run), book)],
        "filmed_hint": hint,
        "hint_words": words,
        "people": people.shown(clip),
        "chosen": run.person,
        "camera": run.camera,
        "on_ice": book.family == "trace",
        "fall_words": fall_words(run),
        "camera_words": camera_facts(run.camera, clip.width, clip.height)[1],
        "measures": [{"id": m, "title": REGISTRY[m].title} for m in judged(book)],
        "plans": [{"view": p.view, "shows": list(p.shows), "words": list(p.words)} for p in plans(book, wanted, stature_m=stature)],
    }  # fmt: skip
    if in_feet_for(request):
        shown |= {
            k: in_feet(shown[k], NOT_SENTENCES)
            for k in ("verdicts", "fall_words", "camera_words", "plans")
        }
    return shown


def fall_words(run: Run) -> str:
    fallen = fall_scale(run)
    if fallen is None or (run.camera.get("scale") or {}).get("by") == "fall":
        return ""
    return f"The fall of the body in the air gives {fallen[0]:.0f} ± {2 * fallen[1]:.0f} pixels a metre, if the clip runs at true speed."


def filmed_hint(run: Run) -> tuple[float | None, str]:
    """The rate at which the clip seems to have been filmed, where that is not the rate in force, and why."""
    clip = run.clip
    if clip.filmed_hint and run.filmed_fps is None:
        return clip.filmed_hint, (
            f"The file says that it was filmed at {clip.filmed_hint:g} frames a second; it plays at {clip.fps:.4g}."
        )
    slower = run.result.bench.get("plays_slower") if hasattr(run, "result") else None
    if slower and run.filmed_fps is None:
        fps = round(clip.fps * slower)
        return float(fps), (
            f"{upper_first(fall_doubt(slower, clip.fps).says)}, which would be {fps} frames a second when it was filmed."
        )
    return None, ""
