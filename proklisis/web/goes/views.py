"""Session films of the coach's club: sending one, its goes, the runs that are made of them."""

from __future__ import annotations

import io
from typing import Any

import cv2
import numpy as np
from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.http import FileResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from rest_framework import mixins, serializers, status, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.errors import InputError
from proklisis.core.review import nothing_found, playbook
from proklisis.footage.still import still
from proklisis.web.clips import sharing
from proklisis.web.clips.ranged import send
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.goes import finding, removing, table
from proklisis.web.goes.models import Go, SessionFilm
from proklisis.web.plain import FOR_GOOD, REMOVED, asked_for
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Clip, Film, Run
from proklisis.web.stored import on_disk

#: Height of the small pictures, pixels; and how much is shown around a rider, in their heights.
PICTURE_PX, AROUND = 128, 0.35


class GoRunSerializer(serializers.ModelSerializer[Run]):
    """What became of a go: how far its run is, and its verdict with its one fix."""

    main_title = serializers.SerializerMethodField()
    cue = serializers.SerializerMethodField()
    approved = serializers.SerializerMethodField()
    removed = serializers.SerializerMethodField()

    class Meta:
        model = Run
        fields = [
            "id", "state", "step", "progress", "problem", "main_title", "cue", "approved", "removed",
        ]  # fmt: skip

    @extend_schema_field(
        serializers.CharField(allow_null=True, help_text="the main thing; empty where all is well")
    )
    def get_main_title(self, run: Run) -> str | None:
        return run.result.main_title if hasattr(run, "result") else None

    @extend_schema_field(
        serializers.CharField(
            help_text="the one cue that goes with it; where nothing was found, how much could be judged"
        )
    )
    def get_cue(self, run: Run) -> str:
        if not hasattr(run, "result"):
            return ""
        main = run.result.prescription["main"]
        return str(main["cue"]) if main else nothing_found(run.result.prescription)

    @extend_schema_field(serializers.BooleanField())
    def get_approved(self, run: Run) -> bool:
        return hasattr(run, "script") and run.script.approved_at is not None

    @extend_schema_field(serializers.BooleanField())
    def get_removed(self, run: Run) -> bool:
        return run.removed_at is not None


class GoSerializer(serializers.ModelSerializer[Go]):
    run = GoRunSerializer(allow_null=True, read_only=True)
    box = serializers.ListField(child=serializers.FloatField(), allow_null=True, read_only=True)

    class Meta:
        model = Go
        fields = ["id", "from_s", "to_s", "who", "rider", "left_out", "at_s", "box", "run"]


class SessionFilmSerializer(serializers.ModelSerializer[SessionFilm]):
    """A session film in a list."""

    name = serializers.CharField(source="film.name", read_only=True)
    film = serializers.IntegerField(source="film_id", read_only=True)
    run = serializers.IntegerField(
        write_only=True,
        required=False,
        min_value=1,
        help_text="the run whose clip is cut, in place of sending one",
    )
    goes_found = serializers.IntegerField(read_only=True, default=0)
    goes_judged = serializers.IntegerField(read_only=True, default=0)

    class Meta:
        model = SessionFilm
        fields = [
            "id", "film", "name", "title", "discipline", "view", "filmed_on", "added", "state", "step", "progress",
            "problem", "length_s", "fps", "width", "height", "run", "goes_found", "goes_judged",
        ]  # fmt: skip
        read_only_fields = [
            "added", "state", "step", "progress", "problem", "length_s", "fps", "width", "height",
        ]  # fmt: skip

    def validate_discipline(self, given: str) -> str:
        try:
            book = playbook(given)
        except InputError as e:
            raise serializers.ValidationError(str(e)) from e
        if not book.from_tracks:
            raise serializers.ValidationError(
                f"Clips of {book.title.lower()} cannot be analysed yet."
            )
        return given


class SessionTableSerializer(SessionFilmSerializer):
    """A session film with all of its goes."""

    goes = GoSerializer(many=True, read_only=True)
    playable = serializers.SerializerMethodField()

    class Meta(SessionFilmSerializer.Meta):
        fields = [*SessionFilmSerializer.Meta.fields, "goes", "version", "playable"]

    @extend_schema_field(serializers.BooleanField())
    def get_playable(self, session: SessionFilm) -> bool:
        return bool(session.working)


class RowSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField(allow_null=True, default=None)
    from_s = serializers.FloatField()
    to_s = serializers.FloatField()
    who = serializers.IntegerField(min_value=1, max_value=999)
    rider = serializers.PrimaryKeyRelatedField(
        queryset=Rider.objects.none(), allow_null=True, default=None
    )
    left_out = serializers.BooleanField(default=False)
    at_s = serializers.FloatField(
        allow_null=True, default=None, help_text="of a new one: when its rider is well seen"
    )
    box = serializers.ListField(
        child=serializers.FloatField(), min_length=4, max_length=4, allow_null=True, default=None,
        help_text="and where then: left, top, right, bottom in pixels",
    )  # fmt: skip

    def get_fields(self) -> dict[str, Any]:
        fields = super().get_fields()
        if "request" in self.context:
            ids: Any = fields["rider"]
            ids.queryset = of_club(Rider.objects.all(), self.context["request"])
        return fields


class RowsSerializer(serializers.Serializer[Any]):
    goes = RowSerializer(many=True)
    version = serializers.IntegerField(help_text="of the table that was changed")


class SessionFilmViewSet(
    mixins.CreateModelMixin, mixins.ListModelMixin, mixins.UpdateModelMixin, mixins.DestroyModelMixin,
    viewsets.GenericViewSet[SessionFilm],
):  # fmt: skip
    helpers_may = ("create", "partial_update", "goes", "judge", "cancel", "retry")
    queryset = SessionFilm.objects.none()
    serializer_class = SessionFilmSerializer
    http_method_names = ["get", "post", "patch", "put", "delete", "head", "options"]

    def get_queryset(self) -> QuerySet[SessionFilm]:
        made = Q(goes__run__isnull=False)
        rows = SessionFilm.objects.select_related("film", "club").annotate(
            goes_found=Count("goes"), goes_judged=Count("goes", filter=made)
        )
        if asked_for(self.request, "for_good") and self.action == "destroy":
            return of_club(rows, self.request) | of_club(rows, self.request, removed=True)
        removed = self.action == "restore" or asked_for(self.request, "removed")
        return of_club(rows, self.request, removed=removed)

    def perform_create(self, serializer: Any) -> None:
        club = coach_of(self.request).club
        run = serializer.validated_data.pop("run", None)
        with transaction.atomic():
            film = Film.objects.create(club=club) if run is None else self._film_of(run)
            session = serializer.save(club=club, film=film)
            if run is not None:
                finding.enqueue(session)

    def _film_of(self, number: int) -> Film:
        run = get_object_or_404(of_club(Run.objects.all(), self.request), pk=number)
        clip = Clip.objects.select_for_update(of=("self",)).filter(run=run).first()
        if clip is None:
            raise Conflict("That run has no clip that could be cut.")
        film = sharing.as_film(clip)
        if hasattr(film, "session"):
            raise Conflict("This film is a session film already.")
        return film

    @extend_schema(parameters=[FOR_GOOD])
    def destroy(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        return super().destroy(request, *args, **kwargs)

    def perform_destroy(self, session: SessionFilm) -> None:
        if asked_for(self.request, "for_good"):
            removing.erase(session)
        else:
            removing.remove(session)

    @extend_schema(parameters=[REMOVED])
    def list(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        return super().list(request, *args, **kwargs)

    def _table(self, session: SessionFilm, code: int = 200) -> Response:
        goes = session.goes.select_related("run__result", "run__script")
        # The sheets and pictures of thirty runs are on no table.
        goes = goes.defer("run__result__sheet", "run__result__bench", "run__script__approved")
        session._prefetched_objects_cache = {"goes": goes}  # type: ignore[attr-defined]
        return Response(
            SessionTableSerializer(session, context=self.get_serializer_context()).data, status=code
        )

    @extend_schema(responses=SessionTableSerializer)
    def retrieve(self, request: Request, pk: str) -> Response:
        return self._table(self.get_object())

    @extend_schema(
        request=RowsSerializer,
        responses={200: SessionTableSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    @action(detail=True, methods=["put"])
    def goes(self, request: Request, pk: str) -> Response:
        """Put the table right as a whole: times, who, left out; joined, split, added and taken away."""
        session = self.get_object()
        given = RowsSerializer(data=request.data, context=self.get_serializer_context())
        given.is_valid(raise_exception=True)
        table.put_right(session, given.validated_data["goes"], given.validated_data["version"])
        return self._table(session)

    @extend_schema(request=None, responses={202: SessionTableSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def judge(self, request: Request, pk: str) -> Response:
        """Make a run of every go that has a rider, and judge it."""
        session = self.get_object()
        if not table.judge(session):
            raise Conflict("No go waits to be judged. Say who rides in one first.")
        return self._table(session, status.HTTP_202_ACCEPTED)

    @extend_schema(request=None, responses={200: SessionTableSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def cancel(self, request: Request, pk: str) -> Response:
        """Stop looking for goes; the film is kept."""
        session = self.get_object()
        if not session.busy:
            raise Conflict("There is nothing to cancel.")
        finding.cancel(session)
        return self._table(session)

    @extend_schema(request=None, responses={202: SessionTableSerializer, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def retry(self, request: Request, pk: str) -> Response:
        """Go on where it stopped."""
        session = self.get_object()
        if session.busy:
            raise Conflict("The film is being worked on already.")
        if not session.film.file:
            raise Conflict("The film is not here yet. Send it first.")
        finding.enqueue(session)
        return self._table(session, status.HTTP_202_ACCEPTED)

    @extend_schema(request=None, responses=SessionFilmSerializer)
    @action(detail=True, methods=["post"])
    def restore(self, request: Request, pk: str) -> Response:
        """Bring a removed session film back."""
        session = self.get_object()
        session.removed_at = None
        session.save(update_fields=["removed_at"])
        return Response(self.get_serializer(session).data)

    @extend_schema(responses={(200, "video/mp4"): OpenApiTypes.BINARY})
    @action(detail=True)
    def video(self, request: Request, pk: str) -> HttpResponseBase:
        """The copy that browsers play, with HTTP ranges."""
        f = self._copy(self.get_object())
        answer = send(request._request, f, "video/mp4")
        answer["Cache-Control"] = "private, max-age=86400, immutable"
        return answer

    @extend_schema(
        parameters=[
            OpenApiParameter("at", OpenApiTypes.FLOAT, description="seconds from the first frame"),
            OpenApiParameter(
                "box", OpenApiTypes.STR, description="left,top,right,bottom in pixels; else all"
            ),
        ],
        responses={(200, "image/jpeg"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    @action(detail=True)
    def picture(self, request: Request, pk: str) -> HttpResponseBase:
        """A small picture of the film, or of the rider in a box of it."""
        session = self.get_object()
        try:
            at = float(request.query_params.get("at", ""))
            box = [float(v) for v in filter(None, request.query_params.get("box", "").split(","))]
        except ValueError as e:
            raise InputError("these are no numbers", "at and box", "give at=1.5") from e
        if not 0 <= at <= session.length_s or len(box) not in (0, 4) or not np.isfinite(box).all():
            raise NotFound("The film has no such picture.")
        with on_disk(self._copy(session)) as path:
            whole = still(path, at)
        answer = FileResponse(
            io.BytesIO(_small(whole, box, session.play_height / max(session.height, 1))),
            content_type="image/jpeg",
        )
        answer["Cache-Control"] = "private, max-age=86400, immutable"
        return answer

    def _copy(self, session: SessionFilm) -> Any:
        if not session.working:
            raise NotFound("There is nothing to show of this film yet.")
        return session.working


def _small(whole: Any, box: list[float], scale: float) -> bytes:
    h, w = whole.shape[:2]
    part = whole
    if box:
        x0, y0, x1, y1 = (v * scale for v in box)
        half = min(max((0.5 + AROUND) * max(y1 - y0, x1 - x0), 8.0), h / 2, w / 2)
        x = min(max((x0 + x1) / 2, half), w - half)
        y = min(max((y0 + y1) / 2, half), h - half)
        part = whole[int(y - half) : int(y + half), int(x - half) : int(x + half)]
    across = max(1, round(PICTURE_PX * part.shape[1] / part.shape[0]))
    small = cv2.resize(part, (across, PICTURE_PX), interpolation=cv2.INTER_AREA)
    return bytes(cv2.imencode(".jpg", small[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 80])[1])
