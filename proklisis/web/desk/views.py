"""Runs of the coach's club: their facts, clip, Bench and corrections."""

from __future__ import annotations

from typing import Any

from django.db.models import Case, Q, QuerySet, When
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import viewsets
from rest_framework.decorators import action
from rest_framework.permissions import SAFE_METHODS
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.web.analysis import several
from proklisis.web.analysis.reviewing import brought_up_to_date
from proklisis.web.bench.tracks import TracksActions
from proklisis.web.bench.views import BenchActions
from proklisis.web.clips import removing, uploading
from proklisis.web.clips.views import ClipActions
from proklisis.web.clubs.access import coach_of, of_club, of_club_or_drawn
from proklisis.web.clubs.entries import put_down
from proklisis.web.desk.standing import Standing, in_order, standing
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import FOR_GOOD, REMOVED, asked_for, check_text, whole
from proklisis.web.runs.models import Edit, Run
from proklisis.web.runs.serializers import BusySerializer, RunSerializer
from proklisis.web.runs.writing import changed, judged_anew, nothing_changed, one_writer

#: Changing one of these changes the numbers, so they are measured again.
MEASURED = {
    "conditions", "view", "view_offset_deg", "roll_deg", "filmed_fps", "rider", "discipline", "sure",
}  # fmt: skip
#: Changing one of these changes only what is made of the numbers.
JUDGED = {"level", "intention_text", "intention_faults", "gear", "schools"}


#: So many runs are told how far they are, at the most.
MOST_BUSY = 100
#: What is large and on no list.
NOT_LISTED = (
    "result__sheet", "result__bench", "result__prescription", "script__approved", "clip__index", "clip__people", "clip__looks", "camera",
)  # fmt: skip


#: What a pair shows of either of its runs.
LOOKED_AT = ("bench", "points", "trace", "video")


@extend_schema_view(
    list=extend_schema(
        parameters=[
            OpenApiParameter("rider", OpenApiTypes.INT, description="only this rider's runs"),
            OpenApiParameter("state", OpenApiTypes.STR, description="only runs in this state"),
            OpenApiParameter(
                "discipline", OpenApiTypes.STR, description="only runs of this discipline"
            ),
            OpenApiParameter(
                "stands",
                OpenApiTypes.STR,
                enum=Standing.values,
                description="only runs that stand there",
            ),
            OpenApiParameter(
                "order",
                OpenApiTypes.STR,
                enum=["due", "newest"],
                description="what waits first: the soonest due, then the oldest; or the newest first, which is the usual",
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
class RunViewSet(ClipActions, TracksActions, BenchActions, viewsets.ModelViewSet[Run]):
    helpers_may = (
        "create", "partial_update", "answer", "by_eye", "cancel", "clips", "edits", "match", "redo", "retry", "same_clip",
        "tracks", "undo", "upload",
    )  # fmt: skip
    queryset = Run.objects.none()
    serializer_class = RunSerializer

    def get_queryset(self) -> QuerySet[Run]:
        runs = Run.objects.select_related("rider", "clip", "result", "script").prefetch_related(
            "sent_in"
        )
        if asked_for(self.request, "for_good") and self.action == "destroy":
            return of_club(runs, self.request) | of_club(runs, self.request, removed=True)
        if self.action in LOOKED_AT and self.request.method in SAFE_METHODS:
            return of_club_or_drawn(runs, self.request)
        runs = of_club(
            runs,
            self.request,
            removed=self.action == "restore" or asked_for(self.request, "removed"),
        )
        if self.action != "list":
            return runs
        # Other clips of a run are with its first one.
        runs = runs.filter(part_of=None)
        if "stands" in self.request.query_params:
            runs = standing(runs)
        runs = self._found(runs.defer(*NOT_LISTED))
        if self.request.query_params.get("order") == "due":
            return in_order(runs)
        # What waits for the coach comes first, over all pages.
        waits_first = Case(When(script__approved_at=None, then=0), default=1)
        return runs.order_by(waits_first, "-added", "-id")

    def _found(self, runs: QuerySet[Run]) -> QuerySet[Run]:
        """The runs that a list is asked for."""
        given = self.request.query_params
        if rider := given.get("rider"):
            runs = (
                runs.filter(rider=number) if (number := whole(rider)) is not None else runs.none()
            )
        for name in ("state", "discipline", "stands"):
            if wanted := given.get(name):
                check_text(wanted)
                runs = runs.filter(**{name: wanted})
        if find := given.get("find", "").strip():
            check_text(find)
            words = (
                Q(rider__name__icontains=find)
                | Q(title__icontains=find)
                | Q(intention_text__icontains=find)
                | Q(
                    pk__in=Edit.objects.filter(
                        kind=Edit.Kind.NOTE, undone=False, values__words__icontains=find
                    ).values("run")
                )
            )
            number = whole(find)
            runs = runs.filter(
                words | Q(rider__number=number) if number is not None and number < 10**4 else words
            )
        return runs

    def paginate_queryset(self, queryset: Any) -> Any:
        """A page of runs with where each stands. All runs are put in order by their numbers alone; only the page is read whole."""
        if self.action != "list":
            return super().paginate_queryset(queryset)
        numbers = queryset.values_list("pk", flat=True)
        # Where it costs to find them they are found once, and counted from that.
        dear = {"stands", "find"} & set(self.request.query_params)
        ids = super().paginate_queryset(list(numbers) if dear else numbers)  # type: ignore[arg-type]
        if ids is None:
            return None
        rows = {r.pk: r for r in queryset.order_by().filter(pk__in=ids)}
        stands = dict(standing(Run.objects.filter(pk__in=ids)).values_list("pk", "stands"))
        page = [rows[pk] for pk in ids if pk in rows]
        for run in page:
            run.stands = stands.get(run.pk, "")
        return page

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
            if run.filmed_fps != before:
                uploading.unmatch(run)
            given = set(serializer.validated_data)
            if several.pass_on(run, given) and MEASURED & given:
                changed(run__part_of=run)
            judged = bool((MEASURED | JUDGED) & given) and hasattr(run, "result")
            if MEASURED & given:
                changed(run=run)
            elif judged:
                judged_anew(run=run)
        if judged:
            run.refresh_from_db()
            brought_up_to_date(run)

    def perform_destroy(self, run: Run) -> None:
        if asked_for(self.request, "for_good"):
            club, number = run.club, run.pk
            removing.erase(run)
            put_down(club, self.request.user, "erased for good", f"run {number}")
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
