"""Riders of the coach's club."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.http import FileResponse
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_view
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.web.clips.removing import erase_rider, remove
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.models import Place
from proklisis.web.clubs.places import WeekField
from proklisis.web.plain import FOR_GOOD, REMOVED, asked_for, check_text, whole
from proklisis.web.riders.agreeing import note
from proklisis.web.riders.ending import end
from proklisis.web.riders.keeping import as_file
from proklisis.web.riders.models import Agreed, Consent, Rider
from proklisis.web.riders.naming import Named, who
from proklisis.web.runs.models import Run
from proklisis.web.runs.usual import usual
from proklisis.web.runs.writing import changed

#: What goes with a rider, as it is told.
CALLED = {
    "runs.Run": "runs", "runs.Clip": "clips", "runs.TrackSet": "sets of tracks", "runs.Result": "verdicts", "runs.Crop": "pictures of frames",
    "scripts.Script": "Scripts", "scripts.Picture": "pictures in Scripts", "scripts.Share": "links", "runs.ToldFilm": "told films",
    "runs.Recording": "recordings", "references.Reference": "references", "intake.Sender": "pages to send by", "riders.Consent": "words on consent",
    "riders.RiderAccount": "log-ins", "reckoner.KeptReckoning": "reckonings",
}  # fmt: skip
#: Files of one card.
MOST_FILES = 500


class ConsentSerializer(serializers.ModelSerializer[Consent]):
    by = serializers.SerializerMethodField()

    class Meta:
        model = Consent
        fields = ["kind", "given", "person", "by", "at"]

    def get_by(self, row: Consent) -> str:
        if row.by is not None:
            return row.by.get_username()
        # What somebody agreed to by a link of their own was noted by no coach.
        return "the link they sent by" if row.text else "somebody who has left"


class RiderSerializer(serializers.ModelSerializer[Rider]):
    runs = serializers.IntegerField(read_only=True, source="run_count", default=0)
    consents = ConsentSerializer(many=True, read_only=True)
    free = WeekField(min_length=7, max_length=7, allow_null=True, required=False)

    class Meta:
        model = Rider
        fields = [
            "id", "name", "number", "colours", "level", "born", "height_cm", "stance", "guardian_consent", "agreed", "consents", "removed_at", "runs", "schools",
            "free", "practises_at", "asked_to_erase",
        ]  # fmt: skip
        read_only_fields = ["removed_at", "schools", "agreed", "asked_to_erase"]

    def validate_practises_at(self, value: Place | None) -> Place | None:
        if value is not None and value.club_id != coach_of(self.context["request"]).club_id:
            raise serializers.ValidationError("There is no such place.")
        return value

    def validate_number(self, value: int | None) -> int | None:
        same = of_club(Rider.objects.filter(number=value), self.context["request"])
        if self.instance:
            same = same.exclude(pk=self.instance.pk)
        if value is not None and (other := same.first()):
            raise serializers.ValidationError(f"Number {value} is {other.name}'s; give another.")
        return value


class AgreedSerializer(serializers.Serializer[Any]):
    """A word on one kind of consent."""

    kind = serializers.ChoiceField(Agreed.choices)
    given = serializers.BooleanField()
    person = serializers.CharField(
        max_length=120, help_text="who said so: the rider, or a guardian, and how"
    )


class FilesSerializer(serializers.Serializer[Any]):
    files = serializers.ListField(
        child=serializers.CharField(max_length=255, trim_whitespace=False), max_length=MOST_FILES
    )


class NamedSerializer(serializers.Serializer[Any]):
    rider = serializers.IntegerField(allow_null=True, help_text="null where nobody or several fit")
    by = serializers.CharField(allow_blank=True, help_text="what told it")


class UsualSerializer(serializers.Serializer[Any]):
    """Guesses for a new run; ``as_on`` is null where the rider has had none."""

    discipline = serializers.CharField()
    level = serializers.CharField()
    conditions = serializers.DictField()
    gear = serializers.DictField()
    title = serializers.CharField(allow_blank=True)
    intention_text = serializers.CharField(allow_blank=True)
    intention_faults = serializers.ListField(child=serializers.CharField())
    as_on = serializers.DateTimeField(allow_null=True)


class RemovedSerializer(serializers.Serializer[Any]):
    what = serializers.CharField()
    n = serializers.IntegerField()


class ErasedSerializer(serializers.Serializer[Any]):
    """What was erased with a rider."""

    removed = RemovedSerializer(many=True)


@extend_schema_view(
    list=extend_schema(
        parameters=[
            REMOVED,
            OpenApiParameter("find", OpenApiTypes.STR, description="part of a name, or a number"),
        ]
    ),
    destroy=extend_schema(parameters=[FOR_GOOD], responses={200: ErasedSerializer, 204: None}),
)
class RiderViewSet(viewsets.ModelViewSet[Rider]):
    helpers_may = ("create", "named")
    not_for_helpers = ("export",)
    queryset = Rider.objects.none()
    serializer_class = RiderSerializer

    def get_queryset(self) -> QuerySet[Rider]:
        there = Count("runs", filter=Q(runs__removed_at=None, runs__part_of=None))
        riders = (
            Rider.objects.annotate(run_count=there)
            .prefetch_related("consents__by")
            .order_by("name", "id")
        )
        if asked_for(self.request, "for_good") and self.action == "destroy":
            return of_club(riders, self.request) | of_club(riders, self.request, removed=True)
        riders = of_club(
            riders,
            self.request,
            removed=self.action == "restore" or asked_for(self.request, "removed"),
        )
        if find := self.request.query_params.get("find", "").strip():
            check_text(find)
            number = whole(find)
            named = Q(name__icontains=find)
            riders = riders.filter(
                named | Q(number=number) if number is not None and number < 10**4 else named
            )
        return riders

    def perform_create(self, serializer: Any) -> None:
        rider = serializer.save(club=coach_of(self.request).club)
        if rider.guardian_consent:
            note(rider, Agreed.SHARE, True, self.request.user)

    def perform_update(self, serializer: Any) -> None:
        before = serializer.instance
        rests_on, consented = (before.stance, before.height_cm), before.guardian_consent
        with transaction.atomic():
            rider = serializer.save()
            if (rider.stance, rider.height_cm) != rests_on:
                # The numbers of their runs rest on it; each is worked out again when it is next looked at.
                changed(run__rider=rider)
            if rider.guardian_consent != consented:
                note(rider, Agreed.SHARE, rider.guardian_consent, self.request.user)
            # Somebody who turns out to be a minor has links that nobody agreed to.
            if not rider.may_be_shared(timezone.now().year):
                end(rider, self.request.user, Agreed.SHARE)

    def destroy(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        """Take a rider off the lists for a month; or, for good, erase everything of them and say what that was."""
        if not asked_for(request, "for_good"):
            return super().destroy(request, *args, **kwargs)
        rider = self.get_object()
        club, number = rider.club, rider.pk
        gone = erase_rider(rider)
        put_down(club, request.user, "erased for good", f"rider {number}")
        return Response(
            {"removed": [{"what": w, "n": gone[m]} for m, w in CALLED.items() if gone[m]]}
        )

    def perform_destroy(self, rider: Rider) -> None:
        with transaction.atomic():
            # What goes with the rider comes back with them: it has the same moment.
            rider.removed_at = timezone.now()
            rider.save(update_fields=["removed_at"])
            for run in Run.objects.filter(rider=rider, removed_at=None):
                remove(run, rider.removed_at)

    @extend_schema(
        request=FilesSerializer, responses={200: NamedSerializer(many=True)}, filters=False
    )
    @action(detail=False, methods=["post"], pagination_class=None)
    def named(self, request: Request) -> Response:
        """Who clips are of, by what their files are called."""
        given = FilesSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        rows = of_club(Rider.objects.all(), request).values_list("pk", "name", "number")
        riders = [Named(*row) for row in rows]
        found = [who(file, riders) for file in given.validated_data["files"]]
        return Response(
            [{"rider": g.rider, "by": g.by} if g else {"rider": None, "by": ""} for g in found]
        )

    @extend_schema(request=AgreedSerializer, responses=RiderSerializer)
    @action(detail=True, methods=["post"])
    def agreed(self, request: Request, pk: str) -> Response:
        """Note what a rider, or their guardian, agrees to or takes back; what rests on it ends at once."""
        rider = self.get_object()
        given = AgreedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        kind = Agreed(said["kind"])
        with transaction.atomic():
            note(rider, kind, said["given"], request.user, said["person"].strip())
            if not said["given"]:
                end(rider, request.user, kind)
        return Response(self.get_serializer(self.get_object()).data)

    @extend_schema(request=None, responses=RiderSerializer)
    @action(detail=True, methods=["post"])
    def restore(self, request: Request, pk: str) -> Response:
        """Bring a removed rider back, with the runs that went with them. A number that is another's by now is left out."""
        rider = self.get_object()
        with transaction.atomic():
            Run.objects.filter(rider=rider, removed_at=rider.removed_at).update(removed_at=None)
            rider.removed_at = None
            if of_club(Rider.objects.filter(number=rider.number), request).exists():
                rider.number = None
            rider.save(update_fields=["removed_at", "number"])
        return Response(self.get_serializer(rider).data)

    @extend_schema(responses=UsualSerializer)
    @action(detail=True)
    def usual(self, request: Request, pk: str) -> Response:
        """What a new run of this rider is guessed to be: as their last one was, else as the club's."""
        return Response(usual(self.get_object()))

    @extend_schema(responses={(200, "application/zip"): OpenApiTypes.BINARY})
    @action(detail=True)
    def export(self, request: Request, pk: str) -> FileResponse:
        """Everything that is kept of a rider, as a ZIP of JSON, clips and pictures."""
        rider = self.get_object()
        put_down(rider.club, request.user, "exported everything of", rider)
        return as_file(rider)
