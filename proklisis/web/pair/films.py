"""Keeping a pair as a film: what is shown in each of its frames is worked out here, a job makes it."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.http import FileResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from numpy.typing import NDArray
from rest_framework import serializers, status
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from proklisis.core.comparing import pair as core
from proklisis.core.errors import InputError
from proklisis.core.review import playbook
from proklisis.core.signals import lowpass
from proklisis.core.telling.played import LIMBS
from proklisis.core.tracks.landmarks import BODY
from proklisis.core.tracks.tracks import Tracks
from proklisis.web.analysis.compared import compared, run_of
from proklisis.web.clips import pair_films
from proklisis.web.clubs.access import of_club
from proklisis.web.errors import Conflict, ProblemSerializer
from proklisis.web.pair.views import matched_units
from proklisis.web.riders.models import Agreed
from proklisis.web.runs.models import PairFilm

Array = NDArray[np.float64]
#: What is shown around a rider of usual height, their heights; as the Pair shows it.
TALL, SHAPE = 1.6, 4 / 3
#: A camera that follows a rider's middle is as calm as this, hertz (house choice).
CALM_HZ = 1.0
#: A film has no more frames a second.
MOST_FPS = 60.0


class PairFilmAskedSerializer(serializers.Serializer[Any]):
    a = serializers.IntegerField(min_value=1)
    b = serializers.IntegerField(min_value=1)
    unit_a = serializers.IntegerField(min_value=1, required=False)
    unit_b = serializers.IntegerField(min_value=1, required=False)
    mirror = serializers.BooleanField(default=False)
    locked = serializers.BooleanField(
        default=True, help_text="phase by phase, not each at its own speed"
    )
    event = serializers.CharField(
        default=core.BEGINS, help_text="what both are at together where each has its own speed: start, end or a phase"
    )  # fmt: skip
    lay = serializers.ChoiceField(
        ["beside", "over", "edge", "outline"],
        default="beside",
        help_text="beside each other, B over A, B right of an edge, B as an outline over A",
    )
    edge = serializers.FloatField(
        default=0.5, min_value=0, max_value=1, help_text="where the edge is, a share of the width"
    )
    sized = serializers.BooleanField(default=True, help_text="both riders as tall as each other")
    speed = serializers.FloatField(default=1.0, min_value=0.05, max_value=1.0)


class PairFilmSerializer(serializers.ModelSerializer[PairFilm]):
    url = serializers.SerializerMethodField()

    class Meta:
        model = PairFilm
        fields = ["id", "state", "progress", "problem", "url"]

    def get_url(self, film: PairFilm) -> str | None:
        return f"/api/pair/films/{film.pk}/file" if film.file else None


class PairFilmsView(APIView):
    @extend_schema(
        request=PairFilmAskedSerializer,
        responses={202: PairFilmSerializer, 400: ProblemSerializer, 409: ProblemSerializer},
    )
    def post(self, request: Request) -> Response:
        """Ask for a film of a pair; a job makes it."""
        given = PairFilmAskedSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        rows = [run_of(request, asked[k]) for k in ("a", "b")]
        people = [r for r in rows if not r.club.drawn]
        if len({r.rider_id for r in people}) > 1:
            for name in [r.rider.name for r in people if not r.rider.agrees_to(Agreed.GROUP)]:
                raise Conflict(
                    f"A film of two riders leaves this place. Nobody has noted that {name} agrees to be shown to other riders: do so on the Riders page."
                )
        a = compared(rows[0])
        b = a if rows[0].pk == rows[1].pk else compared(rows[1])
        units = asked.get("unit_a"), asked.get("unit_b")
        core.pair(
            a, b, *units, None, asked["mirror"]
        )  # refuses what cannot be held against each other
        same = matched_units(a, b, units, asked["mirror"])
        if not same:
            raise InputError("there is no unit in both", "", "choose runs with units")
        assert a.review is not None
        fps = float(a.review.tracks.facts.fps) * asked["speed"]
        # What no screen shows is left out.
        every = max(1, int(np.ceil(fps / MOST_FPS)))
        film = pair_films.ask(
            rows[0], rows[1], fps / every, _halves(a, b, rows, same, asked, every)
        )
        return Response(PairFilmSerializer(film).data, status=status.HTTP_202_ACCEPTED)


class PairFilmView(APIView):
    @extend_schema(responses={200: PairFilmSerializer})
    def get(self, request: Request, film: int) -> Response:
        """How far a film is."""
        return Response(PairFilmSerializer(_film(request, film)).data)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, film: int) -> Response:
        """Stop making it, or let it go."""
        found = _film(request, film)
        if found.busy:
            PairFilm.objects.filter(pk=found.pk).update(cancel_asked=True)
        else:
            found.delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class PairFilmFileView(APIView):
    @extend_schema(responses={(200, "video/mp4"): OpenApiTypes.BINARY, 404: ProblemSerializer})
    def get(self, request: Request, film: int) -> HttpResponseBase:
        """The film."""
        found = _film(request, film)
        if not found.file:
            raise NotFound("This film is not made yet.")
        return FileResponse(found.file.open("rb"), as_attachment=True, filename="pair.mp4")


def _film(request: Request, pk: int) -> PairFilm:
    return get_object_or_404(of_club(PairFilm.objects.all(), request), pk=pk)  # type: ignore[no-any-return]


def _halves(
    a: core.Run,
    b: core.Run,
    rows: list[Any],
    same: list[dict[str, Any]],
    asked: dict[str, Any],
    every: int,
) -> dict[str, Any]:
    """What each half shows in each frame of the film: A runs through its units, B is where A is."""
    assert a.review is not None and b.review is not None
    one, other = a.review.tracks, b.review.tracks
    book = playbook(a.sheet.discipline)
    core.check_event(asked["event"], book)
    rows_a: list[int] = []
    when_b: list[float] = []
    for unit in same:
        inside = np.flatnonzero((one.t >= unit["a"][0] - 1e-6) & (one.t <= unit["a"][-1] + 1e-6))
        inside = inside[inside > rows_a[-1]] if rows_a else inside
        t = one.t[inside]
        rows_a += inside.tolist()
        there = (
            np.interp(t, unit["a"], unit["b"])
            if asked["locked"]
            else t - _moment(unit, "a", asked["event"]) + _moment(unit, "b", asked["event"])
        )
        when_b += there.tolist()
    last = np.maximum.accumulate(np.clip(when_b, other.t[0], other.t[-1]))
    rows_a, last = rows_a[::every], last[::every]
    rows_b = [int(np.abs(other.t - t).argmin()) for t in last]

    def half(row: Any, tracks: Tracks, at: list[int], which: str, mirror: bool) -> dict[str, Any]:
        number = f"{row.rider.number} " if row.rider.number is not None else ""
        said = f"{which}  {number}{row.rider.name}"
        units = {u[f"side_{which.lower()}"] for u in same}
        if len(same) == 1:
            side = next(iter(units))
            said += f", {book.unit} {same[0][f'unit_{which.lower()}']}{f', {side}' if side else ''}"
        boxes = boxes_of(tracks)[at].round(1).tolist() if asked["sized"] else []
        outlined = which == "B" and asked["lay"] == "outline"
        return {
            "numbers": [int(tracks.frames[k]) for k in at], "boxes": boxes, "mirror": mirror,
            "words": said + (", mirrored" if mirror else "") + (", as an outline" if outlined else ""),
            "outline": _outlines(tracks, at) if outlined else [],
        }  # fmt: skip

    return {
        "lay": {"how": asked["lay"], "edge": asked["edge"]},
        "a": half(rows[0], one, rows_a, "A", False),
        "b": half(rows[1], other, rows_b, "B", asked["mirror"]),
    }


def _moment(same: dict[str, Any], which: str, event: str) -> float:
    """When an event is in one of two units that are the same, seconds; their start where they have it not both."""
    at = same[which]
    moments = {
        **dict(zip(same["phases"], at[:-1], strict=False)),
        core.BEGINS: at[0],
        core.ENDS: at[-1],
    }
    return float(moments.get(event, at[0]))


def _outlines(tracks: Tracks, at: list[int]) -> list[list[list[list[float]]]]:
    """The limbs of a body in some frames, as lines in pixels; those that are seen."""
    lines = [(tracks.index[p], tracks.index[q]) for p, q in LIMBS if {p, q} <= tracks.index.keys()]
    xy = tracks.xy.round(1)
    return [
        [[xy[k, p].tolist(), xy[k, q].tolist()] for p, q in lines if np.isfinite(xy[k, [p, q]]).all()]
        for k in at
    ]  # fmt: skip


def boxes_of(tracks: Tracks) -> Array:
    """(n, 4) what is shown about the rider: they stand calmly in the middle, of their usual height."""
    body = tracks.xy[:, [k for k, n in enumerate(tracks.names) if n in BODY]]
    with np.errstate(all="ignore"):
        low, high = np.nanmin(body, axis=1), np.nanmax(body, axis=1)
    middle = (low + high) / 2
    seen = np.isfinite(middle).all(axis=1)
    if not seen.any():
        return np.tile(
            [0.0, 0.0, float(tracks.facts.width), float(tracks.facts.height)], (len(tracks), 1)
        )
    middle = np.stack(
        [np.interp(tracks.t, tracks.t[seen], middle[seen, k]) for k in (0, 1)], axis=1
    )
    middle = lowpass(middle, tracks.facts.fps, CALM_HZ)
    tall = TALL * float(np.nanmedian((high - low)[:, 1]))
    size = np.array([SHAPE * tall, tall])
    return np.concatenate([middle - size / 2, np.tile(size, (len(tracks), 1))], axis=1)
