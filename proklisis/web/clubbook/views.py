"""The club's own playbook over the API."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.utils import timezone
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.club_book import bands_of, with_club_book, wordings
from proklisis.core.playbook.schema import Band, Condition
from proklisis.core.playbook.words import named, phase_words
from proklisis.core.review import playbook, playbook_ids
from proklisis.core.shapes.club_book import ClubBook
from proklisis.core.shapes.prescription import VerdictChange
from proklisis.web.clubbook.effect import effect, judged_runs, plain
from proklisis.web.clubs.access import coach_of
from proklisis.web.clubs.books import SCHOOLS, changes_in, changes_of
from proklisis.web.clubs.entries import put_down
from proklisis.web.clubs.models import Club, OwnBook
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.plain import whole
from proklisis.web.runs.writing import judged_anew
from proklisis.web.shape import Shape, shapes_of


class OfWordingSerializer(serializers.Serializer[Any]):
    """How the playbook words a fault."""

    key = serializers.CharField()
    fault = serializers.CharField()
    title = serializers.CharField()
    cues = serializers.ListField(child=serializers.CharField())
    safety = serializers.BooleanField(help_text="it comes first because somebody can be hurt")


class OfBandSerializer(serializers.Serializer[Any]):
    """A band of the playbook: by level, or one for all under ``all``; an end that is null is open."""

    fault = serializers.CharField()
    place = serializers.IntegerField()
    measure = serializers.CharField()
    title = serializers.CharField()
    unit = serializers.CharField(allow_blank=True)
    where = serializers.CharField(
        allow_blank=True, help_text="in which phase, on which side, under which conditions"
    )
    band = serializers.DictField(
        child=serializers.ListField(child=serializers.FloatField(allow_null=True))
    )


class OfDrillSerializer(serializers.Serializer[Any]):
    fault = serializers.CharField()
    title = serializers.CharField()


class OfSchoolSerializer(serializers.Serializer[Any]):
    question = serializers.CharField()
    words = serializers.CharField()
    default = serializers.CharField()
    options = serializers.DictField(child=serializers.CharField())


class ClubBookStandsSerializer(serializers.Serializer[Any]):
    """The playbook, what is on of the club's own, and what is being prepared."""

    discipline = serializers.CharField()
    title = serializers.CharField()
    wordings = OfWordingSerializer(many=True)
    bands = OfBandSerializer(many=True)
    drills = OfDrillSerializer(many=True)
    schools = OfSchoolSerializer(many=True)
    draft = Shape(ClubBook)
    draft_schools = serializers.DictField(child=serializers.CharField())
    on = Shape(ClubBook)
    on_schools = serializers.DictField(child=serializers.CharField())
    differs = serializers.BooleanField(help_text="what is prepared is other than what is on")
    lapsed = serializers.CharField(
        allow_blank=True, help_text="why what was switched on does not hold any more"
    )
    can_go_back = serializers.BooleanField()
    version = serializers.IntegerField()
    switched_at = serializers.DateTimeField(allow_null=True)
    switched_by = serializers.CharField(allow_blank=True)
    runs = serializers.IntegerField(help_text="judged runs that it bears on")


class ClubBookDraftSerializer(serializers.Serializer[Any]):
    draft = serializers.DictField()
    draft_schools = serializers.DictField(child=serializers.CharField(), required=False)
    version = serializers.IntegerField()


class SwitchSerializer(serializers.Serializer[Any]):
    to = serializers.ChoiceField(["draft", "before", "original"])
    version = serializers.IntegerField()


class _Change(serializers.Serializer[Any]):
    run = serializers.IntegerField()
    rider = serializers.CharField()
    title = serializers.CharField(allow_blank=True)
    level = serializers.CharField()
    added = serializers.DateTimeField()


_Change._declared_fields |= shapes_of(VerdictChange)


class EffectRowSerializer(_Change):
    """A run whose verdict would be another, and how."""


class EffectSerializer(serializers.Serializer[Any]):
    rows = EffectRowSerializer(many=True)
    looked_at = serializers.IntegerField()
    asked_first = serializers.IntegerField(
        help_text="runs of them whose Bench asks a question first"
    )
    next = serializers.IntegerField(
        allow_null=True, help_text="where to go on; null where all were looked at"
    )


class OfClub(APIView):
    """Base of what is asked of a club's playbook of one discipline; only owners change it."""

    def row(self, request: Request, discipline: str, locked: bool = False) -> OwnBook:
        if discipline not in playbook_ids():
            raise NotFound("There is no such discipline.")
        club = coach_of(request).club
        rows = OwnBook.objects.select_for_update() if locked else OwnBook.objects.all()
        row: OwnBook | None = rows.filter(club=club, discipline=discipline).first()
        if row is None:
            kept = {SCHOOLS: club.schools.get(discipline, {})}
            row, _ = OwnBook.objects.get_or_create(
                club=club, discipline=discipline, defaults={"draft": kept}
            )
        return row

    @staticmethod
    def check_version(row: OwnBook, version: int) -> None:
        if row.version != version:
            raise Conflict(
                "Somebody else has changed it meanwhile. Load the page again; what you typed is not kept yet."
            )


class ClubBookView(OfClub):
    @extend_schema(
        operation_id="club_book", responses={200: ClubBookStandsSerializer, 404: ProblemSerializer}
    )
    def get(self, request: Request, discipline: str) -> Response:
        """The club's playbook of a discipline beside the original."""
        return Response(_stands(self.row(request, discipline)))


class ClubBookDraftView(OfClub):
    owners_only = True

    @extend_schema(
        operation_id="keep_club_book", request=ClubBookDraftSerializer,
        responses={200: ClubBookStandsSerializer, 400: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def put(self, request: Request, discipline: str) -> Response:
        """Keep what is being prepared; it changes nothing before it is switched on."""
        given = ClubBookDraftSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        said = given.validated_data
        with transaction.atomic():
            row = self.row(request, discipline, locked=True)
            self.check_version(row, said["version"])
            own = changes_in(said["draft"])
            with_club_book(playbook(discipline), own)
            schools = _checked_schools(discipline, said.get("draft_schools", {}))
            row.draft = {**_plain(own), SCHOOLS: schools}
            row.version += 1
            row.save(update_fields=["draft", "version"])
        return Response(_stands(row))


class ClubBookEffectView(OfClub):
    @extend_schema(
        operation_id="club_book_effect",
        parameters=[OpenApiParameter("below", OpenApiTypes.INT, description="go on from this run")],
        responses={200: EffectSerializer, 404: ProblemSerializer},
    )
    def get(self, request: Request, discipline: str) -> Response:
        """What would become of verdicts that stand, some runs at a time, the newest first."""
        row = self.row(request, discipline)
        own = changes_in(row.draft)
        part = effect(
            row.club,
            discipline,
            own,
            row.draft.get(SCHOOLS, {}),
            whole(request.query_params.get("below")),
        )
        return Response({
            "rows": [plain(run, change) for run, change in part.rows],
            "looked_at": part.looked_at, "asked_first": part.asked_first, "next": part.next,
        })  # fmt: skip


class ClubBookSwitchView(OfClub):
    owners_only = True

    @extend_schema(
        operation_id="switch_club_book", request=SwitchSerializer,
        responses={200: ClubBookStandsSerializer, 400: ProblemSerializer, 404: ProblemSerializer, 409: ProblemSerializer},
    )  # fmt: skip
    def post(self, request: Request, discipline: str) -> Response:
        """Judge by what is prepared, by what was on before, or by the original; every run is judged anew when it is next looked at."""
        given = SwitchSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        to = given.validated_data["to"]
        with transaction.atomic():
            club = Club.objects.select_for_update().get(pk=coach_of(request).club_id)
            row = self.row(request, discipline, locked=True)
            self.check_version(row, given.validated_data["version"])
            now = {**row.on, SCHOOLS: club.schools.get(discipline, {})}
            new: dict[str, Any] = {"draft": row.draft, "before": row.before, "original": {}}[to]
            with_club_book(playbook(discipline), changes_in(new))
            club.schools = {**club.schools, discipline: new.get(SCHOOLS, {})}
            club.save(update_fields=["schools"])
            row.before, row.on = now, {k: v for k, v in new.items() if k != SCHOOLS}
            row.draft = new if to != "original" else row.draft
            row.version += 1
            row.switched_at, row.switched_by = timezone.now(), coach_of(request).user
            row.save()
            judged_anew(run__club=club, run__discipline=discipline)
            words = {
                "draft": "switched on the club's own playbook of",
                "before": "went back to the playbook before of",
                "original": "switched off the club's own playbook of",
            }[to]
            put_down(club, request.user, words, playbook(discipline).title)
        row.refresh_from_db()
        return Response(_stands(row))


def _checked_schools(discipline: str, given: dict[str, Any]) -> dict[str, str]:
    known = playbook(discipline).schools
    for question, option in given.items():
        if question not in known:
            raise InputError(f"{question!r} is not known", "schools", nearest(question, known))
        if option not in known[question].options:
            raise InputError(
                f"{option!r} is not known", "schools", nearest(str(option), known[question].options)
            )
    return dict(given)


def _plain(own: ClubBook) -> dict[str, Any]:
    kept: dict[str, Any] = own.model_dump(mode="json", exclude_defaults=True)
    return kept


def _whole(kept: dict[str, Any]) -> dict[str, Any]:
    """Kept changes with a place for each kind."""
    return {"titles": {}, "cues": {}, "drills": {}, "bands": [], **kept}


def _stands(row: OwnBook) -> dict[str, Any]:
    book, club = playbook(row.discipline), Club.objects.get(pk=row.club_id)
    schools = club.schools.get(row.discipline, {})
    on = changes_of(club, row.discipline)
    lapsed = ""
    if on is None and row.on:
        try:
            with_club_book(book, changes_in(row.on))
        except InputError as e:
            lapsed = str(e)
    draft = {k: v for k, v in row.draft.items() if k != SCHOOLS}
    draft_schools = row.draft.get(SCHOOLS, {})
    by = row.switched_by
    return {
        "discipline": row.discipline, "title": book.title,
        "wordings": [{"key": k, "fault": i, "title": t, "cues": list(c), "safety": book.faults[i].safety} for k, i, t, c in wordings(book)],
        "bands": [
            {
                "fault": i, "place": n, "measure": c.measure, "title": named(c.measure or "")[0], "unit": named(c.measure or "")[1].strip(),
                "where": _where(c), "band": {k: list(v) for k, v in _by_level(c).items()},
            }
            for i, f in book.faults.items() for n, c in enumerate(bands_of(f))
        ],
        "drills": [{"fault": i, "title": book.drills[d].title} for i, f in book.faults.items() for d in f.drills],
        "schools": [
            {"question": q, "words": s.question, "default": s.default_for("intermediate"), "options": {o: x.title for o, x in s.options.items()}}
            for q, s in book.schools.items()
        ],
        "draft": _whole(draft), "draft_schools": draft_schools, "on": _whole(row.on), "on_schools": schools,
        "differs": draft != row.on or draft_schools != schools, "lapsed": lapsed,
        "can_go_back": row.switched_at is not None, "version": row.version, "switched_at": row.switched_at,
        "switched_by": by.coach.name if by is not None and hasattr(by, "coach") else "",
        "runs": judged_runs(club, row.discipline).count(),
    }  # fmt: skip


def _by_level(c: Condition) -> dict[str, Band]:
    assert c.band is not None
    return {str(k): v for k, v in c.band.items()} if isinstance(c.band, dict) else {"all": c.band}


def _where(c: Condition) -> str:
    """Where a band holds, in words."""
    words = [f"at the {phase_words(c.phase)}"] if c.phase else []
    words += [{"l": "left", "r": "right"}.get(c.limb, c.limb)] if c.limb else []
    words += [f"{c.side.replace('_', ' ')} side"] if c.side else []
    if c.over:
        words.append(f"over {named(c.over)[0].lower()}")
    if c.minus:
        words.append(f"less {named(c.minus)[0].lower()}")
    for key, wanted in c.given.items():
        if isinstance(wanted, tuple):
            said = " or ".join(
                "not said" if w is None else str(w).replace("_", " ") for w in wanted
            )
        else:
            ends = [f"from {wanted.min:g}"] * (wanted.min is not None) + [
                f"below {wanted.max:g}"
            ] * (wanted.max is not None)
            said = " ".join(ends) + (" or not said" if wanted.or_unknown else "")
        words.append(f"{key.replace('_', ' ')} {said}")
    words += [f"judged by {o.replace('_', ' ')}" for o in c.school.values()]
    return ", ".join(words)
