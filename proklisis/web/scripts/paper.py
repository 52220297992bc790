"""An approved Script on paper: one or two pages, printable in grey; in larger type for a novice."""

from __future__ import annotations

from base64 import b64encode
from datetime import date
from typing import Any

from django.http import HttpResponse
from django.template.loader import render_to_string
from rest_framework.request import Request
from weasyprint import HTML
from weasyprint.urls import URLFetcher

from proklisis.core.errors import InputError
from proklisis.core.playbook.check import nearest
from proklisis.core.playbook.words import day_words, followed_words
from proklisis.figures import figure_file
from proklisis.web.scripts.models import Script
from proklisis.web.scripts.practice import STAGES

SIZES = {"a4": "A4", "letter": "letter"}


def page(script: Script, body: dict[str, Any], size: str) -> str:
    """The Script as HTML for a size of paper; ``body`` is what was approved, in the units that it is to be read in."""
    prescription, main = body["prescription"], body["prescription"]["main"]
    figure = figure_file(script.run.discipline, main["fault"], False) if main else None
    by = script.approved_by
    pictures = [
        {"src": inline(p.image.read(), "image/jpeg"), "caption": p.caption}
        for p in script.pictures.all()
    ]
    drills = [d for d in prescription["drills"] if main and d["fault"] == main["fault"]]
    words = {
        **body,
        "p": prescription,
        "since": [followed_words(r) for r in prescription["followup"]],
        "size": size,
        "novice": prescription["level"] == "novice",
        "rider": script.run.rider.name,
        "coach": by.coach.name if by and hasattr(by, "coach") else "",
        "club": script.run.club.name,
        "on": day_words(script.approved_at.date()) if script.approved_at else "",
        "again": day_words(date.fromisoformat(body["retest_on"])),
        "pictures": pictures,
        "figure": inline(figure.read_bytes(), "image/webp") if figure else "",
        "ladders": [
            {
                **d,
                "begin": body.get("begins", {}).get(d["id"], 0),
                "steps": [{**s, "stage": STAGES.get(s["stage"], s["stage"])} for s in d["steps"]],
            }
            for d in drills
        ],
        "others": others_on(body),
        "why": body["evidence_words"].get(main["fault"], []) if main else [],
    }
    return render_to_string("scripts/paper.html", words)


def others_on(body: dict[str, Any]) -> list[dict[str, str]]:
    """What is given after the main thing, in the coach's order: fault, title and cue."""
    cues = {c["fault"]: c["cue"] for c in body["prescription"]["cues"]}
    return [
        {"fault": i, "title": body["titles"].get(i, i), "cue": cues[i]}
        for i in body.get("others", [])
        if i in cues
    ]


def inline(data: bytes, kind: str) -> str:
    """A picture as an address that holds it."""
    return f"data:{kind};base64,{b64encode(data).decode()}"


def asked_size(request: Request) -> str:
    """The size of paper that is asked for; InputError for one that nobody has."""
    size = request.query_params.get("paper", "a4")
    if size not in SIZES:
        raise InputError(f"{size!r} is no paper", "paper", nearest(size, SIZES))
    return SIZES[size]


def printed(html: str, name: str) -> HttpResponse:
    """A page of HTML as a PDF to look at or keep."""
    # What is printed holds its pictures itself; nothing is fetched from anywhere.
    fetcher = URLFetcher(allowed_protocols={"data"})
    made: bytes = HTML(string=html, url_fetcher=fetcher).write_pdf()
    answer = HttpResponse(made, content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{name}.pdf"'
    answer["Cache-Control"] = "no-store"
    return answer
