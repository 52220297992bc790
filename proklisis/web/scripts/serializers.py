"""What a Script says to its coach, and what of it may be changed."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from proklisis.core.shapes.prescription import Prescription
from proklisis.web.scripts.models import Mail, Share
from proklisis.web.scripts.shared import (
    ClipBackSerializer,
    LessonRefSerializer,
    LineSerializer,
    PictureSerializer,
    SentFilmSerializer,
    TickSerializer,
)
from proklisis.web.shape import Shape


class ShareSerializer(serializers.ModelSerializer[Share]):
    path = serializers.SerializerMethodField()

    class Meta:
        model = Share
        fields = ["token", "path", "made", "expires", "seen", "seen_at"]

    def get_path(self, share: Share) -> str:
        return f"/s/{share.token}"


class OfferedSerializer(serializers.Serializer[Any]):
    """A picture that is not kept yet."""

    chosen = serializers.BooleanField(help_text="by the coach, not offered")
    caption = serializers.CharField()
    image = serializers.CharField(help_text="a data: address of a JPEG")


class ChosenSerializer(serializers.Serializer[Any]):
    """A frame that the coach wants the rider to see."""

    frame = serializers.IntegerField(min_value=0, max_value=2_000_000)
    marks = serializers.JSONField(help_text="shapes on it, as a laid out Telling has them")
    caption = serializers.CharField(max_length=200, allow_blank=True)
    close = serializers.BooleanField(default=True, help_text="cut to the rider")


class MailSerializer(serializers.ModelSerializer[Mail]):
    class Meta:
        model = Mail
        fields = ["to", "subject", "text", "at", "left"]


class WhoSerializer(serializers.Serializer[Any]):
    """Whom the Script is for, as far as sharing rests on it."""

    id = serializers.IntegerField()
    name = serializers.CharField()
    born = serializers.IntegerField(allow_null=True)
    guardian_consent = serializers.BooleanField()


class ScriptSerializer(serializers.Serializer[Any]):
    prescription = Shape(Prescription)
    nothing_words = serializers.CharField(help_text="what to say where nothing is the main thing")
    titles = serializers.DictField(child=serializers.CharField())
    noted_words = serializers.ListField(
        child=serializers.CharField(), help_text="what the coach wrote beside moments of the run"
    )
    targets = serializers.ListField(
        child=serializers.CharField(), help_text="what the next clip is held against"
    )
    evidence_words = serializers.DictField(
        child=serializers.ListField(child=serializers.CharField())
    )
    message = serializers.CharField()
    dropped = serializers.DictField(child=serializers.CharField())
    retest_on = serializers.DateField()
    approved_at = serializers.DateTimeField(allow_null=True)
    trouble = serializers.CharField(
        help_text="why the run could not be worked out as it stands; this is from before. May be empty"
    )
    stale = serializers.BooleanField(help_text="the numbers changed after it was approved")
    pictures = PictureSerializer(many=True)
    others = serializers.ListField(
        child=serializers.CharField(),
        help_text="faults whose cues go with it beside the main thing, in order",
    )
    lessons = LessonRefSerializer(many=True, help_text="lesson sheets that go with it")
    begins = serializers.DictField(
        child=serializers.IntegerField(),
        help_text="drill → the step that its ladder begins with, from 0",
    )
    stepped = serializers.CharField(help_text="why the ladder begins there; may be empty")
    closing = serializers.ListField(
        child=serializers.CharField(), help_text="the club's texts at the end of every Script"
    )
    clips_back = ClipBackSerializer(many=True, help_text="clips that the rider sent back")
    with_telling = serializers.BooleanField(help_text="the Telling goes with it as a film")
    with_offered = serializers.BooleanField(help_text="the offered pictures go with it too")
    version = serializers.IntegerField(help_text="how often it was approved")
    film = SentFilmSerializer(allow_null=True, help_text="the Telling that goes with it")
    ticks = TickSerializer(many=True, help_text="what the rider has done of the ladder")
    lines = LineSerializer(many=True, help_text="what the rider wrote back")
    mails = MailSerializer(many=True, help_text="what was sent by mail")
    share = ShareSerializer(allow_null=True)
    rider = WhoSerializer()
    may_share = serializers.BooleanField(
        help_text="false where the rider may be a minor and nobody has noted a guardian's consent"
    )


class ScriptChangeSerializer(serializers.Serializer[Any]):
    cue = serializers.CharField(max_length=400, required=False)
    message = serializers.CharField(max_length=2000, required=False, allow_blank=True)
    dropped = serializers.DictField(
        child=serializers.CharField(max_length=300, allow_null=True),
        required=False,
        help_text="fault → reason for those that are dropped now, or null for those taken back; all others stay as they are",
    )
    retest_on = serializers.DateField(required=False)
    with_telling = serializers.BooleanField(required=False)
    with_offered = serializers.BooleanField(required=False)
    others = serializers.ListField(
        child=serializers.CharField(max_length=60), required=False, max_length=2,
        help_text="faults whose cues go with it beside the main thing, in order",
    )  # fmt: skip
    lessons = serializers.ListField(
        child=serializers.CharField(max_length=60), required=False, max_length=6,
        help_text="faults whose lesson sheets go with it",
    )  # fmt: skip
    begins = serializers.DictField(
        child=serializers.IntegerField(min_value=0, max_value=100), required=False,
        help_text="drill → the step to begin with; others stay as they are",
    )  # fmt: skip
    add_text = serializers.CharField(
        max_length=1000, required=False, help_text="put after the message, unless it is there; {rider}, {coach}, {club} and {day} are filled in"
    )  # fmt: skip
    was = serializers.DictField(
        required=False,
        help_text="cue, message or retest_on that this change started from; where they are others by now it is refused",
    )

    def validate_dropped(self, value: dict[str, str | None]) -> dict[str, str | None]:
        for reason in value.values():
            if reason is not None and not reason.strip():
                raise serializers.ValidationError("Give a reason for each finding you drop.")
        return value


class ApprovalSerializer(serializers.Serializer[Any]):
    was = serializers.DictField(
        required=False, help_text="cue, message, retest_on, others and lessons as the approving coach has read them"
    )  # fmt: skip
