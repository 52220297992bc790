"""What failed and nobody expected, for a club's owners: with the reason, to be tried again or put aside."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema
from procrastinate.contrib.django.models import ProcrastinateJob
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.web.analysis.tasks import FILMS
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.goes.finding import enqueue as find_again
from proklisis.web.goes.models import SessionFilm
from proklisis.web.runs.jobs import put
from proklisis.web.runs.models import MadeFilm, Run
from proklisis.web.runs.queueing import enqueue
from proklisis.web.watching.models import Failure

MOST = 200
#: What a task does, in words.
DOES = {
    "analyse": "looking at the clip of", "copy": "making the copy to step through of", "follow": "following the rider of",
    "join": "measuring", "carry": "carrying a marked point through", "measure": "measuring", "crop": "cutting pictures of",
    "pair_film": "making the film of a pair", "told_film": "making the film of a Telling", "find_goes": "finding the goes of",
    "film_is_here": "taking in a session film", "look_at_sent": "looking at a clip that was sent in",
    "make_eye_item": "making an exercise for the Eye",
}  # fmt: skip


class FailureSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    what = serializers.CharField()
    run = serializers.IntegerField(allow_null=True, help_text="the run it is about, if one")
    reason = serializers.CharField()
    place = serializers.CharField(help_text="file and line of the software, for whoever mends it")
    times = serializers.IntegerField()
    first = serializers.DateTimeField()
    last = serializers.DateTimeField()


class FailuresView(APIView):
    owners_only = True

    @extend_schema(responses={200: FailureSerializer(many=True)})
    def get(self, request: Request) -> Response:
        """What failed, the newest first."""
        rows = Failure.objects.filter(club=coach_of(request).club_id).order_by("-last", "-pk")[
            :MOST
        ]
        names = dict(
            Run.objects.filter(pk__in=[r.given["run_id"] for r in rows if "run_id" in r.given])
            .values_list("pk", "rider__name")
        )  # fmt: skip
        return Response(FailureSerializer([_told(r, names) for r in rows], many=True).data)


class FailureView(APIView):
    owners_only = True

    def find(self, request: Request, failure: int) -> Failure:
        row = Failure.objects.filter(club=coach_of(request).club_id, pk=failure).first()
        if row is None:
            raise NotFound("This is not there any more.")
        return row

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, failure: int) -> Response:
        """Try it again; if it fails again, it stands here again."""
        row = self.find(request, failure)
        with transaction.atomic():
            _again(row)
            row.delete()
        put_down(coach_of(request).club, request.user, "tried again", _told(row, {})["what"])
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, failure: int) -> Response:
        """Put it aside."""
        self.find(request, failure).delete()
        return Response(status=204)


def _told(row: Failure, names: dict[int, str]) -> dict[str, Any]:
    run = row.given.get("run_id")
    words = DOES.get(row.task, row.task.replace("_", " "))
    if words.endswith((" of", "measuring", "through")):
        words += f" run {run} of {names[run]}" if run in names else f" number {next(iter(row.given.values()), '')}".rstrip()  # fmt: skip
    told = {k: getattr(row, k) for k in ("id", "reason", "place", "times", "first", "last")}
    return {"what": words[0].upper() + words[1:], "run": run, **told}


def _again(row: Failure) -> None:
    """Put the work in anew, as whoever asks for it first would."""
    # What the queue keeps of it stands in nobody's way.
    ProcrastinateJob.objects.filter(
        status="failed", task_name=row.task, args__contains=row.given
    ).update(queueing_lock=None)
    if row.task in ("analyse", "copy", "follow", "join"):
        for run in Run.objects.filter(pk=row.given["run_id"], state=Run.State.FAILED):
            enqueue(run)
    elif row.task == "find_goes":
        for session in SessionFilm.objects.filter(
            pk=row.given["session_id"], state=SessionFilm.State.FAILED
        ):
            find_again(session)
    else:
        if row.task in FILMS:
            FILMS[row.task]._default_manager.filter(
                pk=row.given["film_id"], state=MadeFilm.State.FAILED
            ).update(state=MadeFilm.State.QUEUED, problem="", cancel_asked=False)
        put(row.task, **row.given)
