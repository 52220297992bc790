"""What whoever holds a link to send clips by may see and say, and a sender's own page."""

from __future__ import annotations

import json
from typing import Any

from django.db import transaction
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.review import playbook
from proklisis.web.bench.disciplines import ConditionSerializer, conditions_of
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.intake import words
from proklisis.web.intake.looking import note_consent, take_back
from proklisis.web.intake.models import Intake, Sender, Sent
from proklisis.web.riders.models import LEVELS, Rider
from proklisis.web.runs.serializers import conditions_said
from proklisis.web.scripts.shared import link_to_answer

#: So many may send by one link.
MOST_SENDERS = 500
ENDED = "This link does not take clips any more. Ask your coach for a new one."
NO_PAGE = "This page is not here any more. Ask your coach for a new link."


class AskedSerializer(serializers.Serializer[Any]):
    """What a link asks for."""

    title = serializers.CharField()
    club = serializers.CharField()
    coach = serializers.CharField(allow_blank=True)
    discipline = serializers.CharField(help_text="in words")
    asks_front_foot = serializers.BooleanField()
    rider = serializers.CharField(allow_blank=True, help_text="of a link for one rider alone")
    expires = serializers.DateTimeField()
    answer_by = serializers.DateField(allow_null=True)
    most_clips = serializers.IntegerField()
    agree = serializers.CharField(help_text="what is agreed to")
    guardian = serializers.CharField(help_text="what a guardian says besides")
    adult_born = serializers.IntegerField(
        help_text="who is born after may be a minor: a guardian agrees for them"
    )


class SenderSerializer(serializers.Serializer[Any]):
    """Who sends, as they say it."""

    name = serializers.CharField(max_length=120)
    born = serializers.IntegerField(min_value=1910, max_value=2100)
    level = serializers.ChoiceField(LEVELS)
    stance = serializers.ChoiceField(["", "regular", "goofy"], required=False, default="")
    agrees = serializers.BooleanField()
    guardian = serializers.CharField(
        max_length=120, required=False, allow_blank=True, default="",
        help_text="name of the guardian who agrees for a minor",
    )  # fmt: skip

    def validate_agrees(self, value: bool) -> bool:
        if not value:
            raise serializers.ValidationError("Without this the clip may not be looked at.")
        return value

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        if Rider(born=data["born"]).maybe_minor(timezone.now().year) and not data["guardian"]:
            raise serializers.ValidationError({"guardian": "A guardian has to agree: ask one of yours to write their name."})  # fmt: skip
        return data


class TokenSerializer(serializers.Serializer[Any]):
    token = serializers.CharField(help_text="of the sender's own page")


class SentSerializer(serializers.ModelSerializer[Sent]):
    """A clip as its sender sees it."""

    advice = serializers.ListField(child=serializers.CharField())
    answer = serializers.SerializerMethodField()

    class Meta:
        model = Sent
        fields = ["id", "name", "intention_text", "state", "problem", "advice", "at", "answer"]
        read_only_fields = fields

    def get_answer(self, sent: Sent) -> str | None:
        """Address of the answer's page; None while there is none."""
        return link_to_answer(sent.run) if sent.run is not None else None


class SendersPageSerializer(AskedSerializer):
    name = serializers.CharField()
    open = serializers.BooleanField(help_text="clips are taken still")
    known = serializers.BooleanField(help_text="a coach has said who it is")
    conditions = serializers.DictField(child=ConditionSerializer())
    clips = SentSerializer(many=True)


class ForLink(APIView):
    """Open to whoever holds the link, and to nobody else."""

    authentication_classes = []
    permission_classes = [AllowAny]
    throttle_classes = [ScopedRateThrottle]
    throttle_scope = "shared"


class IntakeLinkView(ForLink):
    def get_throttles(self) -> Any:
        self.throttle_scope = "senders" if self.request.method == "POST" else "shared"
        return super().get_throttles()

    @extend_schema(operation_id="asked", responses={200: AskedSerializer, 404: ProblemSerializer})
    def get(self, request: Request, token: str) -> Response:
        """What a link asks for."""
        return Response(asked(_open(token)))

    @extend_schema(
        operation_id="begin_sending", request=SenderSerializer,
        responses={201: TokenSerializer, 400: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, token: str) -> Response:
        """Say who one is; the answer opens one's own page."""
        given = SenderSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said, found = given.validated_data, _open(token)
        if found.senders.count() >= MOST_SENDERS:
            raise Conflict("More people have sent by this link than it takes. Ask your coach for another.")  # fmt: skip
        guardian = said["guardian"]
        sender = found.senders.create(
            name=said["name"], born=said["born"], level=said["level"], stance=said["stance"],
            agreed=guardian or said["name"], guardian=bool(guardian), text=words.VERSION, rider=found.rider,
        )  # fmt: skip
        if found.rider is not None:
            note_consent(sender, found.rider, None)
        return Response({"token": sender.token}, status=201)


class SendersPageView(ForLink):
    @extend_schema(
        operation_id="senders_page", responses={200: SendersPageSerializer, 404: ProblemSerializer}
    )
    def get(self, request: Request, token: str) -> Response:
        """What became of what one sent."""
        sender = sender_of(token)
        page = {
            **asked(sender.intake), "name": sender.name, "open": sender.intake.open, "known": sender.rider_id is not None,
            "conditions": conditions_of(playbook(sender.intake.discipline)),
            "clips": SentSerializer(sender.sent.select_related("run__script", "run__rider"), many=True).data,
        }  # fmt: skip
        return Response(page)


class SentView(ForLink):
    @extend_schema(operation_id="take_back", responses={204: None, 404: ProblemSerializer, 409: ProblemSerializer})  # fmt: skip
    def delete(self, request: Request, token: str, sent: int) -> Response:
        """Take a clip back: it is erased, with all that was measured on it."""
        found = sender_of(token).sent.select_related("film", "run").filter(pk=sent).first()
        if found is None:
            raise NotFound("This clip is not here any more.")
        if found.run is not None and hasattr(found.run, "script") and found.run.script.approved_at:
            raise Conflict("This clip is answered already. Ask your coach to erase it.")
        with transaction.atomic():
            take_back(found)
        return Response(status=204)


def asked(found: Intake) -> dict[str, Any]:
    """What a link asks for, in words."""
    book, by = playbook(found.discipline), found.by
    return {
        "title": found.title, "club": found.club.name, "coach": by.coach.name if by and hasattr(by, "coach") else "",
        "discipline": book.title, "asks_front_foot": book.front_foot is not None,
        "rider": found.rider.name if found.rider else "", "expires": found.expires, "answer_by": found.answer_by,
        "most_clips": found.most_clips, "agree": words.TEXT.format(club=found.club.name), "guardian": words.GUARDIAN,
        "adult_born": next(y for y in range(timezone.now().year, 1900, -1) if not Rider(born=y).maybe_minor(timezone.now().year)),
    }  # fmt: skip


def _open(token: str) -> Intake:
    found = Intake.objects.select_related("club", "by__coach", "rider").filter(token=token).first()
    if found is None or not found.open or (found.rider and found.rider.removed_at):
        raise NotFound(ENDED)
    return found


def sender_of(token: str) -> Sender:
    """Whose page a token opens; NotFound where it opens none."""
    rows = Sender.objects.select_related("intake__club", "intake__by__coach", "intake__rider", "rider")  # fmt: skip
    found = rows.filter(token=token).first()
    if found is None or (found.rider is not None and found.rider.removed_at is not None):
        raise NotFound(NO_PAGE)
    return found


def conditions_in(text: str, found: Intake) -> dict[str, Any]:
    """Conditions as a sender's page sends them with a clip: JSON of what was filled in."""
    try:
        given = json.loads(text or "{}")
    except ValueError as e:
        raise InputError("these conditions cannot be read", "conditions", "load the page again") from e  # fmt: skip
    if not isinstance(given, dict):
        raise InputError("these conditions cannot be read", "conditions", "load the page again")
    return conditions_said(given, playbook(found.discipline))
