"""A lesson sheet: one fault on paper, as the same talk is given to many."""

from __future__ import annotations

from collections import Counter
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
from proklisis.web.clubs.books import club_playbook
from proklisis.web.clubs.models import Club
from proklisis.web.errors import ProblemSerializer
from proklisis.web.runs.models import Edit
from proklisis.web.scripts.paper import asked_size, inline, printed
from proklisis.web.scripts.practice import STAGES

#: So many cues of the club's own stand on a sheet.
MOST_OWN = 3


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


def cues_of_club(club: Club, discipline: str, fault: str) -> list[str]:
    """Cues of a club's own for a fault, those given most often first."""
    said = Edit.objects.filter(
        kind=Edit.Kind.CUE, undone=False, run__club=club, run__discipline=discipline, run__removed_at=None,
        values__fault=fault,
    ).values_list("values__cue", flat=True)  # fmt: skip
    known = set(club_playbook(club, discipline).faults[fault].cues)
    return [c for c, _ in Counter(c for c in said if c and c not in known).most_common(MOST_OWN)]


def lesson_sheet(
    club: Club, discipline: str, fault: str, request: Request, feet: bool
) -> HttpResponse:
    """A fault as a lesson sheet, PDF; NotFound for a fault that nobody knows."""
    if discipline not in playbook_ids() or fault not in playbook(discipline).faults:
        raise NotFound("There is no such fault.")
    words = lesson(club_playbook(club, discipline), fault, club.name, feet)
    own = cues_of_club(club, discipline, fault)
    html = render_to_string(
        "scripts/lesson.html", {**words, "own": own, "size": asked_size(request)}
    )
    return printed(html, f"lesson-{fault}")


class LessonView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("paper", str, enum=["a4", "letter"])],
        responses={(200, "application/pdf"): OpenApiTypes.BINARY, 404: ProblemSerializer},
    )
    def get(self, request: Request, discipline: str, fault: str) -> HttpResponse:
        """A fault as a lesson sheet, PDF."""
        return lesson_sheet(
            coach_of(request).club, discipline, fault, request, in_feet_for(request)
        )
