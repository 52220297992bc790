"""The Script of a run for its coach, and the shared page for whoever holds a link."""

from __future__ import annotations

from base64 import b64encode
from typing import Annotated, Any

from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import Field, TypeAdapter, ValidationError
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.imperial import in_feet
from proklisis.core.playbook.check import first_problem
from proklisis.core.shapes.prescription import Prescription
from proklisis.core.shapes.telling import Mark
from proklisis.web.analysis.reviewing import up_to_date
from proklisis.web.analysis.said import check_said
from proklisis.web.clubs.access import coach_of, in_feet_for, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import whole
from proklisis.web.runs.models import Edit, Run
from proklisis.web.runs.writing import judged_anew, nothing_changed, one_writer, put_down
from proklisis.web.scripts.approving import approve, reopen
from proklisis.web.scripts.composing import composed, script_of
from proklisis.web.scripts.models import Mail, Script, Share
from proklisis.web.scripts.pictures import chosen_pictures, jpeg, moments
from proklisis.web.scripts.shared import (
    LineSerializer,
    PictureSerializer,
    SentFilmSerializer,
    TickSerializer,
    film_of,
    lines_of,
    pictures_of,
    script_in_feet,
    ticks_of,
)
from proklisis.web.shape import Shape

UNAPPROVED = "Approve the Script first. Nothing leaves unapproved."
MOST_CHOSEN = 8
_MARKS = TypeAdapter(Annotated[list[Mark], Field(max_length=60)])


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


def checked_marks(given: Any) -> list[Mark]:
    """Shapes on a picture; InputError for what is none."""
    try:
        return _MARKS.validate_python(given)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"marks: {path}", "draw it again") from e


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
    was = serializers.DictField(
        required=False,
        help_text="cue, message or retest_on that this change started from; where they are others by now it is refused",
    )

    def validate_dropped(self, value: dict[str, str | None]) -> dict[str, str | None]:
        for reason in value.values():
            if reason is not None and not reason.strip():
                raise serializers.ValidationError("Give a reason for each finding you drop.")
        return value


def _texts(shown: dict[str, Any]) -> dict[str, Any]:
    """What of a Script is written in words, as its page shows it."""
    main = shown["prescription"]["main"]
    return {
        "cue": main["cue"] if main else "",
        "message": shown["message"],
        "retest_on": shown["retest_on"],
    }


def live(script: Script) -> Share | None:
    """The link that works, if there is one."""
    return script.shares.filter(withdrawn=False, expires__gt=timezone.now()).last()


class ScriptView(APIView):
    """Everything under ``/runs/{run}/script`` works on this run's Script."""

    def measured(self, request: Request, run: int) -> tuple[Run, Script]:
        found = get_object_or_404(
            of_club(Run.objects.select_related("rider", "clip", "result"), request), pk=run
        )
        if found.part_of_id is not None:
            raise Conflict(
                f"This is another clip of run {found.part_of_id}; the Script is written there."
            )
        if not hasattr(found, "result"):
            raise Conflict("This run is not measured yet. Wait until its analysis is done.")
        up_to_date(found)
        return found, script_of(found)

    def approved(self, request: Request, run: int) -> Script:
        """The run's Script; Conflict before it is approved."""
        _, script = self.measured(request, run)
        if not script.approved_at:
            raise Conflict(UNAPPROVED)
        return script

    def answer(self, run: Run, script: Script) -> Response:
        body: dict[str, Any] = (
            script.approved or {} if script.approved_at else composed(run, script)
        )
        pictures = pictures_of(script, f"/api/runs/{run.pk}/script/pictures")
        if in_feet_for(self.request):
            body, pictures = script_in_feet(body), in_feet(pictures, frozenset({"url"}))
        share = live(script)
        return Response(
            {
                **body,
                "approved_at": script.approved_at,
                "stale": bool(script.approved_at and script.judged_at != run.result.made),
                "trouble": "" if script.approved_at else run.result.trouble,
                "with_telling": script.with_telling,
                "with_offered": script.with_offered,
                "version": script.version,
                "film": film_of(script),
                "ticks": ticks_of(script),
                "lines": lines_of(script),
                "mails": MailSerializer(script.mails.all(), many=True).data,
                "pictures": pictures,
                "share": ShareSerializer(share).data if share else None,
                "rider": WhoSerializer(run.rider).data,
                "may_share": run.rider.may_be_shared(timezone.now().year),
            }
        )

    @extend_schema(responses={200: ScriptSerializer, 409: ProblemSerializer})
    def get(self, request: Request, run: int) -> Response:
        return self.answer(*self.measured(request, run))

    @extend_schema(
        request=ScriptChangeSerializer,
        responses={200: ScriptSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def patch(self, request: Request, run: int) -> Response:
        given = ScriptChangeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, _ = self.measured(request, run)
        with one_writer(found):
            # One writer at a time, and nobody writes what they did not change.
            script = Script.objects.select_for_update().get(run=found)
            if script.approved_at:
                raise Conflict("This Script is approved. Reopen it to change it.")
            wanted = dict(given.validated_data)
            shown = composed(found, script)
            nothing_changed(wanted.pop("was", None), _texts(shown), dict(request.data))
            said = self._said(wanted.pop("cue", None), wanted.pop("dropped", {}), shown)
            for kind, values in said:
                check_said(found, kind, values)
                put_down(found, coach_of(request).user, kind, values)
            if said:
                judged_anew(run=found)
            for key, value in wanted.items():
                setattr(script, key, value)
            script.save(update_fields=list(wanted))
        if said:
            found.refresh_from_db()
            up_to_date(found)
        return self.answer(found, script)

    @staticmethod
    def _said(
        cue: str | None, dropped: dict[str, str | None], shown: dict[str, Any]
    ) -> list[tuple[str, dict[str, Any]]]:
        """The coach's word as the corrections it is kept as."""
        main = shown["prescription"]["main"]
        out: list[tuple[str, dict[str, Any]]] = []
        if cue is not None and main:
            out.append((Edit.Kind.CUE, {"fault": main["fault"], "cue": cue}))
        for reason in dict.fromkeys(dropped.values()):
            faults = [i for i, r in dropped.items() if r == reason]
            out.append((Edit.Kind.DROP, {"faults": faults, "reason": reason or ""}))
        return out


class OfferedView(ScriptView):
    http_method_names = ["get"]

    @extend_schema(operation_id="script_offered", responses={200: OfferedSerializer(many=True)})
    def get(self, request: Request, run: int) -> Response:
        """The pictures that an approval would keep, as the Script stands now."""
        found, script = self.measured(request, run)
        prescription = composed(found, script)["prescription"]
        chosen = chosen_pictures(found, script.chosen)
        offered = moments(found, prescription["main"], prescription["findings"])
        return Response(
            [
                {
                    "chosen": k < len(chosen),
                    "caption": caption,
                    "image": f"data:image/jpeg;base64,{b64encode(jpeg(picture)).decode()}",
                }
                for k, (picture, caption) in enumerate([*chosen, *offered])
            ]
        )


class ChosenView(ScriptView):
    """Pictures that the coach chooses, while the Script is written."""

    http_method_names = ["post", "delete"]

    @extend_schema(
        operation_id="script_choose_picture",
        request=ChosenSerializer,
        responses={200: ScriptSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Have a frame go with the Script, with what is drawn on it."""
        given = ChosenSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, _ = self.measured(request, run)
        marks = checked_marks(given.validated_data["marks"])
        with one_writer(found):
            script = self._open(found)
            if len(script.chosen) >= MOST_CHOSEN:
                raise Conflict(f"{MOST_CHOSEN} pictures are chosen already. Take one out first.")
            script.chosen = [*script.chosen, {**given.validated_data, "marks": marks}]
            script.save(update_fields=["chosen"])
        return self.answer(found, script)

    @extend_schema(
        operation_id="script_drop_picture",
        parameters=[OpenApiParameter("place", int, required=True, description="0 for the first")],
        responses={200: ScriptSerializer, 409: ProblemSerializer},
    )
    def delete(self, request: Request, run: int) -> Response:
        """Take a chosen picture out again."""
        found, _ = self.measured(request, run)
        place = whole(request.query_params.get("place"))
        with one_writer(found):
            script = self._open(found)
            script.chosen = [c for k, c in enumerate(script.chosen) if k != place]
            script.save(update_fields=["chosen"])
        return self.answer(found, script)

    @staticmethod
    def _open(run: Run) -> Script:
        script = Script.objects.select_for_update().get(run=run)
        if script.approved_at:
            raise Conflict("This Script is approved. Reopen it to change it.")
        return script


class ApproveView(ScriptView):
    http_method_names = ["post", "delete"]

    @extend_schema(
        operation_id="script_approve",
        request=None,
        responses={200: ScriptSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Approve the Script as it stands and make its pictures."""
        found, script = self.measured(request, run)
        script = approve(found, script, coach_of(request).user)
        return self.answer(found, script)

    @extend_schema(operation_id="script_reopen", responses={200: ScriptSerializer})
    def delete(self, request: Request, run: int) -> Response:
        """Take the approval back; links to it stop working."""
        found, script = self.measured(request, run)
        reopen(found, script)
        return self.answer(found, script)
