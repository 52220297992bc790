"""What a coach may say of a run: what there is to note, what there is to choose, which school it is judged by."""

from __future__ import annotations

from collections import Counter
from typing import Any, cast

from django.db import transaction
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.notable import in_phase, notable
from proklisis.core.review import playbook
from proklisis.core.shapes.prescription import Prescription
from proklisis.web.analysis.reviewing import brought_up_to_date, refresh, tracker_tracks
from proklisis.web.analysis.said import (
    Span,
    Word,
    habits,
    in_force,
    notes_of,
    preferred,
    unit_of,
    word_of,
)
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.books import chosen_for_club, club_playbook
from proklisis.web.clubs.models import Club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.runs.models import Edit, Run
from proklisis.web.runs.writing import judged_anew, one_writer

#: So many past choices are read for what a club prefers.
LAST_CHOICES = 500


class NotableSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    kind = serializers.ChoiceField(["fault", "observation", "strength"])
    open = serializers.BooleanField(help_text="the numbers leave it open on this run")


class NotablesSerializer(serializers.Serializer[Any]):
    """What can be noted, and the ids in order for each phase, the likeliest first."""

    items = NotableSerializer(many=True)
    by_phase = serializers.DictField(child=serializers.ListField(child=serializers.CharField()))


class CueChoiceSerializer(serializers.Serializer[Any]):
    cue = serializers.CharField()
    used = serializers.IntegerField(help_text="how often this club chose it")


class DrillChoiceSerializer(serializers.Serializer[Any]):
    id = serializers.CharField()
    title = serializers.CharField()
    used = serializers.IntegerField()


class FaultChoicesSerializer(serializers.Serializer[Any]):
    """Cues and drills of a fault, those that this club chose before first."""

    title = serializers.CharField()
    cues = CueChoiceSerializer(many=True)
    drills = DrillChoiceSerializer(many=True)


class ChoicesSerializer(serializers.Serializer[Any]):
    faults = serializers.DictField(child=FaultChoicesSerializer())
    reasons = serializers.ListField(
        child=serializers.CharField(), help_text="usual reasons for dropping a finding"
    )


class SchoolChoiceSerializer(serializers.Serializer[Any]):
    question = serializers.CharField(max_length=60)
    option = serializers.CharField(
        max_length=60, allow_null=True, help_text="null: as usual for the level"
    )
    whose = serializers.ChoiceField(["run", "rider", "club"])


#: Why a coach drops a finding.
REASONS = (
    "I looked, and it is not there",
    "The camera makes it look so",
    "It is the snow, the water or the wind",
    "Meant so",
    "Not now: other things first",
)


class SayingActions(viewsets.GenericViewSet[Run]):
    @extend_schema(responses={200: NotablesSerializer, 409: ProblemSerializer})
    @action(detail=True, pagination_class=None)
    def notable(self, request: Request, pk: str) -> Response:
        """What may be noted by eye on this run, the likeliest first."""
        run = self._judged()
        book = club_playbook(run.club, run.discipline)
        prescription = cast(Prescription, run.result.prescription)
        rows = notable(book, run.level, prescription, habits(run, coach_of(request).user))  # type: ignore[arg-type]
        items = [{"id": r.id, "title": r.title, "kind": r.kind, "open": r.open} for r in rows]
        by_phase = {phase: in_phase(rows, phase) for phase in book.phases}
        return Response({"items": items, "by_phase": by_phase})

    @extend_schema(responses={200: ChoicesSerializer, 409: ProblemSerializer})
    @action(detail=True, pagination_class=None)
    def choices(self, request: Request, pk: str) -> Response:
        """What a coach may put in place of the software's cue and drill, fault by fault."""
        run = self._judged()
        book = club_playbook(run.club, run.discipline)
        cues, drills = Counter[tuple[str, str]](), Counter[tuple[str, str]]()
        for e in preferred(run, Edit.Kind.CUE)[:LAST_CHOICES]:
            cues[e.values["fault"], e.values["cue"]] += 1
        for e in preferred(run, Edit.Kind.DRILL)[:LAST_CHOICES]:
            drills[e.values["fault"], e.values.get("drill") or ""] += 1
        out: dict[str, Any] = {}
        for row in run.result.prescription["findings"]:
            fault = book.faults[row["fault"]]
            missed = next(
                (x for x in (fault.above, fault.below) if x and x.title == row["title"]), None
            )
            own = [c for f, c in cues if f == row["fault"] and c]
            said = dict.fromkeys(
                [*own, *(missed.cues if missed and missed.cues else fault.cues), *fault.cues]
            )
            offered = dict.fromkeys(
                [*(missed.drills if missed and missed.drills else ()), *fault.drills]
            )
            out[row["fault"]] = {
                "title": row["title"],
                "cues": sorted(
                    ({"cue": c, "used": cues[row["fault"], c]} for c in said),
                    key=lambda c: -c["used"],
                ),
                "drills": sorted(
                    (
                        {"id": d, "title": book.drills[d].title, "used": drills[row["fault"], d]}
                        for d in offered
                    ),
                    key=lambda d: -d["used"],
                ),
            }
        return Response({"faults": out, "reasons": list(REASONS)})

    @extend_schema(request=SchoolChoiceSerializer, responses={200: None, 400: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def school(self, request: Request, pk: str) -> Response:
        """Choose which way this run, all of this rider's runs or all of the club's of the discipline are judged."""
        run = self.get_object()
        given = SchoolChoiceSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        question, option, whose = (given.validated_data[k] for k in ("question", "option", "whose"))
        schools = playbook(run.discipline).schools
        if question not in schools:
            raise InputError(f"{question!r} is not known", "question", nearest(question, schools))
        if option is not None and option not in schools[question].options:
            raise InputError(
                f"{option!r} is not known", "option", nearest(option, schools[question].options)
            )
        with transaction.atomic(), one_writer(run):
            self._choose(run, question, option, whose)
        if hasattr(run, "result"):
            run.refresh_from_db()
            brought_up_to_date(run)
        return Response(status=200)

    def _choose(self, run: Run, question: str, option: str | None, whose: str) -> None:
        if whose == "run":
            run.schools = _with(run.schools, question, option)
            run.save(update_fields=["schools"])
            judged_anew(run=run)
            return
        owner = run.rider if whose == "rider" else run.club
        owner = type(owner).objects.select_for_update().get(pk=owner.pk)  # type: ignore[assignment]
        own = owner.schools.get(run.discipline, {})
        owner.schools = {**owner.schools, run.discipline: _with(own, question, option)}
        owner.save(update_fields=["schools"])
        if isinstance(owner, Club):
            chosen_for_club(owner, run.discipline)
        # What was chosen for one run stands before it, and would hide what is chosen now.
        if question in run.schools:
            run.schools = _with(run.schools, question, None)
            run.save(update_fields=["schools"])
        which: dict[str, Any] = {"rider": run.rider} if whose == "rider" else {"club": run.club}
        judged_anew(**{f"run__{k}": v for k, v in which.items()}, run__discipline=run.discipline)

    @extend_schema(request=None, responses={200: None, 409: ProblemSerializer})
    @action(detail=True, methods=["post"])
    def by_eye(self, request: Request, pk: str) -> Response:
        """Open the Bench before the rider is followed, or where nobody can be, to be judged by eye."""
        run = self.get_object()
        if not hasattr(run, "result"):
            tracker_tracks(run)  # says what is not there yet
            refresh(run)
        return Response(status=200)

    def _judged(self) -> Run:
        run = self.get_object()
        if not hasattr(run, "result"):
            raise Conflict("This run is not measured yet. Wait until its analysis is done.")
        brought_up_to_date(run)
        return run


def _with(chosen: dict[str, str], question: str, option: str | None) -> dict[str, str]:
    return {
        **{q: o for q, o in chosen.items() if q != question},
        **({} if option is None else {question: option}),
    }


def said_of(run: Run, units: list[Any]) -> dict[str, Any]:
    """What the coach said of a run, for the Bench: ``seen`` and ``word``."""
    book = club_playbook(run.club, run.discipline)
    edits = in_force(run)
    spans = [Span(u["n"], u["start"], u["end"], u.get("counted", False)) for u in units]
    titles = {
        **{i: x.text for i, x in book.strengths.items()},
        **{i: o.title for i, o in book.observations.items()},
        **{i: f.title for i, f in book.faults.items()},
    }
    seen = []
    for e in notes_of(edits):
        v = e.values
        seen.append({
            "id": e.pk, "fault": v.get("fault", ""), "title": titles.get(book.noted.get(v.get("fault", ""), ""), ""),
            "unit": unit_of(v, spans), **{k: v.get(k) for k in ("scope", "side", "phase", "t")},
            "sure": v.get("sure", True), "seen": v.get("seen", True), "words": v.get("words", ""),
            "by": e.by.get_username() if e.by else "somebody who has left",
        })  # fmt: skip
    word = word_of(edits)
    found = {f["fault"]: f["title"] for f in run.result.prescription["findings"]}
    lost = [i for i in (word.main, *word.also) if i and i not in found and i not in word.dropped]
    return {
        "seen": sorted(seen, key=lambda n: (n["unit"] or 0, n["t"] or 0.0)),
        "word": {**_plain(word), "lost": [titles.get(i, i) for i in lost]},
    }


def _plain(word: Word) -> dict[str, Any]:
    return {
        "main": word.main,
        "also": word.also,
        "cues": word.cues,
        "drills": word.drills,
        "dropped": word.dropped,
    }
