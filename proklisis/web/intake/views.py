"""Links to send clips by, as coaches make them; and who sent what, until a coach says who it is."""

from __future__ import annotations

from datetime import timedelta
from difflib import SequenceMatcher
from typing import Any

from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.utils import timezone
from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import mixins, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.errors import InputError
from proklisis.core.review import playbook
from proklisis.web.clubs.access import coach_of, of_club
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.qr import picture_of
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.intake.looking import let_go, let_in, why_held
from proklisis.web.intake.models import Intake, Sender, Sent
from proklisis.web.riders.models import Rider
from proklisis.web.runs.serializers import RiderBriefSerializer

#: A link takes clips for no longer than this.
LONGEST = timedelta(days=366)
MOST_LINKS = 200
#: A rider whose name is this alike may be the sender (house choice).
ALIKE = 0.75


class IntakeSerializer(serializers.ModelSerializer[Intake]):
    rider_id = serializers.PrimaryKeyRelatedField(
        queryset=Rider.objects.none(),
        source="rider",
        write_only=True,
        required=False,
        allow_null=True,
    )
    rider = RiderBriefSerializer(read_only=True, allow_null=True)
    by = serializers.CharField(source="by.coach.name", read_only=True, default="")
    open = serializers.BooleanField(read_only=True)
    path = serializers.SerializerMethodField()
    senders = serializers.IntegerField(read_only=True, source="how_many", default=0)
    clips = serializers.IntegerField(read_only=True, source="taken", default=0)

    class Meta:
        model = Intake
        fields = [
            "id", "title", "discipline", "rider_id", "rider", "by", "made", "expires", "answer_by", "most_clips",
            "withdrawn", "open", "path", "senders", "clips",
        ]  # fmt: skip
        read_only_fields = ["made"]

    def get_fields(self) -> dict[str, Any]:
        fields = super().get_fields()
        if "request" in self.context:
            ids: Any = fields["rider_id"]
            ids.queryset = of_club(Rider.objects.all(), self.context["request"])
        return fields

    @extend_schema_field(serializers.CharField(help_text="of the page behind the link"))
    def get_path(self, row: Intake) -> str:
        return f"/send/{row.token}"

    def validate_discipline(self, value: str) -> str:
        try:
            book = playbook(value)
        except InputError as e:
            raise serializers.ValidationError(str(e)) from e
        if not book.from_tracks:
            raise serializers.ValidationError(f"Clips of {book.title.lower()} cannot be analysed yet.")  # fmt: skip
        return value

    def validate_expires(self, value: Any) -> Any:
        now = timezone.now()
        if not now < value <= now + LONGEST:
            raise serializers.ValidationError("Give a moment from now on, within a year.")
        return value


class SentInSerializer(serializers.ModelSerializer[Sent]):
    advice = serializers.ListField(child=serializers.CharField())

    class Meta:
        model = Sent
        fields = ["id", "name", "intention_text", "state", "problem", "advice", "at"]
        read_only_fields = fields


class HeldSerializer(serializers.ModelSerializer[Sender]):
    """A sender of whom no coach has said yet who it is."""

    title = serializers.CharField(source="intake.title")
    clips = serializers.SerializerMethodField()
    alike = serializers.SerializerMethodField()
    why = serializers.SerializerMethodField()

    class Meta:
        model = Sender
        fields = [
            "id", "name", "born", "level", "stance", "agreed", "guardian", "at", "title", "clips", "alike", "why",
        ]  # fmt: skip

    @extend_schema_field(serializers.CharField(help_text="why clips of a known sender wait"))
    def get_why(self, row: Sender) -> str:
        return why_held(row)

    @extend_schema_field(SentInSerializer(many=True))
    def get_clips(self, row: Sender) -> Any:
        return SentInSerializer(row.sent.all(), many=True).data

    @extend_schema_field(RiderBriefSerializer(many=True, help_text="who it may be, the likeliest first"))  # fmt: skip
    def get_alike(self, row: Sender) -> Any:
        if row.rider is not None:
            return RiderBriefSerializer([row.rider], many=True).data
        by_name = {r: likeness(r.name, row.name) for r in self.context["riders"]}
        near = sorted((r for r, x in by_name.items() if x >= ALIKE), key=lambda r: -by_name[r])
        return RiderBriefSerializer(near[:5], many=True).data


class PictureOfLinkSerializer(serializers.Serializer[Any]):
    image = serializers.CharField(help_text="a data: address of an SVG")


class LetInSerializer(serializers.Serializer[Any]):
    """Who a sender is: a rider of the club's, or somebody new."""

    rider = serializers.IntegerField(allow_null=True, help_text="null: a new rider, as they said")
    stance = serializers.ChoiceField(
        ["", "regular", "goofy"],
        default="",
        help_text="the foot in front, where sender and club differ",
    )


class LetInDoneSerializer(serializers.Serializer[Any]):
    rider = RiderBriefSerializer()
    runs = serializers.ListField(child=serializers.IntegerField())


class IntakeViewSet(viewsets.ModelViewSet[Intake]):
    """Links to send clips by. What one asks for stays as its senders read it; its end and the promised day may move."""

    queryset = Intake.objects.none()
    serializer_class = IntakeSerializer
    http_method_names = ["get", "post", "patch"]
    pagination_class = None

    def get_queryset(self) -> QuerySet[Intake]:
        rows = Intake.objects.select_related("rider", "by__coach")
        counted = rows.annotate(
            how_many=Count("senders", distinct=True),
            taken=Count(
                "senders__sent", filter=Q(senders__sent__state__in=("held", "in", "looking"))
            ),
        )
        return of_club(counted.order_by("-id"), self.request)

    def perform_create(self, serializer: Any) -> None:
        club = coach_of(self.request).club
        if club.intakes.filter(withdrawn=False, expires__gt=timezone.now()).count() >= MOST_LINKS:
            raise Conflict(f"{MOST_LINKS} links take clips already. Withdraw one first.")
        serializer.save(club=club, by=self.request.user)

    def perform_update(self, serializer: Any) -> None:
        given, was = serializer.validated_data, serializer.instance
        changed = {k for k, v in given.items() if v != getattr(was, k)}
        if changed & {"discipline", "rider"} and was.senders.exists():
            raise Conflict("Clips were sent by this link already. Make another for another discipline or rider.")  # fmt: skip
        serializer.save()

    @extend_schema(responses=PictureOfLinkSerializer)
    @action(detail=True)
    def picture(self, request: Request, pk: str) -> Response:
        """The link as a picture that a phone reads off a screen or a sheet of paper."""
        address = request.build_absolute_uri(f"/send/{self.get_object().token}")
        return Response({"image": picture_of(address)})


class SenderViewSet(mixins.ListModelMixin, viewsets.GenericViewSet[Sender]):
    """Whose clips wait for a coach: who is not known yet, or differs from what the club knows."""

    queryset = Sender.objects.none()
    serializer_class = HeldSerializer

    def get_queryset(self) -> QuerySet[Sender]:
        rows = Sender.objects.select_related("intake__club", "rider").prefetch_related("sent")
        held = rows.filter(sent__state=Sent.State.HELD) | rows.filter(
            rider=None, sent__state=Sent.State.LOOKING
        )
        club = coach_of(self.request).club_id
        return held.filter(intake__club=club).distinct().order_by("id")

    def get_serializer_context(self) -> dict[str, Any]:
        riders = of_club(Rider.objects.all(), self.request) if self.action == "list" else []
        return {**super().get_serializer_context(), "riders": list(riders)}

    @extend_schema(
        request=LetInSerializer,
        responses={
            200: LetInDoneSerializer,
            400: ProblemSerializer,
            404: ProblemSerializer,
            409: ProblemSerializer,
        },
    )
    @action(detail=True, methods=["post"])
    def let_in(self, request: Request, pk: str) -> Response:
        """Say who it is; the clips become runs of theirs, now and when more come."""
        given = LetInSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        sender, number = self.get_object(), given.validated_data["rider"]
        with transaction.atomic():
            if number is None:
                rider = Rider.objects.create(
                    club=sender.intake.club, name=sender.name, born=sender.born, level=sender.level, stance=sender.stance
                )  # fmt: skip
            else:
                found = of_club(Rider.objects.all(), request).filter(pk=number).first()
                if found is None:
                    raise InputError("there is no such rider", "rider", "choose one of the club's")
                rider = found
            runs = let_in(sender, rider, request.user, given.validated_data["stance"])
        return Response({"rider": RiderBriefSerializer(rider).data, "runs": [r.pk for r in runs]})

    @extend_schema(request=None, responses={204: None, 404: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def turn_away(self, request: Request, pk: str) -> Response:
        """Take none of this sender's clips: they are let go, and the sender's page says so."""
        sender = self.get_object()
        for sent in sender.sent.exclude(state=Sent.State.IN):
            let_go(sent)
        sender.sent.exclude(state=Sent.State.IN).update(
            state=Sent.State.REFUSED, problem="The club did not take this clip. Talk to a coach."
        )
        put_down(sender.intake.club, request.user, "took no clips of", f"sender {sender.pk}")
        return Response(status=204)


def likeness(a: str, b: str) -> float:
    """How alike two names are, 0 … 1, whatever the order of their words."""
    one, other = (" ".join(sorted(x.casefold().split())) for x in (a, b))
    return SequenceMatcher(None, one, other).ratio()
