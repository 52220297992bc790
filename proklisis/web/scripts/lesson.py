"""A lesson sheet: one fault on paper, as the same talk is given to many."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.template.loader import render_to_string
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.views import APIView

from proklisis.core.imperial import NOT_SENTENCES, in_feet
from proklisis.core.playbook.schema import Playbook
from proklisis.core.playbook.words import upper_first
from proklisis.core.review import playbook, playbook_ids
from proklisis.figures import figure_file
from proklisis.web.clubs.access import coach_of, in_feet_for
from proklisis.web.errors import ProblemSerializer
from proklisis.web.scripts.calendar import STAGES
from proklisis.web.scripts.paper import asked_size, inline, printed


def lesson(book: Playbook, fault: str, club: str, feet: bool) -> dict[str, Any]:
    """What a sheet says of a fault: what it is, its cue, ladders and cautions, for no rider in particular."""
    f = book.faults[fault]
    drills = [
        {
            "title": d.title, "sign": d.sign, "worse_first": f.worse_first,
            "steps": [{"stage": STAGES.get(s.stage, s.stage), "text": s.text, "dose": s.dose} for s in d.steps],
        }
        for d in (book.drills[i] for i in f.drills)
    ]  # fmt: skip
    said: dict[str, Any] = {
        "title": f.title, "seen": upper_first(f.seen), "cues": list(f.cues), "ladders": drills,
        "cautions": [*f.cautions, *book.cautions],
    }  # fmt: skip
    words: dict[str, Any] = in_feet(said, NOT_SENTENCES) if feet else said
    figure = figure_file(book.discipline, fault, False)
    return {
        **words,
        "discipline": book.title,
        "club": club,
        "figure": inline(figure.read_bytes(), "image/webp") if figure else "",
    }


class LessonView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("paper", str, enum=["a4", "letter"])],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    def get(self, request: Request, discipline: str, fault: str) -> HttpResponse:
        """A fault as a lesson sheet, PDF."""
        if discipline not in playbook_ids() or fault not in playbook(discipline).faults:
            raise NotFound("There is no such fault.")
        size = asked_size(request)
        words = lesson(
            playbook(discipline), fault, coach_of(request).club.name, in_feet_for(request)
        )
        html = render_to_string("scripts/lesson.html", {**words, "size": size})
        return printed(html, f"lesson-{fault}")
