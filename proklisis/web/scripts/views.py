"""The Script of a run for its coach, and the shared page for whoever holds a link."""

from __future__ import annotations

from base64 import b64encode
from typing import Annotated, Any

from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import Field, TypeAdapter, ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.imperial import in_feet
from proklisis.core.playbook.check import first_problem, nearest
from proklisis.core.review import playbook
from proklisis.core.shapes.telling import Mark
from proklisis.web.analysis.reviewing import up_to_date
from proklisis.web.analysis.said import check_said
from proklisis.web.clubs.access import coach_of, in_feet_for, of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import whole
from proklisis.web.runs.models import Edit, Run
from proklisis.web.runs.writing import judged_anew, nothing_changed, one_writer, put_down
from proklisis.web.scripts.approving import approve, reopen
from proklisis.web.scripts.composing import composed, filled, script_of, texts_of
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.pictures import chosen_pictures, jpeg, moments
from proklisis.web.scripts.serializers import (
    ApprovalSerializer,
    ChosenSerializer,
    MailSerializer,
    OfferedSerializer,
    ScriptChangeSerializer,
    ScriptSerializer,
    ShareSerializer,
    WhoSerializer,
)
from proklisis.web.scripts.shared import (
    clips_back_of,
    film_of,
    lines_of,
    live,
    pictures_of,
    script_in_feet,
    ticks_of,
)

UNAPPROVED = "Approve the Script first. Nothing leaves unapproved."
MOST_CHOSEN = 8
#: Characters of a message.
MOST_MESSAGE = 2000
_MARKS = TypeAdapter(Annotated[list[Mark], Field(max_length=60)])


def checked_marks(given: Any) -> list[Mark]:
    """Shapes on a picture; InputError for what is none."""
    try:
        return _MARKS.validate_python(given)
    except ValidationError as e:
        path, words = first_problem(e)
        raise InputError(words, f"marks: {path}", "draw it again") from e


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
        # What was approved before these were known had none of them.
        plain = {"others": [], "lessons": [], "begins": {}, "stepped": "", "closing": []}
        return Response(
            {
                **plain,
                **body,
                "clips_back": clips_back_of(script),
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
            nothing_changed(wanted.pop("was", None), texts_of(shown), dict(request.data))
            said = self._said(wanted.pop("cue", None), wanted.pop("dropped", {}), shown)
            self._check(found, wanted, shown)
            if added := wanted.pop("add_text", ""):
                wanted["message"] = self._longer(
                    wanted.get("message", script.message),
                    filled(added, found, coach_of(request).name),
                )
            if "begins" in wanted:
                wanted["begins"] = {**script.begins, **wanted["begins"]}
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
    def _check(run: Run, wanted: dict[str, Any], shown: dict[str, Any]) -> None:
        """Raise InputError for a fault or a drill that this Script cannot have."""
        prescription = shown["prescription"]
        main, faults = prescription["main"], playbook(run.discipline).faults
        given = {c["fault"] for c in prescription["cues"]} - {main["fault"] if main else ""}
        drills = {d["id"]: len(d["steps"]) for d in prescription["drills"]}
        for fault in wanted.get("others", []):
            if fault not in given:
                raise InputError(
                    f"{fault!r} has no cue on this run", "others", nearest(fault, given)
                )
        for fault in wanted.get("lessons", []):
            if fault not in faults:
                raise InputError(f"{fault!r} is not known here", "lessons", nearest(fault, faults))
        for drill, step in wanted.get("begins", {}).items():
            if step >= drills.get(drill, 0):
                raise InputError("there is no such step", f"begins.{drill}", nearest(drill, drills))

    @staticmethod
    def _longer(message: str, added: str) -> str:
        """A message with a text after it; as it was where the text is in it already."""
        if added in message:
            return message
        longer = f"{message.rstrip()}\n\n{added}".strip()
        if len(longer) > MOST_MESSAGE:
            raise InputError(
                "the message would be too long",
                "add_text",
                f"{MOST_MESSAGE} characters is the most",
            )
        return longer

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
                    "caption": x.caption,
                    "image": f"data:image/jpeg;base64,{b64encode(jpeg(x.picture)).decode()}",
                }
                for k, x in enumerate([*chosen, *offered])
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
        request=ApprovalSerializer,
        responses={200: ScriptSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request, run: int) -> Response:
        """Approve the Script as it stands and make its pictures; refused where it is not what the coach has read."""
        given = ApprovalSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found, script = self.measured(request, run)
        script = approve(found, script, coach_of(request).user, given.validated_data.get("was"))
        return self.answer(found, script)

    @extend_schema(operation_id="script_reopen", responses={200: ScriptSerializer})
    def delete(self, request: Request, run: int) -> Response:
        """Take the approval back; links to it stop working."""
        found, script = self.measured(request, run)
        reopen(found, script)
        return self.answer(found, script)
